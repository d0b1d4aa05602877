import type { Element } from '@xmldom/xmldom';
import type { Attribute, Influences, Mesh, Morph, Piece } from '../../character/model';
import { printable } from '../errors';
import { floats } from '../text';
import { type ColladaDocument, kid, kids, words } from './document';

/** A source's numbers as its accessor lays them out: `stride` numbers an element, of which the named ones count. */
export interface Floats {
  readonly data: Float64Array;
  readonly count: number;
  readonly size: number;
}

/** Reads a <source> of numbers: offset, stride and count of its accessor, parameters without a name skipped. */
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

/** A geometry's polygons, with the point of every vertex, so that a controller's weights find their vertices. */
export interface Shape {
  readonly mesh: Mesh;
  readonly pointOfVertex: Uint32Array;
  readonly pointCount: number;
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
 * Reads a <geometry>: polylist, polygons (holes are named and left out), triangles, strips and fans; every input set. A
 * corner's combination of indices becomes a vertex.
 */
export function readGeometry(doc: ColladaDocument, geometry: Element, notes: string[]): Shape | null {
  const name = geometry.getAttribute('name') || geometry.getAttribute('id') || 'mesh';
  const e = kid(geometry, 'mesh') ?? kid(geometry, 'convex_mesh');
  if (!e) {
    notes.push(
      `“${printable(name)}” is no polygon mesh (${kids(geometry).map((c) => c.tagName)[0] ?? 'empty'}) and is not carried.`,
    );
    return null;
  }
  const sources = new Map<string, Floats>();
  const sourceAt = (input: Element): Floats => {
    const id = input.getAttribute('source') ?? '';
    let s = sources.get(id);
    if (!s) {
      s = floatSource(doc, doc.need(id, input, 'the source'));
      sources.set(id, s);
    }
    return s;
  };
  const vertices = kid(e, 'vertices');
  const vertexInputs = vertices
    ? kids(vertices, 'input').map((i) => ({
        semantic: i.getAttribute('semantic') ?? '',
        values: sourceAt(i),
      }))
    : [];
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
  // One row of indices a corner: the point, then the indices of every other input by key.
  const keys: { key: string; size: number }[] = [];
  const readings = list.map((p) => readPrimitive(doc, p, sourceAt, vertexInputs, notes, name));
  for (const r of readings)
    for (const i of r.inputs)
      if (!keys.some((k) => k.key === i.key)) keys.push({ key: i.key, size: i.values.size });
  const cornerCount = readings.reduce((n, r) => n + r.corners.length / Math.max(1, r.stride), 0);
  if (cornerCount === 0) {
    notes.push(`“${printable(name)}” has no polygons and is not carried.`);
    return null;
  }
  const width = 1 + keys.length;
  let size = 16;
  while (size < cornerCount * 2) size *= 2;
  const table = new Int32Array(size).fill(-1);
  let rows = new Int32Array(Math.max(width * 1024, places.count * width));
  let count = 0;
  let polygonCount = 0;
  const corners = new Uint32Array(cornerCount);
  const offsets = new Uint32Array(readings.reduce((n, r) => n + r.counts.length, 0) + 1);
  const pieces: Piece[] = [];
  const symbols: string[] = [];
  const row = new Int32Array(width);
  let c = 0;
  for (const r of readings) {
    const start = polygonCount;
    const slots = r.inputs.map((i) => 1 + keys.findIndex((k) => k.key === i.key));
    let at = 0;
    for (const n of r.counts) {
      for (let k = 0; k < n; k++, at += r.stride) {
        row.fill(-1);
        row[0] = r.corners[at + r.vertexOffset];
        if (row[0] >= places.count)
          doc.fail(r.element, `a polygon names point ${row[0]}, and there are ${places.count}`);
        r.inputs.forEach((i, s) => {
          const x = r.corners[at + i.offset];
          if (x >= i.values.count)
            doc.fail(r.element, `a polygon names ${i.key} ${x}, and there are ${i.values.count}`);
          row[slots[s]] = x;
        });
        let h = 0;
        for (let j = 0; j < width; j++) h = Math.imul(h ^ row[j], 0x9e3779b1) ^ (h >>> 15);
        h = (h ^ (h >>> 13)) & (size - 1);
        for (;;) {
          const v = table[h];
          if (v < 0) {
            if ((count + 1) * width > rows.length) {
              const grown = new Int32Array(rows.length * 2);
              grown.set(rows);
              rows = grown;
            }
            rows.set(row, count * width);
            table[h] = count;
            corners[c++] = count++;
            break;
          }
          let same = true;
          for (let j = 0; j < width; j++)
            if (rows[v * width + j] !== row[j]) {
              same = false;
              break;
            }
          if (same) {
            corners[c++] = v;
            break;
          }
          h = (h + 1) & (size - 1);
        }
      }
      offsets[++polygonCount] = c;
    }
    if (polygonCount > start) {
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
  }
  const attributes: Record<string, Attribute> = {};
  const position = new Float32Array(count * 3);
  const pointOfVertex = new Uint32Array(count);
  for (let v = 0; v < count; v++) {
    const p = rows[v * width];
    pointOfVertex[v] = p;
    for (let k = 0; k < 3; k++) position[v * 3 + k] = places.data[p * places.size + k];
  }
  attributes.POSITION = floats(position, 3);
  const taken = { TEXCOORD: 0, COLOR: 0 };
  keys.forEach(({ key }, slot) => {
    const values = readings.flatMap((r) => r.inputs).find((i) => i.key === key)?.values as Floats;
    const semantic = key.replace(/_\d+$/, '');
    const shape =
      semantic === 'NORMAL'
        ? ['NORMAL', 3]
        : semantic === 'TEXCOORD' || semantic === 'UV'
          ? [`TEXCOORD_${taken.TEXCOORD++}`, 2]
          : semantic === 'COLOR'
            ? [`COLOR_${taken.COLOR++}`, Math.min(4, Math.max(3, values.size))]
            : null;
    if (!shape) {
      if (!['TEXTANGENT', 'TEXBINORMAL', 'TANGENT', 'BINORMAL'].includes(semantic))
        notes.push(`The input ${printable(semantic, 24)} of “${printable(name)}” is not carried.`);
      return;
    }
    const [target, n] = shape as [string, number];
    const data = new Float32Array(count * n);
    for (let v = 0; v < count; v++) {
      const i = rows[v * width + 1 + slot];
      if (i < 0) {
        if (target.startsWith('COLOR')) data.fill(1, v * n, v * n + n);
        continue;
      }
      for (let k = 0; k < n; k++)
        data[v * n + k] = k < values.size ? values.data[i * values.size + k] : k === 3 ? 1 : 0;
      // COLLADA counts texture heights from below, glTF from above.
      if (target.startsWith('TEXCOORD')) data[v * n + 1] = 1 - data[v * n + 1];
    }
    attributes[target] = floats(data, n);
  });
  for (const input of vertexInputs) {
    if (input.semantic !== 'NORMAL' || attributes.NORMAL) continue;
    const data = new Float32Array(count * 3);
    for (let v = 0; v < count; v++)
      for (let k = 0; k < 3; k++)
        data[v * 3 + k] = input.values.data[pointOfVertex[v] * input.values.size + k] ?? 0;
    attributes.NORMAL = floats(data, 3);
  }
  const names = Object.keys(attributes);
  return {
    pointOfVertex,
    pointCount: places.count,
    symbols,
    mesh: {
      name,
      vertexCount: count,
      attributes,
      pieces: pieces.map((p) => ({ ...p, vertexCount: count, attributes: names })),
      polygonOffsets: offsets.slice(0, polygonCount + 1),
      corners: corners.slice(0, c),
      polygonOrigin: 'encoded',
      influences: null,
      influenceStorage: null,
      morphs: [],
    },
  };
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
  vertexInputs: readonly { semantic: string; values: Floats }[],
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
  const used = new Map<string, number>();
  const inputs = raw
    .filter((i) => i !== vertex && i.values)
    .map((i) => {
      const stem = `${i.semantic}_${i.set}`;
      const again = used.get(stem) ?? 0;
      used.set(stem, again + 1);
      return {
        key: again > 0 ? `${i.semantic}_${i.set + 100 * again}` : stem,
        offset: i.offset,
        values: i.values as Floats,
      };
    });
  for (const v of vertexInputs)
    if (v.semantic !== 'POSITION' && v.semantic !== 'NORMAL')
      inputs.push({ key: `${v.semantic}_0`, offset: vertex.offset, values: v.values });
  const indices = (e: Element): Uint32Array => {
    const list = doc.numbers(e);
    const out = new Uint32Array(list.length);
    for (let i = 0; i < list.length; i++) {
      if (!Number.isInteger(list[i]) || list[i] < 0) doc.fail(e, `a polygon names index ${list[i]}`);
      out[i] = list[i];
    }
    return out;
  };
  const made = (corners: Uint32Array, counts: readonly number[] | Uint32Array): Reading => ({
    element: p,
    stride,
    vertexOffset: vertex.offset,
    inputs,
    corners,
    counts,
  });
  const lists = kids(p, 'p').map(indices);
  const tag = p.localName;
  if (tag === 'polylist') {
    const counts = kid(p, 'vcount') ? indices(kid(p, 'vcount') as Element) : new Uint32Array(0);
    const total = counts.reduce((a, b) => a + b, 0) * stride;
    const list = lists[0] ?? new Uint32Array(0);
    if (list.length < total)
      doc.fail(
        p,
        `<polylist> announces ${total / stride} corners and holds ${Math.floor(list.length / stride)}`,
      );
    if (counts.every((n) => n >= 3)) return made(list.subarray(0, total), counts);
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
    return made(Uint32Array.from(kept), left);
  }
  if (tag === 'polygons') {
    const holes = kids(p, 'ph');
    if (holes.length > 0)
      notes.push(
        `${holes.length} ${holes.length === 1 ? 'polygon' : 'polygons'} of “${printable(name)}” ${holes.length === 1 ? 'has' : 'have'} holes; the outlines are kept, the holes are not.`,
      );
    const outlines = kids(p)
      .filter((c) => c.localName === 'p' || c.localName === 'ph')
      .map((c) => indices(c.localName === 'p' ? c : (kid(c, 'p') ?? c)))
      .filter((l) => l.length >= 3 * stride);
    return made(
      concat(outlines),
      outlines.map((l) => Math.floor(l.length / stride)),
    );
  }
  if (tag === 'triangles') {
    const list = concat(lists);
    const n = Math.floor(list.length / (3 * stride));
    return made(list.subarray(0, n * 3 * stride), new Uint32Array(n).fill(3));
  }
  const out: number[] = [];
  for (const list of lists) {
    const n = Math.floor(list.length / stride);
    for (let k = 2; k < n; k++) {
      const [a, b, c] =
        tag === 'trifans' ? [0, k - 1, k] : k % 2 === 0 ? [k - 2, k - 1, k] : [k - 1, k - 2, k];
      for (const x of [a, b, c]) for (let j = 0; j < stride; j++) out.push(list[x * stride + j]);
    }
  }
  return made(Uint32Array.from(out), new Uint32Array(out.length / (3 * stride)).fill(3));
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

/** Reads a <skin>: any number of influences a point, spread to the vertices of its shape. Matrices come column-major. */
export function readBind(doc: ColladaDocument, skin: Element, shape: Shape): Bind {
  const sources = new Map(kids(skin, 'source').map((s) => [s.getAttribute('id') ?? '', s]));
  const input = (parent: Element | null, semantic: string) =>
    parent ? (kids(parent, 'input').find((i) => i.getAttribute('semantic') === semantic) ?? null) : null;
  const sourceFor = (i: Element | null): Element | null =>
    i ? (sources.get((i.getAttribute('source') ?? '').replace(/^#/, '')) ?? null) : null;
  const joints = kid(skin, 'joints');
  const weights = kid(skin, 'vertex_weights');
  const jointSource = sourceFor(input(joints, 'JOINT'));
  if (!joints || !jointSource) return doc.fail(skin, 'a <skin> names no joints');
  const array =
    kid(jointSource, 'Name_array') ?? kid(jointSource, 'IDREF_array') ?? kid(jointSource, 'SIDREF_array');
  const names = words(array);
  const bindSource = sourceFor(input(joints, 'INV_BIND_MATRIX'));
  const matrices = bindSource ? floatSource(doc, bindSource).data : null;
  if (!matrices || matrices.length < names.length * 16)
    return doc.fail(
      skin,
      `a <skin> has ${names.length} joints and ${matrices ? Math.floor(matrices.length / 16) : 0} inverse binds`,
    );
  const inverseBinds = new Float64Array(names.length * 16);
  for (let j = 0; j < names.length; j++)
    for (let r = 0; r < 4; r++)
      for (let c = 0; c < 4; c++) inverseBinds[j * 16 + c * 4 + r] = matrices[j * 16 + r * 4 + c];
  const shapeMatrix = kid(skin, 'bind_shape_matrix');
  const rows = shapeMatrix ? doc.exactly(shapeMatrix, 16) : [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
  const bindShape = Array.from({ length: 16 }, (_, i) => rows[(i % 4) * 4 + Math.floor(i / 4)]);
  if (!weights) return doc.fail(skin, 'a <skin> has no <vertex_weights>');
  const jointInput = input(weights, 'JOINT');
  const weightInput = input(weights, 'WEIGHT');
  const weightSource = sourceFor(weightInput);
  if (!jointInput || !weightInput || !weightSource)
    return doc.fail(weights, '<vertex_weights> lacks its joints or its weights');
  const values = floatSource(doc, weightSource);
  // The weights may name the joints through a list of their own.
  const own = sourceFor(jointInput);
  const ownNames =
    own && own !== jointSource ? words(kid(own, 'Name_array') ?? kid(own, 'IDREF_array')) : names;
  const slot = ownNames === names ? null : ownNames.map((n) => names.indexOf(n));
  const jo = whole(doc, jointInput, 'offset', 0);
  const wo = whole(doc, weightInput, 'offset', 1);
  const stride = Math.max(...kids(weights, 'input').map((i) => whole(doc, i, 'offset', 0))) + 1;
  const counts = kid(weights, 'vcount')
    ? doc.numbers(kid(weights, 'vcount') as Element)
    : new Float64Array(0);
  const list = kid(weights, 'v') ? doc.numbers(kid(weights, 'v') as Element) : new Float64Array(0);
  const starts = new Uint32Array(shape.pointCount + 1);
  let total = 0;
  for (let p = 0; p < shape.pointCount; p++) {
    const n = counts[p] ?? 0;
    if (!Number.isInteger(n) || n < 0) doc.fail(weights, `point ${p} announces ${n} influences`);
    total += n;
    starts[p + 1] = total;
  }
  if (total * stride > list.length)
    return doc.fail(
      weights,
      `<vertex_weights> announces ${total} influences and holds ${Math.floor(list.length / stride)}`,
    );
  const { pointOfVertex } = shape;
  const offsets = new Uint32Array(pointOfVertex.length + 1);
  for (let v = 0; v < pointOfVertex.length; v++)
    offsets[v + 1] = offsets[v] + starts[pointOfVertex[v] + 1] - starts[pointOfVertex[v]];
  const joint =
    names.length < 65_535
      ? new Uint16Array(offsets[pointOfVertex.length])
      : new Uint32Array(offsets[pointOfVertex.length]);
  const weight = new Float32Array(joint.length);
  let o = 0;
  let usesShape = false;
  for (let v = 0; v < pointOfVertex.length; v++) {
    for (let k = starts[pointOfVertex[v]]; k < starts[pointOfVertex[v] + 1]; k++) {
      const j = list[k * stride + jo];
      const w = list[k * stride + wo];
      if (!Number.isInteger(j) || j < -1 || j >= ownNames.length)
        doc.fail(weights, `an influence names joint ${j}, and there are ${ownNames.length}`);
      if (!Number.isInteger(w) || w < 0 || w >= values.count)
        doc.fail(weights, `an influence names weight ${w}, and there are ${values.count}`);
      const to = j < 0 ? names.length : slot ? slot[j] : j;
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
  return {
    names,
    byId: array?.localName === 'IDREF_array',
    inverseBinds,
    bindShape,
    influences: { offsets, joint: joint.slice(0, o), weight: weight.slice(0, o) },
    usesShape,
  };
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
