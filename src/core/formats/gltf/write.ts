import type {
  Attribute,
  Carry,
  Character,
  Influences,
  Json,
  JsonObject,
  Mesh,
  Morph,
  Piece,
  VertexArray,
} from '../../character/model';
import { childrenOf } from '../../character/hierarchy';
import { roundRowExactly } from '../../geometry/influences';
import { componentTypeOf } from './accessor';
import { ownToJson } from '../sets';
import { encodeNgons } from './polygons';

const ACCESSOR_TYPE = { rotation: 'VEC4', weights: 'SCALAR', translation: 'VEC3', scale: 'VEC3' } as const;

/** How a glTF file is written. */
export interface GlbOptions {
  /**
   * Keep weights whose sum is not 1 as they are. The standard's validator then objects; meant for faithful
   * samples of faulty files.
   */
  readonly keepSums?: boolean;
  readonly generator?: string;
}

/** A file, and what could not be kept in it. */
export interface Written {
  readonly bytes: Uint8Array;
  /** What was adjusted so that the file meets the standard, in sentences. */
  readonly notes: readonly string[];
}

const ARRAY_BUFFER = 34962;
const ELEMENT_BUFFER = 34963;

/** Writes a character as binary glTF 2.0. Accessors that share an array in memory share it in the file. */
export function writeGlb(character: Character, options: GlbOptions = {}): Written {
  const writer = new GltfWriter(character, options);
  const { json, bin } = writer.document();
  return { bytes: glb(json, bin), notes: writer.notes };
}

/** The two-chunk container of glTF 2.0, chapter 4.4. */
function glb(json: JsonObject, bin: Uint8Array): Uint8Array {
  const text = new TextEncoder().encode(JSON.stringify(json));
  const textSize = (text.length + 3) & ~3;
  const binSize = (bin.length + 3) & ~3;
  const total = 12 + 8 + textSize + (bin.length > 0 ? 8 + binSize : 0);
  const out = new Uint8Array(total);
  const view = new DataView(out.buffer);
  view.setUint32(0, 0x46546c67, true);
  view.setUint32(4, 2, true);
  view.setUint32(8, total, true);
  view.setUint32(12, textSize, true);
  view.setUint32(16, 0x4e4f534a, true);
  out.fill(0x20, 20, 20 + textSize);
  out.set(text, 20);
  if (bin.length > 0) {
    view.setUint32(20 + textSize, binSize, true);
    view.setUint32(24 + textSize, 0x004e4942, true);
    out.set(bin, 28 + textSize);
  }
  return out;
}

class GltfWriter {
  readonly notes: string[] = [];
  private readonly accessors: JsonObject[] = [];
  private readonly bufferViews: JsonObject[] = [];
  private readonly chunks: Uint8Array[] = [];
  private size = 0;
  private readonly shared = new Map<VertexArray, number>();
  private encoded = false;

  constructor(
    private readonly character: Character,
    private readonly options: GlbOptions,
  ) {}

  document(): { json: JsonObject; bin: Uint8Array } {
    const { character } = this;
    const children = childrenOf(character.nodes);
    const skinSizes = character.meshes.map((_, index) =>
      Math.max(
        1,
        ...character.nodes
          .filter((node) => node.mesh === index && node.skin >= 0)
          .map((node) => character.skins[node.skin].joints.length),
      ),
    );
    const meshes = character.meshes.map((mesh, i) => this.mesh(mesh, skinSizes[i]));
    const nodes = character.nodes.map((node, i) => this.node(i, children[i]));
    const skins = character.skins.map((skin) => ({
      ...named(skin.name),
      joints: [...skin.joints],
      inverseBindMatrices: this.accessor(inverseBindsAsFloats(skin.inverseBinds), 'MAT4', false),
      ...(skin.skeleton === undefined || skin.skeleton < 0 ? {} : { skeleton: skin.skeleton }),
      ...carried(skin),
    }));
    const animations = character.clips
      .filter((clip) => clip.channels.length > 0)
      .map((clip) => this.clip(clip));
    const images = character.carried.images.map((image) => {
      if (!image.bytes) return { ...image.json };
      const { uri: _uri, ...rest } = image.json;
      return { ...rest, mimeType: image.mimeType, bufferView: this.view(image.bytes) };
    });
    const scenes = this.scenes(children);
    const bin = this.binary();
    const used = [
      ...new Set([...character.carried.extensionsUsed, ...(this.encoded ? ['FB_ngon_encoding'] : [])]),
    ];
    const json: JsonObject = {
      asset: {
        ...character.carried.asset,
        version: '2.0',
        generator: this.options.generator ?? 'Young Bough',
      },
      ...listed('extensionsUsed', used),
      ...listed('extensionsRequired', [...character.carried.extensionsRequired]),
      ...(scenes.length > 0
        ? { scene: Math.min(Math.max(character.carried.scene, 0), scenes.length - 1) }
        : {}),
      ...listed('scenes', scenes),
      ...listed('nodes', nodes),
      ...listed('meshes', meshes),
      ...listed('skins', skins),
      ...listed('animations', animations),
      ...listed('materials', [...character.carried.materials]),
      ...listed('textures', [...character.carried.textures]),
      ...listed('samplers', [...character.carried.samplers]),
      ...listed('images', images),
      ...listed('cameras', [...character.carried.cameras]),
      ...listed('accessors', this.accessors),
      ...listed('bufferViews', this.bufferViews),
      ...(bin.length > 0 ? { buffers: [{ byteLength: bin.length }] } : {}),
      ...(Object.keys(character.carried.extensions).length > 0
        ? { extensions: character.carried.extensions }
        : {}),
      ...this.extras(),
    };
    return { json, bin };
  }

  /** What the file's root carries besides, with the sets. */
  private extras(): JsonObject {
    const { extras } = this.character.carried;
    const own = ownToJson(this.character);
    if (Object.keys(own).length === 0) return extras === null ? {} : { extras };
    if (extras !== null && (typeof extras !== 'object' || Array.isArray(extras))) {
      this.notes.push('The extras of the file are no list of names; they are left out for the sets.');
      return { extras: own };
    }
    return { extras: { ...extras, ...own } };
  }

  private scenes(children: number[][]): JsonObject[] {
    const roots = this.character.nodes.flatMap((node, i) => (node.parent < 0 ? [i] : []));
    if (this.character.carried.scenes.length === 0) return children.length > 0 ? [{ nodes: roots }] : [];
    return this.character.carried.scenes.map((scene) => ({
      ...scene.json,
      ...listed(
        'nodes',
        scene.roots.filter((root) => this.character.nodes[root]?.parent === -1),
      ),
    }));
  }

  private node(i: number, children: number[]): JsonObject {
    const node = this.character.nodes[i];
    const differs = (a: readonly number[], b: readonly number[]) => a.some((x, k) => x !== b[k]);
    return {
      ...named(node.name),
      ...listed('children', children),
      ...(node.matrix
        ? { matrix: [...node.matrix] }
        : {
            ...(differs(node.translation, [0, 0, 0]) ? { translation: [...node.translation] } : {}),
            ...(differs(node.rotation, [0, 0, 0, 1]) ? { rotation: [...node.rotation] } : {}),
            ...(differs(node.scale, [1, 1, 1]) ? { scale: [...node.scale] } : {}),
          }),
      ...(node.mesh >= 0 ? { mesh: node.mesh } : {}),
      ...(node.skin >= 0 && node.mesh >= 0 ? { skin: node.skin } : {}),
      ...(node.camera === undefined ? {} : { camera: node.camera }),
      ...(node.morphWeights ? { weights: [...node.morphWeights] } : {}),
      ...carried(node),
    };
  }

  private mesh(mesh: Mesh, jointCount: number): JsonObject {
    const attributeSets = new Map<string, JsonObject>();
    const targetSets = new Map<string, JsonObject[]>();
    const whole = mesh.pieces.length === 1;
    const primitives = mesh.pieces.map((piece): JsonObject => {
      const key = `${piece.vertexStart}+${piece.vertexCount}:${piece.attributes.join()}`;
      let attributes = attributeSets.get(key);
      let targets = targetSets.get(key);
      if (!attributes || !targets) {
        attributes = {};
        for (const name of piece.attributes)
          if (mesh.attributes[name])
            attributes[name] = this.attribute(mesh.attributes[name], piece, whole, name === 'POSITION');
        if (mesh.influences)
          Object.assign(attributes, this.influences(mesh, mesh.influences, piece, jointCount));
        targets = mesh.morphs.map((morph) => this.target(morph, piece, whole));
        attributeSets.set(key, attributes);
        targetSets.set(key, targets);
      }
      return {
        attributes,
        ...this.indices(mesh, piece),
        ...(piece.mode === 4 || !piece.carriedIndices ? {} : { mode: piece.mode }),
        ...(piece.material >= 0 ? { material: piece.material } : {}),
        ...listed('targets', targets),
        ...this.pieceCarry(mesh, piece),
      };
    });
    return {
      ...named(mesh.name),
      primitives,
      ...(mesh.morphWeights ? { weights: [...mesh.morphWeights] } : {}),
      ...carried(mesh),
    };
  }

  private pieceCarry(mesh: Mesh, piece: Piece): JsonObject {
    const encode = mesh.polygonOrigin === 'encoded' && !piece.carriedIndices && piece.polygonCount > 0;
    if (encode) this.encoded = true;
    const base = carried(piece);
    return encode
      ? { ...base, extensions: { ...((base.extensions ?? {}) as JsonObject), FB_ngon_encoding: {} } }
      : base;
  }

  private indices(mesh: Mesh, piece: Piece): JsonObject {
    const list =
      piece.carriedIndices ??
      encodeNgons(mesh.polygonOffsets, mesh.corners, piece.polygonStart, piece.polygonCount).map(
        (ngon) => ngon - piece.vertexStart,
      );
    if (list.length === 0) return {};
    const data = piece.vertexCount < 65535 ? Uint16Array.from(list) : Uint32Array.from(list);
    return { indices: this.accessor(data, 'SCALAR', false, ELEMENT_BUFFER) };
  }

  /** A morph target; one that moves nothing moves its points by nothing, since none may be empty (glTF 2.0, 3.7.2.2). */
  private target({ attributes }: Morph, piece: Piece, whole: boolean): JsonObject {
    const rows = Object.entries(attributes);
    const still = { data: new Float32Array(piece.vertexCount * 3), type: 'VEC3' };
    if (rows.length === 0)
      return { POSITION: this.accessor(still.data, still.type, false, ARRAY_BUFFER, true) };
    return Object.fromEntries(
      rows.map(([name, attribute]) => [name, this.attribute(attribute, piece, whole, name === 'POSITION')]),
    );
  }

  private attribute(attribute: Attribute, piece: Piece, whole: boolean, bounds: boolean): number {
    const data =
      whole && piece.vertexCount * attribute.size === attribute.data.length
        ? attribute.data
        : attribute.data.slice(
            piece.vertexStart * attribute.size,
            (piece.vertexStart + piece.vertexCount) * attribute.size,
          );
    return this.accessor(data, attribute.type, attribute.normalized, ARRAY_BUFFER, bounds);
  }

  private influences(mesh: Mesh, influences: Influences, piece: Piece, jointCount: number): JsonObject {
    const start = piece.vertexStart;
    const count = piece.vertexCount;
    let most = 1;
    let off = 0;
    let bare = 0;
    for (let vertex = start; vertex < start + count; vertex++)
      most = Math.max(most, influences.offsets[vertex + 1] - influences.offsets[vertex]);
    const sets = Math.ceil(most / 4);
    const storage = mesh.influenceStorage?.weights ?? 'f32';
    const scale = { u8: 255, u16: 65535, f32: 1 }[storage];
    const make = (count: number) => {
      if (storage === 'u8') return new Uint8Array(count);
      if (storage === 'u16') return new Uint16Array(count);
      return new Float32Array(count);
    };
    const joints = Array.from({ length: sets }, () =>
      jointCount > 256 || mesh.influenceStorage?.joints === 'u16'
        ? new Uint16Array(count * 4)
        : new Uint8Array(count * 4),
    );
    const weights = Array.from({ length: sets }, () => make(count * 4));
    const rounded = scale === 1 ? null : new Uint16Array(influences.weight.length);
    for (let vertex = 0; vertex < count; vertex++) {
      const a = influences.offsets[start + vertex];
      const b = influences.offsets[start + vertex + 1];
      if (a === b) {
        bare++;
        continue;
      }
      let sum = 0;
      for (let k = a; k < b; k++) sum += influences.weight[k];
      const wrong = Math.abs(sum - 1) > 2e-7 * (b - a);
      const rescale = !this.options.keepSums && wrong && sum > 0 ? 1 / sum : 1;
      if (rescale !== 1 && Math.abs(sum - 1) > 1e-5) off++;
      if (rounded)
        roundRowExactly(
          influences.weight,
          a,
          b,
          this.options.keepSums ? Math.round(sum * scale) : scale,
          rounded,
        );
      for (let k = a; k < b; k++) {
        const weight = rounded ? rounded[k] : influences.weight[k] * rescale;
        if (weight === 0) continue;
        const at = k - a;
        joints[at >> 2][vertex * 4 + (at & 3)] = influences.joint[k];
        weights[at >> 2][vertex * 4 + (at & 3)] = weight;
      }
    }
    if (off > 0)
      this.notes.push(
        `The weights of ${off} vertices of “${mesh.name}” did not sum to 1 and were scaled, as glTF 2.0 requires.`,
      );
    if (bare > 0)
      this.notes.push(
        `${bare} vertices of “${mesh.name}” have no weight, which glTF 2.0 does not allow; fill them in Weights before handing over.`,
      );
    const out: JsonObject = {};
    for (let k = 0; k < sets; k++) {
      out[`JOINTS_${k}`] = this.accessor(joints[k], 'VEC4', false, ARRAY_BUFFER);
      out[`WEIGHTS_${k}`] = this.accessor(weights[k], 'VEC4', storage !== 'f32', ARRAY_BUFFER);
    }
    return out;
  }

  private clip(clip: Character['clips'][number]): JsonObject {
    const samplers: JsonObject[] = [];
    const channels = clip.channels.map((ch) => {
      const sampler =
        samplers.push({
          input: this.accessor(ch.times, 'SCALAR', false, undefined, true),
          output: this.accessor(ch.values, ACCESSOR_TYPE[ch.path], false),
          ...(ch.interpolation === 'LINEAR' ? {} : { interpolation: ch.interpolation }),
        }) - 1;
      return { sampler, target: { node: ch.node, path: ch.path }, ...carried(ch) };
    });
    return { ...named(clip.name), channels, samplers, ...carried(clip) };
  }

  private accessor(
    data: VertexArray,
    type: string,
    normalized: boolean,
    target?: number,
    bounds = false,
  ): number {
    const known = this.shared.get(data);
    if (known !== undefined && this.accessors[known].type === type) return known;
    const size = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 }[type] ?? 1;
    const count = data.length / size;
    const width = data.BYTES_PER_ELEMENT * size;
    const padded = target === ARRAY_BUFFER ? (width + 3) & ~3 : width;
    let bytes = new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
    if (padded !== width) {
      const wide = new Uint8Array(padded * count);
      for (let i = 0; i < count; i++) wide.set(bytes.subarray(i * width, i * width + width), i * padded);
      bytes = wide;
    }
    const json: JsonObject = {
      bufferView: this.view(bytes, target, padded === width ? undefined : padded),
      componentType: componentTypeOf(data),
      count,
      type,
      ...(normalized ? { normalized: true } : {}),
    };
    if (bounds) {
      const min = new Array<number>(size).fill(Infinity);
      const max = new Array<number>(size).fill(-Infinity);
      for (let i = 0; i < data.length; i++) {
        const k = i % size;
        if (data[i] < min[k]) min[k] = data[i];
        if (data[i] > max[k]) max[k] = data[i];
      }
      json.min = min;
      json.max = max;
    }
    const at = this.accessors.push(json) - 1;
    this.shared.set(data, at);
    return at;
  }

  private view(bytes: Uint8Array, target?: number, stride?: number): number {
    const byteOffset = this.size;
    this.chunks.push(bytes);
    this.size += bytes.length;
    const pad = (4 - (this.size & 3)) & 3;
    if (pad > 0) {
      this.chunks.push(new Uint8Array(pad));
      this.size += pad;
    }
    return (
      this.bufferViews.push({
        buffer: 0,
        byteLength: bytes.length,
        ...(byteOffset > 0 ? { byteOffset } : {}),
        ...(stride ? { byteStride: stride } : {}),
        ...(target ? { target } : {}),
      }) - 1
    );
  }

  private binary(): Uint8Array {
    const out = new Uint8Array(this.size);
    let at = 0;
    for (const chunk of this.chunks) {
      out.set(chunk, at);
      at += chunk.length;
    }
    return out;
  }
}

function inverseBindsAsFloats(matrix: Float32Array | Float64Array): Float32Array {
  const out = matrix instanceof Float32Array ? matrix : Float32Array.from(matrix);
  for (let k = 0; k < out.length; k += 16) {
    // The standard wants the last row to be 0 0 0 1 to the bit.
    if (out[k + 3] !== 0 || out[k + 7] !== 0 || out[k + 11] !== 0 || out[k + 15] !== 1) {
      const copy = out.slice();
      for (let j = 0; j < copy.length; j += 16) {
        copy[j + 3] = 0;
        copy[j + 7] = 0;
        copy[j + 11] = 0;
        copy[j + 15] = 1;
      }
      return copy;
    }
  }
  return out;
}

const named = (name: string): JsonObject => (name ? { name } : {});
const listed = (key: string, list: Json[] | readonly Json[]): JsonObject =>
  list.length > 0 ? { [key]: [...list] } : {};
const carried = (carry: Carry): JsonObject => ({
  ...(carry.extras === undefined ? {} : { extras: carry.extras }),
  ...(carry.extensions ? { extensions: carry.extensions } : {}),
});
