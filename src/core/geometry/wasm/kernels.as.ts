// AssemblyScript (WebAssembly SIMD). The host lays out all arrays in linear memory and passes their
// addresses; nothing is allocated here. The plain loops in skinning.ts and influences.ts are the reference
// that tests hold these against.

/**
 * Linear blend skinning. Matrices: four columns of four floats a joint (the fourth is 0). Points: 3 floats a
 * vertex; `out` has 16 bytes to spare behind it.
 */
export function skin(
  vertices: i32,
  points: usize,
  offsets: usize,
  joint: usize,
  weight: usize,
  matrices: usize,
  out: usize,
): void {
  let k = load<u32>(offsets);
  for (let v = 0; v < vertices; v++) {
    const end = load<u32>(offsets + ((v + 1) << 2));
    const x = f32x4.splat(load<f32>(points));
    const y = f32x4.splat(load<f32>(points, 4));
    const z = f32x4.splat(load<f32>(points, 8));
    if (k == end) {
      store<f32>(out, load<f32>(points));
      store<f32>(out, load<f32>(points, 4), 4);
      store<f32>(out, load<f32>(points, 8), 8);
    } else {
      let a = f32x4.splat(0);
      let b = f32x4.splat(0);
      let c = f32x4.splat(0);
      let d = f32x4.splat(0);
      for (; k < end; k++) {
        const w = f32x4.splat(load<f32>(weight + ((<usize>k) << 2)));
        const m = matrices + ((<usize>load<u16>(joint + ((<usize>k) << 1))) << 6);
        a = f32x4.add(a, f32x4.mul(w, v128.load(m)));
        b = f32x4.add(b, f32x4.mul(w, v128.load(m, 16)));
        c = f32x4.add(c, f32x4.mul(w, v128.load(m, 32)));
        d = f32x4.add(d, f32x4.mul(w, v128.load(m, 48)));
      }
      // Four floats are written; the fourth is the next vertex's first, which is written after.
      v128.store(out, f32x4.add(f32x4.add(f32x4.mul(a, x), f32x4.mul(b, y)), f32x4.add(f32x4.mul(c, z), d)));
    }
    points += 12;
    out += 12;
  }
}

/**
 * Keeps the heaviest entries of every vertex above the dust, `most` of them at most, in the order in which
 * they stood, and scales them to sum to 1; of equal weights the first stays. `scratch` and `slots`: 4 bytes
 * for every entry of the longest row, at least 9. Gives the number of trimmed vertices (listed in `trimmed`)
 * in the low and of changed ones in the high half.
 */
export function limit(
  vertices: i32,
  offsets: usize,
  joint: usize,
  weight: usize,
  most: i32,
  dust: f32,
  outOffsets: usize,
  outJoint: usize,
  outWeight: usize,
  trimmed: usize,
  scratch: usize,
  slots: usize,
): u64 {
  let o: usize = 0;
  let lost: u32 = 0;
  let changed: u32 = 0;
  store<u32>(outOffsets, 0);
  let start = load<u32>(offsets);
  for (let v = 0; v < vertices; v++) {
    const end = load<u32>(offsets + ((v + 1) << 2));
    const length = <i32>(end - start);
    if (length <= 8) {
      // All eight against each other at once: an entry stays when fewer than `most` others are heavier, or as
      // heavy and earlier.
      const row = weight + ((<usize>start) << 2);
      const names = joint + ((<usize>start) << 1);
      const a = v128.load(row);
      const b = v128.load(row, 16);
      const valid = (1 << length) - 1;
      const zero = f32x4.splat(0);
      const floor = f32x4.splat(dust > 0 ? dust : 0);
      const alive = (i32x4.bitmask(f32x4.gt(a, zero)) | (i32x4.bitmask(f32x4.gt(b, zero)) << 4)) & valid;
      const open = (i32x4.bitmask(f32x4.gt(a, floor)) | (i32x4.bitmask(f32x4.gt(b, floor)) << 4)) & valid;
      if (open != 0) {
        let stay = 0;
        for (let i = 0; i < length; i++) {
          const x = v128.load32_splat(row + ((<usize>i) << 2));
          const heavier = i32x4.bitmask(f32x4.gt(a, x)) | (i32x4.bitmask(f32x4.gt(b, x)) << 4);
          stay |= (<i32>(popcnt<i32>(heavier & open) < most)) << i;
        }
        stay &= open;
        if (popcnt<i32>(stay) > most) {
          // Equal weights at the edge: the earlier of them stay.
          stay = 0;
          for (let i = 0; i < length; i++) {
            const x = v128.load32_splat(row + ((<usize>i) << 2));
            const heavier = i32x4.bitmask(f32x4.gt(a, x)) | (i32x4.bitmask(f32x4.gt(b, x)) << 4);
            const asHeavy = i32x4.bitmask(f32x4.ge(a, x)) | (i32x4.bitmask(f32x4.ge(b, x)) << 4);
            const earlier = (1 << i) - 1;
            stay |= (<i32>(popcnt<i32>(((asHeavy & earlier) | (heavier & ~earlier)) & open) < most)) << i;
          }
          stay &= open;
        }
        let sum: f64 = 0;
        let c = o;
        for (let bits = stay; bits != 0; bits &= bits - 1) {
          const i: usize = ctz<i32>(bits);
          const w = load<f32>(row + (i << 2));
          store<u16>(outJoint + (c << 1), load<u16>(names + (i << 1)));
          store<f32>(outWeight + (c << 2), w);
          sum += w;
          c++;
        }
        const kept = <i32>(c - o);
        if (kept < popcnt<i32>(alive)) {
          store<u32>(trimmed + ((<usize>lost) << 2), v);
          lost++;
        }
        if (kept == length && Math.abs(sum - 1) <= 2e-7 * <f64>kept) {
          o = c;
        } else {
          changed++;
          const scale = 1 / sum;
          for (; o < c; o++)
            store<f32>(outWeight + (o << 2), <f32>(<f64>load<f32>(outWeight + (o << 2)) * scale));
        }
        store<u32>(outOffsets + ((<usize>(v + 1)) << 2), <u32>o);
        start = end;
        continue;
      }
    }
    let n = 0;
    let live = 0;
    for (let k = start; k < end; k++) {
      const w = load<f32>(weight + ((<usize>k) << 2));
      store<f32>(scratch + ((<usize>n) << 2), w);
      store<u32>(slots + ((<usize>n) << 2), load<u16>(joint + ((<usize>k) << 1)));
      live += <i32>(w > 0);
      n += <i32>(w > 0 && w > dust);
    }
    if (n == 0 && live > 0) {
      let best = start;
      for (let k = start + 1; k < end; k++)
        if (load<f32>(weight + ((<usize>k) << 2)) > load<f32>(weight + ((<usize>best) << 2))) best = k;
      store<f32>(scratch, load<f32>(weight + ((<usize>best) << 2)));
      store<u32>(slots, load<u16>(joint + ((<usize>best) << 1)));
      n = 1;
    }
    const kept = n < most ? n : most;
    let sum: f64 = 0;
    let c = o;
    {
      for (let r = n - kept; r > 0; r--) {
        let at: usize = 0;
        for (let i = 1; i < n; i++)
          if (load<f32>(scratch + ((<usize>i) << 2)) <= load<f32>(scratch + (at << 2))) at = i;
        store<f32>(scratch + (at << 2), f32.MAX_VALUE);
      }
      for (let i = 0; i < n; i++) {
        const w = load<f32>(scratch + ((<usize>i) << 2));
        if (w == f32.MAX_VALUE) continue;
        store<u16>(outJoint + (c << 1), <u16>load<u32>(slots + ((<usize>i) << 2)));
        store<f32>(outWeight + (c << 2), w);
        sum += w;
        c++;
      }
    }
    if (kept < live) {
      store<u32>(trimmed + ((<usize>lost) << 2), v);
      lost++;
    }
    if (kept == <i32>(end - start) && Math.abs(sum - 1) <= 2e-7 * <f64>kept) {
      o = c;
    } else {
      if (end > start) changed++;
      const scale = sum > 0 ? 1 / sum : 0;
      for (; o < c; o++)
        store<f32>(outWeight + (o << 2), <f32>(<f64>load<f32>(outWeight + (o << 2)) * scale));
    }
    store<u32>(outOffsets + ((<usize>(v + 1)) << 2), <u32>o);
    start = end;
  }
  return ((<u64>changed) << 32) | (<u64>lost);
}

/**
 * Rows in which joint j has become table[j], in place: entries that meet are added up, rows close up. `put`
 * holds −1 for every new joint.
 */
export function remap(
  vertices: i32,
  offsets: usize,
  joint: usize,
  weight: usize,
  table: usize,
  put: usize,
): void {
  let o = 0;
  let k = 0;
  for (let v = 0; v < vertices; v++) {
    const start = o;
    const end = load<i32>(offsets + ((<usize>(v + 1)) << 2));
    for (; k < end; k++) {
      const j = load<u16>(table + ((<usize>load<u16>(joint + ((<usize>k) << 1))) << 1));
      const w = load<f32>(weight + ((<usize>k) << 2));
      const slot = put + ((<usize>j) << 2);
      const at = load<i32>(slot);
      if (at >= start) {
        const cell = weight + ((<usize>at) << 2);
        store<f32>(cell, load<f32>(cell) + w);
      } else {
        store<i32>(slot, o);
        store<u16>(joint + ((<usize>o) << 1), j);
        store<f32>(weight + ((<usize>o) << 2), w);
        o++;
      }
    }
    store<i32>(offsets + ((<usize>(v + 1)) << 2), o);
  }
}
