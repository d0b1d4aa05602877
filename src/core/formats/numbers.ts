const TEN = Float64Array.from({ length: 23 }, (_, k) => 10 ** k);

/** A single-precision number as the fewest digits that read back as the same single. */
export function short(x: number): string {
  const rounded = Math.fround(x);
  if (rounded === 0) return '0';
  const size = Math.abs(rounded);
  if (size < 1e-6 || size >= 1e9) return shortOfAny(rounded);
  // Where a power of ten makes an integer of it without loss, dividing gives the double that is written with
  // just those digits.
  let places = 6;
  for (let step = size; step >= 1; step /= 10) places--;
  for (let step = size; step < 0.1; step *= 10) places++;
  for (let digits = 6; digits <= 9; digits++, places++) {
    const near =
      places >= 0
        ? Math.round(rounded * TEN[places]) / TEN[places]
        : Math.round(rounded / TEN[-places]) * TEN[-places];
    if (Math.fround(near) === rounded) return String(near);
  }
  return shortOfAny(rounded);
}

function shortOfAny(factor: number): string {
  for (let digits = 6; digits < 9; digits++) {
    const near = Number(factor.toPrecision(digits));
    if (Math.fround(near) === factor) return String(near);
  }
  return String(Number(factor.toPrecision(9)));
}
