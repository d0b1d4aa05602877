import { wordTable } from '../../character/words';
import { toHouseAxes } from '../../character/axes';
import { type Channel, type Character, type SceneNode, node } from '../../character/model';
import { quatAbout, quatMultiply } from '../../geometry/matrix';
import { turnOrderOf } from '../../geometry/turn-order';
import {
  DEEPEST,
  DEFAULT_LIMITS,
  type InputFile,
  ReadError,
  type ReadLimits,
  printable,
  takeCount,
} from '../errors';
import {
  NumberScanner,
  type ReadOptions,
  WordScanner,
  bareCharacter,
  lineWith,
  sourceOf,
  textOf,
} from '../text';

interface Joint {
  readonly node: number;
  readonly channels: readonly string[];
}

const AXES = wordTable<readonly [number, number, number]>({
  Xrotation: [1, 0, 0],
  Yrotation: [0, 1, 0],
  Zrotation: [0, 0, 1],
});
const PLACES = ['Xposition', 'Yposition', 'Zposition'];

/**
 * Reads a BVH: the hierarchy as a skeleton at rest, the motion as a clip. Rotations are in degrees and
 * multiply in the order in which the channels stand; positions add to the joint's offset. An End Site becomes
 * a bone with `_end` after its parent's name. The format says no unit; `options` may. Throws {@link
 * ReadError} with the line.
 */
export function readBvh(
  files: readonly InputFile[],
  limits: ReadLimits = DEFAULT_LIMITS,
  options: ReadOptions = {},
): Character {
  const main = files.find((file) => /\.bvh$/i.test(file.name)) ?? files[0];
  const text = textOf(main, limits);
  const motion = lineWith(text, 'MOTION');
  const fail: Fail = (at, what) => {
    let line = 1;
    for (let i = text.indexOf('\n'); i >= 0 && i < at; i = text.indexOf('\n', i + 1)) line++;
    throw new ReadError(main.name, `line ${line}: ${what}`, 'Export the motion again as BVH.');
  };
  const { nodes, joints } = new Hierarchy(main.name, text, limits, fail).read();
  if (nodes.length === 0) fail(0, 'there is no joint in the hierarchy');

  const bare = bareCharacter(main.name, sourceOf('BVH', '', files, options));
  const character: Character = {
    ...bare,
    nodes,
    carried: {
      ...bare.carried,
      scenes: [{ json: {}, roots: nodes.flatMap((node, i) => (node.parent < 0 ? [i] : [])) }],
    },
  };
  const clip = motion < 0 ? null : readMotion(text, motion, joints, nodes, fail);
  const notes = motion < 0 ? ['The file holds no motion.'] : [];
  return toHouseAxes({
    ...character,
    notes,
    clips: clip && clip.length > 0 ? [{ name: bare.name, channels: clip }] : [],
  });
}

/** Ends the reading with a sentence about a place in the text. */
type Fail = (at: number, what: string) => never;

/** The HIERARCHY of a BVH, read word by word. Names are taken up to the brace, since they may hold spaces. */
class Hierarchy {
  private readonly words: WordScanner;
  private readonly nodes: SceneNode[] = [];
  private readonly joints: Joint[] = [];

  constructor(
    private readonly fileName: string,
    private readonly text: string,
    private readonly limits: ReadLimits,
    private readonly fail: Fail,
  ) {
    this.words = new WordScanner(text, '{}');
  }

  read(): { nodes: SceneNode[]; joints: Joint[] } {
    const { words, text, fail } = this;
    if (this.next() !== 'HIERARCHY') fail(0, 'the file does not begin with HIERARCHY');
    for (;;) {
      const word = words.next();
      if (word === undefined || word === 'MOTION') return { nodes: this.nodes, joints: this.joints };
      if (word !== 'ROOT') fail(words.at, `“${printable(word, 24)}” stands where ROOT or MOTION should`);
      if (text.indexOf('{', words.at) < 0) fail(words.at, 'ROOT is not followed by {');
      this.joint(-1, this.nameToBrace(), 0, false);
    }
  }

  private next(): string {
    return this.words.next() ?? this.fail(this.text.length, 'the file ends inside its hierarchy');
  }

  private number(): number {
    const word = this.next();
    const x = Number(word);
    if (!Number.isFinite(x)) this.failHere(`“${printable(word, 24)}” stands where a number should`);
    return x;
  }

  private failHere(what: string): never {
    return this.fail(this.words.at, what);
  }

  private nameToBrace(): string {
    const start = this.words.at;
    const brace = this.text.indexOf('{', start);
    this.words.at = Math.max(start, brace);
    return this.text.slice(start, brace < 0 ? start : brace).trim();
  }

  private joint(parent: number, name: string, depth: number, isEnd: boolean): void {
    const { limits, nodes } = this;
    if (depth > DEEPEST) this.failHere(`the hierarchy is nested more than ${DEEPEST} deep`);
    takeCount(limits, 'joints', 1, this.fileName);
    const at = nodes.push(node({ name, parent, kind: 'bone' })) - 1;
    if (this.next() !== '{') this.failHere(`“${printable(name, 40)}” is not followed by {`);
    for (let word = this.next(); word !== '}'; word = this.next()) {
      if (word === 'OFFSET') {
        nodes[at] = { ...nodes[at], translation: [this.number(), this.number(), this.number()] };
      } else if (word === 'CHANNELS') {
        const channels = this.channels(name);
        this.joints.push({ node: at, channels });
        const order = turnOrderOf(
          channels.filter((word) => AXES.has(word)).map((word) => word[0].toLowerCase()),
        );
        if (order) nodes[at] = { ...nodes[at], turnOrder: order };
      } else if (word === 'JOINT' && !isEnd) {
        this.joint(at, this.nameToBrace(), depth + 1, false);
      } else if (word === 'End' && !isEnd) {
        if (this.next() !== 'Site') this.failHere('“End” is not followed by Site');
        this.joint(at, `${name}_end`, depth + 1, true);
      } else {
        this.failHere(`“${printable(word, 24)}” is not known inside a joint`);
      }
    }
  }

  private channels(name: string): string[] {
    const value = this.number();
    if (!Number.isInteger(value) || value < 0 || value > 6)
      this.failHere(`“${printable(name, 40)}” announces ${value} channels`);
    const channels = Array.from({ length: value }, () => this.next());
    const bad = channels.find((channel) => !AXES.has(channel) && !PLACES.includes(channel));
    if (bad) this.failHere(`the channel “${printable(bad, 24)}” is not known`);
    return channels;
  }
}

/** How short a frame may be, and how long a motion, seconds. */
const SHORTEST_FRAME = 1e-6;
const LONGEST_MOTION = 1e7;

function readMotion(
  text: string,
  start: number,
  joints: readonly Joint[],
  nodes: readonly SceneNode[],
  fail: (at: number, what: string) => never,
): Channel[] {
  const header = /MOTION\s+Frames:\s*(\S+)\s+Frame\s+Time:\s*(\S+)/.exec(text.slice(start, start + 2000));
  if (!header) return fail(start, 'MOTION is not followed by Frames and Frame Time');
  const frames = Number(header[1]);
  const seconds = Number(header[2].replace(',', '.'));
  if (!Number.isInteger(frames) || frames < 0)
    return fail(start, `“${printable(header[1], 24)}” is no number of frames`);
  const width = joints.reduce((sum, joint) => sum + joint.channels.length, 0);
  if (frames * width > 200_000_000 || frames * width > text.length)
    return fail(start, `${frames} frames of ${width} numbers are announced, more than the file can hold`);
  // Times are kept in single precision: they have to rise, and to end at some time.
  if (!(seconds >= SHORTEST_FRAME) || !(seconds * Math.max(1, frames) <= LONGEST_MOTION))
    return fail(start, `“${printable(header[2], 24)}” is no frame time of ${frames} frames`);
  const scan = new NumberScanner(text, text.indexOf(header[0], start) + header[0].length);
  const values = new Float64Array(frames * width);
  for (let i = 0; i < values.length; i++) {
    const x = scan.next();
    if (x === undefined)
      return fail(text.length, `the motion ends in frame ${Math.floor(i / width) + 1} of ${frames}`);
    if (!Number.isFinite(x))
      return fail(scan.at, `frame ${Math.floor(i / width) + 1} holds something that is not a finite number`);
    values[i] = x;
  }
  const times = Float32Array.from({ length: frames }, (_, factor) => factor * seconds);
  const out: Channel[] = [];
  let column = 0;
  for (const { node, channels } of joints) {
    const turns = channels.flatMap((channel, k) => {
      const axis = AXES.get(channel);
      return axis ? [[axis, k] as const] : [];
    });
    const places = channels
      .map((channel, k) => [PLACES.indexOf(channel), k] as const)
      .filter(([axis]) => axis >= 0);
    if (frames > 0 && turns.length > 0) {
      const data = new Float32Array(frames * 4);
      for (let face = 0; face < frames; face++) {
        let rotation: [number, number, number, number] = [0, 0, 0, 1];
        for (const [axis, k] of turns)
          rotation = quatMultiply(
            rotation,
            quatAbout(axis, (values[face * width + column + k] * Math.PI) / 180),
          );
        data.set(rotation, face * 4);
      }
      out.push({ node, path: 'rotation', interpolation: 'LINEAR', times, values: data });
    }
    if (frames > 0 && places.length > 0) {
      const data = new Float32Array(frames * 3);
      for (let face = 0; face < frames; face++) {
        data.set(nodes[node].translation, face * 3);
        for (const [axis, k] of places) data[face * 3 + axis] += values[face * width + column + k];
      }
      out.push({ node, path: 'translation', interpolation: 'LINEAR', times, values: data });
    }
    column += channels.length;
  }
  return out;
}
