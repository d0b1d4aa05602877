import { mixed, number, object, string } from 'yup';
import { remedyById } from '@/core/house/registry';
import type { CrosswalkFile } from '@/core/rooms/crosswalk/file';
import { addRevision, characterById, stale, wireOf } from '@/server/characters';
import { saveCrosswalk } from '@/server/crosswalks';
import { database } from '@/server/database';
import { answer, bodyOf, checked, uuid } from '@/server/http';
import { Refused, onThread } from '@/server/pool';

const schema = object({ id: uuid() });
const remedyStep = object({
  base: uuid(),
  kind: string().oneOf(['remedy']).required(),
  remedy: string().required(),
  params: mixed<Record<string, unknown>>().default({}),
  label: string().max(200),
});
const remapStep = object({
  base: uuid(),
  kind: string().oneOf(['remap']).required(),
  label: string().max(200),
  limit: number().integer().min(1).max(64).required(),
  target: object({ id: string(), revision: string().uuid(), title: string().required() }).required(),
  crosswalk: mixed<CrosswalkFile>().required(),
});

/** Applies one step to the revision it names: the result is a new revision. 409 where the head has moved. */
export async function POST(request: Request, { params }: { params: Promise<{ id: string }> }) {
  return answer(request, async () => {
    const { id } = checked(schema, await params);
    const body = (await bodyOf(request)) as { kind?: string; base?: string };
    const db = database();
    const character = await characterById(db, id);
    const numberOf = (r: string | null) => character.revisions.find((x) => x.id === r)?.number ?? null;
    if (typeof body.base === 'string' && body.base !== character.head)
      throw stale(numberOf(body.base), numberOf(character.head), body.base, character.head);
    if (body.kind === 'remap') {
      const step = checked(remapStep, body);
      if (!step.target.id && !step.target.revision)
        throw new Refused('The step names no skeleton to map to.', 400);
      const target = step.target.revision
        ? { wire: await wireOf(db, step.target.revision) }
        : { id: step.target.id as string };
      const made = await onThread({
        task: 'remap',
        wire: await wireOf(db, step.base),
        target,
        crosswalk: step.crosswalk,
        limit: step.limit,
      });
      const revision = await addRevision(db, id, step.base, {
        ...made,
        label: step.label || `moved to ${step.target.title}`,
        step: {
          kind: 'remap',
          target: step.target.id ?? step.target.revision ?? '',
          limit: step.limit,
          crosswalk: step.crosswalk,
          notes: [...made.notes],
          proof: (made.effects as { deviation?: { max: number; rms: number; p95: number } }).deviation,
        },
      });
      await saveCrosswalk(
        db,
        step.crosswalk.source.fingerprint,
        step.crosswalk.target.fingerprint,
        step.target.title,
        step.crosswalk,
      );
      return Response.json({ revision }, { status: 201 });
    }
    const step = checked(remedyStep, body);
    const remedy = remedyById(step.remedy);
    if (!remedy) throw new Refused(`There is no remedy “${step.remedy}”.`, 400);
    const made = await onThread({
      task: 'remedy',
      wire: await wireOf(db, step.base),
      brief: character.brief,
      remedy: step.remedy,
      params: step.params,
    });
    const revision = await addRevision(db, id, step.base, {
      ...made,
      brief: character.brief,
      label: step.label || (remedy.says?.(step.params) ?? remedy).title.toLowerCase(),
      step: { kind: 'remedy', remedy: step.remedy, params: step.params, names: made.names },
    });
    return Response.json({ revision, effects: made.effects }, { status: 201 });
  });
}
