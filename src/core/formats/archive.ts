import { unzipSync } from 'fflate';
import { type InputFile, ReadError, type ReadLimits, takeBytes } from './errors';

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
    return Object.entries(out).map(([name, bytes]) => ({ name, bytes }));
  } catch (error) {
    if (error instanceof ReadError) throw error;
    throw new ReadError(file.name, 'the archive is damaged', 'Pack it again.');
  }
}
