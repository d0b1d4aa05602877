import type { MoveHow } from '../../core/contracts/step';
import { mixed, number, object, string } from 'yup';
import { remapCharacter } from '../../server/steps';
import type { MoveAnswer } from '../../routes/jobs';
import { type JobContext, defineJob } from '../job';
import { stepOn } from './steps';

/** Moves a character's weights onto another skeleton, as one step on the revision that it was asked on. */
export const move = defineJob({
  kind: 'move',
  version: 1,
  lane: 'in heaps',
  changes: true,
  bounds: { seconds: 30 * 60 },
  input: object({
    target: object({ id: string().required().max(100), title: string().required().max(200) }).required(),
    limit: number().integer().min(1).max(64).required(),
    weights: mixed<MoveHow['weights']>().oneOf(['example', 'rules']).required(),
  }),
  run: async ({ target, limit, weights }, at: JobContext<MoveAnswer>): Promise<MoveAnswer> => {
    const { db, signal, bounds, tell, ended } = at;
    const { character, base } = await stepOn(at);
    const before = character.revisions.find((revision) => revision.id === base)?.counts ?? null;
    const { unit, proofTolerance } = character.wants;
    const answer = (done: Omit<MoveAnswer, 'before' | 'unit' | 'proofTolerance'>): MoveAnswer => ({
      ...done,
      before,
      unit,
      proofTolerance,
    });
    const step = { target, limit, how: { mode: 'target', lengths: 'kept', weights } } as const;
    const done = await remapCharacter(db, character, base, step, {
      signal,
      onProgress: tell,
      bounds,
      ended: (trx, moved) => ended(trx, answer(moved)),
    });
    return answer(done);
  },
});
