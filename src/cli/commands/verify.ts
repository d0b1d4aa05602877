import { type Docket, type Verified, docketIn, verifyFile } from '../../core/house/docket';
import { type Command, print, printJson, textOf } from '../command';
import { limitsFrom } from '../../core/formats/errors';
import { UsageError } from '../errors';
import { bytesOf } from '../files';
import path from 'node:path';

/** Most differences that are told one by one. */
const MOST = 20;

const HOW_WORDS = { gone: 'missing', new: 'added', changed: 'changed' } as const;

/** Whether a file is the one that was handed over; exit 1 where it is not, or the docket was changed. */
export const verifyCommand: Command = {
  name: 'verify',
  takes: 'FILE',
  options: { docket: { value: 'D', needed: true }, json: {} },
  run(given, files) {
    if (files.length !== 1) throw new UsageError('Name one file that is to be held against the docket.');
    const [file] = files;
    const docket = docketOf(textOf(given, 'docket'));
    const bytes = bytesOf(file);
    const verified = verifyFile(docket, { name: path.basename(file), bytes }, limitsFrom(process.env));
    const isRight = verified.isSealed && verified.same !== null;
    if (given.json) {
      const { id, at, by, character, brief } = docket;
      printJson({ file, ok: isRight, docket: { id, at, by, character, brief }, ...verified });
    } else for (const line of wordsOf(file, docket, verified)) print(line);
    return isRight ? 0 : 1;
  },
};

function docketOf(file: string | undefined): Docket {
  if (!file) throw new UsageError('Say --docket: the file is held against one.');
  try {
    return docketIn(new TextDecoder().decode(bytesOf(file)));
  } catch (error) {
    if (error instanceof UsageError) throw error;
    const why = error instanceof Error ? error.message : 'it cannot be read';
    throw new UsageError(`“${file}” is no docket: ${why}.`);
  }
}

function wordsOf(file: string, docket: Docket, { isSealed, same, differences, why }: Verified): string[] {
  const { name, revision } = docket.character;
  const handed = `${name}, revision ${revision}, handed over by ${docket.by} on ${docket.at.slice(0, 10)}`;
  const seal = isSealed ? [] : ['The docket itself was changed after it was sealed; do not rely on it.'];
  if (same !== null) return [...seal, `${file} is “${same}” of ${handed}, byte for byte.`];
  if (differences === null)
    return [...seal, `${file} is not what was handed over, and cannot be read: ${why}`];
  if (differences.length === 0)
    return [...seal, `${file} is not byte for byte what was handed over (${handed}), but it holds the same.`];
  const told = differences.slice(0, MOST).map((d) => `  ${d.of}, ${d.what}: ${HOW_WORDS[d.how]}`);
  const more =
    differences.length > MOST ? [`  and ${differences.length - MOST} more (--json lists them)`] : [];
  return [...seal, `${file} is not what was handed over (${handed}):`, ...told, ...more];
}
