import { type ReadOptions, readCharacter } from '../../core/formats';
import type { InputFile } from '../../core/formats/errors';
import { LIMITS, type Made, type Tell, auditCharacter, makeRevision, needBrief } from '../task';

export interface ImportInput {
  readonly files: InputFile[];
  readonly options?: ReadOptions;
  readonly brief?: string;
}

/** Reads files as a new character. */
export function importFiles({ files, options, brief }: ImportInput, tell: Tell): Made {
  tell({ stage: 'reading', share: 0.15 });
  const character = readCharacter(files, LIMITS, options);
  const audited = brief
    ? auditCharacter(character, needBrief(brief), { tell, from: 0.4, to: 0.8 })
    : undefined;
  tell({ stage: 'drawing its picture', share: 0.8 });
  return { ...makeRevision(character, { notes: character.notes }), audited };
}
