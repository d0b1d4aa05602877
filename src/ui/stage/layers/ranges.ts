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
