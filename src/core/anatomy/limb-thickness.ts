/**
 * How thick a limb is at its joints, told by the flesh that bends there: the points that a bone shares with the one
 * above it, or with a twist bone that hangs beside it there, lie in a ring about the joint, and their distance from the
 * way of the limb is its radius. One pass over the influences; no cross-section is cut, so that it works on open meshes
 * and on a million points.
 */
import { childrenOf, parentBone, restPlace } from '../character/hierarchy';
import { placedMeshes } from '../character/measure';
import type { Character, Influences, Skin } from '../character/model';
import { type Vec3, dot, length, normalise, subtract } from '../geometry/matrix';

/** A point bends with a joint where both bones have this much of it, at least. */
const SHARED = 0.15;

/** So many points at least make a ring. */
const LEAST_POINTS = 4;

/** The distances that are kept of one joint; more points tell no more. */
const MOST_POINTS = 4096;

/**
 * Thickness (diameter) of the limb at every bone node that flesh bends at, world space, metres. Bones that no flesh
 * bends at, and those of rigid parts, are not in it. Measured once for a character.
 */
export function limbThickness(character: Character): ReadonlyMap<number, number> {
  let thickness = known.get(character);
  if (!thickness) known.set(character, (thickness = measured(character)));
  return thickness;
}

const known = new WeakMap<Character, ReadonlyMap<number, number>>();

function measured(character: Character): Map<number, number> {
  const { nodes } = character;
  const children = childrenOf(nodes);
  const distances = new Map<number, number[]>();
  const isFull = new Uint8Array(nodes.length);
  const wayOf = new Map<number, { at: Vec3; way: Vec3 } | null>();
  const axisAt = (bone: number, above: number) => {
    let axis = wayOf.get(bone);
    if (axis === undefined) wayOf.set(bone, (axis = limbAxis(character, children, bone, above)));
    return axis;
  };
  for (const { mesh, skin, points } of placedMeshes(character)) {
    const influences = skin ? mesh.influences : null;
    if (!influences || !skin) continue;
    const above = Int32Array.from(skin.joints, (joint) => parentBone(nodes, joint));
    for (let vertex = 0; vertex < mesh.vertexCount; vertex++) {
      if (!isShared(influences, vertex)) continue;
      for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++) {
        const slot = influences.joint[k];
        const bone = skin.joints[slot];
        if (influences.weight[k] < SHARED || above[slot] < 0 || isFull[bone]) continue;
        if (!bendsHere(influences, vertex, slot, skin, above)) continue;
        const axis = axisAt(bone, above[slot]);
        if (!axis) continue;
        const list = distances.get(bone) ?? [];
        if (list.push(distanceFromLine(points, vertex, axis)) >= MOST_POINTS) isFull[bone] = 1;
        distances.set(bone, list);
      }
    }
  }
  const out = new Map<number, number>();
  for (const [bone, list] of distances) {
    if (list.length < LEAST_POINTS) continue;
    list.sort((a, b) => a - b);
    out.set(bone, 2 * list[Math.floor(list.length / 2)]);
  }
  return out;
}

/** Whether more than one bone has enough of a vertex for it to bend with any. */
function isShared({ offsets, weight }: Influences, vertex: number): boolean {
  let strong = 0;
  for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++) if (weight[k] >= SHARED) strong++;
  return strong > 1;
}

/** Whether the bone above a joint, or one beside it, moves a vertex as well. */
function bendsHere(
  { offsets, joint, weight }: Influences,
  vertex: number,
  at: number,
  { joints }: Skin,
  above: Int32Array,
): boolean {
  for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++) {
    if (joint[k] === at || weight[k] < SHARED) continue;
    if (joints[joint[k]] === above[at] || above[joint[k]] === above[at]) return true;
  }
  return false;
}

/** The joint and the way of the limb there: half from the bone above, half to the bone below. */
function limbAxis(
  { nodes }: Character,
  children: readonly (readonly number[])[],
  bone: number,
  above: number,
): { at: Vec3; way: Vec3 } | null {
  const at = restPlace(nodes, bone);
  const from = subtract(at, restPlace(nodes, above));
  const below = children[bone].find((child) => nodes[child].kind === 'bone');
  const on: Vec3 = below === undefined ? [0, 0, 0] : subtract(restPlace(nodes, below), at);
  const unit = (vector: Vec3): Vec3 => (length(vector) > 1e-9 ? normalise(vector) : [0, 0, 0]);
  const [a, b] = [unit(from), unit(on)];
  const sum: Vec3 = [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
  return length(sum) > 1e-6 ? { at, way: normalise(sum) } : null;
}

function distanceFromLine(
  points: Float32Array,
  vertex: number,
  { at, way }: { at: Vec3; way: Vec3 },
): number {
  const direction: Vec3 = [
    points[vertex * 3] - at[0],
    points[vertex * 3 + 1] - at[1],
    points[vertex * 3 + 2] - at[2],
  ];
  const along = dot(direction, way);
  return Math.sqrt(Math.max(0, dot(direction, direction) - along * along));
}
