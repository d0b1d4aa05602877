import { object } from 'yup';
import { asFloats } from '../../../character/attributes';
import { type Attribute, type Mesh, positionsOf } from '../../../character/model';
import { remadeMesh } from '../../../character/remake-mesh';
import { topologyOf } from '../../../character/topology';
import { angleOf, choiceOf, refTo } from '../../../contracts/params';
import { NothingToDo, defineRemedy } from '../../../contracts/remedy';
import { fanned } from '../../../geometry/fan';
import { areaNormals, unitRows } from '../../../geometry/normals';
import { type SmoothGroups, normalsOfGroups, smoothGroups, tangentsOf } from '../../../geometry/shading';
import { meshOf, promiseOfMesh, withMeshOf } from '../mesh-of';

type Hard = 'kept' | 'angle' | 'none';

/** Common practice: edges sharper than this are meant to be seen as edges, degrees. */
const SHARP = 40;

/** Normals of the two sides of an edge that differ by less are one, rounded by the file; degrees. */
const SAME = 1;

/** A normal that is off by less is right, degrees. */
const RIGHT = 0.1;

/** Makes normals, and tangents where there are some, anew from the polygons. */
export const recomputeNormals = defineRemedy({
  id: 'recompute-normals',
  room: 'surface',
  title: 'Make normals anew',
  does: 'Normals come from the faces round each point, each by its angle there; edges that are hard stay hard, or those sharper than an angle become so. Tangents, where there are some, follow the first texture places. No point moves.',
  params: object({
    node: refTo('mesh', 'Mesh'),
    hard: choiceOf<Hard>('Hard edges', {
      kept: 'as they are',
      angle: 'those sharper than an angle',
      none: 'none',
    }).default('kept'),
    angle: angleOf('Sharper than')
      .min(0)
      .max(180)
      .default(SHARP)
      .meta({ when: { hard: 'angle' } }),
  }),
  rows(character, { node, hard, angle }) {
    const mesh = meshOf(character, node);
    return [
      { label: 'Vertices', value: mesh.vertexCount, unit: '' },
      { label: 'Hard edges', value: hardEdges(mesh), unit: 'edges' },
      { label: 'Farthest that a normal is off', value: farthestOff(mesh, { hard, angle }), unit: '°' },
    ];
  },
  promises: (character, { node }) => promiseOfMesh(character, node),
  apply(character, { node, hard, angle }) {
    const mesh = meshOf(character, node);
    const parted = hard === 'angle' ? partedAlong(mesh, { hard, angle }) : mesh;
    if (parted === mesh && mesh.attributes.NORMAL && farthestOff(mesh, { hard, angle }) <= RIGHT)
      throw new NothingToDo(
        'Every normal is what the faces round it say already; there is nothing to make anew.',
      );
    return withMeshOf(character, node, shaded(parted, groupsOf(parted, { hard, angle })));
  },
});

interface HowHard {
  readonly hard: Hard;
  /** Degrees. */
  readonly angle: number;
}

const cosine = (degrees: number): number => Math.cos((degrees * Math.PI) / 180);

/** The corners that are shaded as one. A mesh without normals keeps no hard edges: it has none. */
function groupsOf(mesh: Mesh, { hard, angle }: HowHard): SmoothGroups {
  const { halfEdges } = topologyOf(mesh);
  if (hard === 'angle') {
    const faces = unitRows(areaNormals(positionsOf(mesh), mesh.polygonOffsets, mesh.corners));
    const { twin, polygon } = halfEdges;
    const isHard = (half: number) => along(faces, polygon[half], polygon[twin[half]]) < cosine(angle);
    return smoothGroups(halfEdges, isHard);
  }
  const isHard = hard === 'kept' ? keptHard(mesh) : () => false;
  return smoothGroups(halfEdges, isHard, mesh.corners);
}

/** Whether the two sides of an edge have normals of their own, at either end. */
function keptHard(mesh: Mesh): (half: number) => boolean {
  const { NORMAL } = mesh.attributes;
  if (!NORMAL) return () => false;
  const normals = asFloats(NORMAL);
  const { next, twin } = topologyOf(mesh).halfEdges;
  const { corners } = mesh;
  const differ = (one: number, other: number) =>
    corners[one] !== corners[other] && along(normals, corners[one], corners[other]) < cosine(SAME);
  return (half) => differ(half, next[twin[half]]) || differ(next[half], twin[half]);
}

const along = (rows: ArrayLike<number>, one: number, other: number): number =>
  rows[one * 3] * rows[other * 3] +
  rows[one * 3 + 1] * rows[other * 3 + 1] +
  rows[one * 3 + 2] * rows[other * 3 + 2];

function hardEdges(mesh: Mesh): number {
  const { twin } = topologyOf(mesh).halfEdges;
  const isHard = keptHard(mesh);
  let count = 0;
  for (let half = 0; half < twin.length; half++) if (twin[half] > half && isHard(half)) count++;
  return count;
}

/** How far the normal of any corner is from the one that its faces say, degrees; 180 where the mesh has none. */
function farthestOff(mesh: Mesh, how: HowHard): number {
  const { NORMAL } = mesh.attributes;
  if (!NORMAL) return 180;
  const own = asFloats(NORMAL);
  const groups = groupsOf(mesh, how);
  const wanted = normalsOfGroups(groups, positionsOf(mesh), mesh.polygonOffsets, mesh.corners);
  let least = 1;
  mesh.corners.forEach((vertex, corner) => {
    const group = groups.groupOf[corner];
    if (along(wanted, group, group) === 0) return;
    const [a, b] = [vertex * 3, group * 3];
    least = Math.min(least, own[a] * wanted[b] + own[a + 1] * wanted[b + 1] + own[a + 2] * wanted[b + 2]);
  });
  return (Math.acos(Math.max(-1, least)) * 180) / Math.PI;
}

/** The mesh with vertices of their own for each side of edges that become hard; the same mesh where none does. */
function partedAlong(mesh: Mesh, how: HowHard): Mesh {
  const { groupOf } = groupsOf(mesh, how);
  const groupOfVertex = new Int32Array(mesh.vertexCount).fill(-1);
  const copyFor = new Map<string, number>();
  const copies: number[] = [];
  const cornerOn = new Map<number, number>();
  mesh.corners.forEach((vertex, corner) => {
    if (groupOfVertex[vertex] < 0) groupOfVertex[vertex] = groupOf[corner];
    if (groupOfVertex[vertex] === groupOf[corner]) return;
    const key = `${vertex} ${groupOf[corner]}`;
    let copy = copyFor.get(key);
    if (copy === undefined) {
      copyFor.set(key, (copy = mesh.vertexCount + copies.length));
      copies.push(vertex);
    }
    cornerOn.set(corner, copy);
  });
  return copies.length > 0 ? remadeMesh(mesh, { copies, cornerOn }) : mesh;
}

/** The mesh with the normals of its groups, their changes by morph targets that have some, and tangents where it has some. */
function shaded(mesh: Mesh, groups: SmoothGroups): Mesh {
  const rest = vertexNormals(mesh, groups, positionsOf(mesh), mesh.attributes.NORMAL);
  const attributes: Record<string, Attribute> = { ...mesh.attributes, NORMAL: floats(rest, 3) };
  if (mesh.attributes.TANGENT && mesh.attributes.TEXCOORD_0)
    attributes.TANGENT = floats(
      tangentsOf({
        points: positionsOf(mesh),
        normals: rest,
        uvs: asFloats(mesh.attributes.TEXCOORD_0),
        triangles: fanned(mesh.polygonOffsets, mesh.corners),
      }),
      4,
    );
  const morphs = mesh.morphs.map((target) => {
    const { POSITION, NORMAL } = target.attributes;
    if (!POSITION || !NORMAL) return target;
    const moved = positionsOf(mesh).map((x, i) => x + POSITION.data[i]);
    const normals = vertexNormals(mesh, groups, moved, undefined);
    return {
      attributes: {
        ...target.attributes,
        NORMAL: floats(
          normals.map((x, i) => x - rest[i]),
          3,
        ),
      },
    };
  });
  const names = Object.keys(attributes);
  return {
    ...mesh,
    attributes,
    morphs,
    pieces: mesh.pieces.map((piece) =>
      piece.attributes.includes('NORMAL')
        ? piece
        : {
            ...piece,
            attributes: names.filter((name) => name === 'NORMAL' || piece.attributes.includes(name)),
          },
    ),
  };
}

const floats = (data: Float32Array, size: 3 | 4): Attribute => ({
  data,
  size,
  normalized: false,
  type: `VEC${size}`,
});

/** Normals by vertex; those that no face says keep what they have, or point up. */
function vertexNormals(
  mesh: Mesh,
  groups: SmoothGroups,
  points: Float32Array,
  before: Attribute | undefined,
): Float32Array {
  const ofGroups = normalsOfGroups(groups, points, mesh.polygonOffsets, mesh.corners);
  const out = before
    ? asFloats(before).slice()
    : new Float32Array(mesh.vertexCount * 3).map((_, i) => (i % 3 === 1 ? 1 : 0));
  mesh.corners.forEach((vertex, corner) => {
    const group = groups.groupOf[corner] * 3;
    if (ofGroups[group] !== 0 || ofGroups[group + 1] !== 0 || ofGroups[group + 2] !== 0)
      for (let axis = 0; axis < 3; axis++) out[vertex * 3 + axis] = ofGroups[group + axis];
  });
  return out;
}
