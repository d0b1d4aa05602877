import type { Brief } from '../../core/house/brief';
import type { NamedParams } from '../../core/contracts/step';
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
import {
  type EarlierAudit,
  type Made,
  type Wire,
  auditCharacter,
  earlierOf,
  makeRevision,
  openWire,
} from '../task';

export interface EditInput {
  readonly wire: Wire;
  readonly brief: Brief;
  /** A bundle of patches. */
  readonly patches: Uint8Array;
  /** Given where a recorded edit is done again: what the indices of every patch stood for. */
  readonly names?: readonly NamedParams[];
  readonly earlier?: EarlierAudit;
}

export interface EditMade extends Made {
  readonly title: string;
  /** The patches as they were done here, as a bundle. */
  readonly patch: Uint8Array;
  readonly names: readonly NamedParams[];
  /** What could not be done again, in words. */
  readonly misfits: readonly string[];
}

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
