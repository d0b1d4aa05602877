/** Every kind of step that the ledger can hold. */
import type { Step } from '../../core/contracts/step';
import { filesAdded } from './add';
import { copied, delivered, imported } from './beginnings';
import { editOfHand } from './edit';
import { remedyStep } from './remedy';
import { weightsMoved } from './remap';
import type { Again, StepDone, StepKind, StepOf } from './step';

export const STEPS = [imported, delivered, copied, filesAdded, remedyStep, editOfHand, weightsMoved] as const;

type Listed = (typeof STEPS)[number]['kind'];

/** The kind of a step. Every one that the ledger knows stands in the list: this does not compile otherwise. */
function kindOf<K extends Step['kind'] & Listed>({ kind }: StepOf<K>): StepKind<K> {
  return STEPS.find((candidate) => candidate.kind === kind) as unknown as StepKind<K>;
}

/** What a step did, in words for a report. */
export const stepWords = (step: Step): string => kindOf(step).words(step as never);

/** Does a recorded step again on the revision that stands. */
export const doStepAgain = (again: Again, step: Step): Promise<StepDone> =>
  Promise.resolve().then(() => kindOf(step).doAgain(again, step as never));

export { addFiles } from './add';
export { applyEdit } from './edit';
export { applyRemedy } from './remedy';
export { type WeightsMoved, remapCharacter } from './remap';
export { LeftOut, type StepDone, type StepOptions, guardFresh } from './step';
