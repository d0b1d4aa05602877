import { bonesOf, childrenOf, parentBone } from '../../core/character/hierarchy';
import { joinCharacters } from '../../core/character/join';
import type { Character } from '../../core/character/model';
import { previewRemedy } from '../../core/house/preview';
import { remedyById } from '../../core/house/registry';
import { type Command, READING, briefOf, print, printJson, readOptionsOf, textOf } from '../command';
import { UsageError } from '../errors';
import { readFile, writeFile } from '../files';
import { indicesOf } from '../named';

/** Hangs the skeleton of one file, with all that it shows, on a bone of another’s. */
export const graftCommand: Command = {
  name: 'graft',
  takes: 'FILE PART',
  options: {
    under: { value: 'BONE', needed: true },
    top: { value: 'BONE' },
    meet: { value: 'JOINT=ONTO[,JOINT=ONTO]' },
    drop: { value: 'NAMES' },
    brief: { value: 'B' },
    out: { value: 'F', needed: true },
    json: {},
    ...READING,
  },
  run(given, files) {
    const [under, out] = [textOf(given, 'under'), textOf(given, 'out')];
    if (files.length !== 2 || !under || !out)
      throw new UsageError(
        'Name the file, the one whose skeleton is hung on it, the bone that it hangs on (--under), and where to write (--out).',
      );
    const options = readOptionsOf(given);
    const [host, part] = files.map((file) => readFile(file, options));
    // What is called the same in both stays apart: it is another skeleton’s.
    const both = joinCharacters(host, part, { shareBones: false });
    const ofHost: Side = { file: files[0], of: 'host', first: 0, end: host.nodes.length, both };
    const ofPart: Side = {
      ...ofHost,
      file: files[1],
      of: 'part',
      first: host.nodes.length,
      end: both.nodes.length,
    };
    const drop = textOf(given, 'drop');
    const params = {
      bone: topOf(ofPart, textOf(given, 'top')),
      under: boneNamed(under, ofHost),
      ...meetingsOf(textOf(given, 'meet'), ofHost, ofPart),
      surplus: drop ? drop.split(',').flatMap((word) => bonesNamed(word, ofPart)) : [],
    };
    const remedy = remedyById('graft')!;
    const { rows, after } = previewRemedy(remedy, both, { ...remedy.params.cast(params) }, briefOf(given));
    const notes = writeFile(after, out);
    if (given.json) printJson({ files, out, preview: rows, notes });
    else {
      for (const row of rows) print(`${row.label}: ${row.before} → ${row.after} ${row.unit}`.trimEnd());
      for (const note of notes) print(note);
    }
    return 0;
  },
};

/** The nodes of one of the two files, in both together. */
interface Side {
  readonly file: string;
  readonly of: 'host' | 'part';
  readonly first: number;
  readonly end: number;
  readonly both: Character;
}

/** The bones that a name, with stars or without, stands for on one side. */
function bonesNamed(text: string, { file, first, end, both }: Side): number[] {
  const own = { ...both, nodes: both.nodes.slice(first, end) };
  return indicesOf(text, { name: text, ref: 'bone' }, own, file).map((i) => i + first);
}

function boneNamed(text: string, side: Side): number {
  const found = bonesNamed(text, side);
  if (found.length > 1)
    throw new UsageError(`“${text}” stands for ${found.length} bones of “${side.file}”; name one.`);
  return found[0];
}

/** The bone that is named, or the only one that has none above it. */
function topOf(side: Side, name: string | undefined): number {
  if (name) return boneNamed(name, side);
  const { both, first, end, file } = side;
  const tops = bonesOf(both).filter(
    (bone) => bone >= first && bone < end && parentBone(both.nodes, bone) < 0,
  );
  const below = childrenOf(both.nodes);
  const [top, other] = tops.filter((bone) => below[bone].length > 0 || tops.length === 1);
  if (top === undefined) throw new UsageError(`“${file}” holds no bone that could be hung on.`);
  if (other !== undefined)
    throw new UsageError(
      `“${file}” has ${tops.length} bones with none above them; name the one that is hung on with --top.`,
    );
  return top;
}

function meetingsOf(text: string | undefined, host: Side, part: Side): Record<string, number> {
  if (!text) return {};
  const pairs = text.split(',').map((pair) => pair.split('='));
  if (pairs.length > 2 || pairs.some((pair) => pair.length !== 2 || pair.includes('')))
    throw new UsageError(`“${text}” is not JOINT=ONTO, once or twice with a comma between.`);
  const [[joint, onto], second] = pairs;
  return {
    joint: boneNamed(joint, part),
    onto: boneNamed(onto, host),
    ...(second ? { second: boneNamed(second[0], part), secondOnto: boneNamed(second[1], host) } : {}),
  };
}
