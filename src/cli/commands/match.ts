import { SURE } from '../../core/rooms/crosswalk/doubts';
import { skeletonOf } from '../../core/anatomy/skeleton';
import { suggest } from '../../core/anatomy/suggest';
import { type Command, READING, print, printJson, readOptionsOf, skeletonFor, textOf } from '../command';
import { UsageError } from '../errors';
import { readFile } from '../files';
import { pairRows } from '../pairs';

/** Says which bones of files stand for which of a skeleton, without moving anything. */
export const matchCommand: Command = {
  name: 'match',
  takes: 'FILE…',
  options: { to: { value: 'SKELETON', needed: true }, json: {}, ...READING },
  run(given, files) {
    if (files.length === 0) throw new UsageError('Name at least one file to match.');
    const target = skeletonFor(textOf(given, 'to'));
    const reports = files.map((file) => {
      const source = skeletonOf(readFile(file, readOptionsOf(given)));
      if (source.bones.length === 0)
        throw new UsageError(`“${file}” holds no bones; there is nothing to match.`);
      return { file, to: target.id, pairs: pairRows(source, target, suggest(source, target)) };
    });
    if (given.json) printJson(reports.length === 1 ? reports[0] : reports);
    else for (const report of reports) printPairs(report);
    return 0;
  },
};

function printPairs({
  file,
  to,
  pairs,
}: {
  file: string;
  to: string;
  pairs: ReturnType<typeof pairRows>;
}): void {
  const met = pairs.filter((pair) => pair.target.length > 0);
  print(`${file}: ${met.length} of ${pairs.length} bones have a counterpart in ${to}`);
  const width = Math.max(...pairs.map((pair) => pair.source[0].length));
  for (const pair of pairs) {
    const percent = `${Math.round(pair.confidence * 100)} %`.padStart(5);
    const look = pair.confidence < SURE || pair.other ? '  look at it' : '';
    const or = pair.other ? `, or ${pair.other}` : '';
    print(
      `  ${pair.source[0].padEnd(width)}  ${pair.rule.padEnd(7)} ${percent}  ${pair.target[0] ?? '—'}${or} (${pair.reasons.join('; ')})${look}`,
    );
  }
}
