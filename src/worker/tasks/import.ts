import type { Brief } from '../../core/house/brief';
import { type Proposal, betterBrief } from '../../core/house/propose';
import { type ReadOptions, readCharacter } from '../../core/formats';
import type { InputFile } from '../../core/formats/errors';
import { LIMITS, type Made, type Tell, auditCharacter, makeRevision } from '../task';

export interface ImportInput {
  readonly files: InputFile[];
  readonly options?: ReadOptions;
  readonly brief?: Brief;
  /** Those that may fit better. */
  readonly briefs?: readonly Brief[];
}

export interface Imported extends Made {
  /** What fits better than the brief that it was given; null for nothing. */
  readonly fits: Proposal | null;
}

/** Reads files as a new character. */
export function importFiles({ files, options, brief, briefs = [] }: ImportInput, tell: Tell): Imported {
  tell({ stage: 'reading', share: 0.15 });
  const character = readCharacter(files, LIMITS, options);
  const audited = brief ? auditCharacter(character, brief, { tell, from: 0.4, to: 0.8 }) : undefined;
  tell({ stage: 'drawing its picture', share: 0.8 });
  const fits = brief ? betterBrief(character, brief, briefs) : null;
  return { ...makeRevision(character, { notes: character.notes }), audited, fits };
}
