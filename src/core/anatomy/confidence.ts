/** What speaks for a pair, as numbers. */
export interface PairFacts {
  /** How far the names agree: 1 and more the same, 0 nothing said, below 0 against each other. */
  readonly name: number;
  readonly named: number;
  /** How well the places along the chains agree. */
  readonly shape: number;
  /** How much more it is worth than the best other. */
  readonly margin: number;
  /** The nearest paired bones above are a pair. */
  readonly isCoherent: number;
  /** Its twin is paired with the twin. */
  readonly hasTwin: number;
  readonly isSided: number;
  /** How clear it is which side is which, 0 … 1. */
  readonly facing: number;
  /** In a fan of chains, as fingers are. */
  readonly isFan: number;
}

export const factorsOf = (facts: PairFacts): number[] => [
  1,
  facts.name,
  facts.named,
  facts.shape,
  facts.margin,
  facts.isCoherent,
  facts.hasTwin,
  facts.isSided,
  facts.facing,
  facts.isFan,
  Math.min(facts.margin, 0.2),
  facts.named * facts.margin,
  Math.max(0, facts.name - 0.5),
  Math.min(facts.facing, 0.2),
];

/**
 * Fitted by logistic regression over pairs of figures made by chance (the bench’s first draw); the second draw says
 * whether the share that is right is what was said.
 */
const WEIGHTS = [
  -1.006, -2.167, 5.349, 1.63, 1.022, -1.006, 1.294, -0.692, 3.612, 0.729, 0.145, 1.012, -1.936, -0.773,
];

/**
 * What the fit says, and the share of such pairs that were right over six draws like the first: it says too much of
 * what it doubts, and the same of all from a half to four fifths.
 */
const SHARES: readonly (readonly [number, number])[] = [
  [0, 0],
  [0.15, 0.12],
  [0.26, 0.16],
  [0.36, 0.24],
  [0.46, 0.37],
  [0.545, 0.46],
  [0.56, 0.71],
  [0.8, 0.745],
  [0.83, 0.8],
  [0.87, 0.87],
  [1, 1],
];

/** How sure a pair is: the share of such pairs that are right. */
export function confidenceOf(facts: PairFacts): number {
  const z = factorsOf(facts).reduce((sum, x, k) => sum + x * WEIGHTS[k], 0);
  return shareOf(Math.max(0.02, Math.min(0.995, 1 / (1 + Math.exp(-z)))));
}

/** Straight between the known shares. */
function shareOf(said: number): number {
  const k = SHARES.findIndex(([x]) => x >= said);
  if (k < 1) return SHARES[Math.max(0, k)][1];
  const [[x0, y0], [x1, y1]] = [SHARES[k - 1], SHARES[k]];
  return y0 + ((said - x0) / (x1 - x0)) * (y1 - y0);
}
