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
export function similarityMatrix(s: Similarity): Float64Array {
  const out = new Float64Array(16);
  compose(out, 0, s.translation, s.rotation, [s.scale, s.scale, s.scale]);
  return out;
}

const isTurn = (q: Quat) => Math.abs(q[3]) < 1 - 1e-15;
const isMove = (t: Vec3) => t.some((x) => x !== 0);
const even = (s: readonly number[]) =>
  Math.max(...s.map(Math.abs)) - Math.min(...s.map(Math.abs)) < 1e-9 && s[0] * s[1] * s[2] > 0;

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
export function underSimilarity(character: Character, s: Similarity): Character {
  const full = similarityMatrix(s);
  const scaleOnly = similarityMatrix({ ...STILL, scale: s.scale });
  const turned = similarityMatrix({ ...STILL, scale: s.scale, rotation: s.rotation });
  const { nodes } = character;
  const scaled = new Set(
    character.clips.flatMap((c) => c.channels.filter((ch) => ch.path === 'scale').map((ch) => ch.node)),
  );
  const keepsAxes = (n: SceneNode, i: number) =>
    n.kind === 'bone' ||
    n.kind === 'camera' ||
    n.kind === 'light' ||
    scaled.has(i) ||
    !even(n.matrix ? decompose(n.matrix).scale : n.scale);
  const usersOf = character.meshes.map((_, m) => nodes.flatMap((n, i) => (n.mesh === m ? [i] : [])));
  // A mesh goes through one matrix, whichever of its nodes shows it.
  const ofMesh = character.meshes.map((m, i) => {
    const users = usersOf[i];
    if (users.length > 0 && m.influences && users.every((u) => nodes[u].skin >= 0)) return full;
    return users.some((u) => keepsAxes(nodes[u], u)) ? scaleOnly : turned;
  });
  const held = originRoots(character, s);
  const own = nodes.map((n, i) => {
    const fixed = held.get(i);
    if (fixed) return fixed;
    if (n.mesh >= 0) return ofMesh[n.mesh];
    return keepsAxes(n, i) ? scaleOnly : turned;
  });
  const rotationOf = (m: Float64Array): Quat => (m === scaleOnly ? [0, 0, 0, 1] : s.rotation);
  const above = (i: number) => (nodes[i].parent < 0 ? full : own[nodes[i].parent]);

  const moved = nodes.map((n, i): SceneNode => {
    const p = above(i);
    const q = own[i];
    // Its world stays what it is, and it has nothing above it.
    if (held.has(i)) return n;
    if (n.matrix || q === full || (!even(n.scale) && q !== scaleOnly))
      return withLocal(n, times(times(p, localOf(n)), inverseOr(q)));
    const rotation = quatMultiply(quatMultiply(rotationOf(p), n.rotation), quatConjugate(rotationOf(q)));
    return { ...n, translation: at(p, n.translation), rotation: isTurn(s.rotation) ? rotation : n.rotation };
  });
  const kept = moved.map((n, i) => (isUnchanged(n, nodes[i]) ? nodes[i] : n));
  const { nodes: outNodes, skins } = skinsUnder(character, kept, own, ofMesh, full);
  return {
    ...character,
    nodes: outNodes,
    skins,
    meshes: character.meshes.map((m, i) => meshUnder(m, ofMesh[i], rotationOf(ofMesh[i]))),
    clips: character.clips.map((c) => ({
      ...c,
      channels: c.channels.map((ch) =>
        channelUnder(
          ch,
          held.has(ch.node) ? scaleOnly : above(ch.node),
          rotationOf(above(ch.node)),
          rotationOf(own[ch.node]),
          s,
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
  const out = nodes.map((n) => {
    const at = n.skin >= 0 && n.mesh >= 0 ? skinOf(n.skin, ofMesh[n.mesh]) : n.skin;
    return at === n.skin ? n : { ...n, skin: at };
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
function originRoots(character: Character, s: Similarity): Map<number, Float64Array> {
  const out = new Map<number, Float64Array>();
  if (!isMove(s.translation) || isTurn(s.rotation)) return out;
  const weight = weightOfNodes(character);
  const locals = restLocals(character.nodes);
  const turning = new Set(
    character.clips.flatMap((c) => c.channels.filter((ch) => ch.path !== 'translation').map((ch) => ch.node)),
  );
  character.nodes.forEach((n, i) => {
    if (
      n.parent >= 0 ||
      n.kind !== 'bone' ||
      weight[i] > 0 ||
      turning.has(i) ||
      n.translation.some((x) => Math.abs(x) > 1e-9)
    )
      return;
    const local = locals.subarray(i * 16, i * 16 + 16);
    if (n.matrix && (local[12] !== 0 || local[13] !== 0 || local[14] !== 0)) return;
    out.set(i, times(times(inverseOr(local), similarityMatrix(s)), local));
  });
  return out;
}

const at = (m: Float64Array, v: readonly number[], w = 1) =>
  [0, 1, 2].map((k) => m[k] * v[0] + m[4 + k] * v[1] + m[8 + k] * v[2] + w * m[12 + k]);

const isIdentity = (m: Float64Array) => m.every((x, i) => x === (i % 5 === 0 ? 1 : 0));

function skinUnder(skin: Skin, own: readonly Float64Array[], points: Float64Array): Skin {
  if (isIdentity(points) && skin.joints.every((j) => isIdentity(own[j]))) return skin;
  const back = inverseOr(points);
  const inverseBinds = new Float64Array(skin.inverseBinds.length);
  skin.joints.forEach((j, k) =>
    inverseBinds.set(times(times(own[j], skin.inverseBinds, 0, k * 16), back), k * 16),
  );
  return { ...skin, inverseBinds };
}

function meshUnder(mesh: Mesh, m: Float64Array, rotation: Quat): Mesh {
  if (isIdentity(m)) return mesh;
  const turn = isTurn(rotation);
  const change = (name: string, a: Attribute, w: number): Attribute => {
    if (name === 'POSITION') return over(a, (v) => at(m, v, w));
    if ((name === 'NORMAL' || name === 'TANGENT') && turn) return over(a, (v) => quatRotate(rotation, v));
    return a;
  };
  const each = (attributes: Mesh['attributes'], w: number) =>
    Object.fromEntries(Object.entries(attributes).map(([k, a]) => [k, change(k, a, w)]));
  return {
    ...mesh,
    attributes: each(mesh.attributes, 1),
    morphs: mesh.morphs.map((t) => ({ attributes: each(t.attributes, 0) })),
  };
}

/**
 * The first three numbers of every element changed. Where the file stored them as small integers they become
 * floats.
 */
function over(a: Attribute, change: (v: readonly number[]) => readonly number[]): Attribute {
  const out = new Float32Array(a.data.length);
  const most =
    a.normalized && !(a.data instanceof Float32Array)
      ? 2 **
          (8 * a.data.BYTES_PER_ELEMENT -
            (a.data instanceof Int8Array || a.data instanceof Int16Array ? 1 : 0)) -
        1
      : 1;
  for (let i = 0; i < out.length; i += a.size) {
    const v = change([a.data[i] / most, a.data[i + 1] / most, a.data[i + 2] / most]);
    out[i] = v[0];
    out[i + 1] = v[1];
    out[i + 2] = v[2];
    for (let k = 3; k < a.size; k++) out[i + k] = a.data[i + k] / most;
  }
  return { ...a, data: out, normalized: false };
}

function channelUnder(
  ch: Channel,
  above: Float64Array,
  aboveTurn: Quat,
  ownTurn: Quat,
  s: Similarity,
): Channel {
  if (ch.path === 'translation' && (s.scale !== 1 || isTurn(s.rotation) || isMove(s.translation))) {
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
  if (ch.path === 'rotation' && isTurn(s.rotation)) {
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
