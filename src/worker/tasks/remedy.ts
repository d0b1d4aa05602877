import type { Character } from '../../core/character/model';
import { checkedBy } from '../../core/contracts/checked';
import { type Params, RemedyError } from '../../core/contracts/remedy';
import { effectsOf } from '../../core/house/effects';
import { remedyById } from '../../core/house/registry';
import { nameParams, refitParams } from '../../core/house/rerun';
import type { RemedyInput, RemedyMade } from '../../tasks/remedy';
import { auditCharacter, earlierOf, makeRevision, need, openWire } from '../task';

/** Applies a remedy to a revision. Throws RemedyError with one sentence where it cannot be done. */
export function applyRemedy(input: RemedyInput): RemedyMade {
  const before = openWire(input.wire);
  const remedy = need(remedyById(input.remedy), `the remedy “${input.remedy}”`);
  const { brief } = input;
  const { params: fitted, misfits } = fittedParams(input, before);
  const params = checkedBy(remedy.params, fitted, { stripUnknown: true }) as Params;
  const promised = remedy.promises(before, params, brief);
  const after = remedy.apply(before, params, brief);
  return {
    ...makeRevision(after, {
      effects: effectsOf(before, after, promised),
      from: { wire: input.wire, character: before },
    }),
    params,
    names: nameParams(before, remedy, params),
    misfits,
    audited: auditCharacter(after, brief, { earlier: earlierOf(before, brief, input.earlier) }),
  };
}

function fittedParams(
  { remedy, params, names }: RemedyInput,
  character: Character,
): { readonly params: Params; readonly misfits: readonly string[] } {
  if (!names) return { params, misfits: [] };
  const fit = refitParams(character, need(remedyById(remedy), `the remedy “${remedy}”`), params, names);
  if ('missing' in fit) throw new RemedyError(fit.missing);
  return fit;
}
