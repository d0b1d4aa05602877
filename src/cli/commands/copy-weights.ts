import { joinCharacters } from '../../core/character/join';
import { meshNodesOf } from '../../core/character/hierarchy';
import type { Character } from '../../core/character/model';
import { withoutNodes } from '../../core/character/remove';
import { heldBy } from '../../core/character/held-by';
import { previewRemedy } from '../../core/house/preview';
import { remedyById } from '../../core/house/registry';
import { type Command, READING, briefOf, print, printJson, readOptionsOf, textOf } from '../command';
import { UsageError } from '../errors';
import { readFile, writeFile } from '../files';

/** Copies the weights of one file's body onto the meshes of another. */
export const copyWeightsCommand: Command = {
  name: 'copy-weights',
  takes: 'FROM TO',
  options: {
    mesh: { value: 'NAME' },
    onto: { value: 'NAME' },
    distance: { value: 'METRES' },
    angle: { value: 'DEGREES' },
    brief: { value: 'B' },
    out: { value: 'F', needed: true },
    json: {},
    ...READING,
  },
  run(given, files) {
    const out = textOf(given, 'out');
    if (files.length !== 2 || !out)
      throw new UsageError(
        'Name the file to copy from, the one to copy onto, and where to write with --out.',
      );
    const brief = briefOf(given);
    const [source, target] = files.map((file) => readFile(file, readOptionsOf(given)));
    let both = joinCharacters(target, source);
    const from = sourceNode(both, target.nodes.length, files[0], textOf(given, 'mesh'));
    const onto = targetNodes(target, files[1], textOf(given, 'onto'));
    const remedy = remedyById('copy-weights')!;
    const told = onto.map((node) => {
      const params = remedy.params.validateSync({
        node,
        from,
        limit: brief.limits.influences,
        ...numberOf(given, 'distance'),
        ...numberOf(given, 'angle'),
      });
      const { rows, after } = previewRemedy(remedy, both, params as Record<string, unknown>, brief);
      both = after;
      return { mesh: target.nodes[node].name, preview: rows };
    });
    const gone = new Set(meshNodesOf(both).filter((node) => node >= target.nodes.length));
    const notes = writeFile(withoutNodes(both, gone).character, out);
    if (given.json) printJson({ files, out, meshes: told, notes });
    else {
      for (const { mesh, preview } of told) {
        print(mesh);
        for (const row of preview) print(`  ${row.label}: ${row.after} ${row.unit}`.trimEnd());
      }
      for (const note of notes) print(note);
    }
    return 0;
  },
};

function numberOf(given: Parameters<typeof readOptionsOf>[0], name: string): Record<string, number> {
  const text = textOf(given, name);
  if (text === undefined) return {};
  const value = Number(text);
  if (!Number.isFinite(value) || value <= 0)
    throw new UsageError(`--${name} takes a number above 0, not “${text}”.`);
  return { [name]: value };
}

/** The mesh to copy from: the one that is called so, or the bound one with the most points. */
function sourceNode(both: Character, first: number, file: string, name: string | undefined): number {
  const bound = meshNodesOf(both).filter((node) => node >= first && heldBy(both, node) === 'bound');
  const named = name === undefined ? bound : bound.filter((node) => both.nodes[node].name === name);
  if (named.length === 0)
    throw new UsageError(
      name === undefined
        ? `Nothing in ${file} is bound to bones; there are no weights to copy.`
        : `No mesh “${name}” in ${file} is bound to bones.`,
    );
  const size = (node: number) => both.meshes[both.nodes[node].mesh].vertexCount;
  return named.reduce((most, node) => (size(node) > size(most) ? node : most));
}

/** The meshes to copy onto: the one that is called so, or those that are not bound; all, where none is loose. */
function targetNodes(target: Character, file: string, name: string | undefined): number[] {
  const all = meshNodesOf(target);
  if (name !== undefined) {
    const named = all.filter((node) => target.nodes[node].name === name);
    if (named.length === 0) throw new UsageError(`There is no mesh “${name}” in ${file}.`);
    return named;
  }
  if (all.length === 0) throw new UsageError(`There is no mesh in ${file}.`);
  const loose = all.filter((node) => heldBy(target, node) === 'loose');
  return loose.length > 0 ? loose : all;
}
