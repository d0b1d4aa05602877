/** The places that differ most, told one by one. */
import { placedMeshes } from '../../character/measure';
import type { Character } from '../../character/model';
import type { Proof } from './proof';

/** A point that lies far off, and the pose in which it does. */
export interface WorstPoint {
  /** Mesh node of the remapped character. */
  readonly node: number;
  readonly mesh: string;
  readonly vertex: number;
  /** Name of the bone that weighs most there. */
  readonly bone: string;
  /** Metres. */
  readonly distance: number;
  /** Index among the poses. */
  readonly pose: number;
  /** At rest, world space, metres. */
  readonly place: readonly number[];
}

/** Two places of one kind stand this far apart at least, as a share of the height. */
const APART = 0.06;

/** So many places of one bone at most: one bad pair would fill the list with one limb. */
const OF_A_BONE = 2;

/** What lies nearer is no place worth a look, metres. */
const NEAR = 1e-6;

/** The points that lie farthest off, none near another that is told, and few of one bone. */
export function worstPoints(after: Character, { worst, ofHeight, max }: Proof, most = 8): WorstPoint[] {
  const apart = APART * (ofHeight.max > 0 ? max / ofHeight.max : 1);
  const placed = new Map(placedMeshes(after).map((placed) => [placed.node, placed]));
  const all = worst.flatMap(({ node, distance, pose }) =>
    Array.from(distance, (distance, vertex) => ({ node, vertex, distance, pose: pose[vertex] })).filter(
      (place) => place.distance > NEAR,
    ),
  );
  all.sort((a, b) => b.distance - a.distance);
  const out: WorstPoint[] = [];
  for (const onePlace of all) {
    if (out.length >= most) break;
    const { points, mesh, skin } = placed.get(onePlace.node) ?? {};
    if (!points || !mesh) continue;
    const place = Array.from(points.subarray(onePlace.vertex * 3, onePlace.vertex * 3 + 3));
    if (out.some((point) => Math.hypot(...point.place.map((x, k) => x - place[k])) < apart)) continue;
    const bone = heaviestAt(mesh.influences, onePlace.vertex);
    const name = skin && bone >= 0 ? after.nodes[skin.joints[bone]].name : '';
    if (
      out.filter((point) => point.bone === name && (name !== '' || point.node === onePlace.node)).length >=
      OF_A_BONE
    )
      continue;
    out.push({ ...onePlace, mesh: after.nodes[onePlace.node].name || mesh.name, bone: name, place });
  }
  return out;
}

function heaviestAt(
  influences: { offsets: Uint32Array; joint: ArrayLike<number>; weight: Float32Array } | null,
  vertex: number,
): number {
  if (!influences) return -1;
  let best = -1;
  let most = 0;
  for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++)
    if (influences.weight[k] > most) {
      most = influences.weight[k];
      best = influences.joint[k];
    }
  return best;
}
