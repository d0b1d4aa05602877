import type { Kysely } from 'kysely';
import type { NamedParams, Step } from '../../core/contracts/step';
import { briefKey } from '../../core/house/brief';
import type { CharacterRecord } from '../../routes/characters';
import { earlierAudit } from '../audits';
import { getBlob, hashOf } from '../blobs';
import type { Database } from '../database';
import { runTask } from '../pool';
import { wireOf } from '../revisions';
import { LeftOut, type StepDone, type StepOptions, defineStep, keep } from './step';

/** What the hand did, to be kept. */
export interface EditStep {
  /** A bundle of patches. */
  readonly patches: Uint8Array;
  readonly label?: string;
  readonly names?: readonly NamedParams[];
}

/** Keeps what the hand did on top of `base` as one step. Throws {@link Refused}. */
export async function applyEdit(
  db: Kysely<Database>,
  character: CharacterRecord,
  base: string,
  { patches, label, names }: EditStep,
  options: StepOptions = {},
): Promise<StepDone> {
  const wire = await wireOf(db, base);
  const earlier = await earlierAudit(db, base, briefKey(character.wants));
  const made = await runTask('edit', { wire, brief: character.wants, patches, names, earlier }, options);
  const patch = hashOf(made.patch);
  const step: Step = { kind: 'edit', title: made.title, patch, names: [...made.names] };
  const kept = new Map([[patch, made.patch]]);
  return keep(
    db,
    character,
    base,
    made,
    { label: label || made.title, step, kept },
    { misfits: made.misfits, ...options },
  );
}

export const editOfHand = defineStep({
  kind: 'edit',
  words: ({ title }) => `By hand: ${title}.`,
  async doAgain({ db, character, head, label, options }, { patch, names }) {
    const patches = await getBlob(db, patch);
    if (!patches) throw new LeftOut('what the hand did is not kept here; do it again by hand');
    return applyEdit(db, character, head, { patches, names, label }, options);
  },
});
