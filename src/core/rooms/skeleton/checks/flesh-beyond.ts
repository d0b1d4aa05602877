import { number, object } from 'yup';
import { boneKindsOf } from '../../../anatomy/bone-kinds';
import { meaningOf } from '../../../anatomy/bones';
import { wordsOf } from '../../../anatomy/reading/tokens';
import { childrenOf, parentBone, restPlace } from '../../../character/hierarchy';
import { placedMeshes } from '../../../character/measure';
import type { Character } from '../../../character/model';
import { LANDMARKS } from '../../../contracts/aspect';
import { type Found, type Measured, defineCheck } from '../../../contracts/check';
import { boneElements, theNode } from '../../../contracts/finding';
import { setting } from '../../../contracts/setting';
import { inUnit, unitSign } from '../../../contracts/units';
import { type Vec3, distance, normalise, subtract } from '../../../geometry/matrix';

const BEYOND = number()
  .positive()
  .nullable()
  .default(null)
  .meta(
    setting(
      'Flesh beyond a chain at most',
      'factor',
      'most',
      'So many times as far as the longest bone of the chain; off where that is free.',
    ),
  );

/** A chain’s last bone, how long the longest bone of the chain is, and how far its own flesh goes on, metres. */
interface ChainTip {
  readonly bone: number;
  readonly before: number;
  readonly reach: number;
}

/** Of points that the bone moves by less than half nothing is said. */
const OWN = 0.5;

/** Heads, hands and feet are longer than what they hang on. */
const NO_CHAIN = new Set(['head', 'jaw', 'hand', 'foot', 'toe', 'ear', 'eye']);

const known = new WeakMap<Character, ChainTip[]>();

/** The last bones of chains of one name, with how far their flesh goes on. One pass over the influences. Made once. */
function chainTipsOf(character: Character): ChainTip[] {
  let tips = known.get(character);
  if (!tips) known.set(character, (tips = findTips(character)));
  return tips;
}

function findTips(character: Character): ChainTip[] {
  const { nodes } = character;
  const children = childrenOf(nodes);
  const kinds = boneKindsOf(character);
  const carries = (bone: number) => ['deforming', 'cloth'].includes(kinds.get(bone)?.kind ?? '');
  // Ends, and bones that carry nothing yet, take no flesh along.
  const bonesBelow = (bone: number) => children[bone].filter(carries);
  const ways = new Map<number, { at: Vec3; along: Vec3; before: number }>();
  for (const bone of kinds.keys()) {
    const above = parentBone(nodes, bone);
    if (!carries(bone) || above < 0 || bonesBelow(bone).length > 0 || bonesBelow(above).length > 1) continue;
    if (NO_CHAIN.has(meaningOf(character, bone).part) || !areOfOneChain(nodes[above].name, nodes[bone].name))
      continue;
    const [from, at] = [restPlace(nodes, above), restPlace(nodes, bone)];
    const before = longestOf(character, bone);
    if (distance(from, at) > 1e-6) ways.set(bone, { at, along: normalise(subtract(at, from)), before });
  }
  const reach = new Map<number, number>();
  for (const { mesh, skin, points } of placedMeshes(character)) {
    if (!mesh.influences || !skin) continue;
    const { offsets, joint, weight } = mesh.influences;
    for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
      for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++) {
        if (weight[k] < OWN) continue;
        const bone = skin.joints[joint[k]];
        const way = ways.get(bone);
        if (!way) continue;
        let far = 0;
        for (let axis = 0; axis < 3; axis++)
          far += (points[vertex * 3 + axis] - way.at[axis]) * way.along[axis];
        if (far > (reach.get(bone) ?? 0)) reach.set(bone, far);
      }
  }
  return [...reach].map(([bone, far]) => ({ bone, before: ways.get(bone)?.before ?? 0, reach: far }));
}

/** The longest way from bone to bone up a chain of one name. */
function longestOf({ nodes }: Character, tip: number): number {
  let longest = 0;
  let bone = tip;
  for (let above = parentBone(nodes, bone); above >= 0; above = parentBone(nodes, bone)) {
    if (!areOfOneChain(nodes[above].name, nodes[bone].name)) break;
    longest = Math.max(longest, distance(restPlace(nodes, above), restPlace(nodes, bone)));
    bone = above;
  }
  return longest;
}

/** Whether two names say the same but for their numbers. */
function areOfOneChain(a: string, b: string): boolean {
  const bare = (name: string) =>
    wordsOf(name)
      .filter((word) => !/^\p{Nd}+$/u.test(word))
      .join(' ');
  return bare(a) === bare(b);
}

const timesOf = ({ reach, before }: ChainTip) => reach / before;

/** Chains that end before their flesh does. */
export const fleshBeyondCheck = defineCheck({
  id: 'flesh-beyond',
  room: 'skeleton',
  title: 'Chains as long as their flesh',
  why: 'What lies beyond the last bone of a chain swings as one stiff piece: a tail that bends up to its middle and then no more.',
  advice: 'A bone goes on there already and carries nothing: give it the weight of what lies beyond.',
  settings: object({ fleshBeyond: BEYOND }),
  reads: [...LANDMARKS, 'points', 'morphs', 'binds'],
  measures(character): Readonly<Record<string, Measured>> {
    const tips = chainTipsOf(character);
    if (tips.length === 0) return { fleshBeyond: null };
    return { fleshBeyond: Math.ceil(Math.max(...tips.map(timesOf)) * 10) / 10 };
  },
  run(character, { fleshBeyond, unit }): Found[] {
    if (!fleshBeyond) return [];
    return chainTipsOf(character)
      .filter((tip) => timesOf(tip) > fleshBeyond)
      .map((tip): Found => {
        const { name } = character.nodes[tip.bone];
        return {
          gravity: 'worth',
          subject: theNode(character, tip.bone),
          unit: '×',
          elements: [boneElements([tip.bone])],
          message: `The flesh of “${name}” goes on ${timesOf(tip).toFixed(1)} times as far as the longest bone of its chain, and no bone with it`,
          measured: Number(timesOf(tip).toFixed(2)),
          expected: fleshBeyond,
          evidence: [
            { label: 'Flesh beyond it', now: inUnit(tip.reach, unit), brief: '—', unit: unitSign(unit) },
            {
              label: 'Longest bone of the chain',
              now: inUnit(tip.before, unit),
              brief: '—',
              unit: unitSign(unit),
            },
          ],
          remedies: goesOn(character, tip.bone)
            ? []
            : [{ id: 'add-bone', params: { under: tip.bone, name: nextName(character, name), share: 0.5 } }],
        };
      });
  },
});

/** Whether a bone hangs there already, which only has to be given its weight. */
const goesOn = ({ nodes }: Character, bone: number): boolean =>
  nodes.some(({ parent, kind }) => parent === bone && kind === 'bone');

/** The name with the next number that is free. */
function nextName({ nodes }: Character, name: string): string {
  const taken = new Set(nodes.map((node) => node.name));
  const [, head, digits, tail] = /^(.*?)(\d+)(\D*)$/.exec(name) ?? [null, `${name}_`, '1', ''];
  for (let number = Number(digits) + 1; ; number++) {
    const next = `${head}${String(number).padStart(digits.length, '0')}${tail}`;
    if (!taken.has(next)) return next;
  }
}
