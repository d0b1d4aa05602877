import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { type Found, defineCheck } from '../../../contracts/check';
import { theCharacter } from '../../../contracts/finding';
import { type MeshPart, partsOf } from '../../../anatomy/parts';
import type { Character } from '../../../character/model';
import { polygonsOfParts } from '../../../contracts/chosen-parts';
import { type Forgotten, MOST_PARTS, forgottenParts } from '../forgotten-parts';

/** Kinds of which one inside a head is meant. */
const MEANT_INSIDE: readonly MeshPart['kind'][] = ['eye', 'tooth', 'tongue'];

/** Parts that nobody sees, or that lie apart from all others. */
export const forgottenPartsCheck = defineCheck({
  id: 'forgotten-parts',
  room: 'surface',
  title: 'No forgotten parts',
  why: 'What is closed in by another part, or lies far from all others, is drawn and bound all the same: leftovers of modelling that cost, and that stand still when the figure moves.',
  waiverReasons: ['It is seen when the mouth or the clothes open.', 'It belongs there.'],
  settings: object({}),
  reads: [...SHAPE_AT_REST, 'names', 'polygons', 'sets', 'carried'],
  run(character) {
    const { length } = partsOf(character);
    if (length > MOST_PARTS) return [notLookedThrough(character, length)];
    const forgotten = forgottenParts(character);
    const byNode = new Map<number, Forgotten[]>();
    for (const one of forgotten) byNode.set(one.part.node, [...(byNode.get(one.part.node) ?? []), one]);
    return [...byNode].flatMap(([node, own]) => {
      const parts = partsOf(character).filter((part) => part.node === node);
      const hidden = own.filter(({ inside }) => inside !== null);
      if (hidden.length === 0 || !isAssembled(parts)) return own.map((one) => found(character, one));
      const others = own.filter(({ inside }) => inside === null);
      return [
        assembledOf(character, node, hidden, parts.length),
        ...others.map((one) => found(character, one)),
      ];
    });
  },
});

function notLookedThrough(character: Character, parts: number): Found {
  return {
    gravity: 'note',
    subject: theCharacter(character),
    message: `It has ${parts} parts; whether any of them was forgotten is looked at up to ${MOST_PARTS} only`,
    measured: parts,
    expected: MOST_PARTS,
    unit: 'parts',
    evidence: [{ label: 'Parts', now: parts, brief: '—', unit: '' }],
  };
}

/** A mesh whose largest part is no more than this share of it is put together of pieces: nobody forgot one that is inside. */
const MAIN_PART = 0.5;

function isAssembled(parts: readonly MeshPart[]): boolean {
  const areas = parts.map(({ area }) => area);
  return Math.max(...areas) <= MAIN_PART * areas.reduce((sum, area) => sum + area, 0);
}

function assembledOf(character: Character, node: number, hidden: readonly Forgotten[], parts: number): Found {
  const { name } = character.nodes[node];
  const polygons = polygonsOfParts(hidden.map(({ part }) => part));
  return {
    gravity: 'note',
    subject: { kind: 'mesh', index: character.nodes[node].mesh, name },
    message: `“${name}” is put together of parts within each other: ${hidden.length} of its ${parts} are closed in by another`,
    measured: hidden.length,
    expected: 0,
    unit: 'parts',
    count: hidden.length,
    elements: polygons.map(({ ids }) => ({ kind: 'polygon', node, ids })),
    evidence: [{ label: 'Parts closed in', now: hidden.length, brief: 0, unit: 'parts' }],
    remedies: [{ id: 'remove-parts', params: { polygons: standIns(hidden.map(({ part }) => part)) } }],
    mark: 'assembled',
  };
}

/** One polygon of each part stands for it. */
const standIns = (parts: readonly MeshPart[]) =>
  parts.map(({ node, polygons }) => ({ node, ids: [polygons[0]] }));

function found(character: Character, { part, inside }: Forgotten): Found {
  const isMeant = inside !== null && MEANT_INSIDE.includes(part.kind);
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
      { label: inside ? 'Closed in by' : 'Near it', now: inside?.name ?? 'nothing', brief: '—', unit: '' },
    ],
    remedies: [
      { id: 'remove-parts', params: { polygons: standIns([part]) } },
      { id: 'separate-parts', params: { polygons: standIns([part]) } },
    ],
    mark: `part ${part.island}`,
  };
}
