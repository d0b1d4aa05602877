/** Steps of a character: each a job, done on the revision that it was asked on. */
import { type InferType, array, mixed, number, object, string } from 'yup';
import { unitWord } from '../../core/contracts/units';
import type { MoveHow, NamedParams, StepFile } from '../../core/contracts/step';
import type { CharacterRecord } from '../../routes/characters';
import type { InputFile } from '../../core/formats/errors';
import { characterById } from '../../server/characters';
import { Refused } from '../../server/refused';
import {
  type StepDone,
  type StepOptions,
  addFiles,
  applyEdit,
  applyRemedy,
  guardFresh,
  remapCharacter,
} from '../../server/steps';
import { type JobContext, type Standpoint, defineJob } from '../job';
import { wholeOf } from '../parts';

/** The character and the revision that a step was asked on. Throws {@link Refused} where either is not so any more. */
export async function stepOn({ db, base, character: id }: Standpoint): Promise<{
  character: CharacterRecord;
  base: string;
}> {
  if (!base || !id)
    throw new Refused('The character was removed from the house; there is nothing to do any more.', 404);
  const character = await characterById(db, id);
  guardFresh(character, base);
  return { character, base };
}

/** What a step is given of its job. */
const optionsOf = <D extends StepDone>({ signal, bounds, tell, ended }: JobContext<D>): StepOptions<D> => ({
  signal,
  bounds,
  onProgress: tell,
  ended,
});

const bag = () => mixed<Record<string, unknown>>().required();

/** Files that a job was sent with: as they are listed, and where their parts lie. */
export const sentFiles = () =>
  array(
    object({
      name: string().defined(),
      bytes: number().required(),
      sha256: string().required(),
      parts: array(string().required()).required(),
    }),
  ).required();

type SentFiles = InferType<ReturnType<typeof sentFiles>>;

/** How files are read. */
export const readOptions = () =>
  object({ unitMetres: number(), upAxis: string<'x' | 'y' | 'z'>().oneOf(['x', 'y', 'z']) });

/** The files that a job was sent with. Throws {@link Refused} where they are not kept any more. */
export async function filesOf(
  { db }: Pick<Standpoint, 'db'>,
  sent: SentFiles,
): Promise<{ files: InputFile[]; listed: StepFile[] }> {
  const files: InputFile[] = [];
  for (const { name, parts } of sent) {
    const bytes = await wholeOf(db, parts);
    if (!bytes) throw new Refused('Its files are not kept any more; drop them again.', 404);
    files.push({ name, bytes });
  }
  return { files, listed: sent.map(({ name, bytes, sha256 }) => ({ name, bytes, sha256 })) };
}

export const remedy = defineJob({
  kind: 'remedy',
  version: 1,
  lane: 'at hand',
  changes: true,
  bounds: {},
  input: object({ remedy: string().required(), params: bag(), label: string() }),
  run: async (step, at: JobContext<StepDone>) => {
    const { character, base } = await stepOn(at);
    return applyRemedy(at.db, character, base, step, optionsOf(at));
  },
});

export const edit = defineJob({
  kind: 'edit',
  version: 1,
  lane: 'at hand',
  changes: true,
  bounds: {},
  input: object({
    /** The bundle of patches that it was sent with, by its parts. */
    patches: array(string().required()).required(),
    label: string(),
    names: mixed<readonly NamedParams[]>(),
  }),
  run: async ({ patches: sent, ...step }, at: JobContext<StepDone>) => {
    const { character, base } = await stepOn(at);
    const patches = await wholeOf(at.db, sent);
    if (!patches) throw new Refused('What the hand did is not kept any more; do it again.', 404);
    return applyEdit(at.db, character, base, { ...step, patches }, optionsOf(at));
  },
});

/** Moves the weights onto another skeleton, with the crosswalk of whoever stands before it. */
export const remap = defineJob({
  kind: 'remap',
  version: 1,
  lane: 'at hand',
  changes: true,
  // A million points by example take minutes.
  bounds: { seconds: 30 * 60 },
  input: object({
    label: string(),
    limit: number().integer().min(1).max(64).required(),
    how: mixed<MoveHow>(),
    motion: string(),
    target: object({ id: string(), revision: string(), title: string().required() }).required(),
    crosswalk: mixed<object>(),
  }),
  run: async (step, at: JobContext<Awaited<ReturnType<typeof remapCharacter>>>) => {
    const { character, base } = await stepOn(at);
    return remapCharacter(at.db, character, base, step, optionsOf(at));
  },
});

export const add = defineJob({
  kind: 'add files',
  version: 1,
  lane: 'at hand',
  changes: true,
  bounds: {},
  input: object({ files: sentFiles(), read: readOptions() }),
  run: async ({ files: sent, read }, at: JobContext<StepDone>) => {
    const { character, base } = await stepOn(at);
    const { files, listed } = await filesOf(at, sent);
    const unit = read.unitMetres ? unitWord(read.unitMetres) : 'its own unit';
    return addFiles(at.db, character, base, { files, listed, read, unit }, optionsOf(at));
  },
});
