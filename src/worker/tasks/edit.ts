import { RemedyError } from '../../core/contracts/remedy';
import {
  type Patch,
  applyPatches,
  packPatches,
  refitPatches,
  titleOf,
  unpackPatches,
} from '../../core/house/edit';
import { effectsOf } from '../../core/house/effects';
import type { EditInput, EditMade } from '../../tasks/edit';
import { auditCharacter, earlierOf, makeRevision, openWire } from '../task';

/** Does what the hand did as one step. Throws RemedyError where none of it can be done. */
export function applyEdit(input: EditInput): EditMade {
  const before = openWire(input.wire);
  const { brief } = input;
  const { patches, misfits } = fitPatches(before, input);
  if (patches.length === 0) throw new RemedyError(misfits[0] ?? 'The edit holds nothing that can be done.');
  const { character: after, promised, names } = applyPatches(before, patches, brief);
  return {
    ...makeRevision(after, {
      effects: effectsOf(before, after, promised),
      from: { wire: input.wire, character: before },
    }),
    title: titleOf(patches),
    patch: packPatches(patches),
    names,
    misfits,
    audited: auditCharacter(after, brief, { earlier: earlierOf(before, brief, input.earlier) }),
  };
}

function fitPatches(
  character: Parameters<typeof refitPatches>[0],
  { patches, names }: EditInput,
): { patches: Patch[]; misfits: string[] } {
  const list = unpackPatches(patches);
  return names ? refitPatches(character, list, names) : { patches: list, misfits: [] };
}
