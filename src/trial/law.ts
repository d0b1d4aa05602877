/** What was taken is written by every writer, and what was written is read again by ours and by the standard's validator. */
import type { Character } from '../core/character/model';
import { WRITTEN_FORMATS, readCharacter, whyNotWritten, writeCharacter } from '../core/formats';
import type { ReadLimits } from '../core/formats/errors';
import { validate } from './validator';

/** What a file may have had wrong itself and a person mends: a finding tells it (several roots, sheared nodes). */
const FOUND_BY_AUDIT = [/^SKIN_NO_COMMON_ROOT/, /^NODE_MATRIX_NON_TRS/];

/** Points that nobody gave a weight: a finding tells it, and so does the writer, which alone makes it right to write them. */
const BARE = {
  error: /^ACCESSOR_WEIGHTS_NON_NORMALIZED .* sum: 0\.$/,
  note: /have no weight, which glTF 2\.0 does not allow/,
};

/** Writes a character in every format that can hold it, and reads all of it again; gives what is not so, null for nothing. */
export async function brokenLaw(character: Character, limits: ReadLimits): Promise<string | null> {
  for (const { id: format } of WRITTEN_FORMATS) {
    if (whyNotWritten(character, format)) continue;
    const { files, notes } = writeCharacter(character, format, 'x');
    try {
      readCharacter(files, limits, { unitMetres: 1, upAxis: 'y' });
    } catch (error) {
      return `written as ${format} it cannot be read: ${error instanceof Error ? error.message : String(error)}`;
    }
    if (format !== 'glb') continue;
    const isTold = notes.some((note) => BARE.note.test(note));
    const first = (await validate(files[0].bytes)).find(
      (line) => !FOUND_BY_AUDIT.some((told) => told.test(line)) && !(isTold && BARE.error.test(line)),
    );
    if (first) return `written as glb it is not valid: ${first}`;
  }
  return null;
}
