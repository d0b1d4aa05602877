import type {
  Attribute,
  Carried,
  CarriedImage,
  Carry,
  Channel,
  ChannelPath,
  Character,
  Clip,
  Json,
  JsonObject,
  Mesh,
  NodeKind,
  Piece,
  PolygonOrigin,
  SceneNode,
  Skin,
  VertexArray,
} from '../../character/model';
import { topDown } from '../../character/hierarchy';
import { node } from '../../character/model';
import { addressOf } from '../../character/bundle';
import {
  type Countable,
  DEFAULT_LIMITS,
  type InputFile,
  ReadError,
  type ReadLimits,
  printable,
  takeCount,
  takeVertices,
} from '../errors';
import { isObjectWord } from '../../character/words';
import { OWN_KEYS, withReadOwn } from '../sets';
import { nameOfFile } from '../text';
import { asFloats, joinAttributes } from '../../character/attributes';
import { Accessors } from './accessor';
import { soundAttributes, soundJoints, soundTarget, soundWeights } from './attributes';
import { openContainer, resourceOf } from './container';
import { type Polygons, decodeNgons, trianglesAsPolygons } from './polygons';
import { recoverQuads } from '../../geometry/quads';
import { weldExact } from '../../geometry/weld';
import { soundJson } from './sound';
import { type VertexSlice, concat, joinInfluences, joinMorphs, triangles } from './slices';

const NGON = 'FB_ngon_encoding';
const UNREADABLE = ['KHR_draco_mesh_compression', 'EXT_meshopt_compression', 'KHR_meshopt_compression'];

const objects = (x: Json | undefined): JsonObject[] =>
  Array.isArray(x) ? x.filter((y): y is JsonObject => !!y && typeof y === 'object' && !Array.isArray(y)) : [];
const object = (x: Json | undefined): JsonObject =>
  x && typeof x === 'object' && !Array.isArray(x) ? x : {};
const text = (x: Json | undefined): string => (typeof x === 'string' ? x : '');
const index = (x: Json | undefined): number => (Number.isInteger(x) ? (x as number) : -1);

function carry(json: JsonObject, drop: readonly string[] = []): Carry {
  const out: { extras?: Json; extensions?: JsonObject } = {};
  if (json.extras !== undefined) out.extras = json.extras;
  const kept = Object.entries(object(json.extensions)).filter(([key]) => !drop.includes(key));
  if (kept.length > 0) out.extensions = Object.fromEntries(kept);
  return out;
}

/**
 * Reads a glTF 2.0 character: a .glb, a .gltf chosen with its files, or a zip of those. Keeps everything the
 * file holds; what it cannot keep is named in `notes`. Throws {@link ReadError} with one sentence for
 * anything that is not sound.
 */
export function readGltf(files: readonly InputFile[], limits: ReadLimits = DEFAULT_LIMITS): Character {
  const opened = openContainer(files, limits);
  return new GltfReader(opened, limits, files).character();
}

/** How far from one the length of a turn may be: what gltf-validator allows a rotation of floats. */
const UNIT_TURN = 0.00674;

class GltfReader {
  private readonly accessors: Accessors;
  private readonly notes: string[] = [];
  private readonly json: JsonObject;
  private readonly isQuantized: boolean;

  constructor(
    private readonly opened: ReturnType<typeof openContainer>,
    private readonly limits: ReadLimits,
    private readonly files: readonly InputFile[],
  ) {
    const { json, notes } = soundJson(opened.json);
    this.json = json;
    this.isQuantized =
      Array.isArray(json.extensionsUsed) && json.extensionsUsed.includes('KHR_mesh_quantization');
    this.notes.push(...notes);
    this.accessors = new Accessors({ ...opened, json }, limits);
  }

  private fail(what: string): never {
    this.accessors.fail(what);
  }

  character(): Character {
    const required = Array.isArray(this.json.extensionsRequired)
      ? this.json.extensionsRequired.map(String)
      : [];
    for (const text of UNREADABLE)
      if (required.includes(text))
        throw new ReadError(
          this.opened.name,
          `its meshes are compressed (${text})`,
          'Export it without compression.',
        );
    this.count();
    const nodeCount = objects(this.json.nodes).length;
    const skins = objects(this.json.skins).map((json, i) => this.skin(json, i, nodeCount));
    const nodes = this.nodes(skins);
    const meshes = objects(this.json.meshes).map((json, i) => this.mesh(json, i));
    if (nodes.length === 0 && meshes.length > 0) {
      nodes.push(...meshes.map((mesh, i) => node({ name: mesh.name, kind: 'mesh', mesh: i })));
      this.notes.push('The file has meshes and no node that shows them; each has one now.');
    }
    this.checkJoints(nodes, meshes, skins);
    const clips = objects(this.json.animations).map((json, i) => this.clip(json, i, nodes, meshes));
    const asset = object(this.json.asset);
    const all = object(this.json.extras);
    const own = Object.fromEntries(OWN_KEYS.flatMap((key) => (key in all ? [[key, all[key]]] : [])));
    const extras = Object.fromEntries(Object.entries(all).filter(([key]) => !(key in own)));
    const character: Character = {
      name: nameOfFile(this.opened.name),
      nodes,
      meshes,
      skins,
      clips,
      sets: [],
      carried: {
        ...this.carried(asset, nodes.length),
        ...(Object.keys(own).length === 0 ? {} : { extras: Object.keys(extras).length > 0 ? extras : null }),
      },
      source: {
        format: 'glTF 2.0',
        generator: text(asset.generator),
        unitMetres: 1,
        files: this.files.map((file) => ({
          name: file.name,
          bytes: file.bytes.length,
          sha256: addressOf(file.bytes),
        })),
      },
      notes: [...this.notes, ...this.accessors.notes()],
    };
    return withReadOwn(character, own);
  }

  /** Counts what the file lists, before anything is made of it. */
  private count(): void {
    const { json, limits } = this;
    const take = (what: Countable, count: number) => takeCount(limits, what, count, this.opened.name);
    const primitives = objects(json.meshes).map((json) => objects(json.primitives));
    take('nodes', objects(json.nodes).length);
    take(
      'objects',
      primitives.reduce((sum, list) => sum + list.length, 0),
    );
    // Those of one mesh are the same targets, primitive by primitive.
    take(
      'targets',
      primitives.reduce(
        (most, list) => most + Math.max(0, ...list.map((json) => objects(json.targets).length)),
        0,
      ),
    );
    take('clips', objects(json.animations).length);
    take(
      'materials',
      [json.materials, json.textures, json.images, json.samplers].reduce<number>(
        (sum, list) => sum + objects(list).length,
        0,
      ),
    );
  }

  private numbers(x: Json | undefined, count: number, otherwise: number[], from: string): number[] {
    if (x === undefined) return otherwise;
    if (
      !Array.isArray(x) ||
      x.length !== count ||
      !x.every((y) => typeof y === 'number' && Number.isFinite(y))
    )
      this.fail(`${from} is not a list of ${count} finite numbers`);
    return x as number[];
  }

  private nodes(skins: readonly Skin[]): SceneNode[] {
    const list = objects(this.json.nodes);
    const parents = this.parents(list);
    const joints = new Set<number>();
    for (const skin of skins) for (const j of skin.joints) joints.add(j);
    takeCount(this.limits, 'joints', joints.size, this.opened.name);
    const meshCount = objects(this.json.meshes).length;
    const nodes = list.map((json, i) =>
      this.node(json, i, parents[i], joints.has(i), skins.length, meshCount),
    );
    if (topDown(nodes).length !== nodes.length) this.fail('its nodes hang in a cycle');
    callBonesAlongSkins(nodes, skins);
    callBareTipsBones(nodes);
    return nodes;
  }

  private parents(list: readonly JsonObject[]): Int32Array {
    const parents = new Int32Array(list.length).fill(-1);
    list.forEach((json, i) => {
      for (const child of Array.isArray(json.children) ? json.children : []) {
        if (!Number.isInteger(child) || (child as number) < 0 || (child as number) >= list.length)
          this.fail(`node ${i} names child ${String(child)}, which is not there`);
        if (parents[child as number] >= 0)
          this.fail(`node ${String(child)} hangs under two parents, ${parents[child as number]} and ${i}`);
        parents[child as number] = i;
      }
    });
    return parents;
  }

  private node(
    json: JsonObject,
    i: number,
    parent: number,
    isJoint: boolean,
    skinCount: number,
    meshCount: number,
  ): SceneNode {
    const where = `node ${i}${json.name ? ` “${printable(text(json.name))}”` : ''}`;
    const mesh = index(json.mesh);
    const skin = index(json.skin);
    if (json.mesh !== undefined && (mesh < 0 || mesh >= meshCount))
      this.fail(`${where} names mesh ${String(json.mesh)}, which is not there`);
    if (json.skin !== undefined && (skin < 0 || skin >= skinCount))
      this.fail(`${where} names skin ${String(json.skin)}, which is not there`);
    const matrix =
      json.matrix === undefined ? undefined : this.numbers(json.matrix, 16, [], `the matrix of ${where}`);
    const besides = ['translation', 'rotation', 'scale'].filter((key) => json[key] !== undefined);
    if (matrix && besides.length > 0)
      this.notes.push(`${where} has a matrix and ${besides.join(', ')} besides; the matrix counts.`);
    const rotation = this.numbers(json.rotation, 4, [0, 0, 0, 1], `the rotation of ${where}`);
    const norm = Math.hypot(...rotation);
    if (norm < 1e-6) this.fail(`the rotation of ${where} has length 0`);
    const isUnit = Math.abs(norm - 1) < 1e-4;
    if (!isUnit)
      this.notes.push(
        `The rotation of ${where} had the length ${+norm.toPrecision(4)} and was scaled to one.`,
      );
    return {
      name: text(json.name),
      parent,
      kind: kindOfNode(json, isJoint, mesh >= 0),
      mesh,
      skin,
      translation: this.numbers(json.translation, 3, [0, 0, 0], `the translation of ${where}`),
      rotation: isUnit ? rotation : rotation.map((x) => x / norm),
      scale: this.numbers(json.scale, 3, [1, 1, 1], `the scale of ${where}`),
      ...(matrix ? { matrix } : {}),
      ...(json.camera === undefined ? {} : { camera: index(json.camera) }),
      ...this.morphWeights(json.weights, where),
      ...carry(json),
    };
  }

  private refuseCompressed(primitive: JsonObject, from: string): void {
    if (!object(primitive.extensions).KHR_draco_mesh_compression) return;
    throw new ReadError(
      this.opened.name,
      `${from} is compressed (KHR_draco_mesh_compression)`,
      'Export it without compression.',
    );
  }

  private morphWeights(weights: Json | undefined, where: string): { morphWeights?: number[] } {
    if (weights === undefined) return {};
    const count = Array.isArray(weights) ? weights.length : 0;
    return { morphWeights: this.numbers(weights, count, [], `the weights of ${where}`) };
  }

  private skin(json: JsonObject, i: number, nodeCount: number): Skin {
    const joints = (Array.isArray(json.joints) ? json.joints : []).map((j) => {
      if (!Number.isInteger(j) || (j as number) < 0 || (j as number) >= nodeCount)
        this.fail(`skin ${i} names joint node ${String(j)}, which is not there`);
      return j as number;
    });
    if (joints.length === 0) this.fail(`skin ${i} has no joints`);
    if (new Set(joints).size !== joints.length) this.fail(`skin ${i} lists a joint twice`);
    takeCount(this.limits, 'bindings', joints.length, this.opened.name);
    let inverseBinds = new Float32Array(joints.length * 16);
    if (json.inverseBindMatrices === undefined) {
      joints.forEach((_, j) => {
        for (let k = 0; k < 4; k++) inverseBinds[j * 16 + k * 5] = 1;
      });
    } else {
      const attribute = this.accessors.get(json.inverseBindMatrices, `skin ${i}`);
      if (attribute.type !== 'MAT4' || !(attribute.data instanceof Float32Array))
        this.fail(`the inverse binds of skin ${i} are not float matrices`);
      if (attribute.data.length < inverseBinds.length)
        this.fail(`skin ${i} has ${attribute.data.length / 16} inverse binds for ${joints.length} joints`);
      inverseBinds =
        attribute.data.length === inverseBinds.length
          ? (attribute.data as Float32Array<ArrayBuffer>)
          : (attribute.data.slice(0, inverseBinds.length) as Float32Array<ArrayBuffer>);
      const bad = inverseBinds.findIndex((x) => !Number.isFinite(x));
      if (bad >= 0)
        this.fail(
          `the inverse bind of joint ${Math.floor(bad / 16)} in skin ${i} holds a number that is not finite`,
        );
    }
    return {
      name: text(json.name),
      joints,
      inverseBinds: this.affine(inverseBinds, i),
      ...(json.skeleton === undefined ? {} : { skeleton: index(json.skeleton) }),
      ...carry(json),
    };
  }

  /** Inverse binds whose last row is 0 0 0 1, as the standard wants it; others are brought to it, and told. */
  private affine(inverseBinds: Float32Array<ArrayBuffer>, skin: number): Float32Array<ArrayBuffer> {
    const out = inverseBinds.slice();
    const off: number[] = [];
    for (let j = 0; j < out.length; j += 16) {
      const corner = out[j + 15];
      if (out[j + 3] === 0 && out[j + 7] === 0 && out[j + 11] === 0 && corner === 1) continue;
      off.push(j / 16);
      if (Math.abs(corner) > 1e-6) for (let k = 0; k < 15; k++) out[j + k] /= corner;
      for (const k of [3, 7, 11]) out[j + k] = 0;
      out[j + 15] = 1;
    }
    if (off.length === 0) return inverseBinds;
    this.notes.push(
      `The last row of ${off.length} inverse binds of skin ${skin} was not 0 0 0 1; it is now.`,
    );
    return out;
  }

  private mesh(json: JsonObject, i: number): Mesh {
    const where = `mesh ${i}${json.name ? ` “${printable(text(json.name))}”` : ''}`;
    const primitives = objects(json.primitives);
    if (primitives.length === 0) this.fail(`${where} has no primitives`);
    const slices = new Map<string, VertexSlice>();
    const pieces: Piece[] = [];
    const offsets = [0];
    const corners: Uint32Array[] = [];
    const origins = new Set<PolygonOrigin>();
    let vertexCount = 0;
    let polygonCount = 0;
    let cornerCount = 0;
    primitives.forEach((primitive, k) => {
      const from = `${where}, primitive ${k}`;
      this.refuseCompressed(primitive, from);
      const attributes = object(primitive.attributes);
      const key = JSON.stringify([Object.entries(attributes).sort(), primitive.targets ?? null]);
      let slice = slices.get(key);
      if (!slice) {
        slice = this.slice(attributes, objects(primitive.targets), vertexCount, from);
        slices.set(key, slice);
        vertexCount += slice.count;
      }
      const mode = primitive.mode === undefined ? 4 : index(primitive.mode);
      const indices = this.indices(primitive.indices, slice.count, from);
      this.noteRest(mode === 4 ? indices.length : 0, from);
      const piece = {
        vertexStart: slice.start,
        vertexCount: slice.count,
        polygonStart: polygonCount,
        polygonCount: 0,
        mode,
        material: index(primitive.material),
        attributes: Object.keys(slice.attributes),
        ...carry(primitive, [NGON]),
      };
      if (mode < 4 || mode > 6) {
        pieces.push({ ...piece, carriedIndices: indices });
        return;
      }
      const { polygons, origin } = this.polygons(
        triangles(indices, mode),
        object(primitive.extensions)[NGON] !== undefined,
        slice.attributes.POSITION.data as Float32Array,
      );
      origins.add(origin);
      const count = polygons.offsets.length - 1;
      for (let polygon = 1; polygon <= count; polygon++)
        offsets.push(cornerCount + polygons.offsets[polygon]);
      corners.push(
        slice.start === 0
          ? polygons.corners
          : polygons.corners.map((corner) => corner + (slice as VertexSlice).start),
      );
      cornerCount += polygons.corners.length;
      polygonCount += count;
      pieces.push({ ...piece, polygonCount: count });
    });
    const ordered = [...slices.values()];
    const { influences, storage, doubled } = joinInfluences(ordered, vertexCount);
    if (doubled > 0) this.noteDoubled(doubled, where);
    return {
      name: text(json.name),
      vertexCount,
      attributes: joinAttributes(
        ordered.map((slice) => slice.attributes),
        ordered,
        vertexCount,
      ),
      pieces,
      polygonOffsets: Uint32Array.from(offsets),
      corners: concat(corners, cornerCount),
      polygonOrigin: ORIGINS.find((origin) => origins.has(origin)) ?? 'triangles',
      influences,
      influenceStorage: storage,
      morphs: joinMorphs(ordered, vertexCount),
      ...this.morphWeights(json.weights, where),
      ...carry(json),
    };
  }

  private noteDoubled(count: number, where: string): void {
    const times = count === 1 ? 'once' : `${count} times`;
    this.notes.push(`${where} names a joint twice for one vertex ${times}; such weights were added up.`);
  }

  private slice(attributes: JsonObject, targets: JsonObject[], start: number, from: string): VertexSlice {
    if (attributes.POSITION === undefined) this.fail(`${from} has no positions`);
    const position = this.accessors.get(attributes.POSITION, from);
    if (position.size !== 3) this.fail(`the positions of ${from} are not three numbers each`);
    const points = asFloats(position);
    const bad = points.findIndex((x) => !Number.isFinite(x));
    if (bad >= 0)
      this.fail(`vertex ${Math.floor(bad / 3)} of ${from} has a position that is not a finite number`);
    const count = points.length / 3;
    takeVertices(this.limits, count, this.opened.name);
    const read: Record<string, Attribute> = {};
    const sets: { joints: Attribute; weights: Attribute }[] = [];
    const tell = (sentence: string) => this.notes.push(sentence);
    for (const [name, accessor] of Object.entries(attributes)) {
      if (/^(JOINTS|WEIGHTS)_\d+$/.test(name)) continue;
      if (isObjectWord(name)) {
        this.notes.push(`The attribute “${name}” of ${from} is not carried: nothing can have this name.`);
        continue;
      }
      const attribute =
        name === 'POSITION'
          ? { data: points, size: 3, normalized: false, type: 'VEC3' }
          : this.accessors.get(accessor, from);
      read[name] = this.fitted(attribute, count, `${printable(name)} of ${from}`);
    }
    const out = soundAttributes(read, from, this.isQuantized, tell);
    for (const name of this.missingSets(out, from))
      out[name] = { data: new Float32Array(count * 2), size: 2, normalized: false, type: 'VEC2' };
    for (
      let k = 0;
      attributes[`JOINTS_${k}`] !== undefined || attributes[`WEIGHTS_${k}`] !== undefined;
      k++
    ) {
      if (attributes[`JOINTS_${k}`] === undefined || attributes[`WEIGHTS_${k}`] === undefined)
        this.fail(`${from} has only one of JOINTS_${k} and WEIGHTS_${k}`);
      const joints = this.accessors.get(attributes[`JOINTS_${k}`], from);
      const weights = this.accessors.get(attributes[`WEIGHTS_${k}`], from);
      if (joints.size !== 4 || weights.size !== 4)
        this.fail(`the influences of ${from} do not have four entries for each vertex`);
      sets.push({
        joints:
          soundJoints(this.fitted(joints, count, `JOINTS_${k} of ${from}`)) ??
          this.fail(`JOINTS_${k} of ${from} holds what no joint is counted by`),
        weights:
          soundWeights(this.fitted(weights, count, `WEIGHTS_${k} of ${from}`), from, tell) ??
          this.fail(`WEIGHTS_${k} of ${from} stands in numbers that no weight stands in`),
      });
    }
    const targetAttributes = targets.map((target, k) => {
      const what = `target ${k} of ${from}`;
      const fitted = Object.entries(target).map(([name, accessor]) => {
        const attribute = this.accessors.get(accessor, `${from}, target ${k}`);
        return [name, this.fitted(attribute, count, `${printable(name)} of ${what}`)] as const;
      });
      return soundTarget(Object.fromEntries(fitted), out, what, tell);
    });
    return { start, count, attributes: out, sets, targets: targetAttributes };
  }

  /** An attribute with one element a vertex: what is too many is cut off, what is missing is 0; both are told. */
  private fitted(attribute: Attribute, count: number, what: string): Attribute {
    const has = attribute.data.length / attribute.size;
    if (has === count) return attribute;
    const rest = has > count ? 'the rest is left out' : 'the others have 0 there';
    this.notes.push(`${what} has ${has} elements for ${count} vertices; ${rest}.`);
    const data = new (attribute.data.constructor as { new (length: number): VertexArray })(
      count * attribute.size,
    );
    data.set((has > count ? attribute.data.subarray(0, data.length) : attribute.data) as never);
    return { ...attribute, data };
  }

  /**
   * Sets of texture places that are left out before one that is there. The standard wants them counted from 0
   * without a gap, and materials name them by number: the gap is filled with zeros, and told.
   */
  private missingSets(attributes: Readonly<Record<string, Attribute>>, from: string): string[] {
    const numbers = Object.keys(attributes).flatMap((key) => /^TEXCOORD_(\d)$/.exec(key)?.[1] ?? []);
    const last = Math.max(-1, ...numbers.map(Number));
    const missing = Array.from({ length: Math.max(0, last) }, (_, k) => `TEXCOORD_${k}`).filter(
      (name) => !attributes[name],
    );
    if (missing.length > 0)
      this.notes.push(`${from} has TEXCOORD_${last} without ${missing.join(', ')}; zeros stand there now.`);
    return missing;
  }

  private indices(accessor: Json | undefined, count: number, from: string): Uint32Array {
    if (accessor === undefined) return new Uint32Array(count).map((_, i) => i);
    const attribute = this.accessors.get(accessor, from);
    if (attribute.data instanceof Float32Array || attribute.size !== 1)
      this.fail(`the indices of ${from} are not whole numbers`);
    const bad = (attribute.data as Uint16Array).findIndex((value) => value >= count || value < 0);
    if (bad >= 0) this.fail(`index ${bad} of ${from} names vertex ${attribute.data[bad]} of ${count}`);
    return attribute.data instanceof Uint32Array ? attribute.data : Uint32Array.from(attribute.data);
  }

  private noteRest(count: number, from: string): void {
    const left = count % 3;
    if (left > 0)
      this.notes.push(`The last ${left} of ${count} indices of ${from} make no triangle and are left out.`);
  }

  private polygons(
    triangleList: Uint32Array,
    encoded: boolean,
    points: Float32Array,
  ): { polygons: Polygons; origin: PolygonOrigin } {
    if (encoded) return { polygons: decodeNgons(triangleList), origin: 'encoded' };
    const { pointOfVertex, pointCount } = weldExact(points);
    const recovered = recoverQuads(triangleList, points, pointOfVertex, pointCount);
    if (!recovered.isQuadMesh) return { polygons: trianglesAsPolygons(triangleList), origin: 'triangles' };
    return { polygons: recovered, origin: 'recovered' };
  }

  private checkJoints(nodes: readonly SceneNode[], meshes: readonly Mesh[], skins: readonly Skin[]): void {
    nodes.forEach((node, i) => {
      const influences = node.mesh >= 0 ? meshes[node.mesh].influences : null;
      if (!influences || node.skin < 0) return;
      const joints = skins[node.skin].joints.length;
      const bad = influences.joint.findIndex((j) => j >= joints);
      if (bad >= 0)
        this.fail(
          `node ${i} “${printable(node.name)}” is bound to joint ${influences.joint[bad]}, and its skin has ${joints}`,
        );
    });
  }

  private clip(json: JsonObject, i: number, nodes: readonly SceneNode[], meshes: readonly Mesh[]): Clip {
    const samplers = objects(json.samplers);
    const where = `clip ${i}${json.name ? ` “${printable(text(json.name))}”` : ''}`;
    const channels: Channel[] = [];
    objects(json.channels).forEach((otherJson, k) => {
      const target = object(otherJson.target);
      if (target.node === undefined) {
        this.notes.push(`Channel ${k} of ${where} moves no node and was left out.`);
        return;
      }
      const sampler = samplers[index(otherJson.sampler)];
      if (!sampler)
        this.fail(`channel ${k} of ${where} names sampler ${String(otherJson.sampler)}, which is not there`);
      const nodeIndex = index(target.node);
      if (nodeIndex < 0 || nodeIndex >= nodes.length)
        this.fail(`channel ${k} of ${where} names node ${String(target.node)}, which is not there`);
      const path = text(target.path) as ChannelPath;
      if (!['translation', 'rotation', 'scale', 'weights'].includes(path)) {
        this.notes.push(`Channel ${k} of ${where} moves “${printable(path)}”, which is not carried.`);
        return;
      }
      const times = asFloats(this.accessors.get(sampler.input, where));
      const values = asFloats(this.accessors.get(sampler.output, where));
      if (times.some((x) => !Number.isFinite(x)) || values.some((x) => !Number.isFinite(x)))
        this.fail(`channel ${k} of ${where} holds a number that is not finite`);
      const interpolation = (text(sampler.interpolation) || 'LINEAR') as Channel['interpolation'];
      const morphCount = meshes[nodes[nodeIndex].mesh]?.morphs.length ?? 0;
      const size = { rotation: 4, weights: morphCount, translation: 3, scale: 3 }[path];
      if (size === 0) {
        this.notes.push(
          `Channel ${k} of ${where} moves morph targets of “${printable(nodes[nodeIndex].name)}”, which has none, and was left out.`,
        );
        return;
      }
      if (values.length !== times.length * size * (interpolation === 'CUBICSPLINE' ? 3 : 1))
        this.fail(`channel ${k} of ${where} has ${values.length} values for ${times.length} times`);
      if (times.some((time, index) => time < 0 || (index > 0 && time <= times[index - 1]))) {
        this.notes.push(`The times of channel ${k} of ${where} do not rise from 0 on; it was left out.`);
        return;
      }
      const sound =
        path === 'rotation' ? this.turns(values, interpolation, `channel ${k} of ${where}`) : values;
      channels.push({ node: nodeIndex, path, interpolation, times, values: sound, ...carry(otherJson) });
    });
    return { name: text(json.name), channels, ...carry(json) };
  }

  /** The turns of a channel, each of length one; others are scaled, and told. Tangents stay as they are. */
  private turns(values: Float32Array, interpolation: Channel['interpolation'], what: string): Float32Array {
    const isCubic = interpolation === 'CUBICSPLINE';
    const out = values.slice();
    let off = 0;
    for (let i = isCubic ? 4 : 0; i < out.length; i += isCubic ? 12 : 4) {
      const length = Math.hypot(out[i], out[i + 1], out[i + 2], out[i + 3]);
      if (Math.abs(length - 1) <= UNIT_TURN) continue;
      off++;
      if (length > 1e-6) for (let corner = 0; corner < 4; corner++) out[i + corner] /= length;
      else out.set([0, 0, 0, 1], i);
    }
    if (off === 0) return values;
    this.notes.push(`${off} turns of ${what} were not of length one and were scaled.`);
    return out;
  }

  private carried(asset: JsonObject, nodeCount: number): Carried {
    const strings = (x: Json | undefined) => (Array.isArray(x) ? x.map(String) : []);
    const scenes = objects(this.json.scenes).map((json) => {
      const { nodes, ...rest } = json;
      const roots = (Array.isArray(nodes) ? nodes : []).map((node) => {
        if (!Number.isInteger(node) || (node as number) < 0 || (node as number) >= nodeCount)
          this.fail(`a scene names node ${String(node)}, which is not there`);
        return node as number;
      });
      return { json: rest, roots };
    });
    const images = objects(this.json.images).map((image, i): CarriedImage => {
      const { bufferView, uri, ...rest } = image;
      const bytes =
        bufferView === undefined
          ? resourceOf(this.opened, text(uri), `picture ${i}`)
          : this.accessors.view(bufferView, `picture ${i}`).bytes;
      return {
        json: rest,
        bytes: bytes.slice(),
        mimeType: text(image.mimeType) || (bytes[0] === 0x89 ? 'image/png' : 'image/jpeg'),
      };
    });
    for (const name of strings(this.json.extensionsUsed))
      if (name === 'EXT_mesh_gpu_instancing')
        this.notes.push('The file repeats meshes with EXT_mesh_gpu_instancing; the copies are not carried.');
    return {
      materials: objects(this.json.materials),
      textures: objects(this.json.textures),
      samplers: objects(this.json.samplers),
      images,
      cameras: objects(this.json.cameras),
      scenes,
      scene: this.json.scene === undefined ? 0 : index(this.json.scene),
      extensions: object(this.json.extensions),
      extensionsUsed: strings(this.json.extensionsUsed).filter((text) => text !== NGON),
      extensionsRequired: strings(this.json.extensionsRequired),
      extras: this.json.extras ?? null,
      asset,
    };
  }
}

/**
 * Where polygons came from, what is least sure first: a mesh of several primitives is as sure as its least
 * sure one.
 */
const ORIGINS = ['recovered', 'encoded'] as const;

function kindOfNode(json: JsonObject, isJoint: boolean, showsMesh: boolean): NodeKind {
  if (isJoint) return 'bone';
  if (showsMesh) return 'mesh';
  if (json.camera !== undefined) return 'camera';
  return object(json.extensions).KHR_lights_punctual ? 'light' : 'empty';
}

/**
 * What lies between a joint and the root that its skin names is a bone too, unless it carries something else.
 */
function callBonesAlongSkins(nodes: SceneNode[], skins: readonly Skin[]): void {
  for (const skin of skins) {
    const root = skin.skeleton ?? -1;
    if (root < 0 || root >= nodes.length) continue;
    for (const j of skin.joints) {
      const way: number[] = [];
      let parent = nodes[j].parent;
      while (parent >= 0 && parent !== root) {
        way.push(parent);
        parent = nodes[parent].parent;
      }
      if (parent !== root) continue;
      for (const i of [...way, root]) if (nodes[i].kind === 'empty') nodes[i] = { ...nodes[i], kind: 'bone' };
    }
  }
}

/** A bare tip below a joint is a bone too, though no skin lists it; a holder of meshes is not. */
function callBareTipsBones(nodes: SceneNode[]): void {
  const holders = new Set<number>();
  nodes.forEach((node) => {
    if (node.kind === 'empty' || node.kind === 'bone') return;
    for (let ancestor = node.parent; ancestor >= 0; ancestor = nodes[ancestor].parent) holders.add(ancestor);
  });
  for (const i of topDown(nodes)) {
    const parent = nodes[i].parent;
    if (nodes[i].kind === 'empty' && parent >= 0 && nodes[parent].kind === 'bone' && !holders.has(i))
      nodes[i] = { ...nodes[i], kind: 'bone' };
  }
}
