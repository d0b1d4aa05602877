import type { BufferAttribute } from 'three';

/** Writes numbers into a buffer, and sends to the graphics card only the range in which they differ. */
export function writeRange(attribute: BufferAttribute, next: ArrayLike<number>): void {
  const array = attribute.array as Float32Array;
  let first = 0;
  let last = array.length - 1;
  while (first <= last && array[first] === next[first]) first++;
  while (last >= first && array[last] === next[last]) last--;
  if (first > last) return;
  for (let i = first; i <= last; i++) array[i] = next[i];
  attribute.addUpdateRange(first, last - first + 1);
  attribute.needsUpdate = true;
}

/** Rows nearer to each other than this are sent together: one longer write is cheaper than two. */
const TOGETHER = 64;

/**
 * Writes rows of a buffer by their numbers, and sends to the graphics card only the runs in which they lie.
 * @param rows as many numbers per id as the buffer has per row
 * @returns whether any number is another than before
 */
export function writeRows(attribute: BufferAttribute, ids: Uint32Array, rows: ArrayLike<number>): boolean {
  const array = attribute.array as Float32Array;
  const { itemSize } = attribute;
  let isChanged = false;
  for (let i = 0; i < ids.length; i++)
    for (let k = 0; k < itemSize; k++) {
      const at = ids[i] * itemSize + k;
      const before = array[at];
      array[at] = rows[i * itemSize + k];
      // Compared as it is kept, in single precision.
      if (array[at] !== before) isChanged = true;
    }
  if (!isChanged) return false;
  const sorted = ids.slice().sort();
  for (let i = 0; i < sorted.length;) {
    const first = sorted[i];
    let last = first;
    while (i < sorted.length && sorted[i] - last <= TOGETHER) last = sorted[i++];
    attribute.addUpdateRange(first * itemSize, (last - first + 1) * itemSize);
  }
  attribute.needsUpdate = true;
  return true;
}
