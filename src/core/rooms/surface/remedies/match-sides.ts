import { number, object } from 'yup';
import { meshSidesOf } from '../../../anatomy/mesh-sides';
import { type Character, type Mesh, positionsOf, replaceAt } from '../../../character/model';
import { pointsOf } from '../../../character/points';
import { choiceOf, elementsTo, refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { type Vec3, distance, dot, inverseOr, pointThrough } from '../../../geometry/matrix';
import { mirroredPlace } from '../../../geometry/mirror';
import { meshOf } from '../mesh-of';

const FROM = {
  both: 'each half way',
  left: 'the right side as the left',
  right: 'the left side as the right',
} as const;

/** Twins that stand off each other are brought to mirror each other, by how the faces hang together. */
export const matchSides = defineRemedy({
  id: 'match-sides',
  room: 'surface',
  title: 'Make left and right alike',
  does: 'Points and their twins come to mirror each other: each half way, or one side as the other is. Twins are told by how the faces hang together, so that a side of another shape is found too. Weights and faces stay.',
  params: object({
    node: refTo('mesh', 'Mesh'),
    from: choiceOf('Made alike', FROM).default('both'),
    within: number().min(0).meta({ label: 'Only points off by no more than', quantity: 'length' }),
    vertices: elementsTo('vertices', 'Only these points'),
  }),
  rows(character, { node }) {
    const { offs, pairs } = sidesOf(character, node);
    return [
      { label: 'Points with a twin', value: pairs, unit: 'pts' },
      {
        label: 'Twins that do not mirror each other',
        value: offs.filter((off) => off > EVEN).length,
        unit: 'pts',
      },
      { label: 'Farthest off', value: Math.max(0, ...offs) * 1000, unit: 'mm' },
    ];
  },
  promises: (character, { node }) => {
    const index = character.nodes[node]?.mesh;
    return promise(['points'], {
      meant: character.nodes.flatMap(({ mesh }, i) => (mesh >= 0 && mesh === index ? [i] : [])),
    });
  },
  apply(character, { node, from, within, vertices }) {
    const { mesh, places, plane, twins, back } = sidesOf(character, node);
    const { pointOfVertex } = pointsOf(mesh);
    const isChosen = chosenPoints(mesh, node, vertices);
    const wanted = new Map<number, Vec3>();
    twins.forEach((twin, point) => {
      if (twin < 0 || (isChosen && !isChosen[point] && !isChosen[twin])) return;
      const place = placeOf(places, point);
      const mirrored = mirroredPlace(plane, placeOf(places, twin));
      const off = distance(place, mirrored);
      if (off <= EVEN || (within !== undefined && within > 0 && off > within)) return;
      const isLeft = dot(plane.normal, place) > plane.offset;
      const half: Vec3 = [0, 1, 2].map((k) => (place[k] + mirrored[k]) / 2) as unknown as Vec3;
      if (from === 'both' || twin === point) wanted.set(point, half);
      else if ((from === 'left') !== isLeft) wanted.set(point, mirrored);
    });
    if (wanted.size === 0)
      throw new NothingToDo('Every point mirrors its twin already; there is nothing to move.');
    const data = positionsOf(mesh).slice();
    pointOfVertex.forEach((point, vertex) => {
      const place = wanted.get(point);
      if (place) data.set(pointThrough(back, place), vertex * 3);
    });
    const POSITION = { ...mesh.attributes.POSITION, data };
    return {
      ...character,
      meshes: replaceAt(
        character.meshes,
        new Map([[character.nodes[node].mesh, { ...mesh, attributes: { ...mesh.attributes, POSITION } }]]),
      ),
    };
  },
});

/** What is nearer is even, metres: finer than anybody models, and than a plane is found. */
const EVEN = 1e-5;

const placeOf = (places: Float32Array, point: number): Vec3 => [
  places[point * 3],
  places[point * 3 + 1],
  places[point * 3 + 2],
];

/** The points of a mesh with their twins, and how far off these are. */
function sidesOf(character: Character, node: number) {
  const mesh = meshOf(character, node);
  const sides = meshSidesOf(character, node);
  if (!sides)
    throw new RemedyError(
      'The figure is not the same on both sides of any plane; there are no sides to make alike.',
    );
  const { plane, places, twins } = sides;
  const offs: number[] = [];
  twins.forEach((twin, point) => {
    if (twin >= 0) offs.push(distance(placeOf(places, point), mirroredPlace(plane, placeOf(places, twin))));
  });
  return { ...sides, mesh, offs, pairs: offs.length, back: inverseOr(sides.matrix) };
}

function chosenPoints(
  mesh: Mesh,
  node: number,
  vertices: readonly { readonly node: number; readonly ids: ArrayLike<number> }[] | undefined,
): Uint8Array | null {
  const own = vertices?.filter((held) => held.node === node) ?? [];
  if (own.length === 0) return null;
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  const isIn = new Uint8Array(pointCount);
  for (const { ids } of own) for (const vertex of Array.from(ids)) isIn[pointOfVertex[vertex]] = 1;
  return isIn;
}
