import { joinCharacters } from '../../core/character/join';
import { ASPECTS } from '../../core/contracts/aspect';
import { promise } from '../../core/contracts/remedy';
import { readCharacter } from '../../core/formats';
import { effectsOf } from '../../core/house/effects';
import type { AddInput } from '../../tasks/add';
import type { Made, Tell } from '../../tasks/task';
import { LIMITS, auditCharacter, makeRevision, openWire } from '../task';

/** Adds what files hold to a character. What was there must not move. */
export function addFiles({ wire, files, options, brief }: AddInput, tell: Tell): Made {
  const before = openWire(wire);
  tell({ stage: 'reading', share: 0.15 });
  const addition = readCharacter(files, LIMITS, options);
  tell({ stage: 'joining', share: 0.5 });
  const after = joinCharacters(before, addition);
  const audited = auditCharacter(after, brief, { tell, from: 0.55, to: 0.8 });
  tell({ stage: 'drawing its picture', share: 0.8 });
  const effects = effectsOf(before, after, promise(ASPECTS));
  const notes = after.notes.filter((note) => !before.notes.includes(note));
  return {
    ...makeRevision(after, { effects, notes, from: { wire, character: before } }),
    name: addition.name,
    audited,
  };
}
