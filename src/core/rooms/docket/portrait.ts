import type { Character } from '../../character/model';
import { type Box, boxOf, placedMeshes } from '../../character/measure';
import { bonesOf, parentBone, restPlace } from '../../character/hierarchy';

export interface Portrait {
  readonly width: number;
  readonly height: number;
  /** RGBA, 4 bytes a pixel, on a clear ground. */ readonly pixels: Uint8Array;
}

/**
 * A picture of a character at rest, from the front and a little from the side: clay under a soft light, drawn by a depth
 * buffer at twice the size and averaged down. A skeleton without a mesh is drawn as lines.
 */
export function portrait(character: Character, width: number, height: number): Portrait {
  const placed = placedMeshes(character).map((p) => {
    const seen = new Float32Array(p.points.length);
    for (let i = 0; i < seen.length; i += 3)
      seen.set(turnToView(p.points[i], p.points[i + 1], p.points[i + 2]), i);
    return { ...p, seen };
  });
  const bones = bonesOf(character);
  const joints = bones.map((b) => turnToView(...restPlace(character.nodes, b)));
  const box = boxOf(placed.length > 0 ? placed.map((p) => p.seen) : [joints.flat()]);
  if (!box) return { width, height, pixels: new Uint8Array(width * height * 4) };
  const plate = new Plate(width * 2, height * 2, box);
  for (const p of placed) {
    const { polygonOffsets: offsets, corners } = p.mesh;
    for (const piece of p.mesh.pieces) {
      const tint = tintOf(character, piece.material);
      for (let q = piece.polygonStart; q < piece.polygonStart + piece.polygonCount; q++)
        for (let k = offsets[q] + 1; k < offsets[q + 1] - 1; k++)
          plate.triangle([corners[offsets[q]], corners[k], corners[k + 1]], p.seen, tint);
    }
  }
  if (placed.length === 0)
    bones.forEach((b, i) => {
      const parent = bones.indexOf(parentBone(character.nodes, b));
      if (parent >= 0) plate.line(joints[i], joints[parent]);
    });
  return { width, height, pixels: halved(plate.pixels, width, height) };
}

const YAW = -0.42;
const PITCH = 0.08;
const [CY, SY, CP, SP] = [Math.cos(YAW), Math.sin(YAW), Math.cos(PITCH), Math.sin(PITCH)];

function turnToView(x: number, y: number, z: number): [number, number, number] {
  const across = CY * x + SY * z;
  const deep = CY * z - SY * x;
  return [across, CP * y - SP * deep, CP * deep + SP * y];
}

/** What is drawn on: colours (RGBA, 4 bytes a pixel) and how near they are. */
class Plate {
  readonly pixels: Uint8Array;
  private readonly depth: Float32Array;
  private readonly scale: number;
  private readonly middle: readonly [number, number];

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

  /** A triangle of vertices `ids`, whose seen places stand in `v` (3 each). */
  triangle(ids: readonly number[], v: Float32Array, tint: readonly number[]): void {
    const { w, h, depth, pixels } = this;
    const [a, b, c] = ids.map((i) => [...this.toPixels(v[i * 3], v[i * 3 + 1]), v[i * 3 + 2]]);
    const area = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
    if (Math.abs(area) < 1e-9) return;
    const light = lightOn(ids, v);
    const x0 = Math.max(0, Math.ceil(Math.min(a[0], b[0], c[0])));
    const x1 = Math.min(w - 1, Math.floor(Math.max(a[0], b[0], c[0])));
    const y0 = Math.max(0, Math.ceil(Math.min(a[1], b[1], c[1])));
    const y1 = Math.min(h - 1, Math.floor(Math.max(a[1], b[1], c[1])));
    for (let y = y0; y <= y1; y++) {
      for (let x = x0; x <= x1; x++) {
        const u = ((b[0] - x) * (c[1] - y) - (b[1] - y) * (c[0] - x)) / area;
        const s = ((c[0] - x) * (a[1] - y) - (c[1] - y) * (a[0] - x)) / area;
        const t = 1 - u - s;
        if (u < 0 || s < 0 || t < 0) continue;
        const z = u * a[2] + s * b[2] + t * c[2];
        const at = y * w + x;
        if (z <= depth[at]) continue;
        depth[at] = z;
        for (let k = 0; k < 3; k++) pixels[at * 4 + k] = Math.min(255, tint[k] * light * 255);
        pixels[at * 4 + 3] = 255;
      }
    }
  }

  /** A line three pixels wide between two seen places, in leaf. */
  line(from: readonly number[], to: readonly number[]): void {
    const { w, h, pixels } = this;
    const a = this.toPixels(from[0], from[1]);
    const b = this.toPixels(to[0], to[1]);
    const steps = Math.ceil(Math.hypot(b[0] - a[0], b[1] - a[1])) + 1;
    for (let i = 0; i <= steps; i++) {
      for (let dx = -1; dx <= 1; dx++) {
        for (let dy = -1; dy <= 1; dy++) {
          const x = Math.round(a[0] + ((b[0] - a[0]) * i) / steps) + dx;
          const y = Math.round(a[1] + ((b[1] - a[1]) * i) / steps) + dy;
          if (x >= 0 && y >= 0 && x < w && y < h) pixels.set([47, 107, 79, 255], (y * w + x) * 4);
        }
      }
    }
  }
}

/** How bright a flat triangle is under a soft light from above and a little to the left. */
function lightOn(ids: readonly number[], v: Float32Array): number {
  const e = [0, 1, 2].map((k) => v[ids[1] * 3 + k] - v[ids[0] * 3 + k]);
  const f = [0, 1, 2].map((k) => v[ids[2] * 3 + k] - v[ids[0] * 3 + k]);
  const n = [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]];
  const l = Math.hypot(...n) || 1;
  const lit = Math.max(0, (n[0] * -0.35 + n[1] * 0.55 + n[2] * 0.76) / l);
  return lit * 0.62 + 0.34 + 0.1 * Math.max(0, n[2] / l);
}

/** A picture of twice the size averaged down, four pixels to one, colours by how much of them there is. */
function halved(big: Uint8Array, width: number, height: number): Uint8Array {
  const out = new Uint8Array(width * height * 4);
  const w = width * 2;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const first = (y * 2 * w + x * 2) * 4;
      const four = [first, first + 4, first + w * 4, first + w * 4 + 4];
      const alpha = four.reduce((sum, at) => sum + big[at + 3], 0);
      const to = (y * width + x) * 4;
      for (let k = 0; k < 3; k++) {
        const sum = four.reduce((s, at) => s + (big[at + k] * big[at + 3]) / 255, 0);
        out[to + k] = alpha > 0 ? Math.min(255, (sum * 255) / alpha) : 0;
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
