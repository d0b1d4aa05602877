import {
  type Quat,
  type Vec3,
  compose,
  decompose,
  inverseOr,
  quatConjugate,
  quatMultiply,
  quatRotate,
  times,
} from '../geometry/matrix';
import { localOf, restLocals, weightOfNodes } from './hierarchy';
import { withLocal } from './rehang';
import { type Attribute, type Channel, type Character, type Mesh, type SceneNode, type Skin } from './model';

/** x → scale · rotation(x) + translation, about the world origin. */
export interface Similarity {
  readonly scale: number;
  readonly rotation: Quat;
  readonly translation: Vec3;
}

/** The similarity that moves nothing. */
export const STILL: Similarity = { scale: 1, rotation: [0, 0, 0, 1], translation: [0, 0, 0] };

/** The similarity as a matrix of 16, column-major. */
export function similarityMatrix(similarity: Similarity): Float64Array {
  const out = new Float64Array(16);
  compose(out, 0, similarity.translation, similarity.rotation, [
    similarity.scale,
    similarity.scale,
    similarity.scale,
  ]);
  return out;
}

const isTurn = (rotation: Quat) => Math.abs(rotation[3]) < 1 - 1e-15;
const isMove = (translation: Vec3) => translation.some((x) => x !== 0);
const even = (scale: readonly number[]) =>
  Math.max(...scale.map(Math.abs)) - Math.min(...scale.map(Math.abs)) < 1e-9 &&
  scale[0] * scale[1] * scale[2] > 0;

/**
 * The character after a similarity of the whole world: larger or smaller, turned, moved. Every pose looks as
 * before up to that similarity S; node scales stay what they were. A root bone that stands in the origin and
 * carries nothing is the origin of the game, not of the figure: it stays there when the figure is moved.
 *
 * With W the world matrix of a node, the new one is S·W·Q⁻¹, where Q is what the node's own space undergoes:
 * the scale for all; the turn for holders and meshes, so that an unturned node stays unturned; not for bones,
 * cameras and lights, whose own axes carry meaning. From this follow local matrices Qₚ·L·Q⁻¹, points Q·p,
 * inverse binds Qⱼ·B·Qₘ⁻¹ and clips.
 */
export function underSimilarity(character: Character, similarity: Similarity): Character {
  const full = similarityMatrix(similarity);
  const scaleOnly = similarityMatrix({ ...STILL, scale: similarity.scale });
  const turned = similarityMatrix({ ...STILL, scale: similarity.scale, rotation: similarity.rotation });
  const { nodes } = character;
  const scaled = new Set(
    character.clips.flatMap((clip) => clip.channels.filter((ch) => ch.path === 'scale').map((ch) => ch.node)),
  );
  const keepsAxes = (node: SceneNode, i: number) =>
    node.kind === 'bone' ||
    node.kind === 'camera' ||
    node.kind === 'light' ||
    scaled.has(i) ||
    !even(node.matrix ? decompose(node.matrix).scale : node.scale);
  const usersOf = character.meshes.map((_, index) =>
    nodes.flatMap((node, i) => (node.mesh === index ? [i] : [])),
  );
  // A mesh goes through one matrix, whichever of its nodes shows it.
  const ofMesh = character.meshes.map((mesh, i) => {
    const users = usersOf[i];
    if (users.length > 0 && mesh.influences && users.every((user) => nodes[user].skin >= 0)) return full;
    return users.some((user) => keepsAxes(nodes[user], user)) ? scaleOnly : turned;
  });
  const held = originRoots(character, similarity);
  const own = nodes.map((node, i) => {
    const fixed = held.get(i);
    if (fixed) return fixed;
    if (node.mesh >= 0) return ofMesh[node.mesh];
    return keepsAxes(node, i) ? scaleOnly : turned;
  });
  const rotationOf = (matrix: Float64Array): Quat =>
    matrix === scaleOnly ? [0, 0, 0, 1] : similarity.rotation;
  const above = (i: number) => (nodes[i].parent < 0 ? full : own[nodes[i].parent]);

  const moved = nodes.map((node, i): SceneNode => {
    const points = above(i);
    const otherRotation = own[i];
    // Its world stays what it is, and it has nothing above it.
    if (held.has(i)) return node;
    if (node.matrix || otherRotation === full || (!even(node.scale) && otherRotation !== scaleOnly))
      return withLocal(node, times(times(points, localOf(node)), inverseOr(otherRotation)));
    const rotation = quatMultiply(
      quatMultiply(rotationOf(points), node.rotation),
      quatConjugate(rotationOf(otherRotation)),
    );
    return {
      ...node,
      translation: at(points, node.translation),
      rotation: isTurn(similarity.rotation) ? rotation : node.rotation,
    };
  });
  const kept = moved.map((node, i) => (isUnchanged(node, nodes[i]) ? nodes[i] : node));
  const { nodes: outNodes, skins } = skinsUnder(character, kept, own, ofMesh, full);
  return {
    ...character,
    nodes: outNodes,
    skins,
    meshes: character.meshes.map((mesh, i) => meshUnder(mesh, ofMesh[i], rotationOf(ofMesh[i]))),
    clips: character.clips.map((clip) => ({
      ...clip,
      channels: clip.channels.map((ch) =>
        channelUnder(
          ch,
          held.has(ch.node) ? scaleOnly : above(ch.node),
          rotationOf(above(ch.node)),
          rotationOf(own[ch.node]),
          similarity,
        ),
      ),
    })),
  };
}

const isUnchanged = (a: SceneNode, b: SceneNode) =>
  !a.matrix &&
  !b.matrix &&
  (['translation', 'rotation', 'scale'] as const).every((k) => a[k].every((x, j) => x === b[k][j]));

/** Skins with their binds under the change; one whose meshes go through different matrices is doubled. */
function skinsUnder(
  character: Character,
  nodes: readonly SceneNode[],
  own: readonly Float64Array[],
  ofMesh: readonly Float64Array[],
  full: Float64Array,
): { nodes: SceneNode[]; skins: Skin[] } {
  const skins = [...character.skins];
  const skinFor = new Map<number, Map<Float64Array, number>>();
  const skinOf = (skin: number, points: Float64Array): number => {
    const variants = skinFor.get(skin) ?? new Map<Float64Array, number>();
    skinFor.set(skin, variants);
    const known = variants.get(points);
    if (known !== undefined) return known;
    const made = skinUnder(character.skins[skin], own, points);
    const at = variants.size === 0 ? skin : skins.push(made) - 1;
    skins[at] = made;
    variants.set(points, at);
    return at;
  };
  const out = nodes.map((node) => {
    const at = node.skin >= 0 && node.mesh >= 0 ? skinOf(node.skin, ofMesh[node.mesh]) : node.skin;
    return at === node.skin ? node : { ...node, skin: at };
  });
  character.skins.forEach((skin, k) => {
    if (skins[k] === skin) skins[k] = skinUnder(skin, own, full);
  });
  return { nodes: out, skins };
}

/**
 * What the space of a root bone in the origin undergoes so that the bone itself stays: Q = W⁻¹·S·W. Only
 * where S does not turn and no clip turns the bone, since its keys would have to bend around the shift
 * otherwise.
 */
function originRoots(character: Character, similarity: Similarity): Map<number, Float64Array> {
  const out = new Map<number, Float64Array>();
  if (!isMove(similarity.translation) || isTurn(similarity.rotation)) return out;
  const weight = weightOfNodes(character);
  const locals = restLocals(character.nodes);
  const turning = new Set(
    character.clips.flatMap((clip) =>
      clip.channels.filter((ch) => ch.path !== 'translation').map((ch) => ch.node),
    ),
  );
  character.nodes.forEach((node, i) => {
    if (
      node.parent >= 0 ||
      node.kind !== 'bone' ||
      weight[i] > 0 ||
      turning.has(i) ||
      node.translation.some((x) => Math.abs(x) > 1e-9)
    )
      return;
    const local = locals.subarray(i * 16, i * 16 + 16);
    if (node.matrix && (local[12] !== 0 || local[13] !== 0 || local[14] !== 0)) return;
    out.set(i, times(times(inverseOr(local), similarityMatrix(similarity)), local));
  });
  return out;
}

const at = (matrix: Float64Array, values: readonly number[], weight = 1) =>
  [0, 1, 2].map(
    (k) =>
      matrix[k] * values[0] + matrix[4 + k] * values[1] + matrix[8 + k] * values[2] + weight * matrix[12 + k],
  );

const isIdentity = (matrix: Float64Array) => matrix.every((x, i) => x === (i % 5 === 0 ? 1 : 0));

function skinUnder(skin: Skin, own: readonly Float64Array[], points: Float64Array): Skin {
  if (isIdentity(points) && skin.joints.every((j) => isIdentity(own[j]))) return skin;
  const back = inverseOr(points);
  const inverseBinds = new Float64Array(skin.inverseBinds.length);
  skin.joints.forEach((j, k) =>
    inverseBinds.set(times(times(own[j], skin.inverseBinds, 0, k * 16), back), k * 16),
  );
  return { ...skin, inverseBinds };
}

function meshUnder(mesh: Mesh, matrix: Float64Array, rotation: Quat): Mesh {
  if (isIdentity(matrix)) return mesh;
  const turn = isTurn(rotation);
  const change = (name: string, attribute: Attribute, weight: number): Attribute => {
    if (name === 'POSITION') return over(attribute, (values) => at(matrix, values, weight));
    if ((name === 'NORMAL' || name === 'TANGENT') && turn)
      return over(attribute, (values) => quatRotate(rotation, values));
    return attribute;
  };
  const each = (attributes: Mesh['attributes'], weight: number) =>
    Object.fromEntries(
      Object.entries(attributes).map(([key, attribute]) => [key, change(key, attribute, weight)]),
    );
  return {
    ...mesh,
    attributes: each(mesh.attributes, 1),
    morphs: mesh.morphs.map((morph) => ({ attributes: each(morph.attributes, 0) })),
  };
}

/**
 * The first three numbers of every element changed. Where the file stored them as small integers they become
 * floats.
 */
function over(attribute: Attribute, change: (values: readonly number[]) => readonly number[]): Attribute {
  const out = new Float32Array(attribute.data.length);
  const most =
    attribute.normalized && !(attribute.data instanceof Float32Array)
      ? 2 **
          (8 * attribute.data.BYTES_PER_ELEMENT -
            (attribute.data instanceof Int8Array || attribute.data instanceof Int16Array ? 1 : 0)) -
        1
      : 1;
  for (let i = 0; i < out.length; i += attribute.size) {
    const values = change([
      attribute.data[i] / most,
      attribute.data[i + 1] / most,
      attribute.data[i + 2] / most,
    ]);
    out[i] = values[0];
    out[i + 1] = values[1];
    out[i + 2] = values[2];
    for (let k = 3; k < attribute.size; k++) out[i + k] = attribute.data[i + k] / most;
  }
  return { ...attribute, data: out, normalized: false };
}

function channelUnder(
  ch: Channel,
  above: Float64Array,
  aboveTurn: Quat,
  ownTurn: Quat,
  similarity: Similarity,
): Channel {
  if (
    ch.path === 'translation' &&
    (similarity.scale !== 1 || isTurn(similarity.rotation) || isMove(similarity.translation))
  ) {
    const values = new Float32Array(ch.values.length);
    for (let k = 0; k * 3 < values.length; k++)
      values.set(
        at(
          above,
          [ch.values[k * 3], ch.values[k * 3 + 1], ch.values[k * 3 + 2]],
          ch.interpolation === 'CUBICSPLINE' && k % 3 !== 1 ? 0 : 1,
        ),
        k * 3,
      );
    return { ...ch, values };
  }
  if (ch.path === 'rotation' && isTurn(similarity.rotation)) {
    const values = new Float32Array(ch.values.length);
    for (let k = 0; k < values.length; k += 4)
      values.set(
        quatMultiply(quatMultiply(aboveTurn, ch.values.subarray(k, k + 4)), quatConjugate(ownTurn)),
        k,
      );
    return { ...ch, values };
  }
  return ch;
}
