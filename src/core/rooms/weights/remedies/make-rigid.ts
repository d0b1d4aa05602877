import { boolean, object } from 'yup';
import type { MeshPart } from '../../../anatomy/parts';
import type { Character, ElementSet } from '../../../character/model';
import { elementsTo, refTo } from '../../../contracts/params';
import { joinedPolygons, partsOfChoice, polygonsOfParts } from '../../../contracts/chosen-parts';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { promiseOfEdit, withEditedRows } from '../edits';
import { verticesOfPart } from '../../../anatomy/part-points';

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
    const parts = partsOfChoice(character, polygons);
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
    const parts = partsOfChoice(character, polygons);
    if (parts.length === 0) throw new RemedyError('No part is chosen; press one on the stage first.');
    const chosen = parts.map((part) => ({
      node: part.node,
      ids: verticesOfPart(character.meshes[character.nodes[part.node].mesh], part),
    }));
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

/** The parts in the set of rigid ones, which is made where there is none. */
function withRigidSet(character: Character, parts: readonly MeshPart[]): Character {
  if (parts.length === 0) return character;
  const before = character.sets.find(
    ({ name, isRigid, partKind }) => name === RIGID_SET && isRigid && !partKind,
  );
  const set: ElementSet = {
    ...(before ?? { name: RIGID_SET, tint: '#4a6b3a', isRigid: true, bones: [], vertices: [] }),
    polygons: joinedPolygons(before?.polygons ?? [], polygonsOfParts(parts)),
  };
  return {
    ...character,
    sets: before ? character.sets.map((own) => (own === before ? set : own)) : [...character.sets, set],
  };
}

const RIGID_SET = 'rigid';
