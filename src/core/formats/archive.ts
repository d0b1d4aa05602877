import crc32 from 'crc-32';
import { strFromU8, unzipSync } from 'fflate';
import { type InputFile, ReadError, type ReadLimits, printable, takeBytes } from './errors';

/** True where the bytes begin like a zip archive. */
export const isZip = (bytes: Uint8Array): boolean =>
  bytes.length > 3 && bytes[0] === 0x50 && bytes[1] === 0x4b && bytes[2] === 3 && bytes[3] === 4;

const isWanted = (name: string) => !name.endsWith('/') && !name.startsWith('__MACOSX');

/**
 * The files of an archive. Its directory is summed before anything is unpacked, and counts against what the
 * whole import may take. Throws {@link ReadError}.
 */
export function unzip(file: InputFile, limits: ReadLimits): InputFile[] {
  try {
    let total = 0;
    let count = 0;
    unzipSync(file.bytes, {
      filter: ({ name, originalSize }) => {
        if (isWanted(name)) total += originalSize;
        count++;
        return false;
      },
    });
    if (count > limits.files)
      throw new ReadError(
        file.name,
        `the archive holds ${count} files, more than ${limits.files}`,
        'Send the files by themselves.',
      );
    takeBytes(limits, 'unpacked', total, file.name);
    const out = unzipSync(file.bytes, { filter: ({ name }) => isWanted(name) });
    const sums = statedSums(file.bytes);
    return Object.entries(out).map(([name, bytes]) => {
      if (sums.get(name) !== crc32.buf(bytes) >>> 0)
        throw new ReadError(
          file.name,
          `“${printable(name)}” in the archive is not what was packed: its sum is another`,
          'Pack it again, or send it again.',
        );
      return { name, bytes };
    });
  } catch (error) {
    if (error instanceof ReadError) throw error;
    throw new ReadError(file.name, 'the archive is damaged', 'Pack it again.');
  }
}

/** Marks of a directory's entry and of its end, and where an entry keeps what (APPNOTE.TXT 6.3.9, 4.3.12 and 4.3.16). */
const ENTRY = { mark: 0x02014b50, flags: 8, sum: 16, name: 28, extra: 30, comment: 32, size: 46 };
const END = { mark: 0x06054b50, size: 22, start: 16 };

/** Large archives keep where the directory begins in a record of its own, which a locator before the end names (4.3.14, 4.3.15). */
const LARGE = { start: 0xffffffff, locator: 20, record: 8, directory: 48 };

/** A name is UTF-8 where this flag is set. */
const IS_UTF8 = 1 << 11;

/** The sums that an archive's directory states, by the names of its files; of two of one name the last, which counts. */
function statedSums(bytes: Uint8Array): Map<string, number> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let end = bytes.length - END.size;
  while (end > 0 && view.getUint32(end, true) !== END.mark) end--;
  const sums = new Map<string, number>();
  let at = view.getUint32(end + END.start, true);
  if (at === LARGE.start)
    at = view.getUint32(view.getUint32(end - LARGE.locator + LARGE.record, true) + LARGE.directory, true);
  while (at + ENTRY.size <= end && view.getUint32(at, true) === ENTRY.mark) {
    const length = view.getUint16(at + ENTRY.name, true);
    const isUtf8 = (view.getUint16(at + ENTRY.flags, true) & IS_UTF8) !== 0;
    const name = strFromU8(bytes.subarray(at + ENTRY.size, at + ENTRY.size + length), !isUtf8);
    sums.set(name, view.getUint32(at + ENTRY.sum, true));
    at +=
      ENTRY.size + length + view.getUint16(at + ENTRY.extra, true) + view.getUint16(at + ENTRY.comment, true);
  }
  return sums;
}
