/** Several meshes as one on the node of the first, with all that their vertices carry. */
import { inverseOr, times } from '../geometry/matrix';
import { joinAttributes } from './attributes';
import { bakedMesh, isIdentity } from './baked';
import { ancestorsOf, restWorld } from './hierarchy';
import { type Character, type ElementsOf, type Influences, type Mesh, type Skin, replaceAt } from './model';
import { withoutNodes } from './remove';

/** Why meshes cannot be one, as a sentence. */
export class CannotJoin extends Error {}

/** Binds that differ by more, number by number, are of different poses. */
const SAME_BIND = 1e-4;

/** The character with the meshes of `others` joined to that of `first`. Throws CannotJoin. */
export function withMeshesJoined(character: Character, first: number, others: readonly number[]): Character {
  const joined = others.reduce((out, other) => withMeshJoined(out, first, other), character);
  return withoutNodes(joined, new Set(others)).character;
}

function withMeshJoined(character: Character, first: number, other: number): Character {
  const { nodes, meshes, skins } = character;
  const [one, two] = [nodes[first], nodes[other]];
  const names = `“${one.name}” and “${two.name}”`;
  if (one.mesh === two.mesh)
    throw new CannotJoin(`${names} show the same mesh; take one of them out instead.`);
  if (nodes.some(({ parent }) => parent === other))
    throw new CannotJoin(`Other nodes hang under “${two.name}”; hang them elsewhere first.`);
  if (one.skin >= 0 !== two.skin >= 0)
    throw new CannotJoin(`One of ${names} is bound and the other is not; bind it first.`);
  if (one.skin < 0 && boneAbove(nodes, first) !== boneAbove(nodes, other))
    throw new CannotJoin(`${names} hang on different bones and move apart; bind them first.`);
  const world = restWorld(nodes);
  const through =
    one.skin >= 0
      ? throughSkins(skins[one.skin], skins[two.skin], names)
      : times(inverseOr(world, first * 16), world, 0, other * 16);
  const moved = isIdentity(through, 1e-7) ? meshes[two.mesh] : bakedMesh(meshes[two.mesh], through);
  const union = one.skin >= 0 ? unionOfSkins(skins[one.skin], skins[two.skin], through) : null;
  const base = meshes[one.mesh];
  const mesh = joinedMesh(base, moved, union?.slotOf ?? null, names);
  const isElsewhere = (list: 'mesh' | 'skin') =>
    nodes.some((node, i) => i !== first && i !== other && node[list] === one[list]);
  const newMesh = isElsewhere('mesh') ? meshes.length : one.mesh;
  const newSkin = union && isElsewhere('skin') ? skins.length : one.skin;
  return {
    ...character,
    nodes: replaceAt(nodes, new Map([[first, { ...one, mesh: newMesh, skin: newSkin }]])),
    meshes: newMesh === meshes.length ? [...meshes, mesh] : replaceAt(meshes, new Map([[newMesh, mesh]])),
    skins: union ? withSkin(skins, newSkin, union.skin) : skins,
    sets: character.sets.map((set) => ({
      ...set,
      vertices: joinedElements(set.vertices, first, other, base.vertexCount),
      polygons: joinedElements(set.polygons, first, other, base.polygonOffsets.length - 1),
    })),
  };
}

/** The bone that carries a node; −1 for none. */
const boneAbove = (nodes: Character['nodes'], node: number): number =>
  ancestorsOf(nodes, node).find((above) => nodes[above].kind === 'bone') ?? -1;

const withSkin = (skins: readonly Skin[], at: number, skin: Skin): readonly Skin[] =>
  at === skins.length ? [...skins, skin] : replaceAt(skins, new Map([[at, skin]]));

/** What stood in the second stands behind what the first has. */
function joinedElements(
  list: readonly ElementsOf[],
  first: number,
  other: number,
  from: number,
): readonly ElementsOf[] {
  const behind = list
    .filter(({ node }) => node === other)
    .flatMap(({ ids }) => Array.from(ids, (id) => id + from));
  if (behind.length === 0) return list;
  const own = list.filter(({ node }) => node === first).flatMap(({ ids }) => [...ids]);
  return [
    ...list.filter(({ node }) => node !== first && node !== other),
    { node: first, ids: Uint32Array.from([...own, ...behind]) },
  ];
}

/** What carries the second's points into the space of the first, told by the joints that both list. */
function throughSkins(one: Skin, two: Skin, names: string): Float64Array {
  let through: Float64Array | null = null;
  two.joints.forEach((joint, slot) => {
    const at = one.joints.indexOf(joint);
    if (at < 0) return;
    const here = times(inverseOr(one.inverseBinds, at * 16), two.inverseBinds, 0, slot * 16);
    through ??= here;
    if (through.some((x, k) => Math.abs(x - here[k]) > SAME_BIND))
      throw new CannotJoin(`${names} are bound in different poses; bring their binds together first.`);
  });
  return through ?? new Float64Array([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]);
}

/** The joints of both, and where each of the second stands among them. */
function unionOfSkins(
  one: Skin,
  two: Skin,
  through: Float64Array,
): { skin: Skin; slotOf: readonly number[] } {
  const joints = [...one.joints];
  const binds = [...one.inverseBinds];
  const back = inverseOr(through);
  const slotOf = two.joints.map((joint, slot) => {
    const at = joints.indexOf(joint);
    if (at >= 0) return at;
    binds.push(...times(two.inverseBinds, back, slot * 16));
    return joints.push(joint) - 1;
  });
  const inverseBinds =
    one.inverseBinds instanceof Float32Array ? Float32Array.from(binds) : Float64Array.from(binds);
  return { skin: joints.length === one.joints.length ? one : { ...one, joints, inverseBinds }, slotOf };
}

function joinedMesh(one: Mesh, two: Mesh, slotOf: readonly number[] | null, names: string): Mesh {
  if (one.morphs.length !== two.morphs.length && one.morphs.length * two.morphs.length > 0)
    throw new CannotJoin(
      `${names} have ${one.morphs.length} and ${two.morphs.length} morph targets; only meshes with as many, or none, become one.`,
    );
  const vertexCount = one.vertexCount + two.vertexCount;
  const polygons = one.polygonOffsets.length - 1;
  const runs = [
    { start: 0, count: one.vertexCount },
    { start: one.vertexCount, count: two.vertexCount },
  ];
  const join = (a: Mesh['attributes'], b: Mesh['attributes']) => joinAttributes([a, b], runs, vertexCount);
  const morphs = one.morphs.length > 0 ? one.morphs : two.morphs;
  return {
    ...one,
    vertexCount,
    attributes: join(one.attributes, two.attributes),
    pieces: [
      ...one.pieces,
      ...two.pieces.map((piece) => ({
        ...piece,
        vertexStart: piece.vertexStart + one.vertexCount,
        polygonStart: piece.polygonStart + polygons,
      })),
    ],
    polygonOffsets: Uint32Array.from([
      ...one.polygonOffsets,
      ...two.polygonOffsets.subarray(1).map((offset) => offset + one.corners.length),
    ]),
    corners: Uint32Array.from([...one.corners, ...two.corners.map((corner) => corner + one.vertexCount)]),
    polygonOrigin: one.polygonOrigin === two.polygonOrigin ? one.polygonOrigin : 'encoded',
    influences: slotOf ? joinedInfluences(one, two, slotOf) : null,
    influenceStorage: slotOf ? (one.influenceStorage ?? two.influenceStorage) : null,
    morphs: morphs.map((_, k) => ({
      attributes: join(one.morphs[k]?.attributes ?? {}, two.morphs[k]?.attributes ?? {}),
    })),
    ...(one.morphWeights || two.morphWeights ? { morphWeights: one.morphWeights ?? two.morphWeights } : {}),
  };
}

function joinedInfluences(one: Mesh, two: Mesh, slotOf: readonly number[]): Influences {
  const empty = (count: number): Influences => ({
    offsets: new Uint32Array(count + 1),
    joint: new Uint16Array(0),
    weight: new Float32Array(0),
  });
  const first = one.influences ?? empty(one.vertexCount);
  const second = two.influences ?? empty(two.vertexCount);
  const entries = first.weight.length;
  const offsets = new Uint32Array(one.vertexCount + two.vertexCount + 1);
  offsets.set(first.offsets);
  second.offsets.forEach((offset, vertex) => {
    offsets[one.vertexCount + vertex] = offset + entries;
  });
  const joint = new Uint16Array(entries + second.weight.length);
  joint.set(first.joint);
  second.joint.forEach((slot, k) => {
    joint[entries + k] = slotOf[slot];
  });
  const weight = new Float32Array(joint.length);
  weight.set(first.weight);
  weight.set(second.weight, entries);
  return { offsets, joint, weight };
}
