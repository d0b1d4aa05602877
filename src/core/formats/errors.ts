/** A file that cannot be read. The message is one sentence: what, where, and what to do. */
export class ReadError extends Error {
  constructor(file: string, what: string, advice: string) {
    super(`${printable(file)}: ${what.replace(/\.$/, '')}. ${advice}`);
    this.name = 'ReadError';
  }
}

/** Text from a file made fit for a message: control characters shown as dots, long text cut. */
export function printable(text: string, longest = 80): string {
  const clean = Array.from(text, (ch) => (ch < ' ' || ch === '\u007f' ? '·' : ch)).join('');
  return clean.length > longest ? `${clean.slice(0, longest - 1)}…` : clean;
}

/** Bounds that a reader keeps; all are settings. */
export interface ReadLimits {
  readonly bytes: number;
  readonly vertices: number;
  readonly nodes: number;
  readonly depth: number;
  readonly files: number;
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
