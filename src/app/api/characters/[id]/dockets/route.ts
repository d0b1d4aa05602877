import { streamJob, wantedBy } from '@/jobs/answer';
import { handOverRequest } from '@/routes/dockets';
import { characterById } from '@/server/characters';
import { database } from '@/server/database';
import { lineTo } from '@/server/delivery';
import { checkFormat } from '@/server/format-asked';
import { type Context, answer, readRequest } from '@/server/http';
import { receiverAsked } from '@/server/report-facts';

/** Hands a revision over. Answers line by line with progress; cancelled, nothing is kept. */
export const POST = (request: Request, context: Context) =>
  answer(request, async () => {
    const { id, revision, job, ...what } = await readRequest(handOverRequest, request, context, true);
    checkFormat(what.format, true);
    const character = await characterById(database(), id);
    lineTo(character, revision);
    if (what.receiver) receiverAsked(what.receiver);
    return streamJob(
      request,
      'It could not be handed over; nothing was kept. Try again, and report it if it stays.',
      wantedBy('hand over', job, {
        title: `handing ${character.name} over`,
        input: what,
        character: id,
        base: revision,
      }),
    );
  });
