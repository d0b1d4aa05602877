/** What is mended in whatever was read, in every format alike; each mending is told in a note. */
import type { Attribute, Character, Mesh, SceneNode } from '../character/model';
import { positionsOf, replaceAt } from '../character/model';
import { decompose } from '../geometry/matrix';
import { putAreaNormal } from '../geometry/normals';
import { printable } from './errors';

/**
 * A character whose text can be kept and whose attributes are numbers: NUL and halves of letters in names,
 * normals without a direction or of another length than one, and numbers that are none are mended, and noted.
 */
export function mendCharacter(character: Character): Character {
  const { character: cut, count: long } = cutNames(character);
  const text = new TextMender();
  const mended = text.mend(cut);
  const notes = [...mended.notes];
  const note = (said: string) => notes.push(said);
  const free = freeAnimated(mended, note);
  const carried = mendScenes(mended.carried, note);
  if (long > 0)
    notes.push(
      `${long} ${long === 1 ? 'name was' : 'names were'} longer than ${LONGEST_NAME} letters and ${long === 1 ? 'was' : 'were'} cut.`,
    );
  if (text.count > 0)
    notes.push(
      `${text.count} ${text.count === 1 ? 'name or text' : 'names or texts'} held letters that cannot be kept (NUL, or half of a pair); “�” stands for them.`,
    );
  const unnamed = mended.nodes.flatMap((node, i) => (node.name.trim() === '' ? [i] : []));
  if (unnamed.length > 0)
    notes.push(
      `${unnamed.length} ${unnamed.length === 1 ? 'node has' : 'nodes have'} no name and ${unnamed.length === 1 ? 'is' : 'are'} called “node ${unnamed[0]}”${unnamed.length > 1 ? ' and so on' : ''}, by their place in the file.`,
    );
  const meshes = new Map<number, Mesh>();
  mended.meshes.forEach((mesh, i) => {
    const noteOfMesh = (said: string) => notes.push(`“${printable(mesh.name)}”: ${said}`);
    const better = addUpDoubled(mendWeights(mendAttributes(mesh, noteOfMesh), noteOfMesh), noteOfMesh);
    if (better !== mesh) meshes.set(i, better);
  });
  if (notes.length === mended.notes.length) return mended;
  return {
    ...mended,
    nodes: unnamed.length > 0 ? nameNodes(free) : free,
    meshes: replaceAt(mended.meshes, meshes),
    carried,
    notes,
  };
}

/** Nodes that a clip moves have a place, turn and scale of their own, never a matrix (glTF 2.0, 3.11). */
function freeAnimated({ nodes, clips }: Character, note: (said: string) => void): readonly SceneNode[] {
  const moved = new Set(clips.flatMap((clip) => clip.channels.map((channel) => channel.node)));
  if (!nodes.some((node, i) => node.matrix && moved.has(i))) return nodes;
  return nodes.map((node, i) => {
    if (!node.matrix || !moved.has(i)) return node;
    const { matrix, ...free } = node;
    const { translation, rotation, scale, shear } = decompose(matrix);
    note(
      `Node ${i} “${printable(node.name)}” is moved by a clip and had a matrix; it has place, turn and scale now${shear > SHEARED ? ', and is no longer sheared' : ''}.`,
    );
    return { ...free, translation, rotation, scale };
  });
}

/** A node sheared by less is as good as not. */
const SHEARED = 1e-4;

/** Scenes that name each of their roots once. */
function mendScenes(carried: Character['carried'], note: (said: string) => void): Character['carried'] {
  let doubled = 0;
  const scenes = carried.scenes.map((scene) => {
    const roots = [...new Set(scene.roots)];
    doubled += scene.roots.length - roots.length;
    return roots.length === scene.roots.length ? scene : { ...scene, roots };
  });
  if (doubled === 0) return carried;
  note(`A scene named a node that it had named before ${doubled === 1 ? 'once' : `${doubled} times`}.`);
  return { ...carried, scenes };
}

/** The longest name that is kept, letters: no tool of the trade writes longer ones. */
const LONGEST_NAME = 255;

/** A character whose names are of a length that can be worked with; what differed differs still. */
function cutNames(character: Character): { character: Character; count: number } {
  let count = 0;
  const cutAll = <T extends { readonly name?: unknown }>(list: readonly T[]): readonly T[] => {
    if (!list.some(({ name }) => isLong(name))) return list;
    const taken = new Set(list.map(({ name }) => name));
    const next = new Map<string, number>();
    return list.map((item) => {
      const { name } = item;
      if (!isLong(name)) return item;
      count++;
      // Half of a pair would be left where a letter is cut through.
      const short = name.slice(0, LONGEST_NAME - 10).replace(/[\ud800-\udbff]$/, '');
      let number = next.get(short) ?? 1;
      let better = number === 1 ? short : `${short} ${number}`;
      for (; taken.has(better); better = `${short} ${number}`) number++;
      taken.add(better);
      next.set(short, number);
      return { ...item, name: better };
    });
  };
  const { nodes, meshes, skins, clips, sets, carried, source } = character;
  const cut = {
    nodes: cutAll(nodes),
    meshes: cutAll(meshes),
    skins: cutAll(skins),
    clips: cutAll(clips),
    sets: cutAll(sets),
  };
  const lists = {
    materials: cutAll(carried.materials),
    textures: cutAll(carried.textures),
    samplers: cutAll(carried.samplers),
    cameras: cutAll(carried.cameras),
  };
  const generator = isLong(source.generator) ? source.generator.slice(0, LONGEST_NAME) : source.generator;
  if (count === 0 && generator === source.generator) return { character, count };
  return {
    character: { ...character, ...cut, carried: { ...carried, ...lists }, source: { ...source, generator } },
    count,
  };
}

const isLong = (name: unknown): name is string => typeof name === 'string' && name.length > LONGEST_NAME;

/** Nodes without a name are called by their place, by a name that no other has. */
function nameNodes(nodes: readonly SceneNode[]): SceneNode[] {
  const taken = new Set(nodes.map((node) => node.name));
  return nodes.map((node, i) => {
    if (node.name.trim() !== '') return node;
    let name = `node ${i}`;
    while (taken.has(name)) name = `${name}'`;
    return { ...node, name };
  });
}

/** Text that every store and every format can hold. What needs no mending stays the same object. */
class TextMender {
  count = 0;

  mend<T>(value: T): T {
    if (typeof value === 'string') return this.mendText(value) as T;
    if (Array.isArray(value)) return this.mendList(value) as T;
    if (!value || typeof value !== 'object' || ArrayBuffer.isView(value)) return value;
    return this.mendObject(value as Record<string, unknown>) as T;
  }

  private mendText(text: string): string {
    const better = text.replaceAll('\0', '\ufffd').replace(/\p{Surrogate}/gu, '\ufffd');
    if (better !== text) this.count++;
    return better;
  }

  private mendList(list: readonly unknown[]): readonly unknown[] {
    let out: unknown[] | null = null;
    list.forEach((item, i) => {
      const better = this.mend(item);
      if (better !== item) {
        out ??= [...list];
        out[i] = better;
      }
    });
    return out ?? list;
  }

  private mendObject(object: Record<string, unknown>): Record<string, unknown> {
    const rows = Object.entries(object);
    const better = rows.map(([key, value]) => [this.mendText(key), this.mend(value)] as const);
    const isSame = better.every(([key, value], i) => key === rows[i][0] && value === rows[i][1]);
    return isSame ? object : Object.fromEntries(better);
  }
}

/**
 * How far from one the length of a normal may be: what gltf-validator allows a vector of floats
 * (ACCESSOR_VECTOR3_NON_UNIT).
 */
const UNIT = 0.00674;

function mendAttribute(
  mesh: Mesh,
  name: string,
  attribute: Attribute,
  note: (text: string) => void,
): Attribute['data'] {
  if (name === 'NORMAL') return mendNormals(mesh, attribute, note);
  if (name === 'TANGENT') return mendTangents(attribute, note);
  const data = mendNumbers(name, attribute, note);
  return name.startsWith('COLOR_') ? mendColours({ ...attribute, data }, note) : data;
}

/** The most that a colour of a byte is. */
const BRIGHTEST = 255;

/** Colours from 0 to 1, as glTF 2.0 (3.7.2.1) wants them; such as go up to 255 were bytes, others are cut. */
function mendColours({ data }: Attribute, note: (text: string) => void): Attribute['data'] {
  let most = 0;
  let least = 0;
  for (const x of data) {
    most = Math.max(most, x);
    least = Math.min(least, x);
  }
  if (least >= 0 && most <= 1) return data;
  const isBytes =
    least >= 0 && most > 2 && most <= BRIGHTEST && !data.some((x: number) => !Number.isInteger(x));
  note(
    isBytes
      ? 'Colours went from 0 to 255 and were brought to 0 to 1.'
      : 'Colours below 0 or above 1 were cut to what a colour can be.',
  );
  const scale = isBytes ? 1 / BRIGHTEST : 1;
  return Float32Array.from(data as Float32Array, (x) => Math.min(1, Math.max(0, x * scale)));
}

function mendAttributes(mesh: Mesh, note: (text: string) => void): Mesh {
  let { attributes } = mesh;
  for (const [name, attribute] of Object.entries(mesh.attributes)) {
    if (!(attribute.data instanceof Float32Array) || name === 'POSITION') continue;
    const data = mendAttribute(mesh, name, attribute, note);
    if (data !== attribute.data) attributes = { ...attributes, [name]: { ...attribute, data } };
  }
  const morphs = mendMorphs(mesh.morphs, note);
  const isSame = attributes === mesh.attributes && morphs === mesh.morphs;
  return isSame ? mesh : { ...mesh, attributes, morphs };
}

/** Numbers of morph targets that are none become 0; places are looked at before. */
function mendMorphs(morphs: Mesh['morphs'], note: (text: string) => void): Mesh['morphs'] {
  const better = morphs.map((morph, k) => {
    let { attributes } = morph;
    for (const [name, attribute] of Object.entries(morph.attributes)) {
      if (!(attribute.data instanceof Float32Array)) continue;
      const data = mendNumbers(name, attribute, (text) => note(`target ${k}: ${text}`));
      if (data !== attribute.data) attributes = { ...attributes, [name]: { ...attribute, data } };
    }
    return attributes === morph.attributes ? morph : { ...morph, attributes };
  });
  return better.every((morph, k) => morph === morphs[k]) ? morphs : better;
}

/** Tangents of length one whose fourth number is 1 or −1, as glTF 2.0 (3.7.2.1) wants them. */
function mendTangents({ data }: Attribute, note: (text: string) => void): Attribute['data'] {
  const out = Float32Array.from(data);
  let mended = 0;
  for (let vertex = 0; vertex < out.length; vertex += 4) {
    const length = Math.hypot(out[vertex], out[vertex + 1], out[vertex + 2]);
    const hand = out[vertex + 3] < 0 ? -1 : 1;
    if (Math.abs(length - 1) <= UNIT && out[vertex + 3] === hand) continue;
    mended++;
    if (length > 1e-12 && length < Infinity) for (let k = 0; k < 3; k++) out[vertex + k] /= length;
    else out.set([1, 0, 0], vertex);
    out[vertex + 3] = hand;
  }
  if (mended === 0) return data;
  note(`${mended} tangents were not of length one, or had no side, and were mended.`);
  return out;
}

/** Weights below nothing, or that are no number, carry nothing: they are taken away. */
function mendWeights(mesh: Mesh, note: (text: string) => void): Mesh {
  const { influences } = mesh;
  const bad = influences
    ? influences.weight.reduce((least, weight) => least + (weight >= 0 && weight < Infinity ? 0 : 1), 0)
    : 0;
  if (!influences || bad === 0) return mesh;
  const offsets = new Uint32Array(influences.offsets.length);
  const joint = influences.joint.slice(0, influences.joint.length - bad);
  const weight = influences.weight.slice(0, influences.weight.length - bad);
  let at = 0;
  for (let vertex = 0; vertex + 1 < offsets.length; vertex++) {
    for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++) {
      if (!(influences.weight[k] >= 0 && influences.weight[k] < Infinity)) continue;
      joint[at] = influences.joint[k];
      weight[at++] = influences.weight[k];
    }
    offsets[vertex + 1] = at;
  }
  note(`${bad} weights were below nothing or no number at all, and were taken away.`);
  return { ...mesh, influences: { offsets, joint, weight } };
}

/** Rows of more influences than this are long. */
const LONG_ROW = 64;

/** Weights of one joint that a vertex names more than once are added up. */
function addUpDoubled(mesh: Mesh, note: (said: string) => void): Mesh {
  const { influences } = mesh;
  if (!influences) return mesh;
  const offsets = new Uint32Array(influences.offsets.length);
  const { joint, weight } = influences;
  const isDoubled = new Uint8Array(weight.length);
  const sums = weight.slice();
  let doubled = 0;
  let vertices = 0;
  for (let vertex = 0; vertex + 1 < offsets.length; vertex++) {
    const [from, to] = [influences.offsets[vertex], influences.offsets[vertex + 1]];
    // Rows are short as a rule; one of thousands is looked up.
    const placeOf = to - from > LONG_ROW ? new Map<number, number>() : null;
    const before = doubled;
    for (let k = from; k < to; k++) {
      let first = placeOf?.get(joint[k]) ?? k;
      if (!placeOf) for (first = from; joint[first] !== joint[k];) first++;
      placeOf?.set(joint[k], first);
      if (first === k) continue;
      sums[first] += weight[k];
      isDoubled[k] = 1;
      doubled++;
    }
    if (doubled > before) vertices++;
    offsets[vertex + 1] = to - doubled;
  }
  if (doubled === 0) return mesh;
  note(
    `${vertices === 1 ? 'A vertex' : `${vertices} vertices`} named a joint more than once; such weights were added up.`,
  );
  return {
    ...mesh,
    influences: {
      offsets,
      joint: joint.filter((_, k) => isDoubled[k] === 0),
      weight: sums.filter((_, k) => isDoubled[k] === 0),
    },
  };
}

/** Numbers that are none become 0. */
function mendNumbers(
  name: string,
  { data, size }: Attribute,
  note: (text: string) => void,
): Attribute['data'] {
  const out = data.slice();
  const bad = new Set<number>();
  data.forEach((x, i) => {
    if (Number.isFinite(x)) return;
    out[i] = 0;
    bad.add(Math.floor(i / size));
  });
  if (bad.size === 0) return data;
  note(
    `${printable(name, 24)} held something that is no number at ${bad.size} vertices; 0 stands there now.`,
  );
  return out;
}

function mendNormals(mesh: Mesh, { data }: Attribute, note: (text: string) => void): Attribute['data'] {
  const out = Float32Array.from(data);
  const without: number[] = [];
  let scaled = 0;
  for (let vertex = 0; vertex < mesh.vertexCount; vertex++) {
    const length = Math.hypot(out[vertex * 3], out[vertex * 3 + 1], out[vertex * 3 + 2]);
    if (!(length > 1e-12) || length === Infinity) without.push(vertex);
    else if (Math.abs(length - 1) > UNIT) {
      scaled++;
      for (let k = 0; k < 3; k++) out[vertex * 3 + k] /= length;
    }
  }
  if (without.length > 0) {
    putFaceNormals(mesh, without, out);
    note(`${without.length} normals had no direction and were made anew from the faces.`);
  }
  if (scaled > 0) note(`${scaled} normals were not of length one and were scaled.`);
  return without.length + scaled > 0 ? out : data;
}

/** The normals of some vertices from the faces around them, by area; up where there are none. */
function putFaceNormals(mesh: Mesh, vertices: readonly number[], out: Float32Array): void {
  const wanted = new Set(vertices);
  for (const vertex of vertices) out.fill(0, vertex * 3, vertex * 3 + 3);
  const points = positionsOf(mesh);
  const { polygonOffsets: offsets, corners } = mesh;
  const normal = [0, 0, 0];
  for (let point = 0; point + 1 < offsets.length; point++) {
    const row = corners.subarray(offsets[point], offsets[point + 1]);
    if (!row.some((value) => wanted.has(value))) continue;
    putAreaNormal(points, row, 0, row.length, normal);
    for (const vertex of row)
      if (wanted.has(vertex)) for (let k = 0; k < 3; k++) out[vertex * 3 + k] += normal[k];
  }
  for (const vertex of vertices) {
    const length = Math.hypot(out[vertex * 3], out[vertex * 3 + 1], out[vertex * 3 + 2]);
    if (length > 0) for (let k = 0; k < 3; k++) out[vertex * 3 + k] /= length;
    else out[vertex * 3 + 1] = 1;
  }
}
