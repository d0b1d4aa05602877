import { isRestSolved } from '../rooms/crosswalk/remap';
import type { MoveHow, Step } from '../contracts/step';
import { remedyById } from './registry';

/** What a step did, in words for a report. */
export function stepWords(step: Step): string {
  switch (step.kind) {
    case 'import':
      return fileNames(step.files);
    case 'remap':
      return `Onto ${targetOf(step.crosswalk) ?? step.target}, at most ${step.limit} influences a point${howWords(step.how)}.`;
    case 'remedy': {
      const remedy = remedyById(step.remedy);
      return (remedy?.says?.(step.params) ?? remedy)?.does ?? step.remedy;
    }
    case 'edit':
      return `By hand: ${step.title}.`;
    case 'copy':
      return `From revision ${step.from.revision} of ${step.from.character}, “${step.from.label}”.`;
    case 'add':
      return `${fileNames(step.files)}, read in ${step.unit}.`;
    case 'delivery':
      return `${fileNames(step.files)}; ${rerunWords(step.rows ?? [])}`;
  }
}

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

const fileNames = (files: readonly { name: string }[]) => files.map((file) => file.name).join(', ');

function rerunWords(rows: readonly { label: string; outcome: string }[]): string {
  const left = rows.filter((row) => row.outcome === 'does not fit').map((row) => row.label);
  const unfit = left.length > 0 ? `, of which ${left.length} no longer fit: ${left.join(', ')}` : '';
  return `${rows.length} recorded steps done again${unfit}.`;
}
