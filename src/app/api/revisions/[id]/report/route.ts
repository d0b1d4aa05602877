import { briefKey } from '@/core/house/brief';
import { reportRequest } from '@/routes/revisions';
import { earlierAudit } from '@/server/audits';
import { getBlob } from '@/server/blobs';
import { characterById } from '@/server/characters';
import { database } from '@/server/database';
import { lineTo } from '@/server/delivery';
import { lastHandedMotion } from '@/server/dockets';
import { fileStem } from '@/server/file-names';
import { type Context, REPORT_POLICY, answer, attachment, readRequest } from '@/server/http';
import { runTask } from '@/server/pool';
import { factsOf, receiverAsked } from '@/server/report-facts';
import { revisionById, wireOf } from '@/server/revisions';
import { standing, today } from '@/server/waivers';

/** The report of a revision as HTML that prints well. */
export const GET = (request: Request, context: Context) =>
  answer(request, async () => {
    const { id, download, receiver } = await readRequest(reportRequest, request, context);
    const db = database();
    const character = await characterById(db, (await revisionById(db, id)).characterId);
    const { wants } = character;
    const line = lineTo(character, id);
    const last = line[line.length - 1];
    const { html } = await runTask('report', async () => ({
      wire: await wireOf(db, id),
      brief: wants,
      audited: await earlierAudit(db, id, briefKey(wants)),
      handed: await lastHandedMotion(db, character.id),
      picture: await pictureOf(last.picture),
      waivers: standing(character.waivers),
      moment: { today: today(), revision: last.number },
      facts: factsOf(character, line),
      ...(receiver ? { receiver: receiverAsked(receiver) } : {}),
    }));
    return new Response(html, {
      headers: {
        'content-type': 'text/html; charset=utf-8',
        ...REPORT_POLICY,
        ...(download === undefined ? {} : attachment(`${fileStem(character.name, last.number)}-report.html`)),
      },
    });
  });

async function pictureOf(hash: string | null): Promise<string | null> {
  const png = hash ? await getBlob(database(), hash) : null;
  return png ? `data:image/png;base64,${Buffer.from(png).toString('base64')}` : null;
}
