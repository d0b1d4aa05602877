import { unzipSync } from 'fflate';
import { type InputFile, ReadError, type ReadLimits } from './errors';

/** True where the bytes begin like a zip archive. */
export const isZip = (bytes: Uint8Array): boolean =>
  bytes.length > 3 && bytes[0] === 0x50 && bytes[1] === 0x4b && bytes[2] === 3 && bytes[3] === 4;

/**
 * The files of an archive. What it would unpack to is bounded before it is unpacked. Throws {@link
 * ReadError}.
 */
export function unzip(file: InputFile, limits: ReadLimits): InputFile[] {
  let total = 0;
  let count = 0;
  try {
    const out = unzipSync(file.bytes, {
      filter: (entry) => {
        total += entry.originalSize;
        if (++count > limits.files || total > limits.bytes)
          throw new ReadError(
            file.name,
            `the archive unpacks to more than ${limits.bytes} bytes or ${limits.files} files`,
            'Send the files by themselves.',
          );
        return !entry.name.endsWith('/') && !entry.name.startsWith('__MACOSX');
      },
    });
    return Object.entries(out).map(([name, bytes]) => ({ name, bytes }));
  } catch (error) {
    if (error instanceof ReadError) throw error;
    throw new ReadError(file.name, 'the archive is damaged', 'Pack it again.');
  }
}
