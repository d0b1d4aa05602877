/**
 * The parts of a figure: connected pieces of its meshes, how large they are, which bones drive them, and what each is: as a person
 * has said it, else as names, bones and shapes suggest it. Where nothing tells, nothing is suggested.
 */
import { islandsOfMesh } from '../character/islands';
import { type Placed, characterHeight, placedMeshes } from '../character/measure';
import type { Character, ElementSet, Mesh } from '../character/model';
import type { PartKind } from '../character/part-kinds';
import { PART_KIND_WORDS, RIGID_KINDS } from '../character/part-kinds';
import { pointsOf } from '../character/points';
import { topologyOf } from '../character/topology';
import { putAreaNormal } from '../geometry/normals';
import { borderLoops, eulerNumbers } from '../geometry/soundness';
import { kindInName } from './part-words';
import { wordsOf } from './reading/tokens';

/** A bone and its share of all weight of a part, 0 … 1. */
export interface PartDriver {
  readonly node: number;
  readonly share: number;
}

/** A connected piece of a mesh. World space at rest, metres. */
export interface MeshPart {
  /** The node that shows the mesh, and which of the mesh's pieces it is. */
  readonly node: number;
  readonly island: number;
  readonly name: string;
  /** Its polygons, ascending. */
  readonly polygons: Uint32Array;
  readonly points: number;
  readonly quads: number;
  readonly triangles: number;
  readonly ngons: number;
  readonly min: readonly [number, number, number];
  readonly max: readonly [number, number, number];
  /** Square metres, and cubic metres where it is closed. */
  readonly area: number;
  readonly volume: number;
  /** No border goes round it. */
  readonly isClosed: boolean;
  /** Its handles; null where it is not sound enough to have a number of them. */
  readonly genus: number | null;
  /** The bones that drive it, the strongest first; none for a part that is not bound. */
  readonly drivers: readonly PartDriver[];
  /** Index among the character's materials, −1 for none; of most of its polygons. */
  readonly material: number;
  readonly kind: PartKind | null;
  /** Why it is of that kind, or why nothing tells. */
  readonly why: string;
  readonly isSaid: boolean;
  /** It goes with one bone and does not bend: said so, or said to be of a kind that does not. */
  readonly isRigid: boolean;
  /** That it is rigid was said by itself, whatever its kind. */
  readonly isSaidRigid: boolean;
  /** Its points need no twins on the other side. */
  readonly isOneSided: boolean;
}

/** Whether a part is not to bend: it was said to be rigid, or it is of a kind that is. */
export const mustNotBend = ({ isRigid, kind }: Pick<MeshPart, 'isRigid' | 'kind'>): boolean =>
  isRigid || (kind !== null && RIGID_KINDS.has(kind));

const known = new WeakMap<Character, readonly MeshPart[]>();

/** The parts of all meshes that are shown, the largest of each mesh first. Made once for a character. */
export function partsOf(character: Character): readonly MeshPart[] {
  let parts = known.get(character);
  if (!parts)
    known.set(
      character,
      (parts = placedMeshes(character).flatMap((placed) => partsOfMesh(character, placed))),
    );
  return parts;
}

/** A part before anything is known of its kind. */
type BarePart = Omit<MeshPart, 'kind' | 'why' | 'isSaid' | 'isRigid' | 'isSaidRigid' | 'isOneSided' | 'name'>;

function partsOfMesh(character: Character, placed: Placed): MeshPart[] {
  const { node, mesh } = placed;
  const bare = measured(character, placed);
  const said = saidOfPolygons(character, node, mesh);
  const meshName = character.nodes[node].name || mesh.name;
  const order = bare.map((_, i) => i).sort((a, b) => bare[b].area - bare[a].area || a - b);
  const height = characterHeight(character);
  return order.map((at, i): MeshPart => {
    const part = bare[at];
    const sets = [...setsOf(part, said)];
    const kindSet = sets.find(({ partKind }) => partKind);
    const isSaidRigid = sets.some(({ isRigid }) => isRigid);
    const told = kindSet?.partKind
      ? { kind: kindSet.partKind, why: `said by hand, in the set “${kindSet.name}”` }
      : suggestedKind(character, part, mesh, { count: bare.length, largest: bare[order[0]].area, height });
    return {
      ...part,
      name: bare.length === 1 ? meshName : `${meshName} ${i + 1}`,
      ...told,
      isSaid: kindSet !== undefined,
      isRigid: isSaidRigid || (kindSet?.partKind ? RIGID_KINDS.has(kindSet.partKind) : false),
      isSaidRigid,
      isOneSided: sets.some(({ isOneSided }) => isOneSided),
    };
  });
}

function measured(character: Character, { node, mesh, skin, points }: Placed): BarePart[] {
  const islands = islandsOfMesh(mesh);
  const { count, islandOf } = islands;
  if (count === 0) return [];
  const { polygonOffsets: offsets, corners } = mesh;
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  const { halfEdges } = topologyOf(mesh);
  const euler = eulerNumbers(
    { offsets, corners, pointOfVertex, pointCount },
    halfEdges,
    islands,
    borderLoops(halfEdges),
  );
  const polygonsOf = groupedByIsland(islandOf, count);
  const byMaterial = mesh.pieces.map(({ material, polygonStart, polygonCount }) => ({
    material,
    end: polygonStart + polygonCount,
  }));
  const drivers = skin && mesh.influences ? driversByIsland(mesh, skin.joints, polygonsOf) : null;
  return polygonsOf.map((polygons, island): BarePart => {
    const sides = [0, 0, 0];
    let [lowX, lowY, lowZ] = [Infinity, Infinity, Infinity];
    let [highX, highY, highZ] = [-Infinity, -Infinity, -Infinity];
    const normal = new Float64Array(3);
    let area = 0;
    let volume = 0;
    // About a place of its own, so that far places lose no digits.
    const origin = corners[offsets[polygons[0]]] * 3;
    for (const polygon of polygons) {
      const [from, to] = [offsets[polygon], offsets[polygon + 1]];
      sides[Math.min(to - from, 5) - 3]++;
      putAreaNormal(points, corners, from, to, normal);
      area += Math.sqrt(normal[0] * normal[0] + normal[1] * normal[1] + normal[2] * normal[2]) / 2;
      // The same as over a fan from that corner: what the fan's triangles have beyond the area normal is square on it.
      const first = corners[from] * 3;
      volume +=
        ((points[first] - points[origin]) * normal[0] +
          (points[first + 1] - points[origin + 1]) * normal[1] +
          (points[first + 2] - points[origin + 2]) * normal[2]) /
        6;
      for (let corner = from; corner < to; corner++) {
        const at = corners[corner] * 3;
        const x = points[at];
        const y = points[at + 1];
        const z = points[at + 2];
        if (x < lowX) lowX = x;
        if (x > highX) highX = x;
        if (y < lowY) lowY = y;
        if (y > highY) highY = y;
        if (z < lowZ) lowZ = z;
        if (z > highZ) highZ = z;
      }
    }
    const middle = polygons[polygons.length >> 1];
    return {
      node,
      island,
      polygons,
      points: euler[island].vertices,
      triangles: sides[0],
      quads: sides[1],
      ngons: sides[2],
      min: [lowX, lowY, lowZ],
      max: [highX, highY, highZ],
      area,
      volume,
      isClosed: euler[island].borders === 0,
      genus: euler[island].genus,
      drivers: drivers?.[island] ?? hungOn(character, node),
      material: byMaterial.find(({ end }) => middle < end)?.material ?? -1,
    };
  });
}

function groupedByIsland(islandOf: Int32Array, count: number): Uint32Array[] {
  const at = new Uint32Array(count + 1);
  for (const island of islandOf) at[island + 1]++;
  for (let i = 0; i < count; i++) at[i + 1] += at[i];
  const out = new Uint32Array(islandOf.length);
  const next = at.slice();
  islandOf.forEach((island, polygon) => {
    out[next[island]++] = polygon;
  });
  return Array.from({ length: count }, (_, i) => out.subarray(at[i], at[i + 1]));
}

/** The bones that drive each island, the strongest first. */
function driversByIsland(
  { polygonOffsets, corners, influences, vertexCount }: Mesh,
  joints: readonly number[],
  polygonsOf: readonly Uint32Array[],
): PartDriver[][] {
  const seen = new Uint8Array(vertexCount);
  const sums = new Float64Array(joints.length);
  return polygonsOf.map((polygons) => {
    const slots: number[] = [];
    for (const polygon of polygons)
      for (let corner = polygonOffsets[polygon]; corner < polygonOffsets[polygon + 1]; corner++) {
        const vertex = corners[corner];
        if (seen[vertex] || !influences) continue;
        seen[vertex] = 1;
        for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++) {
          if (!(influences.weight[k] > 0)) continue;
          const slot = influences.joint[k];
          if (sums[slot] === 0) slots.push(slot);
          sums[slot] += influences.weight[k];
        }
      }
    const total = slots.reduce((sum, slot) => sum + sums[slot], 0);
    // Two slots may be of one bone.
    const shares = new Map<number, number>();
    for (const slot of slots) {
      shares.set(joints[slot], (shares.get(joints[slot]) ?? 0) + sums[slot] / total);
      sums[slot] = 0;
    }
    return [...shares]
      .map(([node, share]) => ({ node, share }))
      .sort((a, b) => b.share - a.share || a.node - b.node);
  });
}

/** A mesh that hangs on a bone goes wholly with it. */
function hungOn({ nodes }: Character, node: number): PartDriver[] {
  for (let at = nodes[node].parent; at >= 0; at = nodes[at].parent)
    if (nodes[at].kind === 'bone') return [{ node: at, share: 1 }];
  return [];
}

/** Which sets say something of each polygon of a mesh. */
function saidOfPolygons(
  character: Character,
  node: number,
  mesh: Mesh,
): (readonly [ElementSet, Uint8Array])[] {
  return character.sets
    .filter(({ partKind, isRigid, isOneSided }) => partKind || isRigid || isOneSided)
    .flatMap((set) => {
      const held = set.polygons.filter((elements) => elements.node === node);
      if (held.length === 0) return [];
      const isIn = new Uint8Array(mesh.polygonOffsets.length - 1);
      for (const { ids } of held) for (const id of ids) isIn[id] = 1;
      return [[set, isIn] as const];
    });
}

/** Most of a part is in a set, or nothing is said of it. */
const MOST = 0.5;

function* setsOf(
  part: BarePart,
  said: readonly (readonly [ElementSet, Uint8Array])[],
): Generator<ElementSet> {
  // What was said last holds.
  for (const [set, isIn] of said.toReversed()) {
    let held = 0;
    for (const polygon of part.polygons) held += isIn[polygon];
    if (held > MOST * part.polygons.length) yield set;
  }
}

interface Told {
  readonly kind: PartKind | null;
  readonly why: string;
}

const NOT_TOLD: Told = { kind: null, why: 'neither names nor bones tell what it is' };

/** Of a mesh with so many parts or fewer its name tells of each. */
const FEW = 4;

/** A stud has so much of the area of the largest part of its mesh at most. */
const STUD = 0.05;

/** What is known of the mesh of a part: how many it has, the area of the largest, and how tall the figure is. Metres. */
interface MeshOfParts {
  readonly count: number;
  readonly largest: number;
  readonly height: number;
}

/** A bone that has nearly all of a part. */
const NEARLY_ALL = 0.95;

/** A closed part encloses so much of what a ball of its area would: 36π·V² / A³. */
const ROUND = 0.85;

/** An eye is between these shares of the figure's height across. */
const SMALLEST_EYE = 0.006;
const LARGEST_EYE = 0.06;

function suggestedKind(
  { nodes, carried }: Character,
  part: BarePart,
  mesh: Mesh,
  { count, largest, height }: MeshOfParts,
): Told {
  const material = String(carried.materials[part.material]?.name ?? '');
  const [first] = part.drivers;
  // What a mesh of many parts is called says nothing of one of them, but its material does.
  const byMaterial = kindInName(material);
  const byName = kindInName(nodes[part.node].name) ?? kindInName(mesh.name);
  const isFew = count <= FEW;
  if (byMaterial && byMaterial.kind !== 'skin')
    return {
      kind: byMaterial.kind,
      why: `its material “${material}” is called after ${nameOf(byMaterial.kind)}`,
    };
  const isWholly = first !== undefined && first.share >= NEARLY_ALL;
  const isStud = count > 1 && part.isClosed && part.area < STUD * largest;
  if (byName?.kind === 'cloth' && isStud) return { kind: 'buckle', why: 'a small closed piece on cloth' };
  if (byName?.kind === 'hat' && !isWholly && count > 1) return NOT_TOLD;
  if (byName && (byName.kind !== 'skin' || isFew) && !(byName.kind === 'skin' && isBall(part, height)))
    return { kind: byName.kind, why: `its mesh is called after ${nameOf(byName.kind)} (“${byName.word}”)` };
  const driver = first && first.share >= NEARLY_ALL ? nodes[first.node].name : '';
  if (driver && wordsOf(driver).some((word) => kindInName(word)?.kind === 'eye') && isBall(part, height))
    return { kind: 'eye', why: `a ball that goes with “${driver}”` };
  if (byMaterial) return { kind: 'skin', why: `its material “${material}” is called after skin` };
  return NOT_TOLD;
}

const nameOf = (kind: PartKind): string => PART_KIND_WORDS[kind].replace(/,.*/, '');

function isBall({ volume, area, min, max }: BarePart, height: number): boolean {
  const across = Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2]);
  const round = (36 * Math.PI * volume * volume) / (area * area * area || 1);
  return round >= ROUND && across >= SMALLEST_EYE * height && across <= LARGEST_EYE * height;
}
