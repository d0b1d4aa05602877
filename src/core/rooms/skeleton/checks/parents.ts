import { mixed, object } from 'yup';
import { LANDMARKS } from '../../../contracts/aspect';
import { theCharacter, theNode, boneElements } from '../../../contracts/finding';
import { defineCheck } from '../../../contracts/check';
import type { Character } from '../../../character/model';
import { bonesOf, parentBone } from '../../../character/hierarchy';
import { isBodyBone, meaningOf } from '../../../anatomy/bones';
import { readName } from '../../../anatomy/names';
import { type ParentTable, TREES } from '../../../anatomy/trees';
import { bodyKindOf } from '../../../anatomy/body-kind';
import { halfMirrored } from '../mirror-branch';
import { type Expectation, beastParentFaults } from '../beast-parents';

/** Which table of parents the hierarchy is held against. */
const TREE = mixed<'vrm' | 'h-anim' | 'webxr-hand'>()
  .oneOf(['vrm', 'h-anim', 'webxr-hand'])
  .required()
  .meta({
    label: 'Hierarchy after',
    bound: 'is',
    hint: 'The open standard whose table of parents the bones are held against.',
    choices: { vrm: 'VRM 1.0 humanoid', 'h-anim': 'H-Anim', 'webxr-hand': 'WebXR hand' },
  });

/**
 * Parents against the table of an open standard. Where the skeleton uses the table's own names they are held
 * against each other bone by bone; otherwise the names are read for part and side, and the nearest bone above
 * that means anything must be one that the table has above it. Bodies of beasts have no table: their limbs must
 * keep to themselves and to their side.
 */
export const parentsCheck = defineCheck({
  id: 'parents',
  room: 'skeleton',
  leadsTo: 'crosswalk',
  title: 'Hierarchy as expected',
  why: 'A bone under the wrong parent looks right at rest and goes with the wrong limb as soon as something moves; a mirrored hand still under the other wrist is the classic.',
  advice: 'Moving to a skeleton that has the order, in Crosswalk, hangs every joint where it belongs.',
  kinds: ['two-legged', 'four-legged', 'winged', 'hand'],
  settings: object({ tree: TREE }),
  reads: [...LANDMARKS],
  measures(character) {
    if (bonesOf(character).length === 0) return { tree: null };
    const names = new Set(bonesOf(character).map((bone) => character.nodes[bone].name));
    const known = [...TREES].map(([id, { parents }]) => {
      const all = Object.keys(parents);
      return { id, share: all.filter((name) => names.has(name)).length / all.length };
    });
    const best = known.reduce((a, b) => (b.share > a.share ? b : a));
    return { tree: best.share > 0.6 ? best.id : 'vrm' };
  },
  run(character, brief) {
    const tree = TREES.get(brief.tree);
    if (!tree) throw new Error(`The house has no tree “${brief.tree}”.`);
    const bones = bonesOf(character);
    const named = bones.filter((bone) => Object.hasOwn(tree.parents, character.nodes[bone].name));
    const byName = named.length >= Object.keys(tree.parents).length * 0.6;
    const wrong = byName ? byTable(character, named, tree.parents) : byKind(character, tree.parents);
    if (wrong.length === 0) return [];
    const nameOf = (b: number) => (b < 0 ? 'nothing' : `“${character.nodes[b].name}”`);
    const flat =
      byName && wrong.length > 3 && new Set(wrong.map((expectation) => expectation.has)).size === 1;
    if (flat) {
      const above = character.nodes[wrong[0].bone].parent;
      return [
        {
          gravity: 'stops',
          subject: theCharacter(character),
          unit: 'bones',
          elements: [boneElements(wrong.map((expectation) => expectation.bone))],
          message: `${named.length} of ${named.length} joints hang flat under ${above < 0 ? 'the scene' : `“${character.nodes[above].name}”`} instead of in the ${tree.title} order`,
          measured: wrong.length,
          expected: `the ${tree.title} order`,
          count: named.length,
          evidence: [
            { label: 'Joints under the wrong parent', now: wrong.length, brief: 0, unit: 'bones' },
            {
              label: 'Joints found by name',
              now: named.length,
              brief: Object.keys(tree.parents).length,
              unit: 'bones',
            },
          ],
          mark: 'flat',
        },
      ];
    }
    return wrong.map((expectation) => ({
      gravity: 'stops',
      subject: theNode(character, expectation.bone),
      unit: '',
      elements: [boneElements([expectation.bone, ...(expectation.has >= 0 ? [expectation.has] : [])])],
      count: 1,
      message: `${nameOf(expectation.bone)} hangs under ${nameOf(expectation.has)}; it belongs under ${expectation.wants}`,
      measured: expectation.has < 0 ? 'no parent' : character.nodes[expectation.has].name,
      expected: expectation.wants,
      evidence: [
        {
          label: 'Parent',
          now: expectation.has < 0 ? 'none' : character.nodes[expectation.has].name,
          brief: expectation.wants,
          unit: '',
        },
      ],
      remedies: [...halfMirrored(character, [expectation.bone]), ...rehang(character, bones, expectation)],
    }));
  },
});

function byTable(character: Character, named: readonly number[], table: ParentTable): Expectation[] {
  const present = new Set(named.map((b) => character.nodes[b].name));
  return named.flatMap((bone) => {
    let wants = table[character.nodes[bone].name];
    while (wants !== null && !present.has(wants)) wants = table[wants] ?? null;
    let has = parentBone(character.nodes, bone);
    while (has >= 0 && !present.has(character.nodes[has].name)) has = parentBone(character.nodes, has);
    const right = wants === null ? true : has >= 0 && character.nodes[has].name === wants;
    return right ? [] : [{ bone, has, wants: wants ?? 'nothing' }];
  });
}

/** Parts above each part, nearest first, read off the table's own names. */
function partsAbove(table: ParentTable): Map<string, string[]> {
  const out = new Map<string, string[]>();
  for (const name of Object.keys(table)) {
    const part = readName(name).part;
    if (!part || out.has(part)) continue;
    const above: string[] = [];
    for (let path = table[name]; path; path = table[path]) {
      const wantedPart = readName(path).part;
      if (wantedPart && wantedPart !== part && !above.includes(wantedPart)) above.push(wantedPart);
    }
    out.set(part, above);
  }
  return out;
}

/** What names mean, held against the table for people and hands, against what holds of any limb for the others. */
function byKind(character: Character, table: ParentTable): Expectation[] {
  const { kind } = bodyKindOf(character);
  const isPerson = kind === 'two-legged' || kind === 'hand';
  return isPerson ? byReading(character, bonesOf(character), table) : beastParentFaults(character);
}

function byReading(character: Character, bones: readonly number[], table: ParentTable): Expectation[] {
  const above = partsAbove(table);
  const present = new Set(bones.map((bone) => meaningOf(character, bone).part));
  return bones.flatMap((bone): Expectation[] => {
    const meaning = meaningOf(character, bone);
    const wanted = above.get(meaning.part)?.filter((path) => present.has(path)) ?? [];
    if (!isBodyBone(meaning) || wanted.length === 0) return [];
    let has = parentBone(character.nodes, bone);
    while (has >= 0) {
      const otherMeaning = meaningOf(character, has);
      if (isBodyBone(otherMeaning) && otherMeaning.part !== 'root') break;
      has = parentBone(character.nodes, has);
    }
    const oneMeaning = has >= 0 ? meaningOf(character, has) : null;
    const sameSide = !oneMeaning || oneMeaning.side === meaning.side || oneMeaning.side === 'middle';
    const samePart = !!oneMeaning && oneMeaning.part === meaning.part;
    if (oneMeaning && sameSide && (samePart || oneMeaning.part === wanted[0])) return [];
    const side =
      meaning.side === 'middle' || ['spine', 'pelvis', 'neck', 'head'].includes(wanted[0])
        ? ''
        : `${meaning.side} `;
    return [{ bone, has: parentBone(character.nodes, bone), wants: `the ${side}${wanted[0]}` }];
  });
}

function rehang(
  character: Character,
  bones: readonly number[],
  expectation: Expectation,
): { id: string; params: Record<string, unknown> }[] {
  const target = bones.find((bone) => {
    const meaning = meaningOf(character, bone);
    return (
      (`the ${meaning.side === 'middle' ? '' : `${meaning.side} `}${meaning.part}` === expectation.wants &&
        isBodyBone(meaning)) ||
      character.nodes[bone].name === expectation.wants
    );
  });
  return target === undefined ? [] : [{ id: 're-hang', params: { bone: expectation.bone, parent: target } }];
}
