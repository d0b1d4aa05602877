import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { type Found, defineCheck } from '../../../contracts/check';
import type { Part } from '../../../anatomy/parts';
import { polygonsOfParts } from '../chosen-parts';
import { forgottenParts } from '../forgotten-parts';

/** Kinds of which one inside a head is meant. */
const MEANT_INSIDE: readonly Part['kind'][] = ['eye', 'tooth', 'tongue'];

/** Parts that nobody sees, or that lie apart from all others. */
export const forgottenPartsCheck = defineCheck({
  id: 'forgotten-parts',
  room: 'surface',
  title: 'No forgotten parts',
  why: 'What is closed in by another part, or lies far from all others, is drawn and bound all the same: leftovers of modelling that cost, and that stand still when the figure moves.',
  waiverReasons: ['It is seen when the mouth or the clothes open.', 'It belongs there.'],
  settings: object({}),
  reads: [...SHAPE_AT_REST, 'names', 'polygons', 'sets', 'carried'],
  run: (character) =>
    forgottenParts(character).map(({ part, inside }): Found => {
      const isMeant = inside !== null && MEANT_INSIDE.includes(part.kind);
      const polygons = polygonsOfParts([part]);
      return {
        gravity: isMeant ? 'note' : 'worth',
        subject: { kind: 'mesh', index: character.nodes[part.node].mesh, name: part.name },
        message: inside
          ? `“${part.name}” (${part.points} points) is closed in by “${inside.name}”: nobody sees it`
          : `“${part.name}” (${part.points} points) is small and lies far from all other parts`,
        measured: part.points,
        expected: 0,
        unit: 'pts',
        count: part.polygons.length,
        elements: [{ kind: 'polygon', node: part.node, ids: part.polygons.slice() }],
        evidence: [
          { label: 'Points', now: part.points, brief: 0, unit: 'pts' },
          {
            label: inside ? 'Closed in by' : 'Near it',
            now: inside?.name ?? 'nothing',
            brief: '—',
            unit: '',
          },
        ],
        remedies: [
          { id: 'remove-parts', params: { polygons } },
          { id: 'separate-parts', params: { polygons } },
        ],
        mark: `part ${part.island}`,
      };
    }),
});
