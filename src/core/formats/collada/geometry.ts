import type { Element } from '@xmldom/xmldom';
import type { Attribute, Influences, Mesh, Morph, Piece } from '../../character/model';
import { printable } from '../errors';
import { floats } from '../text';
import { type CoincidentPoints, countTogether } from '../coincident-points';
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
      : params.flatMap((param, i) =>
          param.getAttribute('name') || params.every((element) => !element.getAttribute('name')) ? [i] : [],
        );
  const widths = params.map((param) => (param.getAttribute('type') === 'float4x4' ? 16 : 1));
  const size = used.reduce((sum, i) => sum + (widths[i] ?? 1), 0);
  if (count > 0 && offset + (count - 1) * stride + size > all.length)
    return doc.fail(
      accessor,
      `an accessor wants ${offset + (count - 1) * stride + size} numbers and its array holds ${all.length}`,
    );
  if (offset === 0 && stride === size && used.every((share, i) => share === i))
    return { data: all.subarray(0, count * size), count, size };
  const data = new Float64Array(count * size);
  for (let i = 0; i < count; i++) {
    let oneOffset = 0;
    for (const share of used)
      for (let k = 0; k < (widths[share] ?? 1); k++)
        data[i * size + oneOffset++] = all[offset + i * stride + share + k];
  }
  return { data, count, size };
}

function whole(doc: ColladaDocument, element: Element, attribute: string, otherwise: number): number {
  const text = element.getAttribute(attribute);
  if (text === null || text === '') return otherwise;
  const value = Number(text);
  if (!Number.isInteger(value) || value < 0)
    doc.fail(
      element,
      `<${element.tagName}> has ${attribute} “${printable(text, 20)}”, which is no whole number`,
    );
  return value;
}

/**
 * A geometry's polygons, with the point of every vertex, so that a controller's weights find their vertices.
 */
export interface GeometryShape {
  readonly mesh: Mesh;
  readonly pointOfVertex: Uint32Array;
  readonly pointCount: number;
  /** Points that lie exactly on another; null for none. */ readonly together: CoincidentPoints | null;
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
export function readGeometry(doc: ColladaDocument, geometry: Element, notes: string[]): GeometryShape | null {
  const name = geometry.getAttribute('name') || geometry.getAttribute('id') || 'mesh';
  const element = kid(geometry, 'mesh') ?? kid(geometry, 'convex_mesh');
  if (!element) {
    const what = kids(geometry).map((kid) => kid.tagName)[0] ?? 'empty';
    notes.push(`“${printable(name)}” is no polygon mesh (${what}) and is not carried.`);
    return null;
  }
  const sourceAt = sourceReader(doc);
  const verticesElement = kid(element, 'vertices');
  const vertexInputs = (verticesElement ? kids(verticesElement, 'input') : []).map((otherElement) => ({
    semantic: otherElement.getAttribute('semantic') ?? '',
    values: sourceAt(otherElement),
  }));
  const places = vertexInputs.find((input) => input.semantic === 'POSITION')?.values;
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
  const skipped = kids(element).filter((kid) =>
    ['lines', 'linestrips', 'spline'].includes(kid.localName ?? ''),
  );
  if (skipped.length > 0)
    notes.push(
      `${skipped.length} sets of lines in “${printable(name)}” are not carried: a character has meshes of polygons only.`,
    );
  const list = kids(element).filter((kid) => PRIMITIVES.includes(kid.localName ?? ''));
  const readings = list.map((otherElement) =>
    readPrimitive(doc, otherElement, sourceAt, vertexInputs, notes, name),
  );
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
      pieces: pieces.map((piece) => ({ ...piece, vertexCount, attributes: names })),
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
    let floats = sources.get(id);
    if (!floats) {
      floats = floatSource(doc, doc.need(id, input, 'the source'));
      sources.set(id, floats);
    }
    return floats;
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
  const keys = [...new Set(readings.flatMap((reading) => reading.inputs.map((input) => input.key)))];
  const cornerCount = readings.reduce(
    (most, reading) => most + reading.corners.length / Math.max(1, reading.stride),
    0,
  );
  if (cornerCount === 0) return null;
  const table = new RowTable(1 + keys.length, cornerCount, places.count);
  const corners = new Uint32Array(cornerCount);
  const polygonCounts = readings.reduce((sum, reading) => sum + reading.counts.length, 0);
  const offsets = new Uint32Array(polygonCounts + 1);
  const pieces: Piece[] = [];
  const symbols: string[] = [];
  let polygonCount = 0;
  let oneCount = 0;
  for (const reading of readings) {
    const start = polygonCount;
    const slots = reading.inputs.map((input) => 1 + keys.indexOf(input.key));
    let at = 0;
    for (const count of reading.counts) {
      for (let k = 0; k < count; k++, at += reading.stride) {
        writeRow(doc, reading, at, slots, places.count, table.row);
        corners[oneCount++] = table.vertexOfRow();
      }
      offsets[++polygonCount] = oneCount;
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
    symbols.push(reading.element.getAttribute('material') ?? '');
  }
  const { rows, width, count } = table;
  return {
    keys,
    rows,
    width,
    count,
    pointOfVertex: Uint32Array.from({ length: count }, (_, vertex) => rows[vertex * width]),
    corners: corners.slice(0, oneCount),
    polygonOffsets: offsets.slice(0, polygonCount + 1),
    pieces,
    symbols,
  };
}

/** The indices of the corner that begins at `at`, checked against what they count in. */
function writeRow(
  doc: ColladaDocument,
  reading: Reading,
  at: number,
  slots: readonly number[],
  pointCount: number,
  row: Int32Array,
): void {
  row.fill(-1);
  row[0] = reading.corners[at + reading.vertexOffset];
  if (row[0] >= pointCount)
    doc.fail(reading.element, `a polygon names point ${row[0]}, and there are ${pointCount}`);
  for (let slot = 0; slot < slots.length; slot++) {
    const input = reading.inputs[slot];
    const x = reading.corners[at + input.offset];
    if (x >= input.values.count)
      doc.fail(reading.element, `a polygon names ${input.key} ${x}, and there are ${input.values.count}`);
    row[slots[slot]] = x;
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
    let hash = 0;
    for (let j = 0; j < width; j++) hash = Math.imul(hash ^ row[j], 0x9e3779b1) ^ (hash >>> 15);
    hash = (hash ^ (hash >>> 13)) & mask;
    for (;;) {
      const found = table[hash];
      if (found < 0) {
        table[hash] = this.count;
        return this.keep();
      }
      if (this.isAt(found)) return found;
      hash = (hash + 1) & mask;
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

  private isAt(vertex: number): boolean {
    for (let j = 0; j < this.width; j++) if (this.rows[vertex * this.width + j] !== this.row[j]) return false;
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
    const values = readings.flatMap((reading) => reading.inputs).find((i) => i.key === key)?.values as Floats;
    const semantic = key.replace(/_\d+$/, '');
    const shape = attributeOf(semantic, values.size, taken);
    if (!shape) {
      if (!TANGENT_FRAMES.includes(semantic))
        notes.push(`The input ${printable(semantic, 24)} of “${printable(name)}” is not carried.`);
      return;
    }
    const [target, size] = shape;
    const data = new Float32Array(count * size);
    for (let vertex = 0; vertex < count; vertex++) {
      const i = rows[vertex * width + 1 + slot];
      if (i < 0) {
        if (target.startsWith('COLOR')) data.fill(1, vertex * size, vertex * size + size);
        continue;
      }
      for (let k = 0; k < size; k++)
        data[vertex * size + k] = k < values.size ? values.data[i * values.size + k] : Number(k === 3);
      // COLLADA counts texture heights from below, glTF from above.
      if (target.startsWith('TEXCOORD')) data[vertex * size + 1] = 1 - data[vertex * size + 1];
    }
    attributes[target] = floats(data, size);
  });
  const pointNormals = vertexInputs.find((input) => input.semantic === 'NORMAL');
  if (pointNormals && !attributes.NORMAL)
    attributes.NORMAL = floats(spreadOverPoints(pointNormals.values, pointOfVertex), 3);
  return attributes;
}

/** Three numbers of its point for every vertex. */
function spreadOverPoints(values: Floats, pointOfVertex: Uint32Array): Float32Array {
  const out = new Float32Array(pointOfVertex.length * 3);
  for (let vertex = 0; vertex < pointOfVertex.length; vertex++)
    for (let k = 0; k < 3; k++)
      out[vertex * 3 + k] = values.data[pointOfVertex[vertex] * values.size + k] ?? 0;
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
  element: Element,
  sourceAt: (otherElement: Element) => Floats,
  vertexInputs: readonly VertexInput[],
  notes: string[],
  name: string,
): Reading {
  const raw: Input[] = kids(element, 'input').map((kid) => ({
    semantic: kid.getAttribute('semantic') ?? '',
    set: Number(kid.getAttribute('set') ?? 0) || 0,
    offset: whole(doc, kid, 'offset', 0),
    values: kid.getAttribute('semantic') === 'VERTEX' ? null : sourceAt(kid),
  }));
  const vertex = raw.find((input) => input.semantic === 'VERTEX');
  if (!vertex) return doc.fail(element, `<${element.tagName}> has no VERTEX input`);
  const stride = Math.max(...raw.map((input) => input.offset)) + 1;
  if (stride > 64) doc.fail(element, `<${element.tagName}> has ${stride} indices a corner`);
  const inputs = [
    ...keyedInputs(raw.filter((input) => input !== vertex && input.values)),
    ...vertexInputs
      .filter((input) => input.semantic !== 'POSITION' && input.semantic !== 'NORMAL')
      .map((input) => ({ key: `${input.semantic}_0`, offset: vertex.offset, values: input.values })),
  ];
  const faces = facesOf(doc, element, stride, notes, name);
  return { element, stride, vertexOffset: vertex.offset, inputs, ...faces };
}

/** Inputs under keys of their own: the semantic and its set, told apart where a file uses one twice. */
function keyedInputs(inputs: readonly Input[]): { key: string; offset: number; values: Floats }[] {
  const used = new Map<string, number>();
  return inputs.map((input) => {
    const stem = `${input.semantic}_${input.set}`;
    const again = used.get(stem) ?? 0;
    used.set(stem, again + 1);
    const key = again > 0 ? `${input.semantic}_${input.set + 100 * again}` : stem;
    return { key, offset: input.offset, values: input.values as Floats };
  });
}

interface Faces {
  /** `stride` indices a corner. */
  readonly corners: Uint32Array;
  /** Corners of every polygon. */
  readonly counts: readonly number[] | Uint32Array;
}

function facesOf(
  doc: ColladaDocument,
  element: Element,
  stride: number,
  notes: string[],
  name: string,
): Faces {
  const tag = element.localName;
  if (tag === 'polygons') return outlinesOf(doc, element, stride, notes, name);
  const lists = kids(element, 'p').map((kid) => indicesOf(doc, kid));
  if (tag === 'polylist')
    return polylistOf(doc, element, lists[0] ?? new Uint32Array(0), stride, notes, name);
  if (tag === 'triangles') {
    const list = concat(lists);
    const count = Math.floor(list.length / (3 * stride));
    return { corners: list.subarray(0, count * 3 * stride), counts: new Uint32Array(count).fill(3) };
  }
  return unwoundFaces(lists, stride, tag === 'trifans');
}

function indicesOf(doc: ColladaDocument, element: Element): Uint32Array {
  const list = doc.numbers(element);
  const out = new Uint32Array(list.length);
  for (let i = 0; i < list.length; i++) {
    if (!Number.isInteger(list[i]) || list[i] < 0) doc.fail(element, `a polygon names index ${list[i]}`);
    out[i] = list[i];
  }
  return out;
}

/** A <polylist>; what has fewer than three corners is left out and counted in the notes. */
function polylistOf(
  doc: ColladaDocument,
  element: Element,
  list: Uint32Array,
  stride: number,
  notes: string[],
  name: string,
): Faces {
  const announced = kid(element, 'vcount');
  const counts = announced ? indicesOf(doc, announced) : new Uint32Array(0);
  const total = counts.reduce((a, b) => a + b, 0) * stride;
  if (list.length < total)
    doc.fail(
      element,
      `<polylist> announces ${total / stride} corners and holds ${Math.floor(list.length / stride)}`,
    );
  if (counts.every((count) => count >= 3)) return { corners: list.subarray(0, total), counts };
  const kept: number[] = [];
  const left: number[] = [];
  let at = 0;
  for (const count of counts) {
    if (count >= 3) {
      for (let k = 0; k < count * stride; k++) kept.push(list[at + k]);
      left.push(count);
    }
    at += count * stride;
  }
  notes.push(
    `${counts.length - left.length} faces of “${printable(name)}” had fewer than three corners and were left out.`,
  );
  return { corners: Uint32Array.from(kept), counts: left };
}

/** <polygons>: the outlines; holes are counted in the notes. */
function outlinesOf(
  doc: ColladaDocument,
  element: Element,
  stride: number,
  notes: string[],
  name: string,
): Faces {
  const holes = kids(element, 'ph').length;
  if (holes > 0)
    notes.push(
      `${holes} ${holes === 1 ? 'polygon' : 'polygons'} of “${printable(name)}” ${holes === 1 ? 'has' : 'have'} holes; the outlines are kept, the holes are not.`,
    );
  const outlines = kids(element)
    .filter((kid) => kid.localName === 'p' || kid.localName === 'ph')
    .map((otherElement) =>
      indicesOf(
        doc,
        otherElement.localName === 'p' ? otherElement : (kid(otherElement, 'p') ?? otherElement),
      ),
    )
    .filter((list) => list.length >= 3 * stride);
  return {
    corners: concat(outlines),
    counts: outlines.map((outline) => Math.floor(outline.length / stride)),
  };
}

/** Strips and fans as triangles of their own. */
function unwoundFaces(lists: readonly Uint32Array[], stride: number, isFan: boolean): Faces {
  const out: number[] = [];
  for (const list of lists) {
    const count = Math.floor(list.length / stride);
    for (let k = 2; k < count; k++) {
      const inStrip = k % 2 === 0 ? [k - 2, k - 1, k] : [k - 1, k - 2, k];
      for (const x of isFan ? [0, k - 1, k] : inStrip)
        for (let j = 0; j < stride; j++) out.push(list[x * stride + j]);
    }
  }
  return { corners: Uint32Array.from(out), counts: new Uint32Array(out.length / (3 * stride)).fill(3) };
}

function concat(lists: readonly Uint32Array[]): Uint32Array {
  if (lists.length === 1) return lists[0];
  const out = new Uint32Array(lists.reduce((sum, list) => sum + list.length, 0));
  let at = 0;
  for (const list of lists) {
    out.set(list, at);
    at += list.length;
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
export function readBind(doc: ColladaDocument, skin: Element, shape: GeometryShape): Bind {
  const sources = new Map(kids(skin, 'source').map((element) => [element.getAttribute('id') ?? '', element]));
  const sourceFor = (element: Element | null): Element | null =>
    element ? (sources.get((element.getAttribute('source') ?? '').replace(/^#/, '')) ?? null) : null;
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
  parent
    ? (kids(parent, 'input').find((element) => element.getAttribute('semantic') === semantic) ?? null)
    : null;

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
  { pointOfVertex, pointCount }: GeometryShape,
): { influences: Influences; usesShape: boolean } {
  const jointInput = inputOf(weights, 'JOINT');
  const weightInput = inputOf(weights, 'WEIGHT');
  if (!jointInput || !weightInput || !weightSource)
    return doc.fail(weights, '<vertex_weights> lacks its joints or its weights');
  const values = floatSource(doc, weightSource);
  const slot = ownNames === names ? null : ownNames.map((name) => names.indexOf(name));
  const jointOffset = whole(doc, jointInput, 'offset', 0);
  const weightOffset = whole(doc, weightInput, 'offset', 1);
  const stride = Math.max(...kids(weights, 'input').map((element) => whole(doc, element, 'offset', 0))) + 1;
  const list = kid(weights, 'v') ? doc.numbers(kid(weights, 'v') as Element) : new Float64Array(0);
  const starts = startsOf(doc, weights, pointCount, Math.floor(list.length / stride));
  const offsets = new Uint32Array(pointOfVertex.length + 1);
  let most = 0;
  for (const point of pointOfVertex) most += starts[point + 1] - starts[point];
  const joint = names.length < 65_535 ? new Uint16Array(most) : new Uint32Array(most);
  const weight = new Float32Array(most);
  let offset = 0;
  let usesShape = false;
  for (let vertex = 0; vertex < pointOfVertex.length; vertex++) {
    for (let k = starts[pointOfVertex[vertex]]; k < starts[pointOfVertex[vertex] + 1]; k++) {
      const j = list[k * stride + jointOffset];
      const otherWeight = list[k * stride + weightOffset];
      if (!Number.isInteger(j) || j < -1 || j >= ownNames.length)
        doc.fail(weights, `an influence names joint ${j}, and there are ${ownNames.length}`);
      if (!Number.isInteger(otherWeight) || otherWeight < 0 || otherWeight >= values.count)
        doc.fail(weights, `an influence names weight ${otherWeight}, and there are ${values.count}`);
      const listed = slot ? slot[j] : j;
      const to = j < 0 ? names.length : listed;
      if (to < 0)
        doc.fail(weights, `an influence names “${printable(ownNames[j], 40)}”, which is none of the joints`);
      const x = values.data[otherWeight * values.size];
      if (x === 0) continue;
      if (j < 0) usesShape = true;
      joint[offset] = to;
      weight[offset++] = x;
    }
    offsets[vertex + 1] = offset;
  }
  return {
    influences: { offsets, joint: joint.slice(0, offset), weight: weight.slice(0, offset) },
    usesShape,
  };
}

/** Where the influences of every point begin, by <vcount>; there are `held` of them in all. */
function startsOf(doc: ColladaDocument, weights: Element, pointCount: number, held: number): Uint32Array {
  const announced = kid(weights, 'vcount');
  const counts = announced ? doc.numbers(announced) : new Float64Array(0);
  const starts = new Uint32Array(pointCount + 1);
  let total = 0;
  for (let point = 0; point < pointCount; point++) {
    const count = counts[point] ?? 0;
    if (!Number.isInteger(count) || count < 0)
      doc.fail(weights, `point ${point} announces ${count} influences`);
    total += count;
    starts[point + 1] = total;
  }
  if (total > held)
    return doc.fail(weights, `<vertex_weights> announces ${total} influences and holds ${held}`);
  return starts;
}

/** A <morph>'s targets as differences from its base, and how far each is on. */
export function readMorphs(
  doc: ColladaDocument,
  morph: Element,
  base: GeometryShape,
  shapeOf: (geometry: Element) => GeometryShape | null,
  notes: string[],
): { morphs: Morph[]; weights: number[] } {
  const targets = kid(morph, 'targets');
  const input = (text: string) =>
    targets
      ? (kids(targets, 'input').find((element) => element.getAttribute('semantic') === text) ?? null)
      : null;
  const source = (element: Element | null) => (element ? doc.refer(element.getAttribute('source')) : null);
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
