/** Units in which a brief shows lengths. */
export const LENGTH_UNITS = ['m', 'cm', 'mm', 'in'] as const;

export type LengthUnit = (typeof LENGTH_UNITS)[number];

const PER_METRE: Readonly<Record<LengthUnit, number>> = { m: 1, cm: 100, mm: 1000, in: 1 / 0.0254 };
const DIGITS: Readonly<Record<LengthUnit, number>> = { m: 3, cm: 1, mm: 1, in: 2 };

/** A length in metres as a number in a unit. */
export function inUnit(metres: number, unit: LengthUnit): number {
  return metres * PER_METRE[unit];
}

/** A length as text with its unit, to about a millimetre. */
export function lengthText(metres: number, unit: LengthUnit): string {
  return `${inUnit(metres, unit).toFixed(DIGITS[unit])} ${unit}`;
}

/** A small length, a tolerance most of all, as text that shows what it is: in metres it is told in millimetres. */
export function smallLengthText(metres: number, unit: LengthUnit): string {
  const fine = unit === 'm' ? 'mm' : unit;
  return `${Number(inUnit(metres, fine).toPrecision(3))} ${fine}`;
}

/** What a brief allows of a length, as a message ends with it. */
export const allowedText = (metres: number, unit: LengthUnit): string =>
  `the brief allows ${smallLengthText(metres, unit)}`;

/** Units that files are made in, and what a height says about them. */
export interface FileUnit {
  readonly word: string;
  readonly short: string;
  readonly metres: number;
}

/** The units that a file can be read in. */
export const UNITS: readonly FileUnit[] = [
  { word: 'metres', short: 'm', metres: 1 },
  { word: 'decimetres', short: 'dm', metres: 0.1 },
  { word: 'centimetres', short: 'cm', metres: 0.01 },
  { word: 'millimetres', short: 'mm', metres: 0.001 },
  { word: 'inches', short: 'in', metres: 0.0254 },
  { word: 'feet', short: 'ft', metres: 0.3048 },
];

/** The word for a unit of so many metres. */
export function unitWord(metres: number): string {
  return (
    UNITS.find((u) => Math.abs(u.metres - metres) < 1e-9 * Math.max(1, metres))?.word ??
    `units of ${Number(metres.toPrecision(4))} m`
  );
}

/** The height that a body now measured as `height` has when its file is read in another unit. */
export const heightIn = (height: number, readAs: number, unit: FileUnit): number =>
  (height / readAs) * unit.metres;

/**
 * Within this factor of the target a height may be meant; beyond it a wrong unit is likelier than a wrong
 * size.
 */
const MEANT = 1.5;
const NEAR = 1.2;

/**
 * The unit that would bring a height near its target where the one it was read in does not; null where the
 * height may be meant, or where no unit helps.
 */
export function likelierUnit(height: number, readAs: number, target: number): FileUnit | null {
  const away = (h: number) => Math.max(h / target, target / h);
  if (!(height > 0) || away(height) <= MEANT) return null;
  const best = UNITS.reduce((b, u) =>
    away(heightIn(height, readAs, u)) < away(heightIn(height, readAs, b)) ? u : b,
  );
  return away(heightIn(height, readAs, best)) <= NEAR ? best : null;
}

/** Signs and words of the units that lengths are typed in. */
const TYPED: Readonly<Record<string, number>> = {
  ...Object.fromEntries(UNITS.flatMap((u) => [[u.short, u.metres] as const, [u.word, u.metres] as const])),
  "'": 0.3048,
  '′': 0.3048,
  '"': 0.0254,
  '″': 0.0254,
};

/**
 * A length as somebody types it, in metres: `1.76 m`, `176 cm`, `5 ft 9 in`, `5′9″`; a number by itself is
 * in `unit`. Null where it is none.
 */
export function lengthFrom(text: string, unit: LengthUnit): number | null {
  const whole = text.trim().toLowerCase().replace(/,/g, '.').replace('−', '-');
  if (/^-?(\d+\.?\d*|\.\d+)(e-?\d+)?$/.test(whole)) return Number(whole) / inUnit(1, unit);
  const part = /(\d+\.?\d*|\.\d+)(?:e(-?\d+))?\s*([a-z]+|['"′″])\s*/gy;
  let metres = 0;
  let at = 0;
  for (let m = part.exec(whole); m; m = part.exec(whole)) {
    const per = TYPED[m[3]];
    if (per === undefined) return null;
    metres += Number(m[2] ? `${m[1]}e${m[2]}` : m[1]) * per;
    at = part.lastIndex;
  }
  return at > 0 && at === whole.length ? metres : null;
}
