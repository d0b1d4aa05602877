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
    const names = new Set(bonesOf(character).map((b) => character.nodes[b].name));
    const known = [...TREES].map(([id, { parents }]) => {
      const all = Object.keys(parents);
      return { id, share: all.filter((n) => names.has(n)).length / all.length };
    });
    const best = known.reduce((a, b) => (b.share > a.share ? b : a));
    return { tree: best.share > 0.6 ? best.id : 'vrm' };
  },
  run(character, brief) {
    const tree = TREES.get(brief.tree);
    if (!tree) throw new Error(`The house has no tree “${brief.tree}”.`);
    const bones = bonesOf(character);
    const named = bones.filter((b) => Object.hasOwn(tree.parents, character.nodes[b].name));
    const byName = named.length >= Object.keys(tree.parents).length * 0.6;
    const wrong = byName ? byTable(character, named, tree.parents) : byKind(character, tree.parents);
    if (wrong.length === 0) return [];
    const nameOf = (b: number) => (b < 0 ? 'nothing' : `“${character.nodes[b].name}”`);
    const flat = byName && wrong.length > 3 && new Set(wrong.map((w) => w.has)).size === 1;
    if (flat) {
      const above = character.nodes[wrong[0].bone].parent;
      return [
        {
          gravity: 'stops',
          subject: theCharacter(character),
          unit: 'bones',
          elements: [boneElements(wrong.map((w) => w.bone))],
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
    return wrong.map((w) => ({
      gravity: 'stops',
      subject: theNode(character, w.bone),
      unit: '',
      elements: [boneElements([w.bone, ...(w.has >= 0 ? [w.has] : [])])],
      count: 1,
      message: `${nameOf(w.bone)} hangs under ${nameOf(w.has)}; it belongs under ${w.wants}`,
      measured: w.has < 0 ? 'no parent' : character.nodes[w.has].name,
      expected: w.wants,
      evidence: [
        {
          label: 'Parent',
          now: w.has < 0 ? 'none' : character.nodes[w.has].name,
          brief: w.wants,
          unit: '',
        },
      ],
      remedies: rehang(character, bones, w),
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
    for (let p = table[name]; p; p = table[p]) {
      const q = readName(p).part;
      if (q && q !== part && !above.includes(q)) above.push(q);
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
  const present = new Set(bones.map((b) => meaningOf(character, b).part));
  return bones.flatMap((bone): Expectation[] => {
    const r = meaningOf(character, bone);
    const wanted = above.get(r.part)?.filter((p) => present.has(p)) ?? [];
    if (!isBodyBone(r) || wanted.length === 0) return [];
    let has = parentBone(character.nodes, bone);
    while (has >= 0) {
      const p = meaningOf(character, has);
      if (isBodyBone(p) && p.part !== 'root') break;
      has = parentBone(character.nodes, has);
    }
    const p = has >= 0 ? meaningOf(character, has) : null;
    const sameSide = !p || p.side === r.side || p.side === 'middle';
    const samePart = !!p && p.part === r.part;
    if (p && sameSide && (samePart || p.part === wanted[0])) return [];
    const side =
      r.side === 'middle' || ['spine', 'pelvis', 'neck', 'head'].includes(wanted[0]) ? '' : `${r.side} `;
    return [{ bone, has: parentBone(character.nodes, bone), wants: `the ${side}${wanted[0]}` }];
  });
}

function rehang(
  character: Character,
  bones: readonly number[],
  w: Expectation,
): { id: string; params: Record<string, unknown> }[] {
  const target = bones.find((b) => {
    const r = meaningOf(character, b);
    return (
      (`the ${r.side === 'middle' ? '' : `${r.side} `}${r.part}` === w.wants && isBodyBone(r)) ||
      character.nodes[b].name === w.wants
    );
  });
  return target === undefined ? [] : [{ id: 're-hang', params: { bone: w.bone, parent: target } }];
}
