/**
 * Joints whose flesh does not follow them: the points that lie along a bone, nearer to it than to any other of the body, stay
 * behind when its joint turns.
 */
import { ancestorsOf, branchOf, childrenOf, restPlace } from '../../character/hierarchy';
import { placedMeshes } from '../../character/measure';
import type { Character } from '../../character/model';
import { boneDirections } from '../../anatomy/joint-motions';
import { isBodyBone, meaningOf } from '../../anatomy/bones';
import { squaredToSegment } from '../../geometry/heat-weights';
import { type Vec3, distance, dot, subtract } from '../../geometry/matrix';

/** A joint and how its flesh follows. */
export interface Following {
  readonly bone: number;
  /** Mean share of the points along the bone that goes with it, 0 … 1. */
  readonly share: number;
  /** All flesh that lies along it, and what lies farther out and stays behind, by the node of its mesh. */
  readonly points: ReadonlyMap<number, Uint32Array>;
  readonly count: number;
}

/** Points along the middle of a bone are its own; at its ends it shares them. */
const FROM = 0.3;
const TO = 0.8;

/** And no farther from it than this share of its length. */
const BESIDE = 0.7;

/** A point that goes with bones of the body by less than this is no flesh of it. */
const OF_BODY = 0.5;

const isTwist = (character: Character, node: number) => meaningOf(character, node).kind === 'twist';

/** Parts of which the flesh along them must follow: a collar, a hand or the trunk lies in flesh of others. */
const LIMBS = new Set([
  'upperarm',
  'lowerarm',
  'upperleg',
  'lowerleg',
  'foot',
  'thumb',
  'index',
  'long',
  'ring',
  'little',
]);

/** A point farther out on the limb that goes along by less than this stays behind too. */
const STAYS_BEHIND = 0.5;

/** Fewer points say nothing. */
const LEAST_POINTS = 6;

/** How the flesh along every bone of the body follows it. */
export function followingOf(character: Character): Following[] {
  const { nodes } = character;
  const segments = bodySegments(character);
  const own = segments.map(() => ({ sum: 0, count: 0, points: new Map<number, number[]>() }));
  const isOfBody = nodes.map((_, node) => isBodyBone(meaningOf(character, node)) || isTwist(character, node));
  const indexOf = new Map(segments.map(({ bone }, i) => [bone, i]));
  const limbAbove = segments.map(({ bone }) =>
    [bone, ...ancestorsOf(nodes, bone)].flatMap((above) => indexOf.get(above) ?? []),
  );
  const moves = segments.map(({ bone }) => branchOf(nodes, [bone]));
  for (const { mesh, skin, points, node } of placedMeshes(character)) {
    const { influences } = mesh;
    if (!skin || !influences) continue;
    for (let vertex = 0; vertex < mesh.vertexCount; vertex++) {
      const place: Vec3 = [points[vertex * 3], points[vertex * 3 + 1], points[vertex * 3 + 2]];
      const { at, isMiddle } = segmentOf(segments, place);
      if (at < 0) continue;
      let ofBody = 0;
      for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++)
        if (isOfBody[skin.joints[influences.joint[k]]]) ofBody += influences.weight[k];
      // A coat that hangs on bones of its own says nothing of the leg within.
      if (ofBody < OF_BODY) continue;
      for (const above of limbAbove[at]) {
        let share = 0;
        for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++)
          if (moves[above][skin.joints[influences.joint[k]]]) share += influences.weight[k];
        if (above === at && isMiddle) {
          own[at].sum += share / ofBody;
          own[at].count++;
        }
        // Of what lies farther out, only what stays behind.
        if (above !== at && share / ofBody > STAYS_BEHIND) continue;
        const list = own[above].points.get(node);
        if (list) list.push(vertex);
        else own[above].points.set(node, [vertex]);
      }
    }
  }
  return segments.flatMap(({ bone, isLimb }, i): Following[] => {
    const { sum, count, points } = own[i];
    if (!isLimb || count < LEAST_POINTS) return [];
    const lists = new Map([...points].map(([node, list]) => [node, Uint32Array.from(list)]));
    return [{ bone, share: sum / count, points: lists, count }];
  });
}

/** The straight way of a bone of the body to the next. World space at rest, metres. */
export interface BodySegment {
  readonly bone: number;
  readonly from: Vec3;
  readonly to: Vec3;
  readonly length: number;
  readonly isLimb: boolean;
}

/** The bones of the body that go on to another. */
export function bodySegments(character: Character): BodySegment[] {
  const { nodes } = character;
  const children = childrenOf(nodes);
  return [...boneDirections(character).keys()].flatMap((bone): BodySegment[] => {
    const meaning = meaningOf(character, bone);
    if (!isBodyBone(meaning)) return [];
    const from = restPlace(nodes, bone);
    const way = boneDirections(character).get(bone)!;
    const next = children[bone]
      .filter((child) => isBodyBone(meaningOf(character, child)))
      .map((child) => restPlace(nodes, child))
      // Of a hand the knuckle that lies straightest on.
      .sort((a, b) => aligned(from, b, way) - aligned(from, a, way))[0];
    if (!next || distance(from, next) < 1e-6) return [];
    return [{ bone, from, to: next, length: distance(from, next), isLimb: LIMBS.has(meaning.part) }];
  });
}

function aligned(from: Vec3, to: Vec3, way: Vec3): number {
  const vector = subtract(to, from);
  return dot(vector, way) / (Math.hypot(...vector) || 1);
}

/** The segment nearest to a place, and the square of how far it is, metres. */
export function nearestSegment(
  segments: readonly BodySegment[],
  [x, y, z]: Vec3,
): { at: number; squared: number } {
  let at = -1;
  let squared = Infinity;
  segments.forEach((segment, i) => {
    const here = squaredToSegment(segment, x, y, z);
    if (here < squared) [at, squared] = [i, here];
  });
  return { at, squared };
}

/** The segment that a place lies along, and whether that is at its middle; −1 where it lies beside all of them. */
function segmentOf(segments: readonly BodySegment[], place: Vec3): { at: number; isMiddle: boolean } {
  const { at, squared } = nearestSegment(segments, place);
  if (at < 0 || squared > (BESIDE * segments[at].length) ** 2) return { at: -1, isMiddle: false };
  const { from, to, length } = segments[at];
  const share = dot(subtract(place, from), subtract(to, from)) / (length * length);
  return { at, isMiddle: share > FROM && share < TO };
}
