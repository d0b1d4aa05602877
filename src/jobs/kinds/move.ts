import type { MoveHow } from '../../core/contracts/step';
import { mixed, number, object, string } from 'yup';
import { characterById } from '../../server/characters';
import { Refused } from '../../server/refused';
import { guardFresh, remapCharacter } from '../../server/steps';
import type { MoveAnswer } from '../../routes/jobs';
import { defineJob } from '../job';

/** Moves a character's weights onto another skeleton, as one step on the revision that it was asked on. */
export const move = defineJob({
  kind: 'move',
  version: 1,
  lane: 'in heaps',
  seconds: 30 * 60,
  input: object({
    target: object({ id: string().required().max(100), title: string().required().max(200) }).required(),
    limit: number().integer().min(1).max(64).required(),
    weights: mixed<MoveHow['weights']>().oneOf(['example', 'rules']).required(),
  }),
  run: async (
    { target, limit, weights },
    { db, base, character: id, signal, tell, ended },
  ): Promise<MoveAnswer> => {
    if (!base || !id)
      throw new Refused('The character was removed from the house; there is nothing to move.', 404);
    const character = await characterById(db, id);
    guardFresh(character, base);
    const before = character.revisions.find((r) => r.id === base)?.counts ?? null;
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
      seconds: move.seconds,
      ended: (trx, moved) => ended(trx, answer(moved)),
    });
    return answer(done);
  },
});
