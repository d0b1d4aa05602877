/**
 * The loops of edges that were modelled for a joint: those that go round its limb, by where they lie along it, and among
 * them the pocket: three or more that follow each other more closely than elsewhere on the limb, as a modeller sets them
 * where it is to bend.
 */
import { childrenOf, parentBone, restPlace } from '../character/hierarchy';
import type { Placed } from '../character/measure';
import type { Character, Mesh } from '../character/model';
import { topologyOf } from '../character/topology';
import { LONGEST_LOOP, acrossPoint } from '../geometry/edge-loops';
import { type BendingLimb, type JointRole, bendingLimbsOf, limbSectionsOf } from './limb-sections';
import type { HalfEdges } from '../geometry/half-edges';
import { type Vec3, distance, dot, length, normalise, subtract } from '../geometry/matrix';

/** A loop of edges round a limb. */
export interface LimbLoop {
  /** How far along the limb from its joint, metres; below 0 towards the root. */
  readonly along: number;
  readonly middle: Vec3;
  readonly radius: number;
}

/** A loop with its vertices in their order, in the mesh of a node. */
export interface LoopOnMesh extends LimbLoop {
  readonly node: number;
  readonly vertices: readonly number[];
}

/** A joint with the loops across its limb, as far as half way to the joints beside it. */
export interface LoopsAcross {
  readonly bone: number;
  readonly role: JointRole;
  /** Radius of the limb at the joint, metres. */
  readonly radius: number;
  /** In their order along the limb, those towards the root first. */
  readonly loops: readonly LoopOnMesh[];
  /** How far the loops were looked for above and below the joint, metres. */
  readonly up: number;
  readonly down: number;
}

/** The loops modelled for a joint. */
export interface LoopPocket {
  readonly loops: number;
  /** Middle of the pocket, world space at rest, metres. */
  readonly middle: Vec3;
  /** How far along the limb it lies from the joint, metres. */
  readonly along: number;
  /** From its first to its last loop, metres. */
  readonly width: number;
}

/** A loop that stands across its limb by less than this cosine goes along it. */
const ACROSS = 0.7;

/** Fewer loops on a stretch of limb tell nothing of how they are set. */
const LEAST_LOOPS = 6;

/** A pocket is made of so many loops at least. */
const LEAST_IN_POCKET = 3;

/** On either side of a pocket the loops come to lie so much wider apart, as a factor, or it is none. */
const OPENS = 1.35;

/** Up to this share of the way from the closest to those wider ones, loops belong to the pocket. */
const STILL_CLOSE = 0.4;

/** Loops are looked at up to half way to the joints beside it. */
const HALF_WAY = 0.5;

/** A joint with the way of its limb and how far the joints above and below it are, metres. */
interface LimbAt {
  readonly here: Vec3;
  readonly direction: Vec3;
  readonly up: number;
  readonly down: number;
}

/** A joint with the loops that were modelled for it. */
export interface JointLoops {
  readonly bone: number;
  readonly pocket: LoopPocket;
  /** Radius of the limb there, metres. */
  readonly radius: number;
}

const known = new WeakMap<Character, JointLoops[]>();

/** The joints within limbs whose limb has a pocket of loops for them; of the others nothing can be said. Made once. */
export function jointLoopsOf(character: Character): JointLoops[] {
  let found = known.get(character);
  if (!found) known.set(character, (found = findLoops(character)));
  return found;
}

function findLoops(character: Character): JointLoops[] {
  return bendingLimbsOf(character).flatMap((limb): JointLoops[] => {
    const loops = loopsFor(character, limb);
    const pocket = pocketAmong(loops);
    return pocket ? [{ bone: limb.bone, pocket, radius: middleRadius(loops) }] : [];
  });
}

const knownAcross = new WeakMap<Character, readonly LoopsAcross[]>();

/**
 * The joints within limbs with the loops across them. Left out are limbs that are hardly of quads there, where no loop can be
 * followed. Made once for a character.
 */
export function loopsAcrossJoints(character: Character): readonly LoopsAcross[] {
  let found = knownAcross.get(character);
  if (!found) knownAcross.set(character, (found = findAcross(character)));
  return found;
}

/** Of a limb whose polygons are quads by less than this share no loops are told. */
const LEAST_QUADS = 0.7;

function findAcross(character: Character): LoopsAcross[] {
  return bendingLimbsOf(character).flatMap((limb): LoopsAcross[] => {
    const at = limbAt(character, limb.bone, limb.direction);
    const ofQuads = limb.meshes.filter(
      ({ placed, polygons }) => quadsAmong(placed.mesh, polygons) >= LEAST_QUADS,
    );
    if (ofQuads.length === 0) return [];
    const section = limbSectionsOf(character).find(({ bone }) => bone === limb.bone);
    // A joint that stands beside its limb is told as that: what goes round it says nothing.
    if (!section || distance(section.middle, at.here) > section.radius) return [];
    const byMesh = ofQuads.map(({ placed, polygons }) =>
      knownLoops(character, limb.bone, placed, polygons, at),
    );
    const some = byMesh.filter((loops) => loops.length > 0);
    const loops =
      some.length === 0
        ? []
        : some.reduce((inner, one) => (middleRadius(one) < middleRadius(inner) ? one : inner));
    const { up, down } = at;
    return [
      {
        bone: limb.bone,
        role: limb.role,
        radius: section.radius,
        loops,
        up: HALF_WAY * up,
        down: HALF_WAY * down,
      },
    ];
  });
}

function quadsAmong({ polygonOffsets }: Mesh, polygons: Uint32Array): number {
  let quads = 0;
  for (const polygon of polygons) if (polygonOffsets[polygon + 1] - polygonOffsets[polygon] === 4) quads++;
  return polygons.length > 0 ? quads / polygons.length : 0;
}

/** The loops round a limb near one of its joints, in their order along it: of several meshes those of the innermost. */
export function loopsFor(
  character: Character,
  { bone, direction, meshes }: BendingLimb,
): readonly LimbLoop[] {
  const limb = limbAt(character, bone, direction);
  const found = meshes
    .map(({ placed, polygons }) => knownLoops(character, bone, placed, polygons, limb))
    .filter((loops) => loops.length >= LEAST_LOOPS);
  if (found.length === 0) return [];
  // A sleeve lies round the arm that it covers: what bends there is the arm.
  return found.reduce((inner, loops) => (middleRadius(loops) < middleRadius(inner) ? loops : inner));
}

function limbAt({ nodes }: Character, bone: number, direction: Vec3): LimbAt {
  const here = restPlace(nodes, bone) as Vec3;
  const above = parentBone(nodes, bone);
  const below = childrenOf(nodes)[bone].filter((child) => nodes[child].kind === 'bone');
  const up = above < 0 ? 0 : distance(restPlace(nodes, above), here);
  const down = Math.max(0, ...below.map((child) => distance(restPlace(nodes, child), here)));
  return { here, direction, up, down: down || up };
}

const loopsOfLimbs = new WeakMap<Character, Map<string, readonly LoopOnMesh[]>>();

/** The same, followed once for a joint and a mesh. */
function knownLoops(
  character: Character,
  bone: number,
  placed: Placed,
  polygons: Uint32Array,
  limb: LimbAt,
): readonly LoopOnMesh[] {
  const own = loopsOfLimbs.get(character) ?? new Map<string, readonly LoopOnMesh[]>();
  loopsOfLimbs.set(character, own);
  const key = `${bone} ${placed.node}`;
  let loops = own.get(key);
  if (!loops) own.set(key, (loops = loopsRound(placed, polygons, limb)));
  return loops;
}

/** The loops of edges round a limb, in their order along it. */
function loopsRound({ node, mesh, points }: Placed, polygons: Uint32Array, limb: LimbAt): LoopOnMesh[] {
  const { halfEdges } = topologyOf(mesh);
  const { polygonOffsets, corners } = mesh;
  const seen = new Uint8Array(halfEdges.faces.length);
  const isNear = (along: number) => along > -HALF_WAY * limb.up && along < HALF_WAY * limb.down;
  const loops: LoopOnMesh[] = [];
  for (const polygon of polygons) {
    if (!isNear(heightAlong(points, corners[polygonOffsets[polygon]], limb))) continue;
    for (let edge = polygonOffsets[polygon]; edge < polygonOffsets[polygon + 1]; edge++) {
      if (seen[halfEdges.edge[edge]] || !isAcross(edge, corners, halfEdges, points, limb.direction)) continue;
      const vertices = closedWalk(edge, halfEdges, corners, seen);
      const measured = vertices ? measureLoop(vertices, points, limb) : null;
      if (vertices && measured && isNear(measured.along)) loops.push({ ...measured, node, vertices });
    }
  }
  return loops.sort((one, other) => one.along - other.along);
}

/** How far along a limb from its joint a vertex lies, metres. */
const heightAlong = (points: Float32Array, vertex: number, { here, direction }: LimbAt): number =>
  (points[vertex * 3] - here[0]) * direction[0] +
  (points[vertex * 3 + 1] - here[1]) * direction[1] +
  (points[vertex * 3 + 2] - here[2]) * direction[2];

/**
 * The vertices of the loop of edges that a half-edge begins, each of its edges marked as seen; null where it does not close, or
 * comes to an edge that was walked along before. So each edge of a limb is walked along once.
 */
function closedWalk(
  start: number,
  halfEdges: HalfEdges,
  corners: Uint32Array,
  seen: Uint8Array,
): number[] | null {
  const vertices: number[] = [];
  let at = start;
  do {
    if (seen[halfEdges.edge[at]] || vertices.length >= LONGEST_LOOP) return null;
    seen[halfEdges.edge[at]] = 1;
    vertices.push(corners[at]);
    at = acrossPoint(halfEdges, at);
    if (at < 0) return null;
  } while (at !== start);
  return vertices;
}

/** An edge that runs along its limb begins no loop round it. */
function isAcross(
  edge: number,
  corners: Uint32Array,
  { next }: HalfEdges,
  points: Float32Array,
  [nx, ny, nz]: Vec3,
): boolean {
  const from = corners[edge] * 3;
  const to = corners[next[edge]] * 3;
  const dx = points[to] - points[from];
  const dy = points[to + 1] - points[from + 1];
  const dz = points[to + 2] - points[from + 2];
  const along = dx * nx + dy * ny + dz * nz;
  return along * along <= ACROSS * ACROSS * (dx * dx + dy * dy + dz * dz);
}

/** Where a loop lies along a limb; null for one that does not go round it. */
function measureLoop(
  vertices: readonly number[],
  points: Float32Array,
  { here, direction }: LimbAt,
): LimbLoop | null {
  const sum = [0, 0, 0];
  for (const vertex of vertices) for (let k = 0; k < 3; k++) sum[k] += points[vertex * 3 + k];
  const middle: Vec3 = [sum[0] / vertices.length, sum[1] / vertices.length, sum[2] / vertices.length];
  const twiceArea = areaAbout(vertices, points, middle);
  const area = length(twiceArea) / 2;
  if (area < 1e-12 || Math.abs(dot(normalise(twiceArea), direction)) < ACROSS) return null;
  const radius = Math.sqrt(area / Math.PI);
  const off = subtract(here, middle);
  const along = -dot(off, direction);
  const beside = Math.sqrt(Math.max(0, dot(off, off) - along * along));
  return beside < radius ? { along, middle, radius } : null;
}

/** Twice the area that a loop goes round, along its normal. */
function areaAbout(vertices: readonly number[], points: Float32Array, [mx, my, mz]: Vec3): Vec3 {
  let [x, y, z] = [0, 0, 0];
  for (let i = 0; i < vertices.length; i++) {
    const from = vertices[i] * 3;
    const to = vertices[i + 1 < vertices.length ? i + 1 : 0] * 3;
    const [ax, ay, az] = [points[from] - mx, points[from + 1] - my, points[from + 2] - mz];
    const [bx, by, bz] = [points[to] - mx, points[to + 1] - my, points[to + 2] - mz];
    x += ay * bz - az * by;
    y += az * bx - ax * bz;
    z += ax * by - ay * bx;
  }
  return [x, y, z];
}

const middleRadius = (loops: readonly LimbLoop[]): number => median(loops.map(({ radius }) => radius));

function median(numbers: readonly number[]): number {
  const sorted = [...numbers].sort((one, other) => one - other);
  return sorted[Math.floor(sorted.length / 2)];
}

/**
 * The pocket at a joint: from where the joint stands the loops are followed to where they lie closest. They have to open on
 * both sides of that: a limb that only grows finer towards a hand has no pocket, and one of even loops has none either.
 */
export function pocketAmong(loops: readonly LimbLoop[]): LoopPocket | null {
  const gaps = loops.slice(1).map(({ along }, i) => along - loops[i].along);
  if (loops.length < LEAST_LOOPS) return null;
  const closest = downhill(smoothed(gaps), Math.max(0, loops.findIndex(({ along }) => along >= 0) - 1));
  const opens = Math.min(Math.max(...gaps.slice(0, closest + 1)), Math.max(...gaps.slice(closest)));
  if (opens < OPENS * gaps[closest]) return null;
  const most = gaps[closest] + STILL_CLOSE * (opens - gaps[closest]);
  let [first, last] = [closest, closest];
  while (first > 0 && gaps[first - 1] <= most) first--;
  while (last + 1 < gaps.length && gaps[last + 1] <= most) last++;
  // From the first gap to the last there is a loop more than gaps.
  const count = last - first + 2;
  return count < LEAST_IN_POCKET ? null : pocketOf(loops.slice(first, last + 2));
}

/** Each number as the middle one of itself and its neighbours: one loop that was set askew tells nothing. */
const smoothed = (numbers: readonly number[]): number[] =>
  numbers.map((_, i) => median(numbers.slice(Math.max(0, i - 1), i + 2)));

/** Where numbers grow no smaller on either side, from some place on. */
function downhill(numbers: readonly number[], from: number): number {
  let at = from;
  for (;;) {
    const next = [at - 1, at + 1]
      .filter((i) => i >= 0 && i < numbers.length && numbers[i] < numbers[at])
      .sort((one, other) => numbers[one] - numbers[other])[0];
    if (next === undefined) return at;
    at = next;
  }
}

function pocketOf(loops: readonly LimbLoop[]): LoopPocket {
  const [first, last] = [loops[0], loops[loops.length - 1]];
  const along = (first.along + last.along) / 2;
  // Between the two loops that lie on either side of that.
  const next = loops.findIndex((loop) => loop.along >= along);
  const [before, after] = [loops[Math.max(0, next - 1)], loops[next]];
  const step = after.along - before.along;
  const share = step > 0 ? (along - before.along) / step : 0;
  const middle = before.middle.map((x, k) => x + share * (after.middle[k] - x)) as unknown as Vec3;
  return { loops: loops.length, middle, along, width: last.along - first.along };
}
