import type { Character, Mesh, Piece } from '../../character/model';
import { type Box, boxOf, placedMeshes } from '../../character/measure';
import { bonesOf, parentBone, restPlace } from '../../character/hierarchy';

/** A picture. */
export interface Portrait {
  readonly width: number;
  readonly height: number;
  /** RGBA, 4 bytes a pixel, on a clear ground. */ readonly pixels: Uint8Array;
}

/**
 * A picture of a character at rest, from the front and a little from the side: clay under a soft light, drawn
 * by a depth buffer at twice the size and averaged down. A skeleton without a mesh is drawn as lines.
 */
export function portrait(character: Character, width: number, height: number): Portrait {
  const placed = placedMeshes(character).map((placed) => {
    return { ...placed, seen: seenPoints(placed.points) };
  });
  const bones = bonesOf(character);
  const joints = bones.map((bone) => turnToView(...restPlace(character.nodes, bone)));
  const box = boxOf(placed.length > 0 ? placed.map((p) => p.seen) : [joints.flat()]);
  if (!box) return { width, height, pixels: new Uint8Array(width * height * 4) };
  const plate = new Plate(width * 2, height * 2, box);
  for (const p of placed)
    for (const piece of p.mesh.pieces) {
      const tint = tintOf(character, piece.material);
      eachTriangle(p.mesh, piece, (a, b, bone) => plate.triangle(a, b, bone, p.seen, tint));
    }
  const at = new Map(bones.map((bone, i) => [bone, i]));
  if (placed.length === 0)
    bones.forEach((bone, i) => {
      const parent = at.get(parentBone(character.nodes, bone));
      if (parent !== undefined) plate.line(joints[i], joints[parent]);
    });
  return { width, height, pixels: halve(plate.pixels, width, height) };
}

/**
 * Where points differ by less than this share of the picture, nobody sees it: a tenth of one of its pixels.
 */
const UNSEEN = 1e-4;

/**
 * True where portraits of two states of a character are the same: its meshes have the same polygons and
 * materials, and their points stand the same within the box around them, which is what the picture is fitted
 * to. Never said of a skeleton alone.
 */
export function looksTheSame(before: Character, after: Character): boolean {
  const [a, b] = [placedMeshes(before), placedMeshes(after)];
  if (a.length === 0 || a.length !== b.length || before.carried !== after.carried) return false;
  const isSameMesh = a.every(
    (placed, i) =>
      placed.mesh.corners === b[i].mesh.corners &&
      placed.mesh.polygonOffsets === b[i].mesh.polygonOffsets &&
      placed.mesh.pieces === b[i].mesh.pieces &&
      placed.points.length === b[i].points.length,
  );
  const [from, to] = [boxOf(a.map((placed) => placed.points)), boxOf(b.map((placed) => placed.points))];
  if (!isSameMesh || !from || !to) return false;
  const size = Math.max(...from.max.map((x, k) => x - from.min[k]));
  const scale = size / Math.max(...to.max.map((x, k) => x - to.min[k]));
  return a.every((placed, i) => {
    const points = b[i].points;
    return placed.points.every(
      (x, k) => Math.abs(x - from.min[k % 3] - (points[k] - to.min[k % 3]) * scale) <= UNSEEN * size,
    );
  });
}

const YAW = -0.42;
const PITCH = 0.08;
const [CY, SY, CP, SP] = [Math.cos(YAW), Math.sin(YAW), Math.cos(PITCH), Math.sin(PITCH)];

function turnToView(x: number, y: number, z: number): [number, number, number] {
  const across = CY * x + SY * z;
  const deep = CY * z - SY * x;
  return [across, CP * y - SP * deep, CP * deep + SP * y];
}

/** Points as they are seen, 3 each. */
function seenPoints(points: Float32Array): Float32Array {
  const out = new Float32Array(points.length);
  for (let i = 0; i < out.length; i += 3) {
    const deep = CY * points[i + 2] - SY * points[i];
    out[i] = CY * points[i] + SY * points[i + 2];
    out[i + 1] = CP * points[i + 1] - SP * deep;
    out[i + 2] = CP * deep + SP * points[i + 1];
  }
  return out;
}

/** A hundred times the pixels of a picture: figures that people make ask for two or three times. */
const MOST_LOOKED_AT = 6e7;

/** A pixel in leaf (47, 107, 79), opaque, as four bytes stand in a word: the first is the lowest. */
const LEAF = 0xff4f6b2f;

/** What is drawn on: colours (RGBA, 4 bytes a pixel) and how near they are. */
class Plate {
  readonly pixels: Uint8Array;
  private readonly depth: Float32Array;
  private readonly scale: number;
  private readonly middle: readonly [number, number];
  /** Pixels that may still be looked at. Of a picture that asks for more, triangles that come late are not in it. */
  private left = MOST_LOOKED_AT;

  constructor(
    private readonly w: number,
    private readonly h: number,
    box: Box,
  ) {
    this.pixels = new Uint8Array(w * h * 4);
    this.depth = new Float32Array(w * h).fill(-Infinity);
    const across = Math.max(box.max[0] - box.min[0], 1e-6);
    const up = Math.max(box.max[1] - box.min[1], 1e-6);
    this.scale = 0.92 * Math.min(w / across, h / up);
    this.middle = [(box.max[0] + box.min[0]) / 2, (box.max[1] + box.min[1]) / 2];
  }

  private toPixels(x: number, y: number): [number, number] {
    return [this.w / 2 + (x - this.middle[0]) * this.scale, this.h / 2 - (y - this.middle[1]) * this.scale];
  }

  /** A triangle of the vertices `i`, `j` and `k`, whose seen places stand in `v` (3 each). */
  triangle(i: number, j: number, k: number, values: Float32Array, tint: readonly number[]): void {
    const { w, h, depth, pixels, scale, middle } = this;
    const ax = w / 2 + (values[i * 3] - middle[0]) * scale;
    const ay = h / 2 - (values[i * 3 + 1] - middle[1]) * scale;
    const bx = w / 2 + (values[j * 3] - middle[0]) * scale;
    const by = h / 2 - (values[j * 3 + 1] - middle[1]) * scale;
    const cx = w / 2 + (values[k * 3] - middle[0]) * scale;
    const cy = h / 2 - (values[k * 3 + 1] - middle[1]) * scale;
    const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
    if (Math.abs(area) < 1e-9) return;
    const x0 = Math.max(0, Math.ceil(Math.min(ax, bx, cx)));
    const x1 = Math.min(w - 1, Math.floor(Math.max(ax, bx, cx)));
    const y0 = Math.max(0, Math.ceil(Math.min(ay, by, cy)));
    const y1 = Math.min(h - 1, Math.floor(Math.max(ay, by, cy)));
    if (x0 > x1 || y0 > y1) return;
    this.left -= (x1 - x0 + 1) * (y1 - y0 + 1);
    if (this.left < 0) return;
    const light = lightOn(i * 3, j * 3, k * 3, values) * 255;
    const red = Math.min(255, tint[0] * light);
    const green = Math.min(255, tint[1] * light);
    const blue = Math.min(255, tint[2] * light);
    for (let y = y0; y <= y1; y++) {
      for (let x = x0; x <= x1; x++) {
        const share = ((bx - x) * (cy - y) - (by - y) * (cx - x)) / area;
        const s = ((cx - x) * (ay - y) - (cy - y) * (ax - x)) / area;
        const t = 1 - share - s;
        if (share < 0 || s < 0 || t < 0) continue;
        const z = share * values[i * 3 + 2] + s * values[j * 3 + 2] + t * values[k * 3 + 2];
        const at = y * w + x;
        if (z <= depth[at]) continue;
        depth[at] = z;
        pixels[at * 4] = red;
        pixels[at * 4 + 1] = green;
        pixels[at * 4 + 2] = blue;
        pixels[at * 4 + 3] = 255;
      }
    }
  }

  /** A line three pixels wide between two seen places, in leaf. */
  line(from: readonly number[], to: readonly number[]): void {
    const { w, h } = this;
    const pixels = new Uint32Array(this.pixels.buffer);
    const a = this.toPixels(from[0], from[1]);
    const b = this.toPixels(to[0], to[1]);
    const steps = Math.ceil(Math.hypot(b[0] - a[0], b[1] - a[1])) + 1;
    this.left -= steps * 9;
    if (this.left < 0) return;
    for (let i = 0; i <= steps; i++) {
      for (let dx = -1; dx <= 1; dx++) {
        for (let dy = -1; dy <= 1; dy++) {
          const x = Math.round(a[0] + ((b[0] - a[0]) * i) / steps) + dx;
          const y = Math.round(a[1] + ((b[1] - a[1]) * i) / steps) + dy;
          if (x >= 0 && y >= 0 && x < w && y < h) pixels[y * w + x] = LEAF;
        }
      }
    }
  }
}

/**
 * How bright a flat triangle is under a soft light from above and a little to the left; `a`, `b`, `c`: where
 * its corners begin in `v`.
 */
function lightOn(a: number, b: number, bone: number, values: Float32Array): number {
  const ex = values[b] - values[a];
  const ey = values[b + 1] - values[a + 1];
  const ez = values[b + 2] - values[a + 2];
  const fx = values[bone] - values[a];
  const fy = values[bone + 1] - values[a + 1];
  const fz = values[bone + 2] - values[a + 2];
  const nx = ey * fz - ez * fy;
  const ny = ez * fx - ex * fz;
  const nz = ex * fy - ey * fx;
  const l = Math.sqrt(nx * nx + ny * ny + nz * nz) || 1;
  const lit = Math.max(0, (nx * -0.35 + ny * 0.55 + nz * 0.76) / l);
  return lit * 0.62 + 0.34 + 0.1 * Math.max(0, nz / l);
}

/** A picture of twice the size averaged down, four pixels to one, colours by how much of them there is. */
function halve(big: Uint8Array, width: number, height: number): Uint8Array {
  const out = new Uint8Array(width * height * 4);
  const w = width * 2;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const first = (y * 2 * w + x * 2) * 4;
      const second = first + 4;
      const third = first + w * 4;
      const fourth = third + 4;
      const alpha = big[first + 3] + big[second + 3] + big[third + 3] + big[fourth + 3];
      if (alpha === 0) continue;
      const to = (y * width + x) * 4;
      for (let k = 0; k < 3; k++) {
        const sum =
          big[first + k] * big[first + 3] +
          big[second + k] * big[second + 3] +
          big[third + k] * big[third + 3] +
          big[fourth + k] * big[fourth + 3];
        out[to + k] = Math.min(255, sum / alpha);
      }
      out[to + 3] = alpha / 4;
    }
  }
  return out;
}

/** Clay with a breath of the material's own colour. */
function tintOf(character: Character, material: number): readonly number[] {
  const pbr = character.carried.materials[material]?.pbrMetallicRoughness as
    { baseColorFactor?: number[] } | undefined;
  const base = pbr?.baseColorFactor ?? [0.8, 0.8, 0.8];
  const clay = [0.97, 0.94, 0.87];
  return clay.map((x, k) => x * 0.62 + Math.sqrt(Math.max(0, base[k] ?? 0.8)) * 0.38);
}

/** Calls `tell` with the vertices of every triangle of a piece, its polygons cut into fans. */
function eachTriangle(
  { polygonOffsets: offsets, corners }: Mesh,
  { polygonStart, polygonCount }: Piece,
  tell: (a: number, b: number, bone: number) => void,
): void {
  for (let polygon = polygonStart; polygon < polygonStart + polygonCount; polygon++)
    for (let k = offsets[polygon] + 1; k < offsets[polygon + 1] - 1; k++)
      tell(corners[offsets[polygon]], corners[k], corners[k + 1]);
}
