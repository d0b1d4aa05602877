/** Steps that begin a line: nothing of them is done again on another one. */
import { LeftOut, defineStep, fileNames } from './step';

const begins = (): never => {
  throw new LeftOut('it began a line', 'not needed');
};

export const imported = defineStep({
  kind: 'import',
  words: ({ files }) => fileNames(files),
  doAgain: begins,
});

export const copied = defineStep({
  kind: 'copy',
  words: ({ from }) => `From revision ${from.revision} of ${from.character}, “${from.label}”.`,
  doAgain: begins,
});

export const delivered = defineStep({
  kind: 'delivery',
  words: ({ files, rows = [] }) => `${fileNames(files)}; ${rerunWords(rows)}`,
  doAgain: begins,
});

function rerunWords(rows: readonly { label: string; outcome: string }[]): string {
  const left = rows.filter((row) => row.outcome === 'does not fit').map((row) => row.label);
  const unfit = left.length > 0 ? `, of which ${left.length} no longer fit: ${left.join(', ')}` : '';
  return `${rows.length} recorded steps done again${unfit}.`;
}
