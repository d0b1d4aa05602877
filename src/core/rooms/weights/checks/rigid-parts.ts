import { object } from 'yup';
import { type MeshPart, mustNotBend, partsOf } from '../../../anatomy/parts';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { type Found, defineCheck } from '../../../contracts/check';
import type { Character } from '../../../character/model';

/** A bone that has less of a rigid part than this is dust, which another check tells. */
const FELT = 0.002;

/** Parts that are told by name, at most. */
const NAMED = 3;

/** Parts that must not bend, and are pulled by several bones. */
export const rigidPartsCheck = defineCheck({
  id: 'rigid-parts',
  room: 'weights',
  title: 'Rigid parts that several bones pull',
  why: 'A tooth, a buckle or a hat that goes partly with a second bone bends and shears as soon as that one turns.',
  advice: 'Say in Surface, Parts, what is rigid and what is not.',
  waiverReasons: ['It is meant to bend.'],
  settings: object({}),
  reads: [...SHAPE_AT_REST, 'names', 'polygons', 'shading', 'kind', 'sets', 'carried'],
  run(character) {
    const bent = partsOf(character).filter((part) => mustNotBend(part) && pulledBy(part).length > 1);
    // Those that one and the same bone pulls most are made rigid together.
    const groups = new Map<string, MeshPart[]>();
    for (const part of bent) {
      const key = `${part.node}/${part.drivers[0].node}`;
      groups.set(key, [...(groups.get(key) ?? []), part]);
    }
    return [...groups.values()].map((parts) => told(character, parts));
  },
});

const pulledBy = ({ drivers }: MeshPart) => drivers.filter(({ share }) => share > FELT);

function told(character: Character, parts: readonly MeshPart[]): Found {
  const [{ node, drivers }] = parts;
  const bone = drivers[0].node;
  const name = character.nodes[node].name || character.meshes[character.nodes[node].mesh].name;
  const most = parts.reduce((count, part) => Math.max(count, pulledBy(part).length), 0);
  const names = parts.slice(0, NAMED).map((part) => `“${part.name}”`);
  const more = parts.length > NAMED ? ` and ${parts.length - NAMED} more` : '';
  const said = parts.every(({ isRigid }) => isRigid);
  return {
    gravity: said ? 'stops' : 'worth',
    subject: { kind: 'mesh', index: character.nodes[node].mesh, name },
    unit: 'parts',
    count: parts.length,
    message: `${names.join(', ')}${more} of “${name}” should not bend, and up to ${most} bones pull ${parts.length === 1 ? 'it' : 'them'}`,
    measured: most,
    expected: 1,
    elements: parts.map((part) => ({ kind: 'polygon', node, ids: part.polygons })),
    evidence: [
      { label: 'Rigid parts that bend', now: parts.length, brief: 0, unit: 'parts' },
      { label: 'Bones that pull one', now: most, brief: 1, unit: 'bones' },
    ],
    mark: character.nodes[bone].name,
    remedies: [
      {
        id: 'make-rigid',
        params: { polygons: parts.map(({ polygons }) => ({ node, ids: [polygons[0]] })), bone },
      },
    ],
  };
}
