/** What is told of whole figures: parts that were forgotten, and sides that differ, planted on the cast and on figures of others. */
import { type MeshPart, partsOf } from '../core/anatomy/parts';
import { type Character, type Mesh, node, positionsOf, replaceAt } from '../core/character/model';
import { characterHeight } from '../core/character/measure';
import { pointsOf } from '../core/character/points';
import { fanned } from '../core/geometry/fan';
import { gatherPolygons } from '../core/geometry/gather-polygons';
import { IDENTITY } from '../core/geometry/matrix';
import { windingNumber } from '../core/geometry/winding-number';
import { LEAST_TWINS, asymmetryOf } from '../core/anatomy/asymmetry';
import { forgottenParts } from '../core/rooms/surface/forgotten-parts';
import { withBall } from '../demo/triangles';
import type { BenchRow } from './row';
import { castFiles, othersFiles, readSample } from './sample-files';

/** Faults are planted in so many places of each figure. */
const PLACES = 8;

/** Figures of the cast, and those that others made, that are bound and have a body of some size. */
function figures(): { readonly own: Character[]; readonly others: Character[] } {
  const read = (file: string): Character[] => {
    const character = readSample(file);
    const figure = character && (character.skins.length > 0 ? character : onOneBone(character));
    return figure && largestPart(figure) ? [figure] : [];
  };
  const all = othersFiles().flatMap(read);
  const key = (character: Character) => character.meshes.map(({ vertexCount }) => vertexCount).join();
  return {
    own: castFiles().flatMap(read),
    // The same figure in several containers counts once.
    others: all.filter((one, i) => all.findIndex((other) => key(other) === key(one)) === i),
  };
}

/** The bound part that most bones drive, the largest of several; none where all are of few polygons. */
function largestPart(character: Character): MeshPart | undefined {
  const bound = partsOf(character).filter(
    ({ node, drivers, polygons }) =>
      drivers.length > 0 && character.nodes[node].skin >= 0 && polygons.length > 200,
  );
  return bound.toSorted((a, b) => b.drivers.length - a.drivers.length || b.area - a.area)[0];
}

/** A thing without bones bound to one, so that it can be asked what figures are. */
function onOneBone(character: Character): Character {
  const bone = character.nodes.length;
  const nodes = character.nodes.map((own) => (own.mesh >= 0 ? { ...own, skin: 0 } : own));
  const meshes = character.meshes.map((mesh) => ({
    ...mesh,
    influences: {
      offsets: new Uint32Array(mesh.vertexCount + 1).map((_, i) => i),
      joint: new Uint16Array(mesh.vertexCount),
      weight: new Float32Array(mesh.vertexCount).fill(1),
    },
  }));
  return {
    ...character,
    nodes: [...nodes, node({ name: 'all of it', kind: 'bone' })],
    meshes,
    skins: [{ name: 'all of it', joints: [bone], inverseBinds: Float64Array.from(IDENTITY) }],
  };
}

interface Planted {
  planted: number;
  found: number;
  besides: number;
}

const row = (title: string, whose: string, count: number, { planted, found, besides }: Planted): BenchRow => {
  const share = planted > 0 ? found / planted : 0;
  return {
    work: `${title}, in ${planted} places of ${count} figures ${whose}, found; ${besides} other things told`,
    measured: planted > 0 ? `${(share * 100).toFixed(1)} %` : 'no place',
    budget: '≥ 95 %',
    holds: share >= 0.95 && besides <= planted * 0.02,
  };
};

/** A series that looks like chance, 0 … 1. */
const lot = (i: number): number => (((Math.sin(i * 12.9898) * 43758.5453) % 1) + 1) % 1;

/** Box of a part in the space of its mesh. */
function boxOf(mesh: Mesh, { polygons }: MeshPart): { low: number[]; high: number[] } {
  const { corners } = gatherPolygons(mesh.polygonOffsets, mesh.corners, polygons);
  const points = positionsOf(mesh);
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const vertex of corners)
    for (let k = 0; k < 3; k++) {
      low[k] = Math.min(low[k], points[vertex * 3 + k]);
      high[k] = Math.max(high[k], points[vertex * 3 + k]);
    }
  return { low, high };
}

/** Balls put inside a body where it is thick enough, and well beside it. */
function forgottenRow(whose: string, characters: readonly Character[]): BenchRow {
  const sums: Planted = { planted: 0, found: 0, besides: 0 };
  let count = 0;
  for (const character of characters) {
    const part = largestPart(character);
    if (!part || forgottenParts(character).length > 0) continue;
    count++;
    const mesh = character.meshes[character.nodes[part.node].mesh];
    const points = positionsOf(mesh);
    const { offsets, corners } = gatherPolygons(mesh.polygonOffsets, mesh.corners, part.polygons);
    const triangles = fanned(offsets, corners);
    const { low, high } = boxOf(mesh, part);
    const size = Math.max(...high.map((x, k) => x - low[k]));
    const radius = 0.008 * size;
    const isFree = (place: readonly number[]) =>
      corners.every((vertex) => Math.hypot(...place.map((x, k) => points[vertex * 3 + k] - x)) > 3 * radius);
    const inside: number[][] = [];
    for (let i = 0; inside.length < PLACES / 2 && i < 400 && part.isClosed; i++) {
      const place = low.map((x, k) => x + lot(i * 3 + k + 1) * (high[k] - x));
      const [x, y, z] = place;
      if (Math.abs(windingNumber(points, triangles, x, y, z)) > 0.99 && isFree(place)) inside.push(place);
    }
    const apart = [0, 1, 2].map((axis) =>
      high.map((x, k) => (k === axis ? x + 0.15 * size : (x + low[k]) / 2)),
    );
    const bone = character.nodes[part.drivers[0].node].name;
    for (const place of [...inside, ...apart]) {
      const faulty = withBall(character, part.node, place, radius, bone);
      const isBall = ({ points: held }: MeshPart) => held === 42;
      if (!inside.includes(place) && !standsApart(faulty, isBall)) continue;
      const told = forgottenParts(faulty).map((one) => one.part);
      sums.planted++;
      if (told.some(isBall)) sums.found++;
      sums.besides += told.filter((one) => !isBall(one)).length;
    }
  }
  return row('a part that was forgotten', whose, count, sums);
}

/** Whether a part is beyond the boxes of all others: what lies beside a body may lie at its sleeve. */
function standsApart(character: Character, isOne: (part: MeshPart) => boolean): boolean {
  const away = 0.05 * characterHeight(character);
  const parts = partsOf(character);
  const ball = parts.find(isOne);
  return parts.every(
    (other) =>
      !ball ||
      isOne(other) ||
      other.min.some((low, k) => ball.max[k] < low - away || ball.min[k] > other.max[k] + away),
  );
}

/** A point moved off where its twin is, on bodies that are the same on both sides. */
function sidesRow(whose: string, characters: readonly Character[]): BenchRow {
  const sums: Planted = { planted: 0, found: 0, besides: 0 };
  let count = 0;
  for (const character of characters) {
    const tolerance = 0.0006 * characterHeight(character);
    const before = asymmetryOf(character, tolerance);
    const part = largestPart(character);
    if (!part || !before.plane || before.plane.share < LEAST_TWINS || before.differences.length > 0) continue;
    count++;
    const index = character.nodes[part.node].mesh;
    const mesh = character.meshes[index];
    const { low, high } = boxOf(mesh, part);
    const off = 0.01 * Math.max(...high.map((x, k) => x - low[k]));
    const { pointOfVertex } = pointsOf(mesh);
    for (let i = 0; i < PLACES; i++) {
      const face = part.polygons[Math.floor(lot(i + 1) * part.polygons.length)];
      const moved = pointOfVertex[mesh.corners[mesh.polygonOffsets[face]]];
      const data = positionsOf(mesh).slice();
      pointOfVertex.forEach((point, vertex) => {
        if (point === moved)
          for (let k = 0; k < 3; k++)
            data[vertex * 3 + k] += off * (lot(i * 3 + k + 7) - 0.5 + (k === 1 ? 1 : 0));
      });
      const attributes = { ...mesh.attributes, POSITION: { ...mesh.attributes.POSITION, data } };
      const faulty = {
        ...character,
        meshes: replaceAt(character.meshes, new Map([[index, { ...mesh, attributes }]])),
      };
      const told = asymmetryOf(faulty, tolerance).differences.flatMap(({ node, vertices }) =>
        node === part.node ? [...vertices].map((vertex) => pointOfVertex[vertex]) : [-1],
      );
      sums.planted++;
      if (told.includes(moved)) sums.found++;
      // The point, and the one that it leaves without a twin.
      sums.besides += Math.max(0, new Set(told).size - 2);
    }
  }
  return row('a point that was moved on one side', whose, count, sums);
}

export function figureRows(): BenchRow[] {
  const { own, others } = figures();
  return [
    forgottenRow('of the cast', own),
    forgottenRow('that others made', others),
    sidesRow('of the cast', own),
    sidesRow('that others made', others),
  ];
}
