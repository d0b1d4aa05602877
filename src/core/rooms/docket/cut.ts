/**
 * A character whose meshes are divided into what is drawn at once, each draw with a skin that lists only its
 * bones.
 */
import type { Channel, Character, Influences, Mesh, SceneNode, Skin } from '../../character/model';
import { pickAll, pickInfluences } from '../../character/pick';
import { type Draw, type Draws, drawsOf } from './draws';

/** A character in draws. */
export interface Cut {
  readonly character: Character;
  /** For every node, the node that it is of. */
  readonly from: Int32Array;
  /** For every mesh node whose mesh was divided: for every vertex, the vertex of the mesh that it is of. */
  readonly origins: ReadonlyMap<number, Uint32Array>;
  /** The meshes that are drawn otherwise than in their own pieces. */
  readonly divided: readonly { readonly mesh: Mesh; readonly draws: Draws }[];
}

/**
 * Divides meshes that need more bones or vertices than a draw knows. Every draw becomes a mesh of one piece;
 * the first stays on its node, further ones come beside it, or under it where the mesh hangs rigid. Faces
 * that no draw can hold are gone.
 */
export function cutIntoDraws(given: Character, bonesPerDraw: number, verticesPerDraw: number): Cut {
  const meshes: Mesh[] = [...given.meshes];
  const skins: Skin[] = [...given.skins];
  const nodes: SceneNode[] = [...given.nodes];
  const from = given.nodes.map((_, i) => i);
  const origins = new Map<number, Uint32Array>();
  const divided: { mesh: Mesh; draws: Draws }[] = [];
  given.meshes.forEach((mesh, index) => {
    const draws = drawsOf(mesh, bonesPerDraw, verticesPerDraw);
    if (draws.draws.length === draws.pieces && draws.impossible === 0) return;
    divided.push({ mesh, draws });
    const parts = [...draws.draws.map((draw) => drawnPart(mesh, draw)), ...carriedParts(mesh)];
    if (parts.length === 0) parts.push(nothingOf(mesh));
    const places = parts.map((part, k) => (k === 0 ? index : meshes.length + k - 1));
    parts.forEach((part, k) => {
      meshes[places[k]] = part.mesh;
    });
    given.nodes.forEach((node, i) => {
      if (node.mesh !== index) return;
      const skin = mesh.influences && node.skin >= 0 ? given.skins[node.skin] : null;
      parts.forEach((part, k) => {
        const at = k === 0 ? i : nodes.length;
        const shown = { mesh: places[k], skin: node.skin };
        if (skin) shown.skin = skins.push(skinOf(skin, part.joints)) - 1;
        nodes[at] = { ...(k === 0 ? node : besideOrUnder(node, i, k, skin !== null)), ...shown };
        from[at] = i;
        origins.set(at, part.vertices);
      });
    });
  });
  if (divided.length === 0) return { character: given, from: Int32Array.from(from), origins, divided };
  const character = withPartsMoved(given, { ...given, nodes, meshes, skins }, from);
  return { character: withoutIdleSkins(character), from: Int32Array.from(from), origins, divided };
}

interface Part {
  readonly mesh: Mesh;
  readonly vertices: Uint32Array;
  /** Joints of the old skin that its own lists. */
  readonly joints: readonly number[];
}

function drawnPart(mesh: Mesh, { piece, polygons, vertices, joints }: Draw): Part {
  const place = new Map(vertices.map((vertex, i) => [vertex, i]));
  const offsets = [0];
  const corners: number[] = [];
  for (const polygon of polygons) {
    for (let k = mesh.polygonOffsets[polygon]; k < mesh.polygonOffsets[polygon + 1]; k++)
      corners.push(place.get(mesh.corners[k]) as number);
    offsets.push(corners.length);
  }
  const range = {
    vertexStart: 0,
    vertexCount: vertices.length,
    polygonStart: 0,
    polygonCount: polygons.length,
  };
  return partOf(mesh, Uint32Array.from(vertices), joints, {
    pieces: [{ ...mesh.pieces[piece], ...range }],
    polygonOffsets: Uint32Array.from(offsets),
    corners: Uint32Array.from(corners),
  });
}

/** Pieces of lines and points, each whole. */
const carriedParts = (mesh: Mesh): Part[] =>
  mesh.pieces.flatMap((piece) => {
    if (piece.polygonCount > 0 || !piece.carriedIndices) return [];
    const vertices = Uint32Array.from({ length: piece.vertexCount }, (_, k) => piece.vertexStart + k);
    const joints = jointsIn(mesh.influences, vertices);
    const pieces = [{ ...piece, vertexStart: 0, polygonStart: 0 }];
    return [partOf(mesh, vertices, joints, { pieces, ...NO_POLYGONS })];
  });

const NO_POLYGONS = { polygonOffsets: new Uint32Array(1), corners: new Uint32Array(0) };

/** What is left of a mesh of which nothing can be drawn. */
const nothingOf = (mesh: Mesh): Part => partOf(mesh, new Uint32Array(0), [], { pieces: [], ...NO_POLYGONS });

function partOf(
  mesh: Mesh,
  vertices: Uint32Array,
  joints: readonly number[],
  made: Pick<Mesh, 'pieces' | 'polygonOffsets' | 'corners'>,
): Part {
  const storage = mesh.influenceStorage;
  return {
    vertices,
    joints,
    mesh: {
      ...mesh,
      ...made,
      vertexCount: vertices.length,
      attributes: pickAll(mesh.attributes, vertices),
      morphs: mesh.morphs.map((morph) => ({ ...morph, attributes: pickAll(morph.attributes, vertices) })),
      influences: mesh.influences && renamed(pickInfluences(mesh.influences, vertices), joints),
      influenceStorage: storage && { ...storage, joints: joints.length > 256 ? 'u16' : 'u8' },
    },
  };
}

/** Rows whose joints count among those that are listed; what weighs nothing on others is left out. */
function renamed(influences: Influences, joints: readonly number[]): Influences {
  const place = new Map(joints.map((j, k) => [j, k]));
  const offsets = new Uint32Array(influences.offsets.length);
  const joint: number[] = [];
  const weight: number[] = [];
  for (let vertex = 0; vertex + 1 < influences.offsets.length; vertex++) {
    for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++) {
      const at = place.get(influences.joint[k]);
      if (at === undefined) continue;
      joint.push(at);
      weight.push(influences.weight[k]);
    }
    offsets[vertex + 1] = joint.length;
  }
  return { offsets, joint: Uint16Array.from(joint), weight: Float32Array.from(weight) };
}

function jointsIn(influences: Influences | null, vertices: Uint32Array): number[] {
  if (!influences) return [];
  const own = pickInfluences(influences, vertices);
  return [...new Set(own.joint)].sort((a, b) => a - b);
}

/** A skin that lists some of another's joints; the first one where it needs none. */
function skinOf(skin: Skin, joints: readonly number[]): Skin {
  const listed = joints.length > 0 ? joints : [0];
  const inverseBinds = new Float64Array(listed.length * 16);
  listed.forEach((j, k) => inverseBinds.set(skin.inverseBinds.subarray(j * 16, j * 16 + 16), k * 16));
  const { skeleton: _, ...rest } = skin;
  return { ...rest, joints: listed.map((j) => skin.joints[j]), inverseBinds };
}

/** A node for a further draw. */
function besideOrUnder(node: SceneNode, at: number, k: number, isBound: boolean): SceneNode {
  const name = `${node.name} ${k + 1}`;
  if (isBound) return { ...node, name };
  const { matrix: _, ...rest } = node;
  return { ...rest, name, parent: at, translation: [0, 0, 0], rotation: [0, 0, 0, 1], scale: [1, 1, 1] };
}

/** Every part has the morph weights of its mesh in every clip, and stands in the scenes in which that stood. */
function withPartsMoved(given: Character, cut: Character, from: readonly number[]): Character {
  const further = new Map<number, number[]>();
  for (let i = given.nodes.length; i < from.length; i++)
    further.set(from[i], [...(further.get(from[i]) ?? []), i]);
  const partsOf = (ch: Channel): Channel[] => {
    const isOfMesh = ch.path === 'weights' || given.nodes[ch.node].skin >= 0;
    return isOfMesh ? (further.get(ch.node) ?? []).map((node) => ({ ...ch, node })) : [];
  };
  const { scenes } = given.carried;
  const isRoot = (i: number) => cut.nodes[i].parent < 0;
  return {
    ...cut,
    clips: cut.clips.map((clip) => ({
      ...clip,
      channels: clip.channels.flatMap((ch) => [ch, ...partsOf(ch)]),
    })),
    carried: {
      ...cut.carried,
      scenes: scenes.map((scene) => ({
        ...scene,
        roots: scene.roots.flatMap((root) => [root, ...(further.get(root) ?? []).filter(isRoot)]),
      })),
    },
  };
}

/** Skins that no node names any more are not there any more. */
function withoutIdleSkins(character: Character): Character {
  const named = new Set(character.nodes.map((node) => node.skin));
  const place = new Map<number, number>([[-1, -1]]);
  const skins = character.skins.filter((_, k) => named.has(k) && place.set(k, place.size - 1));
  return {
    ...character,
    skins,
    nodes: character.nodes.map((node) => ({ ...node, skin: place.get(node.skin) as number })),
  };
}
