import { betterBrief } from '../../core/house/propose';
import { readCharacter } from '../../core/formats';
import { carriedSets } from '../../core/character/sets';
import type { Character } from '../../core/character/model';
import type { ImportInput, Imported } from '../../tasks/import';
import type { Tell } from '../../tasks/task';
import { LIMITS, auditCharacter, makeRevision, openWire } from '../task';

/** Reads files as a new character. */
export function importFiles(
  { files, options, brief, briefs = [], setsOf }: ImportInput,
  tell: Tell,
): Imported {
  tell({ stage: 'reading', share: 0.15 });
  const read = readCharacter(files, LIMITS, options);
  const character = setsOf ? withSetsFrom(openWire(setsOf), read) : read;
  const audited = brief ? auditCharacter(character, brief, { tell, from: 0.4, to: 0.8 }) : undefined;
  tell({ stage: 'drawing its picture', share: 0.8 });
  const fits = brief ? betterBrief(character, brief, briefs) : null;
  return { ...makeRevision(character, { notes: character.notes }), audited, fits };
}

/** A new delivery with the sets of the one before it that it does not have itself; what is not found of them is noted. */
function withSetsFrom(before: Character, read: Character): Character {
  const { sets, lost } = carriedSets(before, read);
  return { ...read, sets, notes: [...read.notes, ...lost] };
}
