import { joinCharacters } from '../../core/character/join';
import { bonesOf, meshNodesOf } from '../../core/character/hierarchy';
import type { Character } from '../../core/character/model';
import { withoutNodes } from '../../core/character/remove';
import { lookAtBinding } from '../../core/rooms/weights/binding';
import { bindingBones } from '../../core/rooms/weights/bone-segments';
import { heldBy } from '../../core/character/held-by';
import { previewRemedy } from '../../core/house/preview';
import { remedyById } from '../../core/house/registry';
import { characterOfSkeleton } from '../../core/anatomy/skeleton';
import { skeletonById } from '../../core/anatomy/skeletons';
import { type Command, READING, briefOf, print, printJson, readOptionsOf, textOf } from '../command';
import { UsageError } from '../errors';
import { readFile, writeFile } from '../files';

const METHODS = ['heat', 'near'];

/** Binds the loose meshes of a file to its bones, or to those of another file. */
export const bindCommand: Command = {
  name: 'bind',
  takes: 'FILE',
  options: {
    skeleton: { value: 'S' },
    method: { value: METHODS.join('|') },
    all: {},
    brief: { value: 'B' },
    out: { value: 'F', needed: true },
    json: {},
    ...READING,
  },
  run(given, files) {
    const [out, from, method = 'heat'] = ['out', 'skeleton', 'method'].map((name) => textOf(given, name));
    if (files.length !== 1 || !out)
      throw new UsageError('Name one file to bind, and where to write with --out.');
    if (!METHODS.includes(method))
      throw new UsageError(`--method takes one of ${METHODS.join(', ')}, not “${method}”.`);
    const brief = briefOf(given);
    const own = readFile(files[0], readOptionsOf(given));
    const bones = from === undefined ? null : skeletonFrom(from, given);
    const both = bones ? joinCharacters(own, bones) : own;
    const nodes = meshNodesOf(own).filter(
      (node) => heldBy(own, node) === 'loose' || (Boolean(given.all) && heldBy(own, node) === 'bound'),
    );
    if (nodes.length === 0)
      throw new UsageError(`Every mesh of ${files[0]} is bound already; bind them anew with --all.`);
    const taking = bones ? bonesIn(both, bones) : bindingBones(both, brief);
    const remedy = remedyById('bind')!;
    const params = remedy.params.validateSync({
      nodes,
      method,
      limit: brief.limits.influences,
      bones: taking,
    });
    const look = lookAtBinding(both, nodes, brief, taking);
    const { rows, after } = previewRemedy(remedy, both, params as Record<string, unknown>, brief);
    // What the other file shows is not what was asked for.
    const gone = new Set(meshNodesOf(both).filter((node) => node >= own.nodes.length));
    const made = gone.size > 0 ? withoutNodes(after, gone).character : after;
    const notes = writeFile(made, out);
    const parts = look.parts.map(({ part, way, why }) => ({
      mesh: both.nodes[part.node].name,
      part: part.name,
      way,
      why,
    }));
    const outside = look.outside.map((bone) => both.nodes[bone].name);
    if (given.json)
      printJson({ file: files[0], method, bones: look.bones.length, outside, parts, preview: rows, notes });
    else {
      print(
        `${look.bones.length} bones take part${outside.length > 0 ? `; outside: ${outside.join(', ')}` : ''}`,
      );
      for (const { part, way, why } of parts) print(`  ${part}: ${way} (${why})`);
      for (const row of rows) print(`${row.label}: ${row.before} → ${row.after} ${row.unit}`.trimEnd());
      for (const note of notes) print(note);
    }
    return 0;
  },
};

function skeletonFrom(id: string, given: Parameters<typeof readOptionsOf>[0]): Character {
  const known = skeletonById(id);
  const character = known ? characterOfSkeleton(known) : readFile(id, readOptionsOf(given));
  if (bonesOf(character).length === 0)
    throw new UsageError(`“${id}” holds no bones; choose a file with a skeleton.`);
  return character;
}

/** The bones of the other file, as they are in both. */
function bonesIn(both: Character, other: Character): number[] {
  const names = new Set(bonesOf(other).map((bone) => other.nodes[bone].name));
  return bonesOf(both).filter((bone) => names.has(both.nodes[bone].name));
}
