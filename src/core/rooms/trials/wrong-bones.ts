/** Which bone tears a surface: one that pulls points along another limb, or farther out on its own, than it reaches. */
import { childrenOf } from '../../character/hierarchy';
import { placedMeshes } from '../../character/measure';
import type { Character } from '../../character/model';
import { meaningOf } from '../../anatomy/bones';
import { verticesOfPart } from '../../anatomy/part-points';
import type { Elements, RemedyCall } from '../../contracts/finding';
import type { Vec3 } from '../../geometry/matrix';
import { type BodySegment, bodySegments, nearestSegment } from './missed';

/** Points that a bone pulls though it should not. */
interface Pulled {
  weight: number;
  /** How many go with it nearly wholly. */
  whole: number;
  count: number;
  readonly points: Map<number, number[]>;
  /** The bones that they lie along, with how many lie along each. */
  readonly along: Map<number, number>;
}

/** A point goes nearly wholly with a bone from here on. */
const WHOLLY = 0.9;

/** Less of a bone is dust. */
const FELT = 0.002;

/** What takes the bone that pulls most of these polygons wrongly out of them; nothing where none does. */
export function waysToFree(character: Character, elements: readonly Elements[]): RemedyCall[] {
  const [worst] = [...wrongBones(character, elements)].sort(([, a], [, b]) => b.weight - a.weight);
  if (!worst) return [];
  const [bone, { points, whole, count, along }] = worst;
  const vertices = [...points].map(([node, ids]) => ({ node, ids }));
  if (whole * 2 < count) return [{ id: 'take-bone-out', params: { vertices, bone, where: 'here' } }];
  // Nobody else pulls them: they go to the bone that they lie along.
  const [[own]] = [...along].sort(([, a], [, b]) => b - a);
  return [{ id: 'edit-weights', params: { vertices, bone: own, how: 'set', value: 1 } }];
}

function wrongBones(character: Character, elements: readonly Elements[]): Map<number, Pulled> {
  const segments = bodySegments(character);
  const out = new Map<number, Pulled>();
  if (segments.length === 0) return out;
  const near = segments.map((segment) => bonesNear(character, segment));
  for (const { kind, node, ids } of elements) {
    const placed = kind === 'polygon' ? placedMeshes(character).find((one) => one.node === node) : undefined;
    if (!placed?.skin || !placed.mesh.influences) continue;
    const { mesh, skin, points } = placed;
    const { offsets, joint, weight } = placed.mesh.influences;
    for (const vertex of verticesOfPart(mesh, { polygons: ids })) {
      const place: Vec3 = [points[vertex * 3], points[vertex * 3 + 1], points[vertex * 3 + 2]];
      const at = nearestSegment(segments, place).at;
      for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++) {
        const bone = skin.joints[joint[k]];
        if (weight[k] < FELT || near[at].has(bone) || meaningOf(character, bone).part === '') continue;
        note(out, bone, { node, vertex, share: weight[k], along: segments[at].bone });
      }
    }
  }
  return out;
}

function note(
  out: Map<number, Pulled>,
  bone: number,
  { node, vertex, share, along }: { node: number; vertex: number; share: number; along: number },
): void {
  const pulled = out.get(bone) ?? { weight: 0, whole: 0, count: 0, points: new Map(), along: new Map() };
  out.set(bone, pulled);
  pulled.weight += share;
  pulled.count++;
  if (share > WHOLLY) pulled.whole++;
  pulled.points.set(node, [...(pulled.points.get(node) ?? []), vertex]);
  pulled.along.set(along, (pulled.along.get(along) ?? 0) + 1);
}

/** The bone of a segment, the ones above and below it, and what hangs beside them: all may pull what lies along it. */
function bonesNear({ nodes }: Character, { bone }: BodySegment): ReadonlySet<number> {
  const children = childrenOf(nodes);
  const around = [bone, nodes[bone].parent, ...children[bone]].filter((one) => one >= 0);
  return new Set(around.flatMap((one) => [one, ...children[one]]));
}
