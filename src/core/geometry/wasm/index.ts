/**
 * WebAssembly SIMD kernels beside the plain loops. `kernels.wasm.ts` is made from kernels.as.ts by the
 * AssemblyScript compiler (scripts/lib.mjs, buildKernels). Every function gives what its plain counterpart
 * gives; callers fall back to that where a machine has no SIMD or the data does not fit.
 */
import type { Influences } from '../influence-data';
import { KERNELS_BASE64 } from './kernels.wasm';

interface Exports {
  readonly memory: WebAssembly.Memory;
  skin(...a: number[]): void;
  limit(...a: number[]): bigint;
  remap(...a: number[]): void;
}

let compiled: WebAssembly.Module | null | undefined;

/** An instance with a memory of its own, or null on a machine without SIMD. */
function instance(): Exports | null {
  try {
    compiled ??= new WebAssembly.Module(Uint8Array.from(atob(KERNELS_BASE64), (ch) => ch.charCodeAt(0)));
    return new WebAssembly.Instance(compiled, {
      env: {
        abort() {
          throw new Error('a kernel broke off');
        },
      },
    }).exports as unknown as Exports;
  } catch {
    compiled = null;
    return null;
  }
}

let shared: Exports | null | undefined;
const kernels = (): Exports | null => (shared === undefined ? (shared = instance()) : shared);

/** Lays arrays out behind each other in linear memory, 16-byte aligned; gives their addresses. */
function place(k: Exports, sizes: readonly number[]): number[] {
  let at = 1024;
  const out = sizes.map((n) => {
    const here = at;
    at = (at + n + 31) & ~15;
    return here;
  });
  const missing = at - k.memory.buffer.byteLength;
  if (missing > 0) k.memory.grow(Math.ceil(missing / 65536));
  return out;
}

/** A bound mesh that stays in a kernel's memory, so that a pose costs only its matrices. */
export class ResidentSkin {
  private constructor(
    private readonly k: Exports,
    private readonly vertices: number,
    private readonly joints: number,
    private readonly at: readonly number[],
  ) {}

  /** Null where the kernel cannot be used; the plain loop does it then. */
  static of(points: Float32Array, f: Influences, joints: number): ResidentSkin | null {
    const k = f.joint instanceof Uint16Array ? instance() : null;
    if (!k) return null;
    const at = place(k, [
      points.byteLength,
      f.offsets.byteLength,
      f.joint.byteLength,
      f.weight.byteLength,
      joints * 64,
      points.byteLength + 16,
    ]);
    const { buffer } = k.memory;
    new Float32Array(buffer, at[0], points.length).set(points);
    new Uint32Array(buffer, at[1], f.offsets.length).set(f.offsets);
    new Uint16Array(buffer, at[2], f.joint.length).set(f.joint);
    new Float32Array(buffer, at[3], f.weight.length).set(f.weight);
    return new ResidentSkin(k, f.offsets.length - 1, joints, at);
  }

  /**
   * Skins under matrices (12 per joint, three rows of four, from skinMatrices) into `out`, 3 per vertex,
   * world space.
   */
  pose(matrices: Float32Array, out: Float32Array): void {
    const { buffer } = this.k.memory;
    const [p, o, j, w, m, r] = this.at;
    const columns = new Float32Array(buffer, m, this.joints * 16);
    for (let i = 0; i < this.joints; i++)
      for (let c = 0; c < 4; c++) {
        for (let row = 0; row < 3; row++) columns[i * 16 + c * 4 + row] = matrices[i * 12 + row * 4 + c];
        columns[i * 16 + c * 4 + 3] = 0;
      }
    this.k.skin(this.vertices, p, o, j, w, m, r);
    out.set(new Float32Array(buffer, r, this.vertices * 3));
  }
}

/**
 * Limiting by WebAssembly, joints renamed before that where asked; null where the kernel cannot be used. Same
 * result as limitInfluences and limitRemapped in influences.ts.
 */
export function limitFast(
  f: Influences,
  limit: number,
  dust: number,
  first?: { readonly to: readonly number[]; readonly jointCount: number },
): { influences: Influences; trimmed: Uint32Array; changed: number } | null {
  const k = kernels();
  if (!k || !(f.joint instanceof Uint16Array) || limit < 1 || (first && first.jointCount > 65535))
    return null;
  const n = f.offsets.length - 1;
  let longest = 1;
  for (let v = 0; v < n; v++) longest = Math.max(longest, f.offsets[v + 1] - f.offsets[v]);
  const [o, j, w, oo, oj, ow, t, s, q, table, put] = place(k, [
    f.offsets.byteLength,
    f.joint.byteLength,
    f.weight.byteLength,
    f.offsets.byteLength,
    f.joint.byteLength + 16,
    f.weight.byteLength + 16,
    n * 4,
    (longest + 9) * 4,
    (longest + 9) * 4,
    (first?.to.length ?? 0) * 2,
    (first?.jointCount ?? 0) * 4,
  ]);
  const { buffer } = k.memory;
  new Uint32Array(buffer, o, f.offsets.length).set(f.offsets);
  new Uint16Array(buffer, j, f.joint.length).set(f.joint);
  new Float32Array(buffer, w, f.weight.length).set(f.weight);
  if (first) {
    new Uint16Array(buffer, table, first.to.length).set(first.to);
    new Int32Array(buffer, put, first.jointCount).fill(-1);
    k.remap(n, o, j, w, table, put);
  }
  const packed = k.limit(n, o, j, w, limit, dust, oo, oj, ow, t, s, q);
  const offsets = new Uint32Array(buffer, oo, n + 1).slice();
  const count = offsets[n];
  return {
    influences: {
      offsets,
      joint: new Uint16Array(buffer, oj, count).slice(),
      weight: new Float32Array(buffer, ow, count).slice(),
    },
    trimmed: new Uint32Array(buffer, t, Number(packed & 0xffffffffn)).slice(),
    changed: Number(packed >> 32n),
  };
}
