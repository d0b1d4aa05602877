import { type LearnedBrief, learnBrief } from '../../core/house/learn';
import type { LearnInput } from '../../tasks/learn';
import { openWire } from '../task';

/** A brief that a revision fulfils. */
export function learnRevision({ wire, base, title, from }: LearnInput): LearnedBrief {
  return learnBrief(openWire(wire), base, { id: base.id, title, about: `Learned from ${from}.` });
}
