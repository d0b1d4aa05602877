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
    else for (const measure of measures) print(lineOf(measure));
    return measures.some((measure) => measure.state === 'off') ? 1 : 0;
  },
};

const SIGNS = { met: '✓', off: '✗', told: ' ' } as const;
const shown = (x: number | string) => (typeof x === 'number' ? x.toFixed(3) : x);

function lineOf(measure: Measure): string {
  const row = `${SIGNS[measure.state]} ${measure.label.padEnd(38)} ${shown(measure.value).padStart(10)} ${measure.unit.padEnd(12)}`;
  if (measure.target === null) return row.trimEnd();
  const within = measure.tolerance === null ? '' : ` ± ${measure.tolerance.toFixed(3)}`;
  return `${row} wanted ${shown(measure.target)}${within}`;
}
