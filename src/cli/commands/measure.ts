import type { Measure } from '../../core/contracts/measure';
import { measuresOf } from '../../core/rooms/placement/measures';
import { type Command, READING, briefOf, print, printJson, readOptionsOf } from '../command';
import { UsageError } from '../errors';
import { readFile } from '../files';

/** All measures of placement, each beside its target: exit 1 where one is off. */
export const measureCommand: Command = {
  name: 'measure',
  takes: 'FILE',
  options: { brief: { value: 'B' }, json: {}, ...READING },
  run(given, files) {
    if (files.length !== 1) throw new UsageError('Name one file to measure.');
    const brief = briefOf(given);
    const measures = measuresOf(readFile(files[0], readOptionsOf(given)), brief);
    if (given.json) printJson({ file: files[0], brief: brief.id, unit: brief.unit, measures });
    else for (const m of measures) print(lineOf(m));
    return measures.some((m) => m.state === 'off') ? 1 : 0;
  },
};

const SIGNS = { met: '✓', off: '✗', told: ' ' } as const;
const shown = (x: number | string) => (typeof x === 'number' ? x.toFixed(3) : x);

function lineOf(m: Measure): string {
  const row = `${SIGNS[m.state]} ${m.label.padEnd(38)} ${shown(m.value).padStart(10)} ${m.unit.padEnd(12)}`;
  if (m.target === null) return row.trimEnd();
  const within = m.tolerance === null ? '' : ` ± ${m.tolerance.toFixed(3)}`;
  return `${row} wanted ${shown(m.target)}${within}`;
}
