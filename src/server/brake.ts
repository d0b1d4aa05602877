/** Slows down whoever guesses at the access key, address by address. */
import { LRUCache } from 'lru-cache';

/** So many wrong keys from one address are mistakes; each one more makes it wait twice as long. */
const MISTAKES = 5;

/** The longest that an address waits, milliseconds. */
const LONGEST = 60_000;

/** After so long without a wrong key what came before is forgotten, milliseconds. */
const FORGOTTEN = 10 * 60_000;

interface Wrong {
  readonly count: number;
  /** Until when nothing of this address is looked at, milliseconds. */
  readonly until: number;
}

/** Times in milliseconds of any clock that goes on. */
export class KeyBrake {
  private readonly wrong = new LRUCache<string, Wrong>({ max: 10_000, ttl: FORGOTTEN });

  /** How long an address has to wait yet; 0 where it need not. */
  waits(address: string, now: number): number {
    return Math.max(0, (this.wrong.get(address)?.until ?? 0) - now);
  }

  /** Takes note of a wrong key; gives how many there have been. */
  failed(address: string, now: number): number {
    const count = (this.wrong.get(address)?.count ?? 0) + 1;
    const wait = count > MISTAKES ? Math.min(LONGEST, 1000 * 2 ** (count - MISTAKES - 1)) : 0;
    this.wrong.set(address, { count, until: now + wait });
    return count;
  }

  /** Whoever has the key is no guesser. */
  succeeded(address: string): void {
    this.wrong.delete(address);
  }

  /** True where as many wrong keys are worth a line in the log. */
  static isWorthTelling(count: number): boolean {
    return count === MISTAKES || (count > MISTAKES && Number.isInteger(Math.log2(count)));
  }
}
