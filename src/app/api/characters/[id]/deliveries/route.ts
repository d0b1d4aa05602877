import { object } from 'yup';
import { remedyById } from '@/core/audit/registry';
import type { RerunRow, Step } from '@/core/docket/step';
import { filesOf, told } from '@/server/arrivals';
import { addDelivery, addRevision, characterById, wireOf } from '@/server/characters';
import { database } from '@/server/database';
import { answer, checked, uuid } from '@/server/http';
import { Refused, onThread } from '@/server/pool';

const schema = object({ id: uuid(), base: uuid() });

/** Sentences by which a remedy says that there was nothing for it to do. */
const NOT_NEEDED = /already|nothing (is )?to (move|turn|change|be removed|detach)|no strays|run the audit again/i;

/**
 * A new delivery of a character that is there: it begins a line of its own, and the steps that led to `base` are done again on
 * it, with what they name found by name. A step that no longer fits is left out and told, with the reason.
 */
export async function POST(request: Request, { params }: { params: Promise<{ id: string }> }) {
  return answer(request, async () => {
    const { form, files, options, listed } = await filesOf(request);
    const { id, base } = checked(schema, { ...(await params), base: form.get('base') });
    const db = database();
    const character = await characterById(db, id);
    const line: typeof character.revisions = [];
    for (let r = character.revisions.find((x) => x.id === base); r; r = character.revisions.find((x) => x.id === r?.parent)) line.unshift(r);
    if (line.length === 0) throw new Refused('That revision does not belong to this character; reload the page.', 404);
    return told('The delivery could not be taken in; what came so far is in the ledger. Try again, and report it if it stays.', async (say, signal) => {
      const made = await onThread({ task: 'import', files, options, brief: character.brief }, { onProgress: (p) => say({ stage: p.stage, share: p.share * 0.5 }), signal, giving: true });
      const step: Step = { kind: 'delivery', files: listed, notes: [...made.notes], after: line[line.length - 1].number };
      const first = await addDelivery(db, id, base, { ...made, brief: character.brief, label: 'delivered anew', step });
      let head = first.id;
      const rows: RerunRow[] = [];
      const again = line.slice(1);
      for (const [k, r] of again.entries()) {
        say({ stage: `doing again: ${r.label}`, share: 0.5 + 0.5 * (k / again.length) });
        const row = await once(r, head);
        rows.push(row.row);
        head = row.head;
      }
      await db.updateTable('revisions').set({ step: JSON.stringify({ ...step, rows }) }).where('id', '=', first.id).execute();
      return { name: made.name, notes: made.notes, rows, from: line[line.length - 1].number };
    });

    /** One recorded step on the revision that stands; what became of it, and which revision stands now. */
    async function once(r: (typeof line)[number], head: string): Promise<{ row: RerunRow; head: string }> {
      const recorded = r.step as Step;
      const left = (why: string, outcome: RerunRow['outcome'] = 'does not fit') => ({ row: { label: r.label, outcome, why }, head });
      if (recorded.kind === 'add') return left(`the files ${recorded.files.map((f) => f.name).join(', ')} are to be added again by hand`);
      if (recorded.kind === 'import' || recorded.kind === 'delivery' || recorded.kind === 'copy') return left('it began a line', 'not needed');
      const wire = await wireOf(db, head);
      try {
        if (recorded.kind === 'remap') {
          const target = /^[0-9a-f]{8}-/.test(recorded.target) ? { wire: await wireOf(db, recorded.target) } : { id: recorded.target };
          const made = await onThread({ task: 'remap', wire, target, crosswalk: recorded.crosswalk, limit: recorded.limit });
          const next = await addRevision(db, id, head, { ...made, label: r.label, step: { ...recorded, notes: [...made.notes], proof: (made.effects as { deviation?: { max: number; rms: number; p95: number } }).deviation } });
          return { row: { label: r.label, outcome: 'done' }, head: next.id };
        }
        if (!remedyById(recorded.remedy)) return left(`the remedy “${recorded.remedy}” is not known any more`);
        const made = await onThread({ task: 'again', wire, brief: character.brief, remedy: recorded.remedy, params: recorded.params, names: recorded.names ?? {} });
        const next = await addRevision(db, id, head, { ...made, brief: character.brief, label: r.label, step: { kind: 'remedy', remedy: recorded.remedy, params: recorded.params, names: made.names } });
        return { row: { label: r.label, outcome: 'done' }, head: next.id };
      } catch (error) {
        if (!(error instanceof Refused) || error.status === 409) throw error;
        return left(error.message, NOT_NEEDED.test(error.message) && !error.message.startsWith('there is no') ? 'not needed' : 'does not fit');
      }
    }
  });
}
