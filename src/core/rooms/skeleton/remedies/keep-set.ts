import { object, string } from 'yup';
import type { Character, ElementSet, ElementsOf } from '../../../character/model';
import {
  type ElementKind,
  countOfElements,
  countsOfSet,
  saidOfSet,
  wholePoints,
} from '../../../character/sets';
import { type ElementsParam, colourOf, elementsTo, refsTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';

/** Keeps bones, points and polygons together under a name, so that they can be chosen, shown and hidden again at once. */
export const keepSet = defineRemedy({
  id: 'keep-set',
  room: 'skeleton',
  title: 'Keep as a set',
  does: 'What is chosen is kept under a name. A set of that name becomes this one; the figure itself stays as it is.',
  params: object({
    bones: refsTo('bone', 'Bones'),
    vertices: elementsTo('vertices', 'Points'),
    polygons: elementsTo('polygons', 'Polygons'),
    name: string().trim().required().max(255).meta({ label: 'Name' }),
    tint: colourOf('Colour').default('#7a2e6b'),
  }),
  says: ({ name }) =>
    name
      ? {
          title: `Keep as the set “${name}”`,
          does: `What is chosen is kept as the set “${name}”; the figure itself stays as it is.`,
        }
      : {
          title: 'Keep as a set',
          does: 'What is chosen is kept under a name; the figure itself stays as it is.',
        },
  rows(character, { name }) {
    const set = character.sets.find((candidate) => candidate.name === name);
    const { bones, points, polygons } = set ? countsOfSet(character, set) : EMPTY;
    return [
      { label: 'Sets', value: character.sets.length, unit: '' },
      { label: 'Bones in it', value: bones, unit: '' },
      { label: 'Points in it', value: points, unit: '' },
      { label: 'Polygons in it', value: polygons, unit: '' },
    ];
  },
  promises: () => promise(['sets']),
  apply(character, { bones = [], vertices = [], polygons = [], name, tint }) {
    for (const node of [...bones, ...vertices.map((x) => x.node), ...polygons.map((x) => x.node)])
      if (!character.nodes[node])
        throw new RemedyError(
          `There is no node ${node} in this revision; choose anew what the set is to hold.`,
        );
    const same = character.sets.find((candidate) => candidate.name === name);
    const set: ElementSet = {
      name,
      ...saidOfSet({ ...same, tint }),
      bones: [...new Set(bones)].sort((a, b) => a - b),
      vertices: elementsIn(character, vertices, 'vertices'),
      polygons: elementsIn(character, polygons, 'polygons'),
    };
    if (set.bones.length + set.vertices.length + set.polygons.length === 0)
      throw new NothingToDo(
        'Nothing is chosen that a set could hold: choose bones, points or polygons first.',
      );
    if (same && holdsTheSame(same, set)) throw new NothingToDo(`The set “${name}” holds just that already.`);
    const others = character.sets.filter((candidate) => candidate.name !== name);
    return { ...character, sets: [...others, set] };
  },
});

function holdsTheSame(a: ElementSet, b: ElementSet): boolean {
  const written = ({ tint, bones, vertices, polygons }: ElementSet) => {
    const lists = [vertices, polygons].map((list) => list.map(({ node, ids }) => [node, ...ids]));
    return JSON.stringify([tint ?? '', bones, lists]);
  };
  return written(a) === written(b);
}

const EMPTY = { bones: 0, points: 0, polygons: 0 };

/** Points whole, whatever seams split; polygons once each. Throws RemedyError for what the mesh does not have. */
function elementsIn(character: Character, list: readonly ElementsParam[], kind: ElementKind): ElementsOf[] {
  return list.flatMap(({ node, ids }) => {
    const mesh = character.meshes[character.nodes[node].mesh];
    const count = mesh ? countOfElements(mesh, kind) : 0;
    const beyond = Array.from(ids).find((id) => id >= count);
    if (!mesh || beyond !== undefined)
      throw new RemedyError(
        `“${character.nodes[node].name}” has ${count} ${kind}, none of the number ${beyond ?? 0}; choose anew.`,
      );
    const all = kind === 'vertices' ? wholePoints(mesh, ids) : Uint32Array.from(new Set(ids)).sort();
    return all.length > 0 ? [{ node, ids: all }] : [];
  });
}
