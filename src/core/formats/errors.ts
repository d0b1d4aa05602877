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

/** What is counted in a file before it is made, and the setting that raises its limit. */
const COUNTED = {
  nodes: 'BOUGH_NODES',
  joints: 'BOUGH_JOINTS',
  objects: 'BOUGH_OBJECTS',
  targets: 'BOUGH_TARGETS',
  clips: 'BOUGH_CLIPS',
  materials: 'BOUGH_MATERIALS',
  bindings: 'BOUGH_BINDINGS',
} as const;

/** A kind of thing of which a file may hold only so many. */
export type Countable = keyof typeof COUNTED;

/** What the house calls them. */
const CALLED: Readonly<Record<Countable, string>> = {
  nodes: 'nodes',
  joints: 'joints',
  objects: 'meshes, or parts of them',
  targets: 'morph targets',
  clips: 'clips',
  materials: 'materials and pictures',
  bindings: 'joints in all its skins together',
};

/** How deep a tree of nodes may be: what walks up from every node takes as long as it is deep. */
export const DEEPEST = 2000;

/** Bounds that a reader keeps; all are settings. */
export interface ReadLimits extends Readonly<Record<Countable, number>> {
  readonly bytes: number;
  readonly vertices: number;
  /** How deep the parts of a text may stand in one another where they are no nodes. */
  readonly depth: number;
  readonly files: number;
  /** What has been taken of them so far by one import, whatever file or archive it stood in. */
  readonly taken?: Taken;
}

/** What one import has taken so far. */
export class Taken {
  /** Unpacked from archives and from text. */
  unpacked = 0;
  /** Made into arrays of a character. */
  made = 0;
  vertices = 0;
  readonly counted = new Map<Countable, number>();
}

/**
 * Counts bytes that are about to be unpacked or made. Throws {@link ReadError} before they are, where they
 * are too many.
 */
export function takeBytes(
  { taken, bytes }: ReadLimits,
  what: 'unpacked' | 'made',
  count: number,
  file: string,
): void {
  const all = (taken?.[what] ?? 0) + count;
  if (all > bytes)
    throw new ReadError(
      file,
      `what it holds comes to more than ${bytes} bytes`,
      'Split it, or raise BOUGH_UPLOAD_BYTES.',
    );
  if (taken) taken[what] = all;
}

/** Counts vertices that are about to be made. Throws {@link ReadError} before they are, where they are too many. */
export function takeVertices({ taken, vertices }: ReadLimits, count: number, file: string): void {
  const all = (taken?.vertices ?? 0) + count;
  if (all > vertices)
    throw new ReadError(
      file,
      `it has more than ${vertices} vertices, every copy of a mesh counted`,
      'Split it, or raise BOUGH_VERTICES.',
    );
  if (taken) taken.vertices = all;
}

/** Counts things that are about to be made. Throws {@link ReadError} before they are, where they are too many. */
export function takeCount(limits: ReadLimits, what: Countable, count: number, file: string): void {
  const all = (limits.taken?.counted.get(what) ?? 0) + count;
  if (all > limits[what])
    throw new ReadError(
      file,
      `it has more than ${limits[what]} ${CALLED[what]}`,
      `Leave out what no character needs, or raise ${COUNTED[what]}.`,
    );
  limits.taken?.counted.set(what, all);
}

/** The bounds of what is read where nothing else is asked for. */
export const DEFAULT_LIMITS: ReadLimits = {
  bytes: 1 << 30,
  vertices: 4_000_000,
  nodes: 40_000,
  joints: 20_000,
  objects: 10_000,
  targets: 4000,
  clips: 2000,
  materials: 10_000,
  bindings: 400_000,
  depth: 128,
  files: 500,
};

/** Settings of all bounds that have one. */
const SETTINGS = { ...COUNTED, bytes: 'BOUGH_UPLOAD_BYTES', vertices: 'BOUGH_VERTICES' } as const;

/** These bounds with what settings say of them, by their names; what is no number from 1 on is not minded. */
export function limitsFrom(settings: Readonly<Record<string, string | undefined>>): ReadLimits {
  const set = Object.entries(SETTINGS).flatMap(([what, name]) => {
    const number = Number(settings[name]);
    return number >= 1 ? [[what, number] as const] : [];
  });
  return { ...DEFAULT_LIMITS, ...Object.fromEntries(set) };
}

/** A file as it came: its name, with folders where it had some, and its bytes. */
export interface InputFile {
  readonly name: string;
  readonly bytes: Uint8Array;
}
