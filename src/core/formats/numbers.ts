const TEN = Float64Array.from({ length: 23 }, (_, k) => 10 ** k);

/** A single-precision number as the fewest digits that read back as the same single. */
export function short(x: number): string {
  const f = Math.fround(x);
  if (f === 0) return '0';
  const size = Math.abs(f);
  if (size < 1e-6 || size >= 1e9) return shortOfAny(f);
  // Where a power of ten makes an integer of it without loss, dividing gives the double that is written with
  // just those digits.
  let places = 6;
  for (let s = size; s >= 1; s /= 10) places--;
  for (let s = size; s < 0.1; s *= 10) places++;
  for (let digits = 6; digits <= 9; digits++, places++) {
    const near =
      places >= 0 ? Math.round(f * TEN[places]) / TEN[places] : Math.round(f / TEN[-places]) * TEN[-places];
    if (Math.fround(near) === f) return String(near);
  }
  return shortOfAny(f);
}

function shortOfAny(f: number): string {
  for (let digits = 6; digits < 9; digits++) {
    const near = Number(f.toPrecision(digits));
    if (Math.fround(near) === f) return String(near);
  }
  return String(Number(f.toPrecision(9)));
}
