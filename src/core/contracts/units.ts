/** Units that files are made in, and what a height says about them. */
export interface LengthUnit {
  readonly word: string;
  readonly short: string;
  readonly metres: number;
}

export const UNITS: readonly LengthUnit[] = [
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
export const heightIn = (height: number, readAs: number, unit: LengthUnit): number =>
  (height / readAs) * unit.metres;

/** Within this factor of the target a height may be meant; beyond it a wrong unit is likelier than a wrong size. */
const MEANT = 1.5;
const NEAR = 1.2;

/**
 * The unit that would bring a height near its target where the one it was read in does not; null where the height may be meant,
 * or where no unit helps.
 */
export function likelierUnit(height: number, readAs: number, target: number): LengthUnit | null {
  const away = (h: number) => Math.max(h / target, target / h);
  if (!(height > 0) || away(height) <= MEANT) return null;
  const best = UNITS.reduce((b, u) =>
    away(heightIn(height, readAs, u)) < away(heightIn(height, readAs, b)) ? u : b,
  );
  return away(heightIn(height, readAs, best)) <= NEAR ? best : null;
}
