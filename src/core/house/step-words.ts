import type { Step } from '../contracts/step';
import { remedyById } from './registry';

/** What a step did, in words for a report. */
export function stepWords(step: Step): string {
  switch (step.kind) {
    case 'import':
      return fileNames(step.files);
    case 'remap':
      return `Onto ${step.target}, at most ${step.limit} influences a point.`;
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

const fileNames = (files: readonly { name: string }[]) => files.map((f) => f.name).join(', ');

function rerunWords(rows: readonly { label: string; outcome: string }[]): string {
  const left = rows.filter((r) => r.outcome === 'does not fit').map((r) => r.label);
  const unfit = left.length > 0 ? `, of which ${left.length} no longer fit: ${left.join(', ')}` : '';
  return `${rows.length} recorded steps done again${unfit}.`;
}
