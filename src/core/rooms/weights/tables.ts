/**
 * Weights by themselves, as tables that outlive a new export of their mesh: for every point its place and its bones by name, and of
 * every mesh a fingerprint of its faces. Applied by the order of the vertices where the faces are the same, else by place.
 */
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import Papa from 'papaparse';
import { array, number, object, string } from 'yup';
import { characterHeight, placedMeshes } from '../../character/measure';
import type { Character, Mesh } from '../../character/model';
import { pointsOf } from '../../character/points';
import { RemedyError } from '../../contracts/remedy';
import { PointTree } from '../../geometry/point-tree';
import { type WeightShares, normalisedShares } from '../../geometry/row-edits';
import { withBoundRows } from './bound-rows';
import { PointShares, rowsOfMesh } from './steps';

/** A point of a table: a vertex of it, where it stands at rest (world space, metres), and the share of every bone that pulls it. */
export interface TablePoint {
  readonly vertex: number;
  readonly place: readonly number[];
  readonly weights: Readonly<Record<string, number>>;
}

export interface TableMesh {
  readonly name: string;
  readonly fingerprint: string;
  readonly vertices: number;
  readonly points: readonly TablePoint[];
}

export interface WeightTable {
  readonly meshes: readonly TableMesh[];
}

/** What became of one mesh of a table. */
export interface TableOutcome {
  readonly mesh: string;
  readonly by: 'order' | 'place';
  /** Points that got their weights, and those of the mesh that nothing in the table lies near enough to. */
  readonly points: number;
  readonly without: number;
  /** The farthest that a point was from that in the table, metres. */
  readonly farthest: number;
}

/** Places in a table are to a thousandth of a millimetre, weights to a millionth. */
const PLACE_DIGITS = 6;
const WEIGHT_DIGITS = 6;

/** A point of the table farther off than this share of the height is another point. */
const NEAR = 0.005;

/** What the faces of a mesh are, whatever its points are at and whatever pulls them. */
export function fingerprintOfMesh({ vertexCount, polygonOffsets, corners }: Mesh): string {
  const words = new Uint32Array(1 + polygonOffsets.length + corners.length);
  words[0] = vertexCount;
  words.set(polygonOffsets, 1);
  words.set(corners, 1 + polygonOffsets.length);
  return bytesToHex(sha256(new Uint8Array(words.buffer))).slice(0, 32);
}

const rounded = (x: number, digits: number): number => Number(x.toFixed(digits));

/** The weights of all bound meshes. */
export function tableOf(character: Character): WeightTable {
  const meshes = placedMeshes(character).flatMap(({ node, mesh, skin, points }): TableMesh[] => {
    if (!skin || !mesh.influences) return [];
    const { vertexOfPoint, pointCount } = pointsOf(mesh);
    const shares = new PointShares(mesh, mesh.influences);
    const rows = Array.from({ length: pointCount }, (_, point): TablePoint => {
      const vertex = vertexOfPoint[point];
      const weights: Record<string, number> = {};
      for (let k = shares.offsets[point]; k < shares.offsets[point + 1]; k++) {
        const { name } = character.nodes[skin.joints[shares.joint[k]]];
        weights[name] = rounded((weights[name] ?? 0) + shares.share[k], WEIGHT_DIGITS);
      }
      const place = [0, 1, 2].map((k) => rounded(points[vertex * 3 + k], PLACE_DIGITS));
      return { vertex, place, weights };
    });
    const name = character.nodes[node].name || mesh.name;
    return [{ name, fingerprint: fingerprintOfMesh(mesh), vertices: mesh.vertexCount, points: rows }];
  });
  return { meshes };
}

const COLUMNS = ['mesh', 'fingerprint', 'vertices', 'vertex', 'x', 'y', 'z', 'bone', 'weight'] as const;

/** A line for every bone of every point. */
export function csvOfTable({ meshes }: WeightTable): string {
  const rows = meshes.flatMap(({ name, fingerprint, vertices, points }) =>
    points.flatMap(({ vertex, place, weights }) =>
      Object.entries(weights).map(([bone, weight]) => [
        name,
        fingerprint,
        vertices,
        vertex,
        ...place,
        bone,
        weight,
      ]),
    ),
  );
  return Papa.unparse({ fields: [...COLUMNS], data: rows }, { newline: '\n' });
}

const finite = () =>
  number()
    .required()
    .test('finite', 'a number must be finite', (x) => Number.isFinite(x));

const tableSchema = object({
  meshes: array(
    object({
      name: string().required(),
      fingerprint: string().required(),
      vertices: number().integer().min(0).required(),
      points: array(
        object({
          vertex: number().integer().min(0).required(),
          place: array(finite()).length(3).required(),
          weights: object().required(),
        }).required(),
      ).required(),
    }).required(),
  ).required(),
});

/** Reads a table, CSV or JSON. Throws RemedyError with one sentence that says where. */
export function readTable(text: string): WeightTable {
  return /^\s*\{/.test(text) ? tableFromJson(text) : tableFromCsv(text);
}

function tableFromJson(text: string): WeightTable {
  let read: WeightTable;
  try {
    read = tableSchema.validateSync(JSON.parse(text), { strict: true }) as WeightTable;
  } catch (error) {
    throw new RemedyError(
      `The table of weights cannot be read: ${error instanceof Error ? error.message : String(error)}.`,
    );
  }
  for (const { name, points } of read.meshes)
    for (const { vertex, weights } of points)
      for (const [bone, weight] of Object.entries(weights))
        if (!isWeight(weight))
          throw new RemedyError(
            `The table gives “${bone}” ${String(weight)} of vertex ${vertex} of “${name}”; a weight is from 0 to 1.`,
          );
  return read;
}

const isWeight = (weight: unknown): weight is number =>
  typeof weight === 'number' && weight >= 0 && weight <= 1.001;

function tableFromCsv(text: string): WeightTable {
  const { data, errors, meta } = Papa.parse<Record<string, string>>(text.trim(), {
    header: true,
    skipEmptyLines: true,
  });
  const missing = COLUMNS.filter((column) => !meta.fields?.includes(column));
  if (missing.length > 0)
    throw new RemedyError(
      `The table of weights has no column ${missing.join(', ')}; its first line must be ${COLUMNS.join(',')}.`,
    );
  const [first] = errors;
  if (first)
    throw new RemedyError(`Line ${(first.row ?? 0) + 2} of the table cannot be read: ${first.message}.`);
  const meshes = new Map<
    string,
    { fingerprint: string; vertices: number; points: Map<number, TablePoint> }
  >();
  data.forEach((row, i) => {
    const numbers = ['vertices', 'vertex', 'x', 'y', 'z', 'weight'].map((column) =>
      row[column].trim() === '' ? Number.NaN : Number(row[column]),
    );
    const [vertices, vertex, x, y, z, weight] = numbers;
    if (
      numbers.some((value) => !Number.isFinite(value)) ||
      !isWeight(weight) ||
      !Number.isInteger(vertex) ||
      vertex < 0
    )
      throw new RemedyError(
        `Line ${i + 2} of the table has something else than a number, or a weight that is not from 0 to 1.`,
      );
    const mesh = meshes.get(row.mesh) ?? { fingerprint: row.fingerprint, vertices, points: new Map() };
    meshes.set(row.mesh, mesh);
    const weights = { ...mesh.points.get(vertex)?.weights, [row.bone]: weight };
    mesh.points.set(vertex, { vertex, place: [x, y, z], weights });
  });
  return {
    meshes: [...meshes].map(([name, { points, ...mesh }]) => ({
      name,
      ...mesh,
      points: [...points.values()],
    })),
  };
}

/** Puts the weights of a table on the meshes of the same names. Throws RemedyError where none fits, or a bone is not there. */
export function withTable(
  character: Character,
  table: WeightTable,
): { character: Character; outcomes: TableOutcome[] } {
  const placed = placedMeshes(character);
  const boneOf = new Map<string, number>();
  character.nodes.forEach(({ name, kind }, i) => {
    if (kind === 'bone' && !boneOf.has(name)) boneOf.set(name, i);
  });
  const outcomes: TableOutcome[] = [];
  let now = character;
  for (const mesh of table.meshes) {
    const shown = placed.find(
      ({ node, mesh: own }) => (character.nodes[node].name || own.name) === mesh.name,
    );
    if (!shown) continue;
    const names = [...new Set(mesh.points.flatMap(({ weights }) => Object.keys(weights)))];
    const lost = names.filter((name) => !boneOf.has(name));
    if (lost.length > 0)
      throw new RemedyError(
        `The table gives weights to ${lost
          .slice(0, 3)
          .map((name) => `“${name}”`)
          .join(
            ', ',
          )}${lost.length > 3 ? ` and ${lost.length - 3} more` : ''}, and no bone is called so; rename the bones, or change the table.`,
      );
    const { rows, outcome } = rowsFor(character, shown, mesh, names);
    now = withBoundRows(
      now,
      [...names.map((name) => boneOf.get(name) as number), ...(shown.skin?.joints ?? [])],
      new Map([[shown.node, rows]]),
    );
    outcomes.push(outcome);
  }
  if (outcomes.length === 0)
    throw new RemedyError(
      `No mesh is called ${
        table.meshes
          .slice(0, 3)
          .map(({ name }) => `“${name}”`)
          .join(', ') || 'as one in the table'
      }; rename the mesh, or the table.`,
    );
  return { character: now, outcomes };
}

/** The row of every point: bones as places in `names`, and behind those the joints that the mesh had, for points that keep theirs. */
function rowsFor(
  character: Character,
  { mesh, points, skin }: ReturnType<typeof placedMeshes>[number],
  { name, fingerprint, points: given }: TableMesh,
  names: readonly string[],
): { rows: WeightShares[]; outcome: TableOutcome } {
  const { pointCount, vertexOfPoint, pointOfVertex } = pointsOf(mesh);
  const placeOf = new Map(names.map((bone, i) => [bone, i]));
  const shares = given.map(({ weights }) =>
    normalisedShares(
      new Map(Object.entries(weights).map(([bone, share]) => [placeOf.get(bone) as number, share])),
    ),
  );
  const kept = skin && mesh.influences ? rowsOfMesh(mesh) : null;
  const before = (point: number): WeightShares =>
    new Map([...(kept?.[point] ?? [])].map(([joint, share]) => [names.length + joint, share]));
  const isSame = fingerprint === fingerprintOfMesh(mesh);
  // By any vertex of a point: which one a table names makes no difference.
  const byPoint = new Map(given.map(({ vertex }, i) => [pointOfVertex[vertex], i]));
  const tree = isSame ? null : new PointTree(given.flatMap(({ place }) => [...place]));
  const near = NEAR * characterHeight(character);
  let [found, farthest] = [0, 0];
  const rows = Array.from({ length: pointCount }, (_, point): WeightShares => {
    const at = vertexOfPoint[point];
    const place = [points[at * 3], points[at * 3 + 1], points[at * 3 + 2]] as const;
    const row = tree ? tree.nearest(...place, near) : (byPoint.get(point) ?? -1);
    if (row < 0) return before(point);
    found++;
    const [x, y, z] = given[row].place;
    farthest = Math.max(farthest, Math.hypot(place[0] - x, place[1] - y, place[2] - z));
    return shares[row];
  });
  return {
    rows,
    outcome: {
      mesh: name,
      by: isSame ? 'order' : 'place',
      points: found,
      without: pointCount - found,
      farthest,
    },
  };
}
