/** Units of the trade in which a brief shows lengths. */
export const LENGTH_UNITS = ['m', 'cm', 'mm', 'in', 'ft'] as const;

/** A unit in which a brief shows lengths: of the trade, or of the game's own, as how many of it make a metre (`32/m`). */
export type LengthUnit = (typeof LENGTH_UNITS)[number] | `${number}/m`;

const PER_METRE: Readonly<Record<(typeof LENGTH_UNITS)[number], number>> = {
  m: 1,
  cm: 100,
  mm: 1000,
  in: 1 / 0.0254,
  ft: 1 / 0.3048,
};

/** A unit as a brief's file writes it: a sign of the trade, or a positive number and `/m`. */
export const UNIT_PATTERN = /^(m|cm|mm|in|ft|(0\.\d{0,5}[1-9]|[1-9]\d{0,5}(\.\d{1,6})?)\/m)$/;

/** How many units of a game's own make a metre; null where the unit is one of the trade. */
export const ownPerMetre = (unit: LengthUnit): number | null =>
  unit.endsWith('/m') ? Number(unit.slice(0, -2)) : null;

/** The unit of which so many make a metre; null where a brief takes no such number. */
export function ownUnit(count: number): LengthUnit | null {
  // Up to six decimals, never with an exponent.
  const unit = `${Number.isFinite(count) ? count.toFixed(6).replace(/\.?0+$/, '') : ''}/m`;
  return UNIT_PATTERN.test(unit) ? (unit as LengthUnit) : null;
}

/** How many of a unit make a metre. */
const perMetre = (unit: LengthUnit): number => ownPerMetre(unit) ?? PER_METRE[unit as keyof typeof PER_METRE];

/** A unit as it stands behind a number. */
export const unitSign = (unit: LengthUnit): string => (ownPerMetre(unit) === null ? unit : 'u');

/** The unit for small lengths: millimetres beside metres, else the unit itself. */
export const fineUnit = (unit: LengthUnit): LengthUnit => (unit === 'm' ? 'mm' : unit);

/** Decimal places that show a length to about a millimetre. */
export const digitsOf = (unit: LengthUnit): number =>
  Math.min(6, Math.max(1, Math.ceil(Math.log10(1000 / perMetre(unit)))));

/** A length in metres as a number in a unit. */
export function inUnit(metres: number, unit: LengthUnit): number {
  return metres * perMetre(unit);
}

/** A length as text with its unit, to about a millimetre. */
export function lengthText(metres: number, unit: LengthUnit): string {
  return `${inUnit(metres, unit).toFixed(digitsOf(unit))} ${unitSign(unit)}`;
}

/** A small length, a tolerance most of all, as text that shows what it is: in metres it is told in millimetres. */
export function smallLengthText(metres: number, unit: LengthUnit): string {
  const fine = fineUnit(unit);
  return `${Number(inUnit(metres, fine).toPrecision(3))} ${unitSign(fine)}`;
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
    UNITS.find((unit) => Math.abs(unit.metres - metres) < 1e-9 * Math.max(1, metres))?.word ??
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
  const away = (height: number) => Math.max(height / target, target / height);
  if (!(height > 0) || away(height) <= MEANT) return null;
  const best = UNITS.reduce((unit, otherUnit) =>
    away(heightIn(height, readAs, otherUnit)) < away(heightIn(height, readAs, unit)) ? otherUnit : unit,
  );
  return away(heightIn(height, readAs, best)) <= NEAR ? best : null;
}

/** Signs and words of the units that lengths are typed in. */
const TYPED: Readonly<Record<string, number>> = {
  ...Object.fromEntries(
    UNITS.flatMap((unit) => [[unit.short, unit.metres] as const, [unit.word, unit.metres] as const]),
  ),
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
  for (let match = part.exec(whole); match; match = part.exec(whole)) {
    const per = match[3] === 'u' ? 1 / perMetre(unit) : TYPED[match[3]];
    if (per === undefined) return null;
    metres += Number(match[2] ? `${match[1]}e${match[2]}` : match[1]) * per;
    at = part.lastIndex;
  }
  return at > 0 && at === whole.length ? metres : null;
}
