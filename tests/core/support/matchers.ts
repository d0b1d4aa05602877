/**
 * Asymmetric matcher for numbers below a bound, so that a failure shows the number together with where it was
 * met.
 */
class Below {
  readonly $$typeof = Symbol.for('jest.asymmetricMatcher');
  constructor(private readonly bound: number) {}
  asymmetricMatch(x: unknown): boolean {
    return typeof x === 'number' && x < this.bound;
  }
  toString(): string {
    return `below ${this.bound}`;
  }
  toAsymmetricMatcher(): string {
    return `below ${this.bound}`;
  }
}

export const below = (bound: number): unknown => new Below(bound);
