import { boolean, object } from 'yup';
import { partsOf } from '../../../anatomy/parts';
import type { Character, ElementSet } from '../../../character/model';
import { elementsTo, refTo } from '../../../contracts/params';
import { RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { promiseOfEdit, withEditedRows } from '../edits';
import { NothingToDo } from '../../../contracts/remedy';

/** Whole parts go with one bone, and are marked so that they stay so. */
export const makeRigid = defineRemedy({
  id: 'make-rigid',
  room: 'weights',
  title: 'Give parts wholly to one bone',
  does: 'Every point of these parts goes with the one bone and with no other. They can be marked as rigid, so that binding and checks keep them so.',
  params: object({
    polygons: elementsTo('polygons', 'Polygons of the parts').required(),
    bone: refTo('bone', 'Bone'),
    isMarked: boolean().default(true).meta({ label: 'Mark them as rigid' }),
  }),
  rows: (character, { polygons, bone }) => {
    const parts = meant(character, polygons);
    return [
      { label: 'Parts', value: parts.length, unit: '' },
      { label: 'Points', value: parts.reduce((sum, part) => sum + part.points, 0), unit: 'pts' },
      {
        label: 'Bones that pull them',
        value: new Set(parts.flatMap(({ drivers }) => drivers.map(({ node }) => node))).size,
        unit: '',
      },
      {
        label: `Parts with “${character.nodes[bone]?.name ?? ''}” alone`,
        value: parts.filter(({ drivers }) => drivers.length === 1 && drivers[0].node === bone).length,
        unit: '',
      },
    ];
  },
  promises: (character, { polygons }) => {
    const { changes, meant: nodes } = promiseOfEdit(
      character,
      polygons.map(({ node }) => node),
    );
    return promise([...changes, 'sets'], { meant: nodes });
  },
  apply(character, { polygons, bone, isMarked }) {
    const parts = meant(character, polygons);
    if (parts.length === 0) throw new RemedyError('No part is chosen; press one on the stage first.');
    const chosen = parts.map(({ node, polygons: faces }) => {
      const { corners, polygonOffsets } = character.meshes[character.nodes[node].mesh];
      const ids = new Set<number>();
      for (const face of faces)
        for (let k = polygonOffsets[face]; k < polygonOffsets[face + 1]; k++) ids.add(corners[k]);
      return { node, ids: Uint32Array.from(ids) };
    });
    const marked = isMarked
      ? withRigidSet(
          character,
          parts.filter(({ isRigid }) => !isRigid),
        )
      : character;
    try {
      return withEditedRows(marked, chosen, {
        bones: [bone],
        nothing: 'These parts go with this bone alone already.',
        edit({ weights, joints }, points) {
          for (const point of points) weights.put(point, new Map([[joints[0], 1]]));
        },
      });
    } catch (error) {
      if (error instanceof NothingToDo && marked !== character) return marked;
      throw error;
    }
  },
});

function meant(
  character: Character,
  polygons: readonly { readonly node: number; readonly ids: ArrayLike<number> }[],
) {
  return partsOf(character).filter(({ node, polygons: own }) => {
    const asked = new Set(
      polygons.filter((some) => some.node === node).flatMap(({ ids }) => Array.from(ids)),
    );
    return asked.size > 0 && own.some((face) => asked.has(face));
  });
}

/** The parts in the set of rigid ones, which is made where there is none. */
function withRigidSet(character: Character, parts: ReturnType<typeof meant>): Character {
  if (parts.length === 0) return character;
  const name = 'rigid';
  const isOurs = (set: ElementSet) => set.name === name && set.isRigid && !set.partKind;
  const before = character.sets.find(isOurs);
  const byNode = new Map<number, Set<number>>();
  for (const { node, polygons } of before?.polygons.map(({ node: own, ids }) => ({
    node: own,
    polygons: ids,
  })) ?? [])
    byNode.set(node, new Set(polygons));
  for (const { node, polygons } of parts) {
    const own = byNode.get(node) ?? new Set<number>();
    for (const face of polygons) own.add(face);
    byNode.set(node, own);
  }
  const set: ElementSet = {
    ...(before ?? { name, tint: '#4a6b3a', isRigid: true, bones: [], vertices: [] }),
    polygons: [...byNode].map(([node, ids]) => ({ node, ids: Uint32Array.from(ids).sort() })),
  };
  return {
    ...character,
    sets: before ? character.sets.map((own) => (own === before ? set : own)) : [...character.sets, set],
  };
}
