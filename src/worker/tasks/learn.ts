import type { Brief } from '../../core/house/brief';
import { type LearnedBrief, learnBrief } from '../../core/house/learn';
import { type Wire, openWire } from '../task';

export interface LearnInput {
  readonly wire: Wire;
  readonly base: Brief;
  readonly title: string;
  /** Name of the character. */
  readonly from: string;
}

/** A brief that a revision fulfils. */
export function learnRevision({ wire, base, title, from }: LearnInput): LearnedBrief {
  return learnBrief(openWire(wire), base, { id: base.id, title, about: `Learned from ${from}.` });
}
