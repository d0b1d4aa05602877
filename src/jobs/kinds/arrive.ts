/** What comes into the house: new characters, and new deliveries of those that are there. */
import { object, string } from 'yup';
import type { Counts } from '../../core/contracts/finding';
import { briefKey } from '../../core/house/brief';
import { briefByKey, listBriefs } from '../../server/briefs';
import { characterById, createCharacter } from '../../server/characters';
import { type Delivered, deliverAgain, goOnWithDelivery, lineTo } from '../../server/delivery';
import { runTask } from '../../server/pool';
import { Refused } from '../../server/refused';
import { type JobContext, type Standpoint, defineJob } from '../job';
import { filesOf, readOptions, sentFiles } from './steps';

/** What came of taking a character in. */
export interface TakenIn {
  readonly id: string;
  readonly name: string;
  readonly notes: string[];
  readonly counts?: Counts;
  /** A brief that fits better than the one that was asked for, and why. */
  readonly fits?: { readonly brief: string; readonly reason: string };
}

export const takeIn = defineJob({
  kind: 'import',
  version: 1,
  lane: 'one at a time',
  bounds: {},
  input: object({
    files: sentFiles(),
    read: readOptions(),
    /** Key of the brief, with its version. */
    brief: string().required(),
  }),
  run: async ({ files: sent, read, brief: key }, at: JobContext<TakenIn>): Promise<TakenIn> => {
    const { db, signal, bounds, tell } = at;
    const brief = await briefByKey(db, key);
    const briefs = (await listBriefs(db)).map((brief) => brief.brief);
    const { files, listed } = await filesOf(at, sent);
    const input = { files, options: read, brief, briefs };
    const made = await runTask('import', input, { onProgress: tell, signal, bounds, giving: true });
    tell({ stage: 'saving', share: 0.9 });
    const step = { kind: 'import' as const, files: listed, notes: [...made.notes] };
    const first = { ...made, brief: briefKey(brief), label: 'as delivered', step };
    const answer = (id: string): TakenIn => ({
      id,
      name: made.name,
      notes: [...made.notes],
      counts: made.audited?.counts,
      fits: made.fits ? { brief: made.fits.brief, reason: made.fits.reason } : undefined,
    });
    const { id } = await createCharacter(db, made.name, brief.id, first, {
      signal,
      ended: (trx, id) => at.ended(trx, answer(id)),
    });
    return answer(id);
  },
});

/** The character of a delivery, as it stands. */
async function characterOf({ db, character: id }: Standpoint) {
  if (!id)
    throw new Refused('The character was removed from the house; there is nothing to do any more.', 404);
  return characterById(db, id);
}

export const deliver = defineJob({
  kind: 'deliver',
  version: 1,
  lane: 'one at a time',
  changes: true,
  bounds: {},
  input: object({ files: sentFiles(), read: readOptions() }),
  run: async ({ files: sent, read }, at: JobContext<Delivered>): Promise<Delivered> => {
    const character = await characterOf(at);
    const { files, listed } = await filesOf(at, sent);
    const delivery = { files, options: read, listed };
    const line = lineTo(character, at.base ?? character.head);
    return deliverAgain(at.db, character, line, delivery, at.id, { ...at, onProgress: at.tell });
  },
});

export const goOn = defineJob({
  kind: 'go on with a delivery',
  version: 1,
  lane: 'one at a time',
  changes: true,
  bounds: {},
  input: object({ revision: string().required() }),
  run: async ({ revision }, at: JobContext<Delivered>): Promise<Delivered> => {
    const character = await characterOf(at);
    return goOnWithDelivery(at.db, character, revision, { ...at, onProgress: at.tell });
  },
});
