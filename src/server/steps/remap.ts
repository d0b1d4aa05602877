import type { Kysely } from 'kysely';
import { fingerprintOf } from '../../core/anatomy/skeleton';
import { OWN_SKELETON, skeletonWanted } from '../../core/anatomy/skeletons/wanted';
import type { MoveHow, Step } from '../../core/contracts/step';
import { briefKey } from '../../core/house/brief';
import { isRestSolved } from '../../core/rooms/crosswalk/remap';
import type { CharacterRecord } from '../../routes/characters';
import type { CrosswalkOrigin } from '../../tasks/remap';
import { briefByKey } from '../briefs';
import { crosswalksOnto, saveCrosswalk } from '../crosswalks';
import type { Database } from '../database';
import { runTask } from '../pool';
import { Refused } from '../refused';
import { wireOf } from '../revisions';
import { type StepDone, type StepOptions, defineStep, keep } from './step';

/** Weights to be moved onto another skeleton. */
export interface RemapStep {
  readonly target: {
    readonly id?: string;
    readonly revision?: string;
    readonly title: string;
    /** The brief, as id@version, whose own skeleton it is; absent for the one of the character. */
    readonly skeletonOf?: string;
  };
  /** Absent: what was saved for this skeleton or one nearly like it, else what is suggested. */
  readonly crosswalk?: unknown;
  readonly limit: number;
  readonly how?: MoveHow;
  /** A revision whose clips are examples for the weights as well. */
  readonly motion?: string;
  readonly label?: string;
}

/** As weights were moved before there was a choice. */
const PLAIN: MoveHow = { mode: 'target', lengths: 'kept', weights: 'rules' };

/** What came of a move, and how its crosswalk came about. */
export type WeightsMoved = StepDone & { readonly walk: CrosswalkOrigin };

/** Moves the weights onto another skeleton on top of `base`. Throws {@link Refused}. */
export async function remapCharacter(
  db: Kysely<Database>,
  character: CharacterRecord,
  base: string,
  { target, crosswalk, limit, how = PLAIN, motion, label }: RemapStep,
  options: StepOptions<WeightsMoved> = {},
): Promise<WeightsMoved> {
  const name = target.revision ?? target.id;
  const giver = target.skeletonOf ? await briefByKey(db, target.skeletonOf) : character.wants;
  const ours = target.id
    ? skeletonWanted({ skeleton: target.id, ownSkeleton: giver.ownSkeleton })
    : undefined;
  const saved = crosswalk === undefined && ours ? await crosswalksOnto(db, fingerprintOf(ours)) : [];
  if (!name) throw new Refused('The step names no skeleton to map to.', 400);
  const made = await runTask(
    'remap',
    {
      wire: await wireOf(db, base),
      brief: character.wants,
      target: target.revision ? { wire: await wireOf(db, target.revision) } : { id: name, brief: giver },
      ...(crosswalk === undefined ? { saved } : { crosswalk }),
      limit,
      how,
      ...(motion && { motion: await wireOf(db, motion) }),
    },
    options,
  );
  const { deviation: proof, price } =
    made.effects.kind === 'remapped' ? made.effects : { deviation: undefined, price: undefined };
  const { crosswalk: file, notes } = made;
  const step: Step = {
    kind: 'remap',
    target: name,
    ...(name === OWN_SKELETON && { skeletonOf: briefKey(giver) }),
    limit,
    how,
    ...(motion && { motion }),
    crosswalk: file,
    notes: [...notes],
    proof,
    price,
  };
  const words = { label: label || `moved to ${target.title}`, step };
  const { ended, signal } = options;
  const done = await keep(db, character, base, made, words, {
    along: (trx) => saveCrosswalk(trx, file),
    ...(ended && { ended: (trx, step) => ended(trx, { ...step, walk: made.walk }) }),
    signal,
  });
  return { ...done, walk: made.walk };
}

export const weightsMoved = defineStep({
  kind: 'remap',
  words: (step) =>
    `Onto ${targetOf(step.crosswalk) ?? step.target}, at most ${step.limit} influences a point${howWords(step.how)}.`,
  doAgain({ db, character, head, label, options }, { crosswalk, limit, how, motion, skeletonOf, target }) {
    const isRevision = /^[0-9a-f]{8}-/.test(target);
    const skeleton = isRevision ? { revision: target } : { id: target, skeletonOf };
    const again = { target: { title: target, ...skeleton }, crosswalk, limit, how, motion, label };
    return remapCharacter(db, character, head, again, options);
  },
});

/** What the skeleton is called that a crosswalk leads to. */
const targetOf = (crosswalk: unknown): string | undefined =>
  (crosswalk as { target?: { title?: string } } | null)?.target?.title;

function howWords(how: MoveHow | undefined): string {
  if (!how) return '';
  const lengths = how.lengths === 'taken' ? ', its bones as long as there' : '';
  const rest = isRestSolved(how) ? ', its rest shape by example' : '';
  const mesh = how.mode === 'mesh' ? `; the mesh brought to its rest pose${lengths}${rest}` : '';
  return `${mesh}${how.weights === 'example' ? '; weights by example' : '; weights by the rules alone'}`;
}
