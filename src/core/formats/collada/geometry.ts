import type { Element } from '@xmldom/xmldom';
import type { Attribute, Influences, Mesh, Morph, Piece } from '../../character/model';
import { printable } from '../errors';
import { floats } from '../text';
import { type Together, countTogether } from '../together';
import { type ColladaDocument, kid, kids, words } from './document';

/**
 * A source's numbers as its accessor lays them out: `stride` numbers an element, of which the named ones
 * count.
 */
export interface Floats {
  readonly data: Float64Array;
  readonly count: number;
  readonly size: number;
}

/**
 * Reads a <source> of numbers: offset, stride and count of its accessor, parameters without a name skipped.
 */
export function floatSource(doc: ColladaDocument, source: Element): Floats {
  const accessor = kid(kid(source, 'technique_common'), 'accessor');
  const array = accessor ? doc.refer(accessor.getAttribute('source')) : null;
  const from = array ?? kid(source, 'float_array') ?? kid(source, 'int_array');
  if (!from)
    return doc.fail(
      source,
      `the source “${printable(source.getAttribute('id') ?? '', 40)}” holds no numbers`,
    );
  const all = doc.numbers(from, from.hasAttribute('count') ? Number(from.getAttribute('count')) : undefined);
  if (!accessor) return { data: all, count: all.length, size: 1 };
  const offset = whole(doc, accessor, 'offset', 0);
  const stride = whole(doc, accessor, 'stride', 1);
  const count = whole(doc, accessor, 'count', 0);
  const params = kids(accessor, 'param');
  const used =
    params.length === 0
      ? Array.from({ length: stride }, (_, i) => i)
      : params.flatMap((p, i) =>
          p.getAttribute('name') || params.every((q) => !q.getAttribute('name')) ? [i] : [],
        );
  const widths = params.map((p) => (p.getAttribute('type') === 'float4x4' ? 16 : 1));
  const size = used.reduce((n, i) => n + (widths[i] ?? 1), 0);
  if (count > 0 && offset + (count - 1) * stride + size > all.length)
    return doc.fail(
      accessor,
      `an accessor wants ${offset + (count - 1) * stride + size} numbers and its array holds ${all.length}`,
    );
  if (offset === 0 && stride === size && used.every((u, i) => u === i))
    return { data: all.subarray(0, count * size), count, size };
  const data = new Float64Array(count * size);
  for (let i = 0; i < count; i++) {
    let o = 0;
    for (const u of used)
      for (let k = 0; k < (widths[u] ?? 1); k++) data[i * size + o++] = all[offset + i * stride + u + k];
  }
  return { data, count, size };
}

function whole(doc: ColladaDocument, e: Element, attribute: string, otherwise: number): number {
  const text = e.getAttribute(attribute);
  if (text === null || text === '') return otherwise;
  const n = Number(text);
  if (!Number.isInteger(n) || n < 0)
    doc.fail(e, `<${e.tagName}> has ${attribute} “${printable(text, 20)}”, which is no whole number`);
  return n;
}

/**
 * A geometry's polygons, with the point of every vertex, so that a controller's weights find their vertices.
 */
export interface Shape {
  readonly mesh: Mesh;
  readonly pointOfVertex: Uint32Array;
  readonly pointCount: number;
  /** Points that lie exactly on another; null for none. */ readonly together: Together | null;
  /** Material symbol of every piece. */ readonly symbols: readonly string[];
}

interface Input {
  readonly semantic: string;
  readonly set: number;
  readonly offset: number;
  readonly values: Floats | null;
}

const PRIMITIVES = ['polylist', 'polygons', 'triangles', 'tristrips', 'trifans'];

/**
 * Reads a <geometry>: polylist, polygons (holes are named and left out), triangles, strips and fans; every
 * input set. A corner's combination of indices becomes a vertex.
 */
export function readGeometry(doc: ColladaDocument, geometry: Element, notes: string[]): Shape | null {
  const name = geometry.getAttribute('name') || geometry.getAttribute('id') || 'mesh';
  const e = kid(geometry, 'mesh') ?? kid(geometry, 'convex_mesh');
  if (!e) {
    const what = kids(geometry).map((c) => c.tagName)[0] ?? 'empty';
    notes.push(`“${printable(name)}” is no polygon mesh (${what}) and is not carried.`);
    return null;
  }
  const sourceAt = sourceReader(doc);
  const verticesElement = kid(e, 'vertices');
  const vertexInputs = (verticesElement ? kids(verticesElement, 'input') : []).map((i) => ({
    semantic: i.getAttribute('semantic') ?? '',
    values: sourceAt(i),
  }));
  const places = vertexInputs.find((i) => i.semantic === 'POSITION')?.values;
  if (!places || places.size < 3) {
    notes.push(`“${printable(name)}” has no points and is not carried.`);
    return null;
  }
  if (places.count > doc.limits.vertices)
    doc.fail(
      geometry,
      `it has more than ${doc.limits.vertices} points`,
      'Split it, or raise the limit in the settings.',
    );
  const skipped = kids(e).filter((c) => ['lines', 'linestrips', 'spline'].includes(c.localName ?? ''));
  if (skipped.length > 0)
    notes.push(
      `${skipped.length} sets of lines in “${printable(name)}” are not carried: a character has meshes of polygons only.`,
    );
  const list = kids(e).filter((c) => PRIMITIVES.includes(c.localName ?? ''));
  const readings = list.map((p) => readPrimitive(doc, p, sourceAt, vertexInputs, notes, name));
  const gathered = gatherVertices(doc, readings, places);
  if (!gathered) {
    notes.push(`“${printable(name)}” has no polygons and is not carried.`);
    return null;
  }
  const attributes = attributesOf(gathered, readings, places, vertexInputs, notes, name);
  const names = Object.keys(attributes);
  const { count: vertexCount, pointOfVertex, pieces, symbols, polygonOffsets, corners } = gathered;
  const together = countTogether(name, pointOfVertex, attributes.POSITION.data as Float32Array);
  return {
    pointOfVertex,
    pointCount: places.count,
    together,
    symbols,
    mesh: {
      name,
      vertexCount,
      attributes,
      pieces: pieces.map((p) => ({ ...p, vertexCount, attributes: names })),
      polygonOffsets,
      corners,
      polygonOrigin: 'encoded',
      influences: null,
      influenceStorage: null,
      morphs: [],
    },
  };
}

interface VertexInput {
  readonly semantic: string;
  readonly values: Floats;
}

/** Reads the source of an input, each source once. */
function sourceReader(doc: ColladaDocument): (input: Element) => Floats {
  const sources = new Map<string, Floats>();
  return (input) => {
    const id = input.getAttribute('source') ?? '';
    let s = sources.get(id);
    if (!s) {
      s = floatSource(doc, doc.need(id, input, 'the source'));
      sources.set(id, s);
    }
    return s;
  };
}

/** All corners of a geometry as vertices: one for every combination of indices. */
interface Gathered {
  readonly keys: readonly string[];
  /** One row a vertex: its point, then its index into the input of every key, −1 for none. */
  readonly rows: Int32Array;
  readonly width: number;
  readonly count: number;
  readonly pointOfVertex: Uint32Array;
  readonly corners: Uint32Array;
  readonly polygonOffsets: Uint32Array;
  readonly pieces: readonly Piece[];
  readonly symbols: readonly string[];
}

function gatherVertices(doc: ColladaDocument, readings: readonly Reading[], places: Floats): Gathered | null {
  const keys = [...new Set(readings.flatMap((r) => r.inputs.map((i) => i.key)))];
  const cornerCount = readings.reduce((n, r) => n + r.corners.length / Math.max(1, r.stride), 0);
  if (cornerCount === 0) return null;
  const table = new RowTable(1 + keys.length, cornerCount, places.count);
  const corners = new Uint32Array(cornerCount);
  const polygonCounts = readings.reduce((n, r) => n + r.counts.length, 0);
  const offsets = new Uint32Array(polygonCounts + 1);
  const pieces: Piece[] = [];
  const symbols: string[] = [];
  let polygonCount = 0;
  let c = 0;
  for (const r of readings) {
    const start = polygonCount;
    const slots = r.inputs.map((i) => 1 + keys.indexOf(i.key));
    let at = 0;
    for (const n of r.counts) {
      for (let k = 0; k < n; k++, at += r.stride) {
        writeRow(doc, r, at, slots, places.count, table.row);
        corners[c++] = table.vertexOfRow();
      }
      offsets[++polygonCount] = c;
    }
    if (polygonCount === start) continue;
    pieces.push({
      vertexStart: 0,
      vertexCount: 0,
      polygonStart: start,
      polygonCount: polygonCount - start,
      material: -1,
      attributes: [],
      mode: 4,
    });
    symbols.push(r.element.getAttribute('material') ?? '');
  }
  const { rows, width, count } = table;
  return {
    keys,
    rows,
    width,
    count,
    pointOfVertex: Uint32Array.from({ length: count }, (_, v) => rows[v * width]),
    corners: corners.slice(0, c),
    polygonOffsets: offsets.slice(0, polygonCount + 1),
    pieces,
    symbols,
  };
}

/** The indices of the corner that begins at `at`, checked against what they count in. */
function writeRow(
  doc: ColladaDocument,
  r: Reading,
  at: number,
  slots: readonly number[],
  pointCount: number,
  row: Int32Array,
): void {
  row.fill(-1);
  row[0] = r.corners[at + r.vertexOffset];
  if (row[0] >= pointCount)
    doc.fail(r.element, `a polygon names point ${row[0]}, and there are ${pointCount}`);
  for (let s = 0; s < slots.length; s++) {
    const i = r.inputs[s];
    const x = r.corners[at + i.offset];
    if (x >= i.values.count)
      doc.fail(r.element, `a polygon names ${i.key} ${x}, and there are ${i.values.count}`);
    row[slots[s]] = x;
  }
}

/** Rows of indices, each kept once: an open hash table over flat arrays. */
class RowTable {
  /** Written by the caller before {@link vertexOfRow} is asked. */
  readonly row: Int32Array;
  rows: Int32Array;
  count = 0;
  private readonly table: Int32Array;
  private readonly mask: number;

  constructor(
    readonly width: number,
    most: number,
    expected: number,
  ) {
    let size = 16;
    while (size < most * 2) size *= 2;
    this.mask = size - 1;
    this.table = new Int32Array(size).fill(-1);
    this.row = new Int32Array(width);
    this.rows = new Int32Array(Math.max(width * 1024, expected * width));
  }

  /** The number of the row that was written; a new one where it was not there yet. */
  vertexOfRow(): number {
    const { row, width, mask, table } = this;
    let h = 0;
    for (let j = 0; j < width; j++) h = Math.imul(h ^ row[j], 0x9e3779b1) ^ (h >>> 15);
    h = (h ^ (h >>> 13)) & mask;
    for (;;) {
      const v = table[h];
      if (v < 0) {
        table[h] = this.count;
        return this.keep();
      }
      if (this.isAt(v)) return v;
      h = (h + 1) & mask;
    }
  }

  private keep(): number {
    if ((this.count + 1) * this.width > this.rows.length) {
      const grown = new Int32Array(this.rows.length * 2);
      grown.set(this.rows);
      this.rows = grown;
    }
    this.rows.set(this.row, this.count * this.width);
    return this.count++;
  }

  private isAt(v: number): boolean {
    for (let j = 0; j < this.width; j++) if (this.rows[v * this.width + j] !== this.row[j]) return false;
    return true;
  }
}

const TANGENT_FRAMES = ['TEXTANGENT', 'TEXBINORMAL', 'TANGENT', 'BINORMAL'];

/** Every input as a vertex attribute; one that glTF has no word for is named in the notes. */
function attributesOf(
  gathered: Gathered,
  readings: readonly Reading[],
  places: Floats,
  vertexInputs: readonly VertexInput[],
  notes: string[],
  name: string,
): Record<string, Attribute> {
  const { keys, rows, width, count, pointOfVertex } = gathered;
  const attributes: Record<string, Attribute> = {
    POSITION: floats(spreadOverPoints(places, pointOfVertex), 3),
  };
  const taken = { TEXCOORD: 0, COLOR: 0 };
  keys.forEach((key, slot) => {
    const values = readings.flatMap((r) => r.inputs).find((i) => i.key === key)?.values as Floats;
    const semantic = key.replace(/_\d+$/, '');
    const shape = attributeOf(semantic, values.size, taken);
    if (!shape) {
      if (!TANGENT_FRAMES.includes(semantic))
        notes.push(`The input ${printable(semantic, 24)} of “${printable(name)}” is not carried.`);
      return;
    }
    const [target, n] = shape;
    const data = new Float32Array(count * n);
    for (let v = 0; v < count; v++) {
      const i = rows[v * width + 1 + slot];
      if (i < 0) {
        if (target.startsWith('COLOR')) data.fill(1, v * n, v * n + n);
        continue;
      }
      for (let k = 0; k < n; k++)
        data[v * n + k] = k < values.size ? values.data[i * values.size + k] : Number(k === 3);
      // COLLADA counts texture heights from below, glTF from above.
      if (target.startsWith('TEXCOORD')) data[v * n + 1] = 1 - data[v * n + 1];
    }
    attributes[target] = floats(data, n);
  });
  const pointNormals = vertexInputs.find((i) => i.semantic === 'NORMAL');
  if (pointNormals && !attributes.NORMAL)
    attributes.NORMAL = floats(spreadOverPoints(pointNormals.values, pointOfVertex), 3);
  return attributes;
}

/** Three numbers of its point for every vertex. */
function spreadOverPoints(values: Floats, pointOfVertex: Uint32Array): Float32Array {
  const out = new Float32Array(pointOfVertex.length * 3);
  for (let v = 0; v < pointOfVertex.length; v++)
    for (let k = 0; k < 3; k++) out[v * 3 + k] = values.data[pointOfVertex[v] * values.size + k] ?? 0;
  return out;
}

/**
 * The glTF attribute that an input becomes, with its numbers a vertex; null where there is none. Counts sets
 * in `taken`.
 */
function attributeOf(
  semantic: string,
  size: number,
  taken: { TEXCOORD: number; COLOR: number },
): [string, number] | null {
  if (semantic === 'NORMAL') return ['NORMAL', 3];
  if (semantic === 'TEXCOORD' || semantic === 'UV') return [`TEXCOORD_${taken.TEXCOORD++}`, 2];
  if (semantic === 'COLOR') return [`COLOR_${taken.COLOR++}`, Math.min(4, Math.max(3, size))];
  return null;
}

interface Reading {
  readonly element: Element;
  readonly stride: number;
  readonly vertexOffset: number;
  readonly inputs: readonly { key: string; offset: number; values: Floats }[];
  readonly corners: Int32Array | Uint32Array;
  readonly counts: readonly number[] | Uint32Array;
}

function readPrimitive(
  doc: ColladaDocument,
  p: Element,
  sourceAt: (i: Element) => Floats,
  vertexInputs: readonly VertexInput[],
  notes: string[],
  name: string,
): Reading {
  const raw: Input[] = kids(p, 'input').map((i) => ({
    semantic: i.getAttribute('semantic') ?? '',
    set: Number(i.getAttribute('set') ?? 0) || 0,
    offset: whole(doc, i, 'offset', 0),
    values: i.getAttribute('semantic') === 'VERTEX' ? null : sourceAt(i),
  }));
  const vertex = raw.find((i) => i.semantic === 'VERTEX');
  if (!vertex) return doc.fail(p, `<${p.tagName}> has no VERTEX input`);
  const stride = Math.max(...raw.map((i) => i.offset)) + 1;
  if (stride > 64) doc.fail(p, `<${p.tagName}> has ${stride} indices a corner`);
  const inputs = [
    ...keyedInputs(raw.filter((i) => i !== vertex && i.values)),
    ...vertexInputs
      .filter((v) => v.semantic !== 'POSITION' && v.semantic !== 'NORMAL')
      .map((v) => ({ key: `${v.semantic}_0`, offset: vertex.offset, values: v.values })),
  ];
  const faces = facesOf(doc, p, stride, notes, name);
  return { element: p, stride, vertexOffset: vertex.offset, inputs, ...faces };
}

/** Inputs under keys of their own: the semantic and its set, told apart where a file uses one twice. */
function keyedInputs(inputs: readonly Input[]): { key: string; offset: number; values: Floats }[] {
  const used = new Map<string, number>();
  return inputs.map((i) => {
    const stem = `${i.semantic}_${i.set}`;
    const again = used.get(stem) ?? 0;
    used.set(stem, again + 1);
    const key = again > 0 ? `${i.semantic}_${i.set + 100 * again}` : stem;
    return { key, offset: i.offset, values: i.values as Floats };
  });
}

interface Faces {
  /** `stride` indices a corner. */
  readonly corners: Uint32Array;
  /** Corners of every polygon. */
  readonly counts: readonly number[] | Uint32Array;
}

function facesOf(doc: ColladaDocument, p: Element, stride: number, notes: string[], name: string): Faces {
  const tag = p.localName;
  if (tag === 'polygons') return outlinesOf(doc, p, stride, notes, name);
  const lists = kids(p, 'p').map((e) => indicesOf(doc, e));
  if (tag === 'polylist') return polylistOf(doc, p, lists[0] ?? new Uint32Array(0), stride, notes, name);
  if (tag === 'triangles') {
    const list = concat(lists);
    const n = Math.floor(list.length / (3 * stride));
    return { corners: list.subarray(0, n * 3 * stride), counts: new Uint32Array(n).fill(3) };
  }
  return unwoundFaces(lists, stride, tag === 'trifans');
}

function indicesOf(doc: ColladaDocument, e: Element): Uint32Array {
  const list = doc.numbers(e);
  const out = new Uint32Array(list.length);
  for (let i = 0; i < list.length; i++) {
    if (!Number.isInteger(list[i]) || list[i] < 0) doc.fail(e, `a polygon names index ${list[i]}`);
    out[i] = list[i];
  }
  return out;
}

/** A <polylist>; what has fewer than three corners is left out and counted in the notes. */
function polylistOf(
  doc: ColladaDocument,
  p: Element,
  list: Uint32Array,
  stride: number,
  notes: string[],
  name: string,
): Faces {
  const announced = kid(p, 'vcount');
  const counts = announced ? indicesOf(doc, announced) : new Uint32Array(0);
  const total = counts.reduce((a, b) => a + b, 0) * stride;
  if (list.length < total)
    doc.fail(
      p,
      `<polylist> announces ${total / stride} corners and holds ${Math.floor(list.length / stride)}`,
    );
  if (counts.every((n) => n >= 3)) return { corners: list.subarray(0, total), counts };
  const kept: number[] = [];
  const left: number[] = [];
  let at = 0;
  for (const n of counts) {
    if (n >= 3) {
      for (let k = 0; k < n * stride; k++) kept.push(list[at + k]);
      left.push(n);
    }
    at += n * stride;
  }
  notes.push(
    `${counts.length - left.length} faces of “${printable(name)}” had fewer than three corners and were left out.`,
  );
  return { corners: Uint32Array.from(kept), counts: left };
}

/** <polygons>: the outlines; holes are counted in the notes. */
function outlinesOf(doc: ColladaDocument, p: Element, stride: number, notes: string[], name: string): Faces {
  const holes = kids(p, 'ph').length;
  if (holes > 0)
    notes.push(
      `${holes} ${holes === 1 ? 'polygon' : 'polygons'} of “${printable(name)}” ${holes === 1 ? 'has' : 'have'} holes; the outlines are kept, the holes are not.`,
    );
  const outlines = kids(p)
    .filter((c) => c.localName === 'p' || c.localName === 'ph')
    .map((c) => indicesOf(doc, c.localName === 'p' ? c : (kid(c, 'p') ?? c)))
    .filter((l) => l.length >= 3 * stride);
  return { corners: concat(outlines), counts: outlines.map((l) => Math.floor(l.length / stride)) };
}

/** Strips and fans as triangles of their own. */
function unwoundFaces(lists: readonly Uint32Array[], stride: number, isFan: boolean): Faces {
  const out: number[] = [];
  for (const list of lists) {
    const n = Math.floor(list.length / stride);
    for (let k = 2; k < n; k++) {
      const inStrip = k % 2 === 0 ? [k - 2, k - 1, k] : [k - 1, k - 2, k];
      for (const x of isFan ? [0, k - 1, k] : inStrip)
        for (let j = 0; j < stride; j++) out.push(list[x * stride + j]);
    }
  }
  return { corners: Uint32Array.from(out), counts: new Uint32Array(out.length / (3 * stride)).fill(3) };
}

function concat(lists: readonly Uint32Array[]): Uint32Array {
  if (lists.length === 1) return lists[0];
  const out = new Uint32Array(lists.reduce((n, l) => n + l.length, 0));
  let at = 0;
  for (const l of lists) {
    out.set(l, at);
    at += l.length;
  }
  return out;
}

/** A <skin> before its joints are found in a scene. `joint` may be `names.length`: the bind shape itself. */
export interface Bind {
  readonly names: readonly string[];
  readonly byId: boolean;
  readonly inverseBinds: Float64Array;
  readonly bindShape: readonly number[];
  readonly influences: Influences;
  readonly usesShape: boolean;
}

/**
 * Reads a <skin>: any number of influences a point, spread to the vertices of its shape. Matrices come
 * column-major.
 */
export function readBind(doc: ColladaDocument, skin: Element, shape: Shape): Bind {
  const sources = new Map(kids(skin, 'source').map((s) => [s.getAttribute('id') ?? '', s]));
  const sourceFor = (i: Element | null): Element | null =>
    i ? (sources.get((i.getAttribute('source') ?? '').replace(/^#/, '')) ?? null) : null;
  const joints = kid(skin, 'joints');
  const weights = kid(skin, 'vertex_weights');
  const jointSource = sourceFor(inputOf(joints, 'JOINT'));
  if (!joints || !jointSource) return doc.fail(skin, 'a <skin> names no joints');
  const array =
    kid(jointSource, 'Name_array') ?? kid(jointSource, 'IDREF_array') ?? kid(jointSource, 'SIDREF_array');
  const names = words(array);
  const bindSource = sourceFor(inputOf(joints, 'INV_BIND_MATRIX'));
  const matrices = bindSource ? floatSource(doc, bindSource).data : null;
  if (!matrices || matrices.length < names.length * 16)
    return doc.fail(
      skin,
      `a <skin> has ${names.length} joints and ${matrices ? Math.floor(matrices.length / 16) : 0} inverse binds`,
    );
  const shapeMatrix = kid(skin, 'bind_shape_matrix');
  if (!weights) return doc.fail(skin, 'a <skin> has no <vertex_weights>');
  // The weights may name the joints through a list of their own.
  const own = sourceFor(inputOf(weights, 'JOINT'));
  const ownNames =
    own && own !== jointSource ? words(kid(own, 'Name_array') ?? kid(own, 'IDREF_array')) : names;
  const weightSource = sourceFor(inputOf(weights, 'WEIGHT'));
  const { influences, usesShape } = readInfluences(doc, weights, weightSource, names, ownNames, shape);
  return {
    names,
    byId: array?.localName === 'IDREF_array',
    inverseBinds: columnMajor(matrices, names.length),
    bindShape: shapeMatrix ? [...columnMajor(doc.exactly(shapeMatrix, 16), 1)] : IDENTITY,
    influences,
    usesShape,
  };
}

const IDENTITY: readonly number[] = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

const inputOf = (parent: Element | null, semantic: string): Element | null =>
  parent ? (kids(parent, 'input').find((i) => i.getAttribute('semantic') === semantic) ?? null) : null;

/** Matrices of 16 written row by row, column by column. */
function columnMajor(rows: ArrayLike<number>, count: number): Float64Array {
  const out = new Float64Array(count * 16);
  for (let i = 0; i < count * 16; i++) {
    const cell = i % 16;
    out[i] = rows[i - cell + (cell % 4) * 4 + Math.floor(cell / 4)];
  }
  return out;
}

/** <vertex_weights>, spread from points to the vertices that share them. A weight of 0 is left out. */
function readInfluences(
  doc: ColladaDocument,
  weights: Element,
  weightSource: Element | null,
  names: readonly string[],
  ownNames: readonly string[],
  { pointOfVertex, pointCount }: Shape,
): { influences: Influences; usesShape: boolean } {
  const jointInput = inputOf(weights, 'JOINT');
  const weightInput = inputOf(weights, 'WEIGHT');
  if (!jointInput || !weightInput || !weightSource)
    return doc.fail(weights, '<vertex_weights> lacks its joints or its weights');
  const values = floatSource(doc, weightSource);
  const slot = ownNames === names ? null : ownNames.map((n) => names.indexOf(n));
  const jointOffset = whole(doc, jointInput, 'offset', 0);
  const weightOffset = whole(doc, weightInput, 'offset', 1);
  const stride = Math.max(...kids(weights, 'input').map((i) => whole(doc, i, 'offset', 0))) + 1;
  const list = kid(weights, 'v') ? doc.numbers(kid(weights, 'v') as Element) : new Float64Array(0);
  const starts = startsOf(doc, weights, pointCount, Math.floor(list.length / stride));
  const offsets = new Uint32Array(pointOfVertex.length + 1);
  let most = 0;
  for (const p of pointOfVertex) most += starts[p + 1] - starts[p];
  const joint = names.length < 65_535 ? new Uint16Array(most) : new Uint32Array(most);
  const weight = new Float32Array(most);
  let o = 0;
  let usesShape = false;
  for (let v = 0; v < pointOfVertex.length; v++) {
    for (let k = starts[pointOfVertex[v]]; k < starts[pointOfVertex[v] + 1]; k++) {
      const j = list[k * stride + jointOffset];
      const w = list[k * stride + weightOffset];
      if (!Number.isInteger(j) || j < -1 || j >= ownNames.length)
        doc.fail(weights, `an influence names joint ${j}, and there are ${ownNames.length}`);
      if (!Number.isInteger(w) || w < 0 || w >= values.count)
        doc.fail(weights, `an influence names weight ${w}, and there are ${values.count}`);
      const listed = slot ? slot[j] : j;
      const to = j < 0 ? names.length : listed;
      if (to < 0)
        doc.fail(weights, `an influence names “${printable(ownNames[j], 40)}”, which is none of the joints`);
      const x = values.data[w * values.size];
      if (x === 0) continue;
      if (j < 0) usesShape = true;
      joint[o] = to;
      weight[o++] = x;
    }
    offsets[v + 1] = o;
  }
  return { influences: { offsets, joint: joint.slice(0, o), weight: weight.slice(0, o) }, usesShape };
}

/** Where the influences of every point begin, by <vcount>; there are `held` of them in all. */
function startsOf(doc: ColladaDocument, weights: Element, pointCount: number, held: number): Uint32Array {
  const announced = kid(weights, 'vcount');
  const counts = announced ? doc.numbers(announced) : new Float64Array(0);
  const starts = new Uint32Array(pointCount + 1);
  let total = 0;
  for (let p = 0; p < pointCount; p++) {
    const n = counts[p] ?? 0;
    if (!Number.isInteger(n) || n < 0) doc.fail(weights, `point ${p} announces ${n} influences`);
    total += n;
    starts[p + 1] = total;
  }
  if (total > held)
    return doc.fail(weights, `<vertex_weights> announces ${total} influences and holds ${held}`);
  return starts;
}

/** A <morph>'s targets as differences from its base, and how far each is on. */
export function readMorphs(
  doc: ColladaDocument,
  morph: Element,
  base: Shape,
  shapeOf: (geometry: Element) => Shape | null,
  notes: string[],
): { morphs: Morph[]; weights: number[] } {
  const targets = kid(morph, 'targets');
  const input = (s: string) =>
    targets ? (kids(targets, 'input').find((i) => i.getAttribute('semantic') === s) ?? null) : null;
  const source = (i: Element | null) => (i ? doc.refer(i.getAttribute('source')) : null);
  const ids = words(
    kid(source(input('MORPH_TARGET')) ?? morph, 'IDREF_array') ??
      kid(source(input('MORPH_TARGET')) ?? morph, 'Name_array'),
  );
  const weightSource = source(input('MORPH_WEIGHT'));
  const weights = weightSource ? Array.from(floatSource(doc, weightSource).data) : [];
  const relative = morph.getAttribute('method') === 'RELATIVE';
  const morphs: Morph[] = [];
  const kept: number[] = [];
  ids.forEach((id, k) => {
    const geometry = doc.byId.get(id);
    const shape = geometry ? shapeOf(geometry) : null;
    if (!shape || shape.mesh.vertexCount !== base.mesh.vertexCount) {
      notes.push(`The morph target “${printable(id)}” has other vertices than its base and is not carried.`);
      return;
    }
    const data = Float32Array.from(shape.mesh.attributes.POSITION.data);
    if (!relative) for (let i = 0; i < data.length; i++) data[i] -= base.mesh.attributes.POSITION.data[i];
    morphs.push({ attributes: { POSITION: floats(data, 3) } });
    kept.push(weights[k] ?? 0);
  });
  return { morphs, weights: kept };
}
