import { effectsText } from '@/core/contracts/effects-words';
import { briefKey } from '@/core/house/brief';
import { stepWords } from '@/core/house/step-words';
import { crosswalkFileSchema } from '@/core/rooms/crosswalk/file';
import { type Receiver, receiverById, receiverFrom } from '@/core/rooms/docket/receivers';
import type { MoveFacts } from '@/core/rooms/docket/report';
import { reportRequest } from '@/routes/revisions';
import { earlierAudit } from '@/server/audits';
import { getBlob } from '@/server/blobs';
import { characterById } from '@/server/characters';
import { database } from '@/server/database';
import { lineTo } from '@/server/delivery';
import { fileStem } from '@/server/file-names';
import { type Context, answer, readRequest } from '@/server/http';
import { runTask } from '@/server/pool';
import { Refused } from '@/server/refused';
import { revisionById, wireOf } from '@/server/revisions';
import { standing, today } from '@/server/waivers';

/** The report of a revision as HTML that prints well. */
export const GET = (request: Request, context: Context) =>
  answer(request, async () => {
    const { id, download, receiver } = await readRequest(reportRequest, request, context);
    const db = database();
    const character = await characterById(db, (await revisionById(db, id)).characterId);
    const { wants } = character;
    const { unit } = wants;
    const line = lineTo(character, id);
    const last = line[line.length - 1];
    const facts = {
      title: character.name,
      revision: last.number,
      date: last.createdAt.slice(0, 10),
      pins: character.pins,
      ...moveFacts(line),
      steps: line.map(({ number, label, step, effects, note }) => ({
        number,
        label,
        detail: [stepWords(step), effectsText(effects, unit)].filter(Boolean).join(' '),
        note,
      })),
    };
    const { html } = await runTask('report', async () => ({
      wire: await wireOf(db, id),
      brief: wants,
      audited: await earlierAudit(db, id, briefKey(wants)),
      picture: await pictureOf(last.picture),
      waivers: standing(character.waivers),
      moment: { today: today(), revision: last.number },
      facts,
      ...(receiver ? { receiver: receiverAsked(receiver) } : {}),
    }));
    return new Response(html, {
      headers: {
        'content-type': 'text/html; charset=utf-8',
        'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'; img-src data:",
        ...(download === undefined ? {} : attachment(`${fileStem(character.name, last.number)}-report.html`)),
      },
    });
  });

/** The last move onto another skeleton of a line. */
function moveFacts(line: ReturnType<typeof lineTo>): { move?: MoveFacts } {
  const step = line.findLast((r) => r.step.kind === 'remap')?.step;
  if (step?.kind !== 'remap') return {};
  const { target, rules } = crosswalkFileSchema.validateSync(step.crosswalk);
  const pairs = rules.map((r) => ({
    source: r.source,
    rule: r.rule,
    target: [r.target ?? '', ...(r.further ?? []).map((t) => t.name)].filter(Boolean).join(', '),
  }));
  const { proof, price } = step;
  return {
    move: { title: target.title, how: stepWords({ ...step, target: target.title }), pairs, proof, price },
  };
}

/** A receiver of the house by its id, or one by its settings. Throws {@link Refused}. */
function receiverAsked(text: string): Receiver {
  const known = receiverById(text);
  if (known) return known;
  try {
    return receiverFrom(JSON.parse(text));
  } catch (error) {
    const why = error instanceof Error ? error.message : 'they cannot be read';
    throw new Refused(`These are not the settings of a receiver: ${why}.`, 400);
  }
}

async function pictureOf(hash: string | null): Promise<string | null> {
  const png = hash ? await getBlob(database(), hash) : null;
  return png ? `data:image/png;base64,${Buffer.from(png).toString('base64')}` : null;
}

const attachment = (name: string) => ({ 'content-disposition': `attachment; filename="${name}"` });
