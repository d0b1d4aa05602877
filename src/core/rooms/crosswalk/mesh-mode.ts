/** The mesh brought to the skeleton: posed by the weights it has into the target's rest pose, and bound there. */
import { childrenOfBones, type Skeleton, bonesAbove, skeletonOf } from '../../anatomy/skeleton';
import { type Crosswalk, counterparts } from '../../anatomy/crosswalk';
import { reshapedMesh } from '../../character/deform';
import { restWorld, topDown } from '../../character/hierarchy';
import type { Channel, Character, Clip, Mesh, SceneNode, Skin } from '../../character/model';
import { positionsOf } from '../../character/model';
import { withLocal } from '../../character/rehang';
import {
  IDENTITY,
  composeMatrix,
  distance,
  inverseOr,
  normalise,
  quatConjugate,
  quatMultiply,
  quatRotate,
  subtract,
  times,
} from '../../geometry/matrix';
import { halfOf } from '../../geometry/half';
import { fitTarget } from './fit';

/** Whether bones keep the lengths that the mesh was made with, or take those of the target. */
export const LENGTHS = ['kept', 'taken'] as const;

export type Lengths = (typeof LENGTHS)[number];

/**
 * The character in the target's rest pose, and bound there: every bone with a counterpart is turned to where
 * the target has it, and stretched to the target's length where lengths are taken; all others go with the
 * bone above.
 *
 * A point that several bones carry goes half of the way with each of them, and the rest of the way as the
 * half way back would have brought it: (Σ w·H⁻¹)⁻¹ · Σ w·H, where H·H is the bone's motion. So the way there
 * and back is the identity, and joints lose less of their volume than where the whole motions are mixed
 * (`halfOf`; half of a motion is its principal square root).
 */
export function posedFor(
  character: Character,
  target: Skeleton,
  crosswalk: Crosswalk,
  lengths: Lengths,
): Character {
  const source = skeletonOf(character);
  const moves = movesOf(source, target, crosswalk, lengths);
  const rest = restWorld(character.nodes);
  const moveOfNode = new Map(source.bones.map((bone, index) => [bone.node, moves.whole[index]]));
  const nodes = movedNodes(character.nodes, rest, moveOfNode);
  const world = restWorld(nodes);
  const meshes = [...character.meshes];
  const skins = character.skins.map((skin): Skin => ({ ...skin, inverseBinds: bindsAt(world, skin.joints) }));
  const seen = new Map<number, number>();
  const shown = nodes.map((node, i): SceneNode => {
    const skin = node.skin >= 0 ? character.skins[node.skin] : null;
    const mesh = node.mesh >= 0 ? character.meshes[node.mesh] : null;
    if (!skin || !mesh?.influences) return node;
    // A mesh that two skins share stands in two places now.
    const known = seen.get(node.mesh);
    const at = known === undefined || known === node.skin ? node.mesh : meshes.length;
    seen.set(node.mesh, node.skin);
    meshes[at] = posedMesh(character, mesh, skin, rest, moveOfNode, moves.facing);
    return at === character.nodes[i].mesh ? node : { ...node, mesh: at };
  });
  const clips = character.clips.map((clip) => carriedClip(clip, character.nodes, shown, lengths));
  return { ...character, nodes: shown, meshes, skins, clips };
}

interface Moves {
  /** The motion of every bone of the source from its rest, 16 each, world space. */
  readonly whole: readonly Float64Array[];
  /** What all of them have in common: the figure turned to face as the target does. */
  readonly facing: Float64Array;
}

function movesOf(source: Skeleton, target: Skeleton, crosswalk: Crosswalk, lengths: Lengths): Moves {
  const sourceNodeOf = counterparts(target, crosswalk);
  const theirs = new Int32Array(source.bones.length).fill(-1);
  sourceNodeOf.forEach((s, index) => {
    if (s >= 0) theirs[s] = index;
  });
  const fitted = fitTarget(source, target, crosswalk);
  // A root that marks the origin carries nothing: turned to where it lies below the body, it would shift all of it.
  const isBody = bodyBones(source);
  const turns = source.bones.map((_, index) =>
    theirs[index] < 0 || (lengths === 'kept' && !isBody[index])
      ? null
      : quatConjugate(
          quatMultiply(fitted.rotations[theirs[index]], quatConjugate(target.bones[theirs[index]].rotation)),
        ),
  );
  const overall = lengths === 'taken' ? medianRatio(source, target, theirs) : 1;
  const children = childrenOfBones(source);
  const whole: Float64Array[] = [];
  source.bones.forEach((bone, index) => {
    const above = bone.parent >= 0 ? whole[bone.parent] : null;
    const turn = turns[index];
    if (!turn) {
      whole[index] = above ?? Float64Array.from(IDENTITY);
      return;
    }
    const place = lengths === 'taken' ? target.bones[theirs[index]].place : moved(above, bone.place);
    const next = children[index].filter(
      (child) => theirs[child] >= 0 && target.bones[theirs[child]].parent === theirs[index],
    );
    const way = next.length === 1 ? subtract(source.bones[next[0]].place, bone.place) : null;
    const along =
      way && lengths === 'taken'
        ? distance(target.bones[theirs[next[0]]].place, target.bones[theirs[index]].place) /
          Math.hypot(...way)
        : overall;
    whole[index] = about(bone.place, turn, place, way ? normalise(way) : [0, 1, 0], along, overall);
  });
  if (lengths === 'kept') standAsLow(source, whole);
  const widest = source.bones.findIndex(
    (_, index) => turns[index] && children[index].filter((child) => theirs[child] >= 0).length >= 3,
  );
  const rotation = turns[widest] ?? [0, 0, 0, 1];
  return { whole, facing: composeMatrix([0, 0, 0], rotation, [1, 1, 1]) };
}

/** From one place to another, turned, `along` as long in a direction and `across` as wide. */
function about(
  from: readonly number[],
  rotation: readonly number[],
  to: readonly number[],
  axis: readonly number[],
  along: number,
  across: number,
): Float64Array {
  const out = Float64Array.from(IDENTITY);
  for (let corner = 0; corner < 3; corner++) {
    const unit = [0, 1, 2].map(
      (k) => (k === corner ? across : 0) + (along - across) * axis[k] * axis[corner],
    );
    out.set(quatRotate(rotation, unit), corner * 4);
  }
  for (let k = 0; k < 3; k++)
    out[12 + k] = to[k] - out[k] * from[0] - out[4 + k] * from[1] - out[8 + k] * from[2];
  return out;
}

const moved = (matrix: Float64Array | null, points: readonly number[]): number[] =>
  matrix
    ? [0, 1, 2].map(
        (k) => matrix[k] * points[0] + matrix[4 + k] * points[1] + matrix[8 + k] * points[2] + matrix[12 + k],
      )
    : [...points];

/** How much longer the target's bones are, in the middle. */
function medianRatio(source: Skeleton, target: Skeleton, theirs: Int32Array): number {
  const ratios: number[] = [];
  source.bones.forEach((bone, index) => {
    const above = bonesAbove(source, index).find((b) => theirs[b] >= 0);
    if (theirs[index] < 0 || above === undefined) return;
    const mine = distance(bone.place, source.bones[above].place);
    const other = distance(target.bones[theirs[index]].place, target.bones[theirs[above]].place);
    if (mine > 0 && other > 0) ratios.push(other / mine);
  });
  ratios.sort((a, b) => a - b);
  return ratios[ratios.length >> 1] ?? 1;
}

/** Whether a bone carries weight or hangs on one that does; all of a skeleton by itself. */
function bodyBones({ bones }: Skeleton): boolean[] {
  const isBare = bones.every((bone) => bone.weight === 0);
  const isBody = bones.map((bone) => isBare || bone.weight > 0);
  bones.forEach((bone, index) => {
    if (bone.parent >= 0 && isBody[bone.parent]) isBody[index] = true;
  });
  return isBody;
}

/**
 * Shifts the bones of the body so that the lowest of them stands as low as it stood: another stance is no
 * step off the ground. A root that carries nothing and marks the origin stays there.
 */
function standAsLow(source: Skeleton, whole: Float64Array[]): void {
  const { bones } = source;
  const isBody = bodyBones(source);
  const body = [...bones.keys()].filter((s) => isBody[s]);
  const before = Math.min(...body.map((bone) => bones[bone].place[1]));
  const after = Math.min(...body.map((bone) => moved(whole[bone], bones[bone].place)[1]));
  for (const s of body) {
    whole[s] = whole[s].slice();
    whole[s][13] += before - after;
  }
}

/** Bones where they have moved to, turned along but not stretched; what hangs on them comes along as it is. */
function movedNodes(
  nodes: readonly SceneNode[],
  rest: Float64Array,
  moveOfNode: ReadonlyMap<number, Float64Array>,
): SceneNode[] {
  const world = new Float64Array(rest.length);
  const out = [...nodes];
  for (const i of topDown(nodes)) {
    const { parent } = nodes[i];
    const above = parent < 0 ? IDENTITY : world.subarray(parent * 16, parent * 16 + 16);
    const move = moveOfNode.get(i);
    if (!move) {
      const own = parent < 0 ? rest.slice(i * 16, i * 16 + 16) : localIn(rest, parent, i);
      world.set(times(above, own), i * 16);
      continue;
    }
    const now = unstretched(times(move, rest, 0, i * 16), rest, i);
    world.set(now, i * 16);
    const local = times(inverseOr(above), now);
    const same = local.every((x, k) => Math.abs(x - localIn(rest, parent, i)[k]) < 1e-12);
    if (!same) out[i] = withLocal(nodes[i], local);
  }
  return out;
}

const localIn = (world: Float64Array, parent: number, i: number) =>
  parent < 0 ? world.slice(i * 16, i * 16 + 16) : times(inverseOr(world, parent * 16), world, 0, i * 16);

/** A moved node with axes as long as they were, at right angles as they were. */
function unstretched(now: Float64Array, rest: Float64Array, i: number): Float64Array {
  const x = normalise(now.subarray(0, 3));
  const y = now.subarray(4, 7);
  const d = x[0] * y[0] + x[1] * y[1] + x[2] * y[2];
  const vector = normalise([0, 1, 2].map((k) => y[k] - d * x[k]));
  const z = [
    x[1] * vector[2] - x[2] * vector[1],
    x[2] * vector[0] - x[0] * vector[2],
    x[0] * vector[1] - x[1] * vector[0],
  ];
  const out = now.slice();
  [x, vector, z].forEach((axis, index) => {
    const o = i * 16 + index * 4;
    const size = Math.hypot(rest[o], rest[o + 1], rest[o + 2]);
    for (let k = 0; k < 3; k++) out[index * 4 + k] = axis[k] * size;
  });
  return out;
}

function bindsAt(world: Float64Array, joints: readonly number[]): Float64Array {
  const out = new Float64Array(joints.length * 16);
  joints.forEach((j, k) => out.set(inverseOr(world, j * 16), k * 16));
  return out;
}

/** The mesh as it stands when its bones have moved, in world space. */
function posedMesh(
  character: Character,
  mesh: Mesh,
  skin: Skin,
  rest: Float64Array,
  moveOfNode: ReadonlyMap<number, Float64Array>,
  facing: Float64Array,
): Mesh {
  const back = inverseOr(facing);
  const there = skin.joints.map((j) => {
    try {
      return halfOf(times(back, moveOfNode.get(j) ?? IDENTITY));
    } catch {
      throw new Error(
        `“${character.nodes[j].name}” would have to turn by half a circle, and there is no way that is the right one. Look at its counterpart, or move the skeleton to the mesh.`,
      );
    }
  });
  const home = there.map((h) => inverseOr(h));
  const binds = skin.joints.map((j, k) => times(rest, skin.inverseBinds, j * 16, k * 16));
  const { offsets, joint, weight } = mesh.influences as NonNullable<Mesh['influences']>;
  const sums = [new Float64Array(16), new Float64Array(16), new Float64Array(16)];
  const matrixAt = (vertex: number): Float64Array => {
    for (const sum of sums) sum.fill(0);
    let total = 0;
    for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++) {
      total += weight[k];
      [there, home, binds].forEach((list, which) => {
        const matrix = list[joint[k]];
        for (let entry = 0; entry < 16; entry++) sums[which][entry] += weight[k] * matrix[entry];
      });
    }
    if (!(total > 0)) return Float64Array.from(IDENTITY);
    for (const sum of sums) for (let entry = 0; entry < 16; entry++) sum[entry] /= total;
    return times(times(times(facing, inverseOr(sums[1])), sums[0]), sums[2]);
  };
  const points = positionsOf(mesh);
  const places = new Float32Array(points.length);
  for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
    places.set(
      moved(matrixAt(vertex), points.subarray(vertex * 3, vertex * 3 + 3) as unknown as number[]),
      vertex * 3,
    );
  return reshapedMesh(mesh, places, (visit) => {
    for (let vertex = 0; vertex < mesh.vertexCount; vertex++) visit(vertex, matrixAt(vertex));
  });
}

/**
 * A clip on the moved bones. Where they keep their lengths it takes every bone exactly where it went: what it keys
 * stays, and what it leaves alone it left at the rest that it had, and is told so. Where bones take other lengths, what
 * it shifts is shifted from the new rest, as many times as far.
 */
function carriedClip(
  clip: Clip,
  before: readonly SceneNode[],
  after: readonly SceneNode[],
  lengths: Lengths,
): Clip {
  if (clip.channels.length === 0) return clip;
  const channels = clip.channels.map((ch) =>
    ch.path === 'translation' && lengths === 'taken' ? stretched(ch, before[ch.node], after[ch.node]) : ch,
  );
  const has = (path: Channel['path'], node: number) =>
    clip.channels.some((ch) => ch.path === path && ch.node === node);
  const held = before.flatMap((node, i): Channel[] => {
    if (node === after[i] || node.kind !== 'bone') return [];
    const shift = node.translation.map((x, k) => Math.abs(x - after[i].translation[k]));
    const isShifted = lengths === 'kept' && Math.max(...shift) > SHIFTED;
    return [
      ...(has('rotation', i) ? [] : [hold(i, 'rotation', node.rotation)]),
      ...(isShifted && !has('translation', i) ? [hold(i, 'translation', node.translation)] : []),
    ];
  });
  return { ...clip, channels: [...channels, ...held] };
}

/** A rest that lies farther off than this is another one, metres. */
const SHIFTED = 1e-7;

const hold = (node: number, path: 'rotation' | 'translation', values: readonly number[]): Channel => ({
  node,
  path,
  interpolation: 'STEP',
  times: new Float32Array([0]),
  values: Float32Array.from(values),
});

const isTangent = ({ interpolation }: Channel, i: number) =>
  interpolation === 'CUBICSPLINE' && Math.floor(i / 3) % 3 !== 1;

/** A shift from one rest to another, as many times as far as the bone is longer. */
function stretched(ch: Channel, before: SceneNode, after: SceneNode): Channel {
  const [mine, theirs] = [before, after].map((node) => Math.hypot(...node.translation));
  const ratio = mine > 0 && theirs > 0 ? theirs / mine : 1;
  const values = ch.values.map((x, i) =>
    isTangent(ch, i) ? x * ratio : after.translation[i % 3] + (x - before.translation[i % 3]) * ratio,
  );
  return { ...ch, values };
}
