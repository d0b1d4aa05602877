import { type Docket, type Verified, sealOf, signedText, verifyFile } from '../../core/house/docket';
import { isPublicHalf, isSignedBy } from '../../keys/ed25519';
import { type Command, print, printJson, textOf } from '../command';
import { docketOf } from '../docket';
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
  options: { docket: { value: 'D', needed: true }, key: { value: 'K' }, json: {} },
  run(given, files) {
    if (files.length !== 1) throw new UsageError('Name one file that is to be held against the docket.');
    const [file] = files;
    const named = textOf(given, 'docket');
    if (!named) throw new UsageError('Say --docket: the file is held against one.');
    const docket = docketOf(named);
    const bytes = bytesOf(file);
    const verified = verifyFile(docket, { name: path.basename(file), bytes }, limitsFrom(process.env));
    const signature = signatureOf(docket, textOf(given, 'key'));
    const isRight = verified.isSealed && verified.same !== null && signature !== 'wrong';
    if (given.json) {
      const { id, at, by, character, brief } = docket;
      printJson({ file, ok: isRight, docket: { id, at, by, character, brief }, ...verified, signature });
    } else for (const line of [...wordsOf(file, docket, verified), SIGNATURE_WORDS[signature]]) print(line);
    return isRight ? 0 : 1;
  },
};

/** What is known of who made a docket: by the key that was given, or nothing without one. */
type Signature = 'right' | 'wrong' | 'unchecked';

const SIGNATURE_WORDS: Readonly<Record<Signature, string>> = {
  right: 'The docket is signed with the key that was given.',
  wrong:
    'The docket is not signed with the key that was given: it does not come from that house. Do not rely on what it says.',
  unchecked:
    'Without --key this says whether the file is the same, not who made the docket; the house shows its key beside its dockets.',
};

/** Whether a docket is signed with a key, given by its public half or as a file that holds such, one a line. */
function signatureOf(docket: Docket, given: string | undefined): Signature {
  if (given === undefined) return 'unchecked';
  const keys = isPublicHalf(given)
    ? [given]
    : new TextDecoder().decode(bytesOf(given)).split(/\s+/).filter(isPublicHalf);
  if (keys.length === 0)
    throw new UsageError(`“${given}” holds no key; a key is 64 letters from 0 to 9 and a to f.`);
  const { signature } = docket;
  const isSigned =
    signature !== undefined &&
    keys.includes(signature.key) &&
    isSignedBy(signature.key, signedText({ ...docket, seal: sealOf(docket) }), signature.value);
  return isSigned ? 'right' : 'wrong';
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
  const told = differences
    .slice(0, MOST)
    .map((difference) => `  ${difference.of}, ${difference.what}: ${HOW_WORDS[difference.how]}`);
  const more =
    differences.length > MOST ? [`  and ${differences.length - MOST} more (--json lists them)`] : [];
  return [...seal, `${file} is not what was handed over (${handed}):`, ...told, ...more];
}
