import { boolean, number, object } from 'yup';
import { childrenOf, restPlace, restWorld, topDown } from '../../../character/hierarchy';
import { type Character, type SceneNode } from '../../../character/model';
import { boundAnew } from '../../../character/place-joints';
import { withLocal } from '../../../character/rehang';
import { choiceOf, refsTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy } from '../../../contracts/remedy';
import { inUnit, unitSign } from '../../../contracts/units';
import { type Vec3, distance, dot, inverseOr, normalise, subtract, times } from '../../../geometry/matrix';
import { freshBinds, withShapeOf } from '../../../character/bind-anew';
import { twinOfBone } from '../mirror-branch';
import { SKIN_AT_REST, promiseForLimbs } from './turn-limb';

/** Makes bones longer or shorter along the way to the next one. */
export const lengthenLimb = defineRemedy({
  id: 'lengthen-limb',
  room: 'skeleton',
  title: 'Make bones longer or shorter',
  does: 'What hangs on each of these bones moves along the way to the next one, and keeps its own size; no bone is scaled. The skin is stretched along by its weights, or stays where it is. Clips do what they did relative to rest.',
  params: object({
    bones: refsTo('bone', 'Bones').default([]),
    percent: number().min(10).max(1000).default(110).meta({ label: 'To percent of their length' }),
    skin: choiceOf('The skin', SKIN_AT_REST).default('along'),
    twins: boolean().default(false).meta({ label: 'Their twins as well' }),
  }),
  rows(character, params, { unit }) {
    return stretchesOf(character, params).map(({ bone, next }) => ({
      label: character.nodes[bone].name,
      value: inUnit(distance(restPlace(character.nodes, bone), restPlace(character.nodes, next)), unit),
      unit: unitSign(unit),
    }));
  },
  apply(character, params) {
    const { bones, percent, skin } = params;
    if (bones.some((bone) => character.nodes[bone]?.kind !== 'bone'))
      throw new RemedyError('One of these bones is not there any more; choose them again.');
    if (bones.length === 0) throw new NothingToDo('No bone is chosen; choose those that become longer.');
    if (percent === 100) throw new NothingToDo('They are so long already; 100 % changes nothing.');
    const stretches = stretchesOf(character, params);
    const moved = movedNodes(character, stretches, percent / 100);
    if (skin === 'stays') return boundAnew(character, moved);
    return withSkinStretched(character, stretches, percent / 100, moved);
  },
  promises(character, params) {
    const { nodes } = character;
    const children = childrenOf(nodes);
    const tops = stretchesOf(character, params).flatMap(({ bone }) =>
      // The skin of the bone itself stretches; what hangs on it moves either way.
      params.skin === 'along' ? [bone] : children[bone],
    );
    return promiseForLimbs(character, tops, params.skin);
  },
});

/** A bone, the one that it goes on to, and the way there: unit length, world space. */
interface Stretch {
  readonly bone: number;
  readonly next: number;
  readonly along: Vec3;
}

interface Lengthening {
  readonly bones: readonly number[];
  readonly twins: boolean;
}

function stretchesOf(character: Character, { bones, twins }: Lengthening): Stretch[] {
  const { nodes } = character;
  const children = childrenOf(nodes);
  const others = twins ? bones.map((bone) => twinOfBone(character, bone)).filter((bone) => bone >= 0) : [];
  return [...new Set([...bones, ...others])].map((bone) => {
    const from = restPlace(nodes, bone);
    const below = (children[bone] ?? []).filter((child) => nodes[child].kind === 'bone');
    const away = (child: number) => distance(from, restPlace(nodes, child));
    // The bone goes on to what lies farthest; twists and cloth lie within its length.
    const next = below.reduce((best, child) => (best < 0 || away(child) > away(best) ? child : best), -1);
    if (next < 0 || away(next) < 1e-6)
      throw new RemedyError(
        `“${nodes[bone].name}” has no bone behind it that says how long it is; choose the bone before, or mark its end first.`,
      );
    return { bone, next, along: normalise(subtract(restPlace(nodes, next), from)) };
  });
}

/** The nodes that hang on stretched bones, farther along by their share of the way. */
function movedNodes(
  { nodes }: Character,
  stretches: readonly Stretch[],
  factor: number,
): Map<number, SceneNode> {
  const world = restWorld(nodes);
  const children = childrenOf(nodes);
  const moved = new Map<number, SceneNode>();
  for (const { bone, along } of stretches) {
    const back = inverseOr(world, bone * 16);
    for (const child of children[bone]) {
      const shift = shiftOf(restPlace(nodes, bone), along, restPlace(nodes, child), factor);
      const placed = world.slice(child * 16, child * 16 + 16);
      for (let k = 0; k < 3; k++) placed[12 + k] += shift[k];
      moved.set(child, withLocal(nodes[child], times(back, placed)));
    }
  }
  return moved;
}

/** How far a place goes along where a way from `from` becomes so many times as long. */
function shiftOf(from: Vec3, along: Vec3, place: Vec3, factor: number): Vec3 {
  const by = (factor - 1) * Math.max(0, dot(subtract(place, from), along));
  return [along[0] * by, along[1] * by, along[2] * by];
}

/** The skin under stretched bones, and under what moved with them, as its own shape. */
function withSkinStretched(
  character: Character,
  stretches: readonly Stretch[],
  factor: number,
  moved: ReadonlyMap<number, SceneNode>,
): Character {
  const onMoved = boundAnew(character, moved);
  const [before, after] = [restWorld(character.nodes), restWorld(onMoved.nodes)];
  const stretching = Float64Array.from(after);
  const byBone = new Map(stretches.map((stretch) => [stretch.bone, stretch]));
  for (const node of topDown(character.nodes)) {
    const stretch = byBone.get(node) ?? withinLimb(character, byBone, node);
    if (!stretch) continue;
    const matrix = times(
      stretchMatrix(restPlace(character.nodes, stretch.bone), stretch.along, factor),
      before,
      0,
      node * 16,
    );
    // What the bone hangs on may have moved it along already.
    const from = stretch.bone * 16 + 12;
    for (let k = 0; k < 3; k++) matrix[12 + k] += after[from + k] - before[from + k];
    stretching.set(matrix, node * 16);
  }
  let out = character;
  character.skins.forEach((skin, i) => {
    const isMoved = skin.joints.some((joint) => byBone.has(joint) || differs(before, after, joint));
    if (!isMoved) return;
    out = withShapeOf(out, i, stretching);
    const binds = freshBinds(skin.joints, after);
    out = {
      ...out,
      skins: out.skins.map((other, k) => (k === i ? { ...other, inverseBinds: binds } : other)),
    };
  });
  const nodes = onMoved.nodes.map((node, i) => ({ ...node, mesh: out.nodes[i].mesh }));
  return { ...out, nodes, clips: onMoved.clips };
}

/** A twist that hangs on a stretched bone and leads nowhere is stretched with it. */
function withinLimb(
  { nodes }: Character,
  byBone: ReadonlyMap<number, Stretch>,
  node: number,
): Stretch | undefined {
  const stretch = byBone.get(nodes[node].parent);
  const isLeaf = !nodes.some(({ parent, kind }) => parent === node && kind === 'bone');
  return stretch && nodes[node].kind === 'bone' && node !== stretch.next && isLeaf ? stretch : undefined;
}

const differs = (before: Float64Array, after: Float64Array, joint: number) =>
  [12, 13, 14].some((k) => before[joint * 16 + k] !== after[joint * 16 + k]);

/** So many times as long along a way from a place, and as it was across. Column-major. */
function stretchMatrix(from: Vec3, along: Vec3, factor: number): Float64Array {
  const out = new Float64Array(16);
  for (let column = 0; column < 3; column++)
    for (let row = 0; row < 3; row++)
      out[column * 4 + row] = Number(column === row) + (factor - 1) * along[row] * along[column];
  const offset = dot(from, along);
  for (let row = 0; row < 3; row++) out[12 + row] = -(factor - 1) * along[row] * offset;
  out[15] = 1;
  return out;
}
