/** What a report tells besides what is in the character. */
import { stepWords } from './steps';
import { effectsText } from '../core/contracts/effects-words';
import { crosswalkFileSchema } from '../core/rooms/crosswalk/file';
import { type Receiver, receiverById, receiverFrom } from '../core/rooms/docket/receivers';
import type { MoveFacts, ReportFacts } from '../core/rooms/docket/report';
import type { CharacterRecord, Revision } from '../routes/characters';
import { Refused } from './refused';

/** The facts of a line of revisions, for a report on its last one. */
export function factsOf(character: CharacterRecord, line: readonly Revision[]): ReportFacts {
  const { unit } = character.wants;
  const last = line[line.length - 1];
  return {
    title: character.name,
    revision: last.number,
    date: last.createdAt.slice(0, 10),
    pins: character.pins,
    ...moveFacts(line),
    steps: line.map(({ number, label, step, effects, note }) => ({
      number,
      label,
      detail: [stepWords(step), effectsText(effects, unit)].filter(Boolean).join(' '),
      note,
    })),
  };
}

/** The last move onto another skeleton of a line. */
function moveFacts(line: readonly Revision[]): { move?: MoveFacts } {
  const step = line.findLast((row) => row.step.kind === 'remap')?.step;
  if (step?.kind !== 'remap') return {};
  const { target, rules } = crosswalkFileSchema.validateSync(step.crosswalk);
  const pairs = rules.map((rule) => ({
    source: rule.source,
    rule: rule.rule,
    target: [rule.target ?? '', ...(rule.further ?? []).map((target) => target.name)]
      .filter(Boolean)
      .join(', '),
  }));
  const { proof, price } = step;
  return {
    move: { title: target.title, how: stepWords({ ...step, target: target.title }), pairs, proof, price },
  };
}

/** A receiver of the house by its id, or one by its settings. Throws {@link Refused}. */
export function receiverAsked(text: string): Receiver {
  const known = receiverById(text);
  if (known) return known;
  try {
    return receiverFrom(JSON.parse(text));
  } catch (error) {
    const why = error instanceof Error ? error.message : 'they cannot be read';
    throw new Refused(`These are not the settings of a receiver: ${why}.`, 400);
  }
}
