/**
 * Why the worst places stay where they are when a mesh was brought to another rest pose: they stand at a joint whose two
 * bones are turned against each other by that, so that what both carry was bound in between. No weights, no rest place,
 * and (tried on bodies in A and relaxed) no bone between them that turns half as far fold there as before.
 */
import { restWorld } from '../../character/hierarchy';
import type { Character } from '../../character/model';
import { decompose, quatConjugate, quatMultiply } from '../../geometry/matrix';
import type { Proof } from './proof';
import type { Remapped } from './remap';

/** A joint whose bones another rest pose turned against each other. */
export interface TurnedJoint {
  /** Nodes of the remapped character. */
  readonly above: number;
  readonly below: number;
  /** How far the lower was turned against the upper, degrees. */
  readonly degrees: number;
  /** Share of the worst places that stand there, 0 … 1. */
  readonly share: number;
}

/** Worst points that are looked at. */
const POINTS = 80;

/** A joint turned by less folds as before, degrees; one that fewer of the worst points stand at is no reason. */
const LEAST = 10;
const LEAST_SHARE = 0.25;

/** The turned joint that most of the worst places stand at; null where none is the reason. */
export function turnedJoint(
  { character, sourceNodeOf, motionSource, reference }: Remapped,
  { worst, max }: Proof,
): TurnedJoint | null {
  if (reference === motionSource || !(max > 0)) return null;
  const places = worst
    .flatMap((mesh) =>
      Array.from(mesh.distance, (distance, vertex) => ({ node: mesh.node, vertex, distance })),
    )
    .sort((a, b) => b.distance - a.distance)
    .slice(0, POINTS);
  const [before, after] = [restWorld(reference.nodes), restWorld(motionSource.nodes)];
  const turnOf = (node: number) => {
    const own = sourceNodeOf[node] * 16;
    return quatMultiply(decompose(after, own).rotation, quatConjugate(decompose(before, own).rotation));
  };
  const found = new Map<string, { above: number; below: number; degrees: number; points: number }>();
  for (const place of places) {
    const joints = jointsAt(character, place.node, place.vertex)
      .filter(({ above, below }) => sourceNodeOf[above] >= 0 && sourceNodeOf[below] >= 0)
      .map((joint) => ({ ...joint, degrees: degreesBetween(turnOf(joint.above), turnOf(joint.below)) }));
    const most = joints.reduce((a, b) => (b.degrees > a.degrees ? b : a), {
      above: -1,
      below: -1,
      degrees: 0,
    });
    if (most.degrees < LEAST) continue;
    const key = `${most.above} ${most.below}`;
    const known = found.get(key) ?? { ...most, points: 0 };
    known.points++;
    found.set(key, known);
  }
  const best = [...found.values()].sort((a, b) => b.points - a.points)[0];
  if (!best || best.points < LEAST_SHARE * places.length) return null;
  const { points, ...joint } = best;
  return { ...joint, share: points / places.length };
}

/** The joints that a point stands at: each bone that carries it, with the nearest one above that does. */
function jointsAt(
  { nodes, meshes, skins }: Character,
  mesh: number,
  vertex: number,
): { above: number; below: number }[] {
  const influences = meshes[nodes[mesh].mesh].influences;
  const skin = skins[nodes[mesh].skin];
  if (!influences || !skin) return [];
  const carriers = new Set<number>();
  for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++)
    carriers.add(skin.joints[influences.joint[k]]);
  return [...carriers].flatMap((below) => {
    let above = nodes[below].parent;
    while (above >= 0 && !carriers.has(above)) above = nodes[above].parent;
    return above < 0 ? [] : [{ above, below }];
  });
}

function degreesBetween(a: readonly number[], b: readonly number[]): number {
  const cosine = Math.abs(a.reduce((sum, x, k) => sum + x * b[k], 0));
  return (2 * Math.acos(Math.min(1, cosine)) * 180) / Math.PI;
}
