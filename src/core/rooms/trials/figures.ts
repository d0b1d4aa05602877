/** What a pose does to the flesh about a joint, in numbers. */
import { cornerPlaces, volumeOfRegion } from '../../geometry/capped-region';
import { dualQuaternionsOf, skinByDualQuaternions } from '../../geometry/dual-quaternions';
import { type SkinningMethod, skinMatrices, skinPoints } from '../../geometry/skinning';
import { surfaceStrain } from '../../geometry/surface-strain';
import type { JointSurface, LocalSurface } from './joint-surface';

/** The figures of one pose at one joint. Factors, 1 where nothing changes; the worst of all meshes that bend there. */
export interface PoseFigures {
  /** Volume of the piece of limb about the joint as a share of that at rest; null where none can be told. */
  readonly volume: number | null;
  /** So far at least the most stretched twentieth of what bends is drawn. */
  readonly stretch: number;
  /** So far at most the most pressed twentieth of it is thinned. */
  readonly thinning: number;
  /** Share of what bends, by area, that is turned inside out. */
  readonly inverted: number;
  /** How far edges are torn apart, against the thickness of the limb: 1 is a gap as wide as the limb. */
  readonly torn: number;
}

/** Nothing happens. */
const AT_REST: PoseFigures = { volume: null, stretch: 1, thinning: 1, inverted: 0, torn: 0 };

/** The part of what bends that a stretch must have to count: fewer faces are no matter of the joint. */
const TAIL = 0.05;

/** What a joint does under a pose. */
export function poseFigures(
  joint: JointSurface,
  world: Float64Array,
  method: SkinningMethod = 'linear',
): PoseFigures {
  let worst = AT_REST;
  for (const surface of joint.surfaces)
    worst = worseOf(worst, surfaceFigures(surface, posedLocal(surface, world, method), joint.thickness));
  return worst;
}

/** The worse of two in every figure. */
export function worseOf(one: PoseFigures, other: PoseFigures): PoseFigures {
  return {
    volume:
      one.volume === null || other.volume === null
        ? (one.volume ?? other.volume)
        : Math.min(one.volume, other.volume),
    stretch: Math.max(one.stretch, other.stretch),
    thinning: Math.min(one.thinning, other.thinning),
    inverted: Math.max(one.inverted, other.inverted),
    torn: Math.max(one.torn, other.torn),
  };
}

/** Places of a local surface in a pose, 3 per local vertex. */
export function posedLocal(
  { placed, bound, influences }: LocalSurface,
  world: Float64Array,
  method: SkinningMethod = 'linear',
): Float32Array {
  const out = new Float32Array(bound.length);
  const matrices = skinMatrices(placed.skin!, world);
  if (method === 'linear') skinPoints(bound, influences, matrices, out);
  else skinByDualQuaternions(bound, influences, dualQuaternionsOf(matrices), out);
  return out;
}

/** Volume about a joint under a pose, however it is skinned; null where none can be told. */
export function volumeInPose(
  { surfaces }: JointSurface,
  world: Float64Array,
  method: SkinningMethod,
): number | null {
  const volumes = surfaces.flatMap((surface) => {
    const kept = surface.region ? volumeKept(surface, posedLocal(surface, world, method)) : null;
    return kept === null ? [] : [kept];
  });
  return volumes.length > 0 ? Math.min(...volumes) : null;
}

const restVolumes = new WeakMap<object, number>();

function volumeKept({ region, rest }: LocalSurface, posed: Float32Array): number | null {
  if (!region) return null;
  const places = new Float64Array(region.share.length * 3);
  let before = restVolumes.get(region);
  if (before === undefined) {
    cornerPlaces(region, rest, places);
    restVolumes.set(region, (before = volumeOfRegion(region, places)));
  }
  if (!(before > 0)) return null;
  cornerPlaces(region, posed, places);
  return volumeOfRegion(region, places) / before;
}

/** What of a local surface is the same in every pose, and room for what is not. */
interface Prepared {
  /** 3 per triangle: its normal at rest, as long as twice its area. */
  readonly normals: Float32Array;
  readonly area: Float64Array;
  /** 3 per triangle: how long its edges are, metres, each from its corner to the next. */
  readonly edges: Float32Array;
  readonly whole: number;
  /** 1 for triangles that look as the faces round them do: only of those can be told that they turned over. */
  readonly isEven: Uint8Array;
  readonly posedNormals: Float32Array;
  readonly aroundVertex: Float32Array;
}

const preparedOf = new WeakMap<LocalSurface, Prepared>();

/** Below this share of full agreement a face lies in a fold at rest. */
const EVEN = 0.3;

function prepared(surface: LocalSurface): Prepared {
  let made = preparedOf.get(surface);
  if (made) return made;
  const { rest, triangles } = surface;
  const count = triangles.length / 3;
  const normals = new Float32Array(triangles.length);
  putNormals(rest, triangles, normals);
  const around = new Float32Array(rest.length);
  putAround(normals, triangles, around);
  const area = new Float64Array(count);
  const isEven = new Uint8Array(count);
  let whole = 0;
  for (let i = 0; i < count; i++) {
    const size = Math.hypot(normals[i * 3], normals[i * 3 + 1], normals[i * 3 + 2]);
    area[i] = size / 2;
    whole += area[i];
    const [x, y, z] = aroundTriangle(around, triangles, i);
    isEven[i] = size > 0 && alongNormal(normals, i, x, y, z) > EVEN * size * Math.hypot(x, y, z) ? 1 : 0;
  }
  made = {
    normals,
    area,
    edges: edgesOf(rest, triangles),
    whole,
    isEven,
    posedNormals: new Float32Array(triangles.length),
    aroundVertex: around,
  };
  preparedOf.set(surface, made);
  return made;
}

/** Normals of triangles, as long as twice their area, 3 per triangle. */
function putNormals(points: Float32Array, triangles: Uint32Array, out: Float32Array): void {
  for (let i = 0; i < triangles.length; i += 3) {
    const a = triangles[i] * 3;
    const b = triangles[i + 1] * 3;
    const third = triangles[i + 2] * 3;
    const ux = points[b] - points[a];
    const uy = points[b + 1] - points[a + 1];
    const uz = points[b + 2] - points[a + 2];
    const vx = points[third] - points[a];
    const vy = points[third + 1] - points[a + 1];
    const vz = points[third + 2] - points[a + 2];
    out[i] = uy * vz - uz * vy;
    out[i + 1] = uz * vx - ux * vz;
    out[i + 2] = ux * vy - uy * vx;
  }
}

/** The sum of the normals round every vertex. */
function putAround(normals: Float32Array, triangles: Uint32Array, out: Float32Array): void {
  out.fill(0);
  for (let i = 0; i < triangles.length; i++) {
    const triangle = i - (i % 3);
    const at = triangles[i] * 3;
    out[at] += normals[triangle];
    out[at + 1] += normals[triangle + 1];
    out[at + 2] += normals[triangle + 2];
  }
}

function aroundTriangle(around: Float32Array, triangles: Uint32Array, i: number): [number, number, number] {
  const a = triangles[i * 3] * 3;
  const b = triangles[i * 3 + 1] * 3;
  const third = triangles[i * 3 + 2] * 3;
  return [
    around[a] + around[b] + around[third],
    around[a + 1] + around[b + 1] + around[third + 1],
    around[a + 2] + around[b + 2] + around[third + 2],
  ];
}

const alongNormal = (normals: Float32Array, i: number, x: number, y: number, z: number): number =>
  normals[i * 3] * x + normals[i * 3 + 1] * y + normals[i * 3 + 2] * z;

/**
 * 1 for every triangle that is turned over in a pose: it looks against the faces round it, with which it looked one way at
 * rest.
 */
export function invertedTriangles(surface: LocalSurface, posed: Float32Array): Uint8Array {
  const { triangles } = surface;
  const { isEven, posedNormals, aroundVertex } = prepared(surface);
  putNormals(posed, triangles, posedNormals);
  putAround(posedNormals, triangles, aroundVertex);
  const out = new Uint8Array(triangles.length / 3);
  for (let i = 0; i < out.length; i++) {
    if (isEven[i] === 0) continue;
    const [x, y, z] = aroundTriangle(aroundVertex, triangles, i);
    if (alongNormal(posedNormals, i, x, y, z) < 0) out[i] = 1;
  }
  return out;
}

function surfaceFigures(surface: LocalSurface, posed: Float32Array, thickness: number): PoseFigures {
  const { triangles, rest } = surface;
  const { area, whole, edges } = prepared(surface);
  const { most, least } = surfaceStrain(rest, posed, triangles);
  const inverted = invertedTriangles(surface, posed);
  let turned = 0;
  for (let i = 0; i < inverted.length; i++) if (inverted[i] === 1) turned += area[i];
  return {
    volume: volumeKept(surface, posed),
    stretch: Math.max(1, tailValue(most, area, whole * (1 - TAIL))),
    thinning: Math.min(1, tailValue(least, area, whole * TAIL)),
    inverted: whole > 0 ? turned / whole : 0,
    torn: widestGap(edges, posed, triangles) / thickness,
  };
}

/** Strains are counted in steps this fine, up to this factor. */
const STEPS_OF_ONE = 200;
const MOST_STRAIN = 12;

const counted = new Float64Array(STEPS_OF_ONE * MOST_STRAIN + 1);

/** The value below which a part of an area lies. */
function tailValue(values: Float32Array, area: Float64Array, part: number): number {
  counted.fill(0);
  for (let i = 0; i < values.length; i++)
    counted[Math.min(counted.length - 1, Math.round(values[i] * STEPS_OF_ONE))] += area[i];
  let sum = 0;
  for (let step = 0; step < counted.length; step++) {
    sum += counted[step];
    if (sum >= part) return step / STEPS_OF_ONE;
  }
  return 1;
}

function edgesOf(points: Float32Array, triangles: Uint32Array): Float32Array {
  const out = new Float32Array(triangles.length);
  for (let i = 0; i < triangles.length; i++)
    out[i] = edgeLength(points, triangles[i] * 3, triangles[i % 3 === 2 ? i - 2 : i + 1] * 3);
  return out;
}

/** How much longer an edge became at most, metres. */
function widestGap(edges: Float32Array, posed: Float32Array, triangles: Uint32Array): number {
  let most = 0;
  for (let i = 0; i < triangles.length; i += 3) {
    const a = triangles[i] * 3;
    const b = triangles[i + 1] * 3;
    const third = triangles[i + 2] * 3;
    const longer = Math.max(
      edgeLength(posed, a, b) - edges[i],
      edgeLength(posed, b, third) - edges[i + 1],
      edgeLength(posed, third, a) - edges[i + 2],
    );
    if (longer > most) most = longer;
  }
  return most;
}

function edgeLength(points: Float32Array, a: number, b: number): number {
  const x = points[b] - points[a];
  const y = points[b + 1] - points[a + 1];
  const z = points[b + 2] - points[a + 2];
  return Math.sqrt(x * x + y * y + z * z);
}
