/** The Deckhand as another supplier sent him: as bare triangles, with what is forgotten when a surface is not looked at. */
import { withMeshesJoined } from '../core/character/join-meshes';
import { type Character, type Mesh, node, positionsOf, replaceAt } from '../core/character/model';
import { remadeMesh } from '../core/character/remake-mesh';
import { pointsOf } from '../core/character/points';
import { cleanDeckhand } from './deckhand';
import type { PlantedFault } from './faults';

/** What is wrong with his surface. */
export const TRIANGLES_FAULTS: readonly PlantedFault[] = [
  { check: 'coincident', gravity: 'worth', about: 'the left boot was cut along a line and never merged' },
  { check: 'winding', gravity: 'stops', about: 'a patch of the body was flipped' },
  {
    check: 'forgotten-parts',
    gravity: 'worth',
    about: 'a ball was left inside the chest, another one beside the feet',
  },
];

/** How far the points of the cut were moved apart, metres: less than anybody sees. */
const CUT = 0.00004;

const named = ({ nodes }: Character, name: string): number =>
  nodes.findIndex((own) => own.name === name && own.mesh >= 0);

function withMesh(character: Character, at: number, change: (mesh: Mesh) => Mesh): Character {
  const index = character.nodes[at].mesh;
  return {
    ...character,
    meshes: replaceAt(character.meshes, new Map([[index, change(character.meshes[index])]])),
  };
}

/** Faces below a height get points of their own along it, a hair lower. */
function cutAt(mesh: Mesh, isBelow: (x: number, y: number) => boolean): Mesh {
  const points = positionsOf(mesh);
  const { pointOfVertex } = pointsOf(mesh);
  const sideOf = Array.from({ length: mesh.polygonOffsets.length - 1 }, (_, face) => {
    const corners = mesh.corners.subarray(mesh.polygonOffsets[face], mesh.polygonOffsets[face + 1]);
    const [x, y] = [0, 1].map(
      (k) => corners.reduce((sum, corner) => sum + points[corner * 3 + k], 0) / corners.length,
    );
    return isBelow(x, y);
  });
  const above = new Set<number>();
  sideOf.forEach((below, face) => {
    if (!below)
      for (let k = mesh.polygonOffsets[face]; k < mesh.polygonOffsets[face + 1]; k++)
        above.add(pointOfVertex[mesh.corners[k]]);
  });
  const copies: number[] = [];
  const copyOf = new Map<number, number>();
  const cornerOn = new Map<number, number>();
  sideOf.forEach((below, face) => {
    if (!below) return;
    for (let k = mesh.polygonOffsets[face]; k < mesh.polygonOffsets[face + 1]; k++) {
      const vertex = mesh.corners[k];
      if (!above.has(pointOfVertex[vertex])) continue;
      const copy = copyOf.get(vertex) ?? mesh.vertexCount + copies.push(vertex) - 1;
      copyOf.set(vertex, copy);
      cornerOn.set(k, copy);
    }
  });
  const cut = remadeMesh(mesh, { copies, cornerOn });
  const data = positionsOf(cut).slice();
  for (let vertex = mesh.vertexCount; vertex < cut.vertexCount; vertex++) data[vertex * 3 + 1] -= CUT;
  return { ...cut, attributes: { ...cut.attributes, POSITION: { ...cut.attributes.POSITION, data } } };
}

/** The faces within a distance of a place wound the other way. */
function withPatchFlipped(mesh: Mesh, place: readonly number[], within: number): Mesh {
  const points = positionsOf(mesh);
  const corners = mesh.corners.slice();
  for (let face = 0; face + 1 < mesh.polygonOffsets.length; face++) {
    const [from, to] = [mesh.polygonOffsets[face], mesh.polygonOffsets[face + 1]];
    const vertex = mesh.corners[from];
    const off = Math.hypot(...[0, 1, 2].map((k) => points[vertex * 3 + k] - place[k]));
    if (off < within) corners.subarray(from + 1, to).reverse();
  }
  return { ...mesh, corners };
}

/** A ball of quads and its poles, bound wholly to a joint of the skin that a mesh has, joined to that mesh; places in its space. */
export function withBall(
  character: Character,
  at: number,
  middle: readonly number[],
  radius: number,
  bone: string,
): Character {
  const RINGS = 6;
  const AROUND = 8;
  const points: number[] = [];
  const faces: number[][] = [];
  for (let ring = 0; ring <= RINGS; ring++)
    for (let k = 0; k < (ring === 0 || ring === RINGS ? 1 : AROUND); k++) {
      const [up, round] = [(ring / RINGS) * Math.PI, (k / AROUND) * 2 * Math.PI];
      points.push(
        middle[0] + radius * Math.sin(up) * Math.cos(round),
        middle[1] + radius * Math.cos(up),
        middle[2] + radius * Math.sin(up) * Math.sin(round),
      );
    }
  const place = (ring: number, k: number) =>
    Math.min(Math.max(0, 1 + (ring - 1) * AROUND + (ring === 0 ? 0 : k % AROUND)), 1 + (RINGS - 1) * AROUND);
  for (let ring = 0; ring < RINGS; ring++)
    for (let k = 0; k < AROUND; k++) {
      const quad = [place(ring, k), place(ring, k + 1), place(ring + 1, k + 1), place(ring + 1, k)];
      faces.push([...new Set(quad)]);
    }
  const { skin } = character.nodes[at];
  const joint = character.skins[skin].joints.findIndex((own) => character.nodes[own].name === bone);
  const source = character.meshes[character.nodes[at].mesh];
  const count = points.length / 3;
  const ball: Mesh = {
    ...source,
    name: 'ball',
    vertexCount: count,
    attributes: Object.fromEntries(
      Object.entries(source.attributes).map(([name, attribute]) => {
        const data = new Float32Array(count * attribute.size);
        if (name === 'POSITION') data.set(points);
        if (name === 'NORMAL')
          for (let i = 0; i < points.length; i++) data[i] = (points[i] - middle[i % 3]) / radius;
        return [name, { ...attribute, data }];
      }),
    ),
    pieces: [
      {
        ...source.pieces[0],
        vertexStart: 0,
        vertexCount: count,
        polygonStart: 0,
        polygonCount: faces.length,
      },
    ],
    polygonOffsets: Uint32Array.from(
      faces.reduce((list, face) => [...list, list[list.length - 1] + face.length], [0]),
    ),
    corners: Uint32Array.from(faces.flat()),
    influences: {
      offsets: Uint32Array.from({ length: count + 1 }, (_, i) => i),
      joint: new Uint16Array(count).fill(joint),
      weight: new Float32Array(count).fill(1),
    },
    morphs: [],
  };
  const added: Character = {
    ...character,
    nodes: [...character.nodes, node({ name: 'ball', kind: 'mesh', mesh: character.meshes.length, skin })],
    meshes: [...character.meshes, ball],
  };
  return withMeshesJoined(added, at, [character.nodes.length]);
}

export function deliveredTriangles(steps: number): Character {
  const clean = cleanDeckhand({ steps });
  const body = named(clean, 'body');
  const boots = named(clean, 'boots');
  const bone = (name: string) =>
    clean.nodes.find((own) => own.kind === 'bone' && own.name === name)?.name ?? '';
  const balls = withBall(
    withBall(clean, body, [0, 1.2, 0], 0.03, bone('spine_3')),
    body,
    [0.45, 0.05, 0.35],
    0.025,
    bone('spine_1'),
  );
  const flipped = withMesh(balls, body, (mesh) => withPatchFlipped(mesh, [0, 1.3, 0.1], 0.06));
  const cut = withMesh(flipped, boots, (mesh) => cutAt(mesh, (x, y) => x > 0 && y < 0.22));
  return { ...cut, meshes: cut.meshes.map((mesh) => ({ ...mesh, polygonOrigin: 'triangles' as const })) };
}
