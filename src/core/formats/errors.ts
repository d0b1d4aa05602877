/** A file that cannot be read. The message is one sentence: what, where, and what to do. */
export class ReadError extends Error {
  constructor(file: string, what: string, advice: string) {
    super(`${printable(file)}: ${what.replace(/\.$/, '')}. ${advice}`);
    this.name = 'ReadError';
  }
}

/** Text from a file made fit for a message: control characters shown as dots, long text cut. */
export function printable(text: string, longest = 80): string {
  // Of a line of a hundred megabytes only the beginning is looked at.
  const clean = Array.from(text.slice(0, longest), (ch) => (isShown(ch) ? ch : '·')).join('');
  return text.length > longest ? `${clean.slice(0, longest - 1)}…` : clean;
}

const isShown = (ch: string) => ch >= ' ' && ch !== '\u007f' && !/\p{Surrogate}/u.test(ch);

/** Bounds that a reader keeps; all are settings. */
export interface ReadLimits {
  readonly bytes: number;
  readonly vertices: number;
  readonly nodes: number;
  readonly depth: number;
  readonly files: number;
  /** What has been taken of them so far by one import, whatever file or archive it stood in. */
  readonly taken?: Taken;
}

/** Bytes and vertices that one import has taken so far. */
export class Taken {
  /** Unpacked from archives and from text. */
  unpacked = 0;
  /** Made into arrays of a character. */
  made = 0;
  vertices = 0;
}

/**
 * Counts bytes that are about to be unpacked or made. Throws {@link ReadError} before they are, where they
 * are too many.
 */
export function takeBytes(
  { taken, bytes }: ReadLimits,
  what: 'unpacked' | 'made',
  n: number,
  file: string,
): void {
  const all = (taken?.[what] ?? 0) + n;
  if (all > bytes)
    throw new ReadError(
      file,
      `what it holds comes to more than ${bytes} bytes`,
      'Split it, or raise BOUGH_UPLOAD_BYTES.',
    );
  if (taken) taken[what] = all;
}

/** Counts vertices that are about to be made. Throws {@link ReadError} before they are, where they are too many. */
export function takeVertices({ taken, vertices }: ReadLimits, n: number, file: string): void {
  const all = (taken?.vertices ?? 0) + n;
  if (all > vertices)
    throw new ReadError(
      file,
      `it has more than ${vertices} vertices, every copy of a mesh counted`,
      'Split it, or raise BOUGH_VERTICES.',
    );
  if (taken) taken.vertices = all;
}

/** The bounds of what is read where nothing else is asked for. */
export const DEFAULT_LIMITS: ReadLimits = {
  bytes: 1 << 30,
  vertices: 4_000_000,
  nodes: 65_000,
  depth: 128,
  files: 500,
};

/** A file as it came: its name, with folders where it had some, and its bytes. */
export interface InputFile {
  readonly name: string;
  readonly bytes: Uint8Array;
}
