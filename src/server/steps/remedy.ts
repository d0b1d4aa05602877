import type { Kysely } from 'kysely';
import type { Params } from '../../core/contracts/remedy';
import type { NamedParams, Step } from '../../core/contracts/step';
import { briefKey } from '../../core/house/brief';
import { remedyById } from '../../core/house/registry';
import type { CharacterRecord } from '../../routes/characters';
import { earlierAudit } from '../audits';
import type { Database } from '../database';
import { runTask } from '../pool';
import { Refused } from '../refused';
import { wireOf } from '../revisions';
import { LeftOut, type StepDone, type StepOptions, defineStep, keep } from './step';

/** A remedy to be applied. */
export interface RemedyStep {
  readonly remedy: string;
  readonly params: Params;
  readonly label?: string;
  /** Given where a recorded step is done again: what its indices stood for. */
  readonly names?: NamedParams;
}

/** Applies a remedy on top of `base`. Throws {@link Refused}. */
export async function applyRemedy(
  db: Kysely<Database>,
  character: CharacterRecord,
  base: string,
  { remedy: id, params, label, names }: RemedyStep,
  options: StepOptions = {},
): Promise<StepDone> {
  const remedy = remedyById(id);
  if (!remedy) throw new Refused(`There is no remedy “${id}”.`, 400);
  const wire = await wireOf(db, base);
  const earlier = await earlierAudit(db, base, briefKey(character.wants));
  const made = await runTask(
    'remedy',
    { wire, brief: character.wants, remedy: id, params, names, earlier },
    options,
  );
  const step: Step = { kind: 'remedy', remedy: id, params: made.params, names: made.names };
  const title = (remedy.says?.(made.params) ?? remedy).title.toLowerCase();
  return keep(
    db,
    character,
    base,
    made,
    { label: label || title, step },
    { misfits: made.misfits, ...options },
  );
}

export const remedyStep = defineStep({
  kind: 'remedy',
  words(step) {
    const remedy = remedyById(step.remedy);
    return (remedy?.says?.(step.params) ?? remedy)?.does ?? step.remedy;
  },
  doAgain({ db, character, head, label, options }, { remedy, params, names = {} }) {
    if (!remedyById(remedy)) throw new LeftOut(`the remedy “${remedy}” is not known any more`);
    return applyRemedy(db, character, head, { remedy, params, names, label }, options);
  },
});
