import { object } from 'yup';
import type { Character } from '../../../character/model';
import { pointsOf } from '../../../character/points';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { type Found, defineCheck } from '../../../contracts/check';
import { type Stray, straysOf } from '../strays';

const READS = [...SHAPE_AT_REST, 'names', 'polygons', 'kind'] as const;

function verticesOf(character: Character, node: number, points: readonly number[]): Uint32Array {
  const { vertexOfPoint } = pointsOf(character.meshes[character.nodes[node].mesh]);
  return Uint32Array.from(points, (point) => vertexOfPoint[point]);
}

const subjectOf = (character: Character, node: number) => ({
  kind: 'mesh' as const,
  index: character.nodes[node].mesh,
  name: character.nodes[node].name || character.meshes[character.nodes[node].mesh].name,
});

/** What is told of points of one mesh; `says`: the sentence, by how many they are and what the mesh is called. */
function pointsFound(
  character: Character,
  { node, points, most }: Pick<Stray, 'node' | 'points' | 'most'>,
  label: string,
  says: (count: string, isOne: boolean, mesh: string) => string,
): Found &
  Required<Pick<Found, 'elements' | 'evidence'>> & {
    readonly chosen: readonly { readonly node: number; readonly ids: number[] }[];
  } {
  const ids = verticesOf(character, node, points);
  const subject = subjectOf(character, node);
  const isOne = points.length === 1;
  return {
    gravity: 'worth',
    subject,
    unit: 'pts',
    count: points.length,
    message: `${says(`${points.length} ${isOne ? 'point' : 'points'}`, isOne, subject.name)}, by up to ${Math.round(most * 100)} %`,
    measured: points.length,
    expected: 0,
    elements: [{ kind: 'vertex', node, ids }],
    evidence: [
      { label: 'Points concerned', now: points.length, brief: 0, unit: 'pts' },
      { label, now: most * 100, brief: 0, unit: '%' },
    ],
    // Plain lists: a finding goes from thread to thread as text.
    chosen: [{ node, ids: [...ids] }],
  };
}

function strayFound(character: Character, stray: Stray, where: string): Found {
  const { bone, far } = stray;
  const { name } = character.nodes[bone];
  const { chosen, ...found } = pointsFound(
    character,
    stray,
    'Largest weight there',
    (count, _, mesh) => `“${name}” pulls ${count} of “${mesh}” ${where}`,
  );
  return {
    ...found,
    elements: [...found.elements, { kind: 'bone', node: -1, ids: Uint32Array.of(bone) }],
    evidence: [
      ...found.evidence,
      { label: 'Farthest from the bone', now: far * 1000, brief: '—', unit: 'mm' },
    ],
    remedies: [{ id: 'take-bone-out', params: { vertices: chosen, bone } }],
    mark: name,
  };
}

/** Weight far from its bone, on a patch of its own. */
export const farWeightCheck = defineCheck({
  id: 'far-weight',
  room: 'weights',
  title: 'Weight far from its bone',
  why: 'A patch that hangs on a bone far away is pulled out of the surface as soon as that bone moves; most come of a brush that reached through, or of a copy from what happened to be near.',
  settings: object({}),
  reads: [...READS],
  run: (character) => straysOf(character).far.map((stray) => strayFound(character, stray, 'far from it')),
});

/** Weight of a bone on the side of its twin. */
export const acrossSidesCheck = defineCheck({
  id: 'across-sides',
  room: 'weights',
  title: 'Weight across to the other side',
  why: 'What lies nearer to a bone’s twin than to the bone itself belongs to the other side: it follows the wrong hand or foot.',
  settings: object({}),
  reads: [...READS],
  run: (character) =>
    straysOf(character).across.map((stray) => strayFound(character, stray, 'that lie on the other side')),
});

/** Points that go otherwise than all round them. */
export const oddPointsCheck = defineCheck({
  id: 'odd-points',
  room: 'weights',
  title: 'Points that go with their neighbours',
  why: 'A single point that other bones pull than all those round it sticks out as a spike or a dent in motion.',
  settings: object({}),
  reads: [...READS],
  run: (character) =>
    straysOf(character).odd.map((points): Found => {
      const { chosen, ...found } = pointsFound(
        character,
        points,
        'Largest step to every neighbour',
        (count, isOne, mesh) =>
          `${count} of “${mesh}” ${isOne ? 'goes' : 'go'} otherwise than all round ${isOne ? 'it' : 'them'}`,
      );
      return {
        ...found,
        remedies: [
          { id: 'smooth-weights', params: { vertices: chosen, rounds: 5, strength: 1, isSoft: false } },
        ],
      };
    }),
});
