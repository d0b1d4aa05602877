/** The surface: faults of single faces planted all over meshes of the cast and of others, and a whole audit of a million triangles. */
import { type Character, type Mesh, positionsOf } from '../core/character/model';
import { looseVertices, remadeMesh } from '../core/character/remake-mesh';
import { topologyOf } from '../core/character/topology';
import { putAreaNormal } from '../core/geometry/normals';
import { briefById } from '../core/house/briefs';
import { CHECKS } from '../core/house/registry';
import { soundnessOf } from '../core/rooms/surface/soundness';
import { wrongWinding } from '../core/rooms/surface/winding';
import { figureRows } from './surface-figures';
import { quadRows } from './quads';
import { refineTo } from './refine';
import type { BenchRow } from './row';
import { castFiles, othersFiles, readSample } from './sample-files';
import { referenceRows } from './surface-reference';

/** Faults are planted on about so many faces of each mesh. */
const TRIES = 24;

/** Meshes of fewer faces have hardly a face that is not at a border. */
const LEAST_FACES = 300;

/** Meshes of the cast, and those that others made. */
function allMeshes(): { readonly own: Mesh[]; readonly others: Mesh[] } {
  const meshesOf = (file: string): readonly Mesh[] => readSample(file)?.meshes ?? [];
  return {
    own: castFiles().flatMap(meshesOf),
    // The same mesh in several containers counts once.
    others: othersFiles()
      .flatMap(meshesOf)
      .filter((mesh, i, all) => all.findIndex((other) => isCopy(other, mesh)) === i),
  };
}

const isCopy = (a: Mesh, b: Mesh): boolean =>
  a.name === b.name && a.vertexCount === b.vertexCount && a.corners.length === b.corners.length;

/** Whether a mesh holds nothing that is looked for, so that what is found was planted. */
function isSound(mesh: Mesh): boolean {
  if (mesh.polygonOffsets.length <= LEAST_FACES) return false;
  const { doubled, withoutArea, loose, crowded, pinched, holes, crossed } = soundnessOf(mesh);
  const faults = [doubled.same, withoutArea, loose, crowded, holes, crossed].reduce(
    (sum, list) => sum + list.length,
    0,
  );
  return faults + pinched.size === 0 && wrongWinding(mesh) === null;
}

/** Whether a file said itself that it is of quads, so that it is known what must come back. */
function isOfQuads({ polygonOffsets: offsets, polygonOrigin }: Mesh): boolean {
  if (polygonOrigin !== 'encoded') return false;
  let quads = 0;
  for (let face = 1; face < offsets.length; face++) if (offsets[face] - offsets[face - 1] === 4) quads++;
  return quads >= LEAST_FACES && quads * 10 >= (offsets.length - 1) * 8;
}

/** Faces with neighbours all round, evenly over a mesh: where none is, a missing face is no gap. */
function innerFaces(mesh: Mesh): number[] {
  const { twin, next } = topologyOf(mesh).halfEdges;
  const count = mesh.polygonOffsets.length - 1;
  const isInner = (face: number) => {
    for (let half = mesh.polygonOffsets[face]; half < mesh.polygonOffsets[face + 1]; half++) {
      // All round each of its points.
      let at = half;
      do {
        if (twin[at] < 0) return false;
        at = next[twin[at]];
      } while (at !== half);
    }
    return true;
  };
  const step = Math.max(1, Math.floor(count / TRIES));
  return Array.from({ length: Math.floor(count / step) }, (_, i) => i * step).filter(isInner);
}

const cornersOf = ({ corners, polygonOffsets }: Mesh, face: number): number[] => [
  ...corners.subarray(polygonOffsets[face], polygonOffsets[face + 1]),
];

const without = (mesh: Mesh, face: number): Mesh => {
  const goneFaces = new Uint8Array(mesh.polygonOffsets.length - 1);
  goneFaces[face] = 1;
  const open = remadeMesh(mesh, { goneFaces });
  // Where every face has vertices of its own they would be left over.
  return remadeMesh(open, { goneVertices: looseVertices(open) });
};

function flipped(mesh: Mesh, face: number): Mesh {
  const corners = mesh.corners.slice();
  corners.subarray(mesh.polygonOffsets[face] + 1, mesh.polygonOffsets[face + 1]).reverse();
  return { ...mesh, corners };
}

/** What is planted on a face, whether it is found, and what else is then told that is not there. */
const FAULTS: readonly {
  readonly title: string;
  /** Of which faces it can be. */
  readonly isFor?: (mesh: Mesh, face: number) => boolean;
  readonly plant: (mesh: Mesh, face: number) => Mesh;
  readonly count: (mesh: Mesh) => number;
  /** How much else there is then; all that is told, where nothing is said. */
  readonly tells?: (mesh: Mesh) => number;
}[] = [
  { title: 'a face that is missing', plant: without, count: (mesh) => soundnessOf(mesh).holes.length },
  {
    title: 'a face that is there twice',
    plant: (mesh, face) => remadeMesh(mesh, { added: [{ piece: 0, corners: cornersOf(mesh, face) }] }),
    count: (mesh) => soundnessOf(mesh).doubled.same.length,
  },
  {
    title: 'a face wound the other way',
    plant: flipped,
    count: (mesh) => wrongWinding(mesh)?.polygons.length ?? 0,
  },
  {
    title: 'a face without area',
    plant: (mesh, face) => {
      const [one, other] = cornersOf(mesh, face);
      return remadeMesh(mesh, { added: [{ piece: 0, corners: [one, other, one] }] });
    },
    count: (mesh) => soundnessOf(mesh).withoutArea.length,
  },
  {
    title: 'a point that no face has',
    plant: (mesh, face) => remadeMesh(mesh, { copies: [cornersOf(mesh, face)[0]] }),
    count: (mesh) => soundnessOf(mesh).loose.length,
  },
  {
    title: 'a quad whose corners are out of order',
    isFor: isEvenQuad,
    plant: (mesh, face) => {
      const corners = mesh.corners.slice();
      const at = mesh.polygonOffsets[face] + 1;
      [corners[at], corners[at + 1]] = [corners[at + 1], corners[at]];
      return { ...mesh, corners };
    },
    count: (mesh) => soundnessOf(mesh).crossed.length,
    // The edges that it lost are a gap and edges of one face at once: told as what they are.
    tells: () => 0,
  },
];

/** A quad that is not bent much: of one that is folded no order is the right one. */
function isEvenQuad(mesh: Mesh, face: number): boolean {
  const corners = cornersOf(mesh, face);
  if (corners.length !== 4) return false;
  const [one, other] = [
    [0, 1, 2],
    [0, 2, 3],
  ].map((three) => {
    const normal = new Float64Array(3);
    putAreaNormal(
      positionsOf(mesh),
      three.map((k) => corners[k]),
      0,
      3,
      normal,
    );
    return normal;
  });
  const along = one[0] * other[0] + one[1] * other[1] + one[2] * other[2];
  return along > 0.9 * Math.hypot(...one) * Math.hypot(...other);
}

/** All that is told of a mesh. */
function toldOf(mesh: Mesh): number {
  const { doubled, withoutArea, loose, crowded, pinched, holes, crossed } = soundnessOf(mesh);
  const lists = [doubled.same, withoutArea, loose, crowded, holes, crossed];
  return lists.reduce(
    (sum, list) => sum + list.length,
    pinched.size + (wrongWinding(mesh)?.polygons.length ?? 0),
  );
}

function rateRows(whose: string, meshes: readonly Mesh[]): BenchRow[] {
  const inOnePiece = meshes.filter(({ pieces }) => pieces.length === 1);
  return FAULTS.map(({ title, isFor, plant, count, tells = toldOf }) => {
    let planted = 0;
    let found = 0;
    let besides = 0;
    for (const mesh of inOnePiece)
      for (const face of innerFaces(mesh)) {
        if (isFor?.(mesh, face) === false) continue;
        const faulty = plant(mesh, face);
        planted++;
        if (count(faulty) === 1) found++;
        besides += Math.max(0, tells(faulty) - count(faulty));
      }
    const share = planted > 0 ? found / planted : 0;
    return {
      work: `${title}, on ${planted} places of ${inOnePiece.length} meshes ${whose}, found; ${besides} other things told`,
      measured: `${(share * 100).toFixed(1)} %`,
      budget: '≥ 95 %',
      holds: share >= 0.95 && besides <= planted * 0.02,
    };
  });
}

/** Vertices of the bodies that are timed: the second is what the budget speaks of. */
const TIMED = [130_000, 520_000] as const;

/** A body's whole surface, and how the time grows with its size. */
function timeRows(character: Character): BenchRow[] {
  const brief = briefById('handset')!;
  const checks = CHECKS.filter(({ room }) => room === 'surface');
  const [small, large] = TIMED.map((vertices) => {
    const figure = refineTo(character, vertices);
    let seconds = Infinity;
    for (let run = 0; run < 5; run++) {
      // Of which nothing is known from the run before.
      const fresh = {
        ...figure,
        meshes: figure.meshes.map((mesh) => ({ ...mesh, corners: mesh.corners.slice() })),
      };
      const began = performance.now();
      for (const check of checks) check.run(fresh, brief);
      seconds = Math.min(seconds, (performance.now() - began) / 1000);
    }
    return { seconds, triangles: trianglesOf(figure) };
  });
  const nLogN = ({ triangles }: { triangles: number }) => triangles * Math.log(triangles);
  const allowed = nLogN(large) / nLogN(small);
  return [
    {
      work: `the whole surface of a body of ${spaced(large.triangles)} triangles audited`,
      measured: `${large.seconds.toFixed(1)} s`,
      budget: '≤ 3 s',
      holds: large.seconds <= 3,
    },
    {
      work: `the same over that of ${spaced(small.triangles)} triangles`,
      measured: `${(large.seconds / small.seconds).toFixed(1)} × as long`,
      budget: `≤ ${allowed.toFixed(1)} × (n·log n)`,
      holds: large.seconds / small.seconds <= allowed,
    },
  ];
}

const trianglesOf = ({ meshes }: Character): number =>
  meshes.reduce(
    (sum, { corners, polygonOffsets }) => sum + corners.length - 2 * (polygonOffsets.length - 1),
    0,
  );

const spaced = (count: number): string => count.toLocaleString('en').replaceAll(',', ' ');

export async function surfaceRows(deckhand: Character): Promise<BenchRow[]> {
  // What the others leave behind in memory would be counted with it.
  const times = timeRows(deckhand);
  const { own, others } = allMeshes();
  return [
    ...times,
    ...(await referenceRows(deckhand)),
    ...rateRows('of the cast', own.filter(isSound)),
    ...rateRows('that others made', others.filter(isSound)),
    ...figureRows(),
    ...quadRows('of the cast', own.filter(isOfQuads)),
    ...quadRows('that others made', others.filter(isOfQuads)),
  ];
}
