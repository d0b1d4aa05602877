/** A single-precision number as the fewest digits that read back as the same single. */
export function short(x: number): string {
  const f = Math.fround(x);
  if (f === 0) return '0';
  for (let digits = 6; digits < 9; digits++) {
    const text = f.toPrecision(digits);
    if (Math.fround(Number(text)) === f) return String(Number(text));
  }
  return String(Number(f.toPrecision(9)));
}
