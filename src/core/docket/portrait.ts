import type { Character } from '../character/model';
import { boxOf, placedMeshes } from '../character/measure';
import { bonesOf, parentBone, restPlace } from '../character/hierarchy';

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
  const w = width * 2;
  const h = height * 2;
  const yaw = -0.42;
  const pitch = 0.08;
  const [cy, sy, cp, sp] = [Math.cos(yaw), Math.sin(yaw), Math.cos(pitch), Math.sin(pitch)];
  const view = (x: number, y: number, z: number): [number, number, number] => {
    const a = cy * x + sy * z;
    const b = cy * z - sy * x;
    return [a, cp * y - sp * b, cp * b + sp * y];
  };
  const placed = placedMeshes(character).map((p) => {
    const out = new Float32Array(p.points.length);
    for (let i = 0; i < out.length; i += 3) out.set(view(p.points[i], p.points[i + 1], p.points[i + 2]), i);
    return { ...p, view: out };
  });
  const bones = bonesOf(character);
  const joints = bones.map((b) => view(...restPlace(character.nodes, b)));
  const box = boxOf(placed.length > 0 ? placed.map((p) => p.view) : [joints.flat()]);
  const pixels = new Uint8Array(width * height * 4);
  if (!box) return { width, height, pixels };
  const scale =
    0.92 * Math.min(w / Math.max(box.max[0] - box.min[0], 1e-6), h / Math.max(box.max[1] - box.min[1], 1e-6));
  const mx = (box.max[0] + box.min[0]) / 2;
  const my = (box.max[1] + box.min[1]) / 2;
  const depth = new Float32Array(w * h).fill(-Infinity);
  const shade = new Uint8Array(w * h * 4);
  const px = (x: number) => w / 2 + (x - mx) * scale;
  const py = (y: number) => h / 2 - (y - my) * scale;
  for (const p of placed) {
    for (const piece of p.mesh.pieces) {
      const tint = tintOf(character, piece.material);
      for (let q = piece.polygonStart; q < piece.polygonStart + piece.polygonCount; q++) {
        const start = p.mesh.polygonOffsets[q];
        const end = p.mesh.polygonOffsets[q + 1];
        for (let k = start + 1; k < end - 1; k++)
          triangle([p.mesh.corners[start], p.mesh.corners[k], p.mesh.corners[k + 1]], p.view, tint);
      }
    }
  }
  function triangle(ids: number[], v: Float32Array, tint: readonly number[]): void {
    const [a, b, c] = ids.map((i) => [px(v[i * 3]), py(v[i * 3 + 1]), v[i * 3 + 2]]);
    const area = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
    if (Math.abs(area) < 1e-9) return;
    const e = [0, 1, 2].map((k) => v[ids[1] * 3 + k] - v[ids[0] * 3 + k]);
    const f = [0, 1, 2].map((k) => v[ids[2] * 3 + k] - v[ids[0] * 3 + k]);
    const n = [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]];
    const l = Math.hypot(...n) || 1;
    const light =
      Math.max(0, (n[0] * -0.35 + n[1] * 0.55 + n[2] * 0.76) / l) * 0.62 + 0.34 + 0.1 * Math.max(0, n[2] / l);
    const [x0, x1] = [
      Math.max(0, Math.ceil(Math.min(a[0], b[0], c[0]))),
      Math.min(w - 1, Math.floor(Math.max(a[0], b[0], c[0]))),
    ];
    const [y0, y1] = [
      Math.max(0, Math.ceil(Math.min(a[1], b[1], c[1]))),
      Math.min(h - 1, Math.floor(Math.max(a[1], b[1], c[1]))),
    ];
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
        for (let k = 0; k < 3; k++) shade[at * 4 + k] = Math.min(255, tint[k] * light * 255);
        shade[at * 4 + 3] = 255;
      }
    }
  }
  if (placed.length === 0) {
    bones.forEach((b, i) => {
      const parent = bones.indexOf(parentBone(character.nodes, b));
      if (parent >= 0)
        line(
          shade,
          w,
          h,
          [px(joints[i][0]), py(joints[i][1])],
          [px(joints[parent][0]), py(joints[parent][1])],
        );
    });
  }
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const sum = [0, 0, 0, 0];
      for (const [dx, dy] of [
        [0, 0],
        [1, 0],
        [0, 1],
        [1, 1],
      ]) {
        const at = ((y * 2 + dy) * w + x * 2 + dx) * 4;
        for (let k = 0; k < 3; k++) sum[k] += (shade[at + k] * shade[at + 3]) / 255;
        sum[3] += shade[at + 3];
      }
      for (let k = 0; k < 3; k++)
        pixels[(y * width + x) * 4 + k] = sum[3] > 0 ? Math.min(255, (sum[k] * 255) / sum[3]) : 0;
      pixels[(y * width + x) * 4 + 3] = sum[3] / 4;
    }
  }
  return { width, height, pixels };
}

/** Clay with a breath of the material's own colour. */
function tintOf(character: Character, material: number): readonly number[] {
  const pbr = character.carried.materials[material]?.pbrMetallicRoughness as
    { baseColorFactor?: number[] } | undefined;
  const base = pbr?.baseColorFactor ?? [0.8, 0.8, 0.8];
  const clay = [0.97, 0.94, 0.87];
  return clay.map((x, k) => x * 0.62 + Math.sqrt(Math.max(0, base[k] ?? 0.8)) * 0.38);
}

function line(out: Uint8Array, w: number, h: number, a: number[], b: number[]): void {
  const steps = Math.ceil(Math.hypot(b[0] - a[0], b[1] - a[1])) + 1;
  for (let i = 0; i <= steps; i++) {
    for (let dx = -1; dx <= 1; dx++) {
      for (let dy = -1; dy <= 1; dy++) {
        const x = Math.round(a[0] + ((b[0] - a[0]) * i) / steps) + dx;
        const y = Math.round(a[1] + ((b[1] - a[1]) * i) / steps) + dy;
        if (x >= 0 && y >= 0 && x < w && y < h) out.set([47, 107, 79, 255], (y * w + x) * 4);
      }
    }
  }
}
