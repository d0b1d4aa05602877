/** What goes out: handing over, and the PDF of a report. */
import { array, object, string } from 'yup';
import { formatId } from '../../routes/formats';
import type { HandedOverAnswer } from '../../routes/jobs';
import { printPdf } from '../../server/chromium';
import { docketPart, handOver } from '../../server/dockets';
import { keepPrint, printOf } from '../../server/print';
import { Refused } from '../../server/refused';
import { receiverAsked } from '../../server/report-facts';
import { type JobContext, defineJob } from '../job';

const input = object({
  items: array(string().required()).nullable().default(null),
  format: formatId(),
  by: string().trim().min(1).max(200).required(),
  note: string().trim().max(2000).default(''),
  /** Id of one of the house's receivers, or its settings as JSON. */
  receiver: string().max(2000),
});

/** Hands the revision over that it was asked on. */
const kind = (name: string, lane: 'at hand' | 'in heaps') =>
  defineJob({
    kind: name,
    version: 1,
    lane,
    bounds: { seconds: 10 * 60 },
    input,
    run: async (
      { receiver, ...what },
      { db, base, character, signal, bounds, tell, ended }: JobContext<HandedOverAnswer>,
    ): Promise<HandedOverAnswer> => {
      if (!base || !character)
        throw new Refused('The character was removed from the house; there is nothing to hand over.', 404);
      const asked = { ...what, revision: base, ...(receiver && { receiver: receiverAsked(receiver) }) };
      return handOver(db, character, asked, { signal, bounds, onProgress: tell, ended });
    },
  });

/** Somebody waits for it. */
export const handOverOne = kind('hand over', 'at hand');

/** Several that were asked for as one. */
export const handOverSeveral = kind('hand over several', 'in heaps');

/** Prints the report of a docket, once and for all: neither of them is ever changed. */
export const print = defineJob({
  kind: 'print',
  version: 1,
  lane: 'printing',
  isPassing: true,
  bounds: { seconds: 60 },
  input: object({ docket: string().required() }),
  run: async ({ docket }, { db, signal, bounds, ended }: JobContext<{ pdf: string }>) => {
    const { bytes } = await docketPart(db, docket, 'report');
    const known = await printOf(db, bytes);
    const pdf = known ?? (await printPdf(bytes, bounds.seconds, signal));
    return keepPrint(db, bytes, pdf, ended, signal);
  },
});
