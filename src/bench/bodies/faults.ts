/** Faults that are put into a body that has none, each with the check that must find it. */
import { isBodyBone, meaningOf } from '../../core/anatomy/bones';
import { bodyKindOf } from '../../core/anatomy/body-kind';
import { type Landmark, bearingOf, landmarksOf } from '../../core/anatomy/landmarks';
import { bonesOf, branchOf, parentBone, restPlace, weightOfNodes } from '../../core/character/hierarchy';
import { characterHeight } from '../../core/character/measure';
import { withJointsAt } from '../../core/character/place-joints';
import { type Character, replaceAt } from '../../core/character/model';
import { withTurnedAxes } from '../../core/character/turn-axes';
import { limbSectionsOf } from '../../core/anatomy/limb-sections';
import { judgedPairs } from '../../core/rooms/skeleton/pairs';
import { withBonesFolded } from '../../core/motion/fold';
import { hungUnder, rehung } from '../../core/character/rehang';
import { STILL, underSimilarity } from '../../core/character/similarity';
import { type Quat, type Vec3, distance, quatAbout } from '../../core/geometry/matrix';

export interface Fault {
  readonly check: string;
  /** Null where a body has nothing that it could be done to. */
  put(character: Character): Character | null;
}

const turned = (character: Character, rotation: Quat) => underSimilarity(character, { ...STILL, rotation });

/** The last bone of a limb and the same on the other side. */
function ends(character: Character): [number, number] | null {
  const bones = bonesOf(character).filter((bone) => isBodyBone(meaningOf(character, bone)));
  for (const part of ['foot', 'hand', 'lowerleg', 'wing']) {
    const of = (side: string) =>
      bones.find(
        (bone) => meaningOf(character, bone).part === part && meaningOf(character, bone).side === side,
      );
    const [left, right] = [of('left'), of('right')];
    if (left !== undefined && right !== undefined) return [left, right];
  }
  return null;
}

export const FAULTS: readonly Fault[] = [
  { check: 'facing', put: (character) => turned(character, quatAbout([0, 1, 0], Math.PI) as Quat) },
  { check: 'facing', put: (character) => turned(character, quatAbout([1, 0, 0], -Math.PI / 2) as Quat) },
  { check: 'ground', put: (character) => underSimilarity(character, { ...STILL, translation: [0, 0.4, 0] }) },
  {
    check: 'parents',
    put(character) {
      const pair = ends(character);
      if (!pair) return null;
      const hung = hungUnder(character, pair[0], character.nodes[pair[1]].parent);
      return { ...character, nodes: replaceAt(character.nodes, new Map([[pair[0], hung]])) };
    },
  },
  {
    check: 'mirrored-pairs',
    put(character) {
      const pairs = judgedPairs(character)?.pairs ?? [];
      // Where few pairs follow a rule, half of them being turned is a rule as well.
      const pair = pairs.find(({ rule }) => rule && pairs.filter((other) => other.rule === rule).length >= 6);
      if (!pair) return null;
      return withTurnedAxes(character, new Map([[pair.right.node, [0, 0, 1, 0] as const]]));
    },
  },
  {
    check: 'mirrored-pairs',
    put(character) {
      const pairs = judgedPairs(character)?.pairs ?? [];
      // A joint inside a limb that is told on both sides: what hangs on it stays.
      const inner = pairs.find(({ left, right }) =>
        pairs.some((next) => next.left.parent === left.node && next.right.parent === right.node),
      );
      if (!inner || pairs.length < 4) return null;
      const [x, y, z] = restPlace(character.nodes, inner.right.node);
      // Of a low beast, too, farther than any of them is off by itself.
      const far = Math.max(0.15, 0.2 * characterHeight(character));
      return withJointsAt(character, new Map([[inner.right.node, [x, y, z + far]]]));
    },
  },
  {
    check: 'joint-in-limb',
    put(character) {
      const [section] = limbSectionsOf(character);
      if (!section) return null;
      const at = restPlace(character.nodes, section.bone);
      return withJointsAt(character, new Map([[section.bone, [at[0], at[1], at[2] + 1.5 * section.radius]]]));
    },
  },
  {
    check: 'expected-bones',
    put(character) {
      // A limb of a person or a bird that ends too early: its last part gone with all that hangs on it.
      const { kind } = bodyKindOf(character);
      const pair = kind === 'two-legged' || kind === 'winged' ? ends(character) : null;
      if (!pair || !['foot', 'hand'].includes(meaningOf(character, pair[0]).part)) return null;
      const inside = branchOf(character.nodes, [pair[0]]);
      return withBonesFolded(character, new Set(bonesOf(character).filter((bone) => inside[bone]))).character;
    },
  },
  {
    check: 'one-root',
    put(character) {
      const pair = ends(character);
      return pair && rehung(character, pair[0], -1);
    },
  },
  {
    check: 'between-bones',
    put(character) {
      const mesh = character.nodes.findIndex((node) => node.mesh >= 0);
      const pair = ends(character);
      if (!pair || mesh < 0) return null;
      const nodes = character.nodes.slice();
      nodes[pair[0]] = hungUnder(character, pair[0], mesh);
      return { ...character, nodes };
    },
  },
  {
    check: 'stacked-bones',
    put(character) {
      const weight = weightOfNodes(character);
      const bends = (bone: number) => weight[bone] > 0 && isBodyBone(meaningOf(character, bone));
      const pair = bonesOf(character)
        .map((bone) => ({ bone, above: parentBone(character.nodes, bone) }))
        .find(({ bone, above }) => above >= 0 && bends(bone) && bends(above));
      if (!pair) return null;
      const place = restPlace(character.nodes, pair.above) as Vec3;
      return withJointsAt(character, new Map([[pair.bone, place]]));
    },
  },
  {
    check: 'bend-direction',
    put(character) {
      const bearing = bearingOf(character);
      const marks = landmarksOf(character);
      const [from, knee, to] = ['upperleg left', 'lowerleg left', 'foot left'].map((part) =>
        marks.get(part as Landmark),
      );
      if (!bearing || from === undefined || knee === undefined || to === undefined) return null;
      if (bodyKindOf(character).kind !== 'two-legged') return null;
      const [hip, ankle] = [from, to].map((node) => restPlace(character.nodes, node));
      const off = 0.06 * distance(hip, ankle);
      const place = [0, 1, 2].map((axis) => (hip[axis] + ankle[axis]) / 2 - off * bearing.forward[axis]);
      return withJointsAt(character, new Map([[knee, place as unknown as Vec3]]));
    },
  },
  {
    check: 'no-weight',
    put(character) {
      const influences = character.meshes[0].influences;
      if (!influences) return null;
      const weight = influences.weight.slice().fill(0, influences.offsets[0], influences.offsets[8]);
      const meshes = replaceAt(
        character.meshes,
        new Map([[0, { ...character.meshes[0], influences: { ...influences, weight } }]]),
      );
      return { ...character, meshes };
    },
  },
];
