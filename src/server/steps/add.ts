import type { Kysely } from 'kysely';
import type { Step, StepFile } from '../../core/contracts/step';
import type { ReadOptions } from '../../core/formats';
import type { InputFile } from '../../core/formats/errors';
import type { CharacterRecord } from '../../routes/characters';
import { getBlobs } from '../blobs';
import type { Database } from '../database';
import { runTask } from '../pool';
import { wireOf } from '../revisions';
import { LeftOut, type StepDone, type StepOptions, defineStep, fileNames, keep } from './step';

/** Files to be added. */
export interface AddStep {
  readonly files: InputFile[];
  readonly listed: StepFile[];
  readonly read: ReadOptions;
  /** The unit that the files were read in, in words. */
  readonly unit: string;
  readonly label?: string;
}

/**
 * Adds files on top of `base`; they are kept with the step, so that it can be done again. Throws {@link
 * Refused}.
 */
export async function addFiles(
  db: Kysely<Database>,
  character: CharacterRecord,
  base: string,
  { files, listed, read, unit, label }: AddStep,
  options: StepOptions = {},
): Promise<StepDone> {
  const wire = await wireOf(db, base);
  const made = await runTask('add', { wire, files, options: read, brief: character.wants }, options);
  const step: Step = { kind: 'add', files: listed, notes: [...made.notes], unit, read };
  const kept = new Map(listed.map((file, i) => [file.sha256, files[i].bytes]));
  return keep(db, character, base, made, { label: label || `added ${made.name}`, step, kept }, options);
}

export const filesAdded = defineStep({
  kind: 'add',
  words: ({ files, unit }) => `${fileNames(files)}, read in ${unit}.`,
  async doAgain({ db, character, head, label, options }, { files: listed, read, unit }) {
    const files = read && (await keptFiles(db, listed));
    if (!files || !read)
      throw new LeftOut(`its files are not kept here; add ${fileNames(listed)} again by hand`);
    return addFiles(db, character, head, { files, listed, read, unit, label }, options);
  },
});

/** The files of a step as they were kept with it; null where one is missing. */
async function keptFiles(db: Kysely<Database>, listed: readonly StepFile[]): Promise<InputFile[] | null> {
  const kept = await getBlobs(
    db,
    listed.map((file) => file.sha256),
  );
  const files = listed.flatMap((file) => {
    const bytes = kept.get(file.sha256);
    return bytes ? [{ name: file.name, bytes: bytes.slice() }] : [];
  });
  return files.length === listed.length ? files : null;
}
