import { type Character, type JsonObject, type Mesh, type Piece, node } from '../../character/model';
import { toHouseAxes } from '../../character/axes';
import { DEFAULT_LIMITS, type InputFile, ReadError, type ReadLimits, printable } from '../errors';
import { NumberScanner, type ReadOptions, bareCharacter, floats, sourceOf, textOf } from '../text';
import { type ObjMaterial, readMaterials } from './materials';

/** A growing list of doubles. */
class Numbers {
  data = new Float64Array(1024);
  length = 0;
  push(x: number): void {
    if (this.length === this.data.length) {
      const grown = new Float64Array(this.length * 2);
      grown.set(this.data);
      this.data = grown;
    }
    this.data[this.length++] = x;
  }
}

interface Part {
  name: string;
  corners: Int32Array;
  used: number;
  sizes: number[];
  materials: number[];
}

/**
 * Reads a Wavefront OBJ with its .mtl and pictures, if they were chosen along: polygons as they are, objects (o) or else groups
 * (g) as meshes, negative indices, materials, vertex colours. Lines, points and free-form surfaces are named in the notes.
 * The format says neither unit nor axes; `options` may. Throws {@link ReadError} with the line.
 */
export function readObj(
  files: readonly InputFile[],
  limits: ReadLimits = DEFAULT_LIMITS,
  options: ReadOptions = {},
): Character {
  const main = files.find((f) => /\.obj$/i.test(f.name)) ?? files[0];
  const text = textOf(main, limits);
  const fail = (line: number, what: string, advice = 'Export it again.'): never => {
    throw new ReadError(main.name, `line ${line}: ${what}`, advice);
  };
  const places = new Numbers();
  const colours = new Numbers();
  const textures = new Numbers();
  const normals = new Numbers();
  const parts: Part[] = [];
  const materials: string[] = [];
  const libraries: string[] = [];
  let part: Part | null = null;
  let material = -1;
  let object = '';
  let group = '';
  const left = new Map<string, number>();
  const skip = (what: string) => left.set(what, (left.get(what) ?? 0) + 1);
  let lineNumber = 0;
  let degenerate = 0;
  const row: number[] = [];

  for (let at = 0; at < text.length;) {
    let end = text.indexOf('\n', at);
    if (end < 0) end = text.length;
    lineNumber++;
    let line: string | null = null;
    let from = at;
    let to = end;
    at = end + 1;
    while (text.charCodeAt(to - 1) === 13 || text.charCodeAt(to - 1) === 32 || text.charCodeAt(to - 1) === 9)
      to--;
    // A backslash at the end continues the line.
    if (text.charCodeAt(to - 1) === 92) {
      let long = text.slice(from, to - 1);
      while (at < text.length) {
        let stop = text.indexOf('\n', at);
        if (stop < 0) stop = text.length;
        const more = text.slice(at, stop).trimEnd();
        lineNumber++;
        at = stop + 1;
        if (more.endsWith('\\')) {
          long += ` ${more.slice(0, -1)}`;
          continue;
        }
        long += ` ${more}`;
        break;
      }
      line = long;
      from = 0;
      to = long.length;
    }
    const source = line ?? text;
    while (from < to && source.charCodeAt(from) <= 32) from++;
    if (from >= to || source.charCodeAt(from) === 35) continue;
    let space = from;
    while (space < to && source.charCodeAt(space) > 32) space++;
    const word = source.slice(from, space);
    if (word === 'v' || word === 'vn' || word === 'vt') {
      const scan = new NumberScanner(source, space, to);
      const list = word === 'v' ? places : word === 'vn' ? normals : textures;
      const need = word === 'vt' ? 1 : 3;
      let n = 0;
      const extra: number[] = [];
      for (let x = scan.next(); x !== undefined; x = scan.next()) {
        if (!Number.isFinite(x))
          fail(
            lineNumber,
            `“${printable(source.slice(from, to), 40)}” holds something that is not a finite number`,
          );
        if (n < (word === 'vt' ? 2 : 3)) list.push(x);
        else if (word === 'v') extra.push(x);
        n++;
      }
      if (n < need)
        fail(
          lineNumber,
          `“${printable(source.slice(from, to), 40)}” has ${n} numbers where ${need} are needed`,
        );
      if (word === 'vt' && n === 1) list.push(0);
      if (word === 'v') {
        if (extra.length >= 3) {
          while (colours.length < places.length - 3) colours.push(1);
          colours.push(extra[0]);
          colours.push(extra[1]);
          colours.push(extra[2]);
        } else if (extra.length === 1 && extra[0] !== 1) {
          skip('weights of rational points');
        }
        if (places.length / 3 > limits.vertices)
          throw new ReadError(
            main.name,
            `it has more than ${limits.vertices} points`,
            'Split it, or raise the limit in the settings.',
          );
      }
    } else if (word === 'f' || word === 'fo') {
      row.length = 0;
      let i = space;
      const counts = [places.length / 3, textures.length / 2, normals.length / 3];
      while (i < to) {
        while (i < to && source.charCodeAt(i) <= 32) i++;
        if (i >= to) break;
        for (let k = 0; k < 3; k++) {
          let value = 0;
          let sign = 1;
          let any = false;
          if (source.charCodeAt(i) === 45) {
            sign = -1;
            i++;
          } else if (source.charCodeAt(i) === 43) {
            i++;
          }
          for (let c = source.charCodeAt(i); i < to && c >= 48 && c <= 57; c = source.charCodeAt(++i)) {
            value = value * 10 + c - 48;
            any = true;
          }
          if (i < to && source.charCodeAt(i) > 32 && source.charCodeAt(i) !== 47)
            fail(
              lineNumber,
              `“${printable(source.slice(from, to), 40)}” names a corner that is not whole numbers`,
            );
          let index = -1;
          if (any) {
            index = sign > 0 ? value - 1 : counts[k] - value;
            if (index < 0 || index >= counts[k]) {
              if (k > 0 && counts[k] === 0)
                index = -1; // names coordinates that were left out
              else
                fail(
                  lineNumber,
                  `a face names ${['point', 'texture place', 'normal'][k]} ${sign * value}, and there are ${counts[k]} so far`,
                );
            }
          } else if (k === 0) {
            fail(lineNumber, `“${printable(source.slice(from, to), 40)}” has a corner without a point`);
          }
          row.push(index);
          if (i < to && source.charCodeAt(i) === 47) {
            i++;
          } else {
            while (row.length % 3 !== 0) row.push(-1);
            break;
          }
        }
        while (i < to && source.charCodeAt(i) > 32) i++;
      }
      if (row.length < 9) {
        degenerate++;
        continue;
      }
      if (!part) {
        part = {
          name: object || group || '',
          corners: new Int32Array(3072),
          used: 0,
          sizes: [],
          materials: [],
        };
        parts.push(part);
      }
      if (part.used + row.length > part.corners.length) {
        const grown = new Int32Array((part.used + row.length) * 2);
        grown.set(part.corners.subarray(0, part.used));
        part.corners = grown;
      }
      part.corners.set(row, part.used);
      part.used += row.length;
      part.sizes.push(row.length / 3);
      part.materials.push(material);
    } else if (word === 'o' || word === 'g') {
      const name = source.slice(space, to).trim();
      if (word === 'o') {
        object = name;
        part = null;
      } else if (object === '') {
        group = name;
        part = parts.find((p) => p.name === (name || '')) ?? null;
      } else {
        skip('groups inside objects');
      }
    } else if (word === 'usemtl') {
      const name = source.slice(space, to).trim();
      material = materials.indexOf(name);
      if (material < 0) material = materials.push(name) - 1;
    } else if (word === 'mtllib') {
      libraries.push(source.slice(space, to).trim());
    } else if (word === 'l') {
      skip('lines');
    } else if (word === 'p') {
      skip('points without faces');
    } else if (/^(curv2?|surf|cstype|deg|bmat|step|parm|trim|hole|scrv|sp|end|con|vp)$/.test(word)) {
      skip('free-form curves and surfaces');
    } else if (
      word !== 's' &&
      word !== 'mg' &&
      !/^(bevel|c_interp|d_interp|lod|shadow_obj|trace_obj|ctech|stech|maplib|usemap|call|csh)$/.test(word)
    ) {
      if (places.length === 0 && parts.length === 0 && lineNumber > 40)
        fail(lineNumber, 'this is not a Wavefront OBJ', 'Choose an .obj with points (v) and faces (f).');
      skip(`lines that begin with “${printable(word, 16)}”`);
    }
  }
  const filled = parts.filter((p) => p.sizes.length > 0);
  if (filled.length === 0)
    throw new ReadError(
      main.name,
      places.length === 0
        ? 'it holds no points and no faces'
        : `it holds ${places.length / 3} points and no faces`,
      'Export it with its faces.',
    );
  const library = readMaterials(files, libraries, limits);
  const source = sourceOf('Wavefront OBJ', '', files, options);
  const notes = [...left].map(
    ([what, n]) =>
      `${n} ${n === 1 ? what.replace(/^(\w+?)s\b/, '$1') : what} ${n === 1 ? 'is' : 'are'} not carried: a character has meshes of polygons only.`,
  );
  if (degenerate > 0) notes.push(`${degenerate} faces had fewer than three corners and were left out.`);
  notes.push(...library.notes);
  const bare = bareCharacter(main.name, source);
  const meshes = filled.map((p) => meshOf(p, places, textures, normals, colours, bare.name));
  const count = meshes.reduce((n, m) => n + m.vertexCount, 0);
  if (count > limits.vertices)
    throw new ReadError(
      main.name,
      `it has ${count} vertices, more than the limit of ${limits.vertices}`,
      'Split it, or raise the limit in the settings.',
    );
  const nodes = meshes.map((m, i) => node({ name: m.name, kind: 'mesh', mesh: i }));
  const gltf = materials.map((name): JsonObject =>
    materialJson(name, library.materials.get(name), library.textures),
  );
  const character: Character = {
    ...bare,
    nodes,
    meshes,
    notes,
    carried: {
      ...bare.carried,
      materials: gltf,
      images: library.images,
      textures: library.images.map((_, i) => ({ source: i })),
      scenes: [{ json: {}, roots: nodes.map((_, i) => i) }],
    },
  };
  return toHouseAxes(character);
}

function materialJson(
  name: string,
  m: ObjMaterial | undefined,
  textures: ReadonlyMap<string, number>,
): JsonObject {
  if (!m) return { name };
  const texture = m.map === undefined ? undefined : textures.get(m.map);
  return {
    name,
    pbrMetallicRoughness: {
      baseColorFactor: [...m.colour, m.opacity],
      metallicFactor: 0,
      roughnessFactor: m.roughness,
      ...(texture === undefined ? {} : { baseColorTexture: { index: texture } }),
    },
    ...(m.opacity < 1 ? { alphaMode: 'BLEND' } : {}),
  };
}

/** Corners gathered into vertices: one for every combination of place, texture place and normal. Polygons lie sorted by material. */
function meshOf(
  p: Part,
  places: Numbers,
  textures: Numbers,
  normals: Numbers,
  colours: Numbers,
  fallback: string,
): Mesh {
  const cornerCount = p.used / 3;
  let size = 16;
  while (size < cornerCount * 2) size *= 2;
  const table = new Int32Array(size).fill(-1);
  const vertexOf = new Uint32Array(cornerCount);
  const first = new Int32Array(cornerCount);
  let count = 0;
  let anyTexture = false;
  let anyNormal = false;
  for (let c = 0; c < cornerCount; c++) {
    const a = p.corners[c * 3];
    const b = p.corners[c * 3 + 1];
    const n = p.corners[c * 3 + 2];
    if (b >= 0) anyTexture = true;
    if (n >= 0) anyNormal = true;
    let h = Math.imul(a, 73856093) ^ Math.imul(b, 19349663) ^ Math.imul(n, 83492791);
    h = (h ^ (h >>> 15)) & (size - 1);
    for (;;) {
      const v = table[h];
      if (v < 0) {
        table[h] = count;
        first[count] = c;
        vertexOf[c] = count++;
        break;
      }
      const f = first[v] * 3;
      if (p.corners[f] === a && p.corners[f + 1] === b && p.corners[f + 2] === n) {
        vertexOf[c] = v;
        break;
      }
      h = (h + 1) & (size - 1);
    }
  }
  const position = new Float32Array(count * 3);
  const texture = anyTexture ? new Float32Array(count * 2) : null;
  const normal = anyNormal ? new Float32Array(count * 3) : null;
  const colour = colours.length > 0 ? new Float32Array(count * 3).fill(1) : null;
  for (let v = 0; v < count; v++) {
    const f = first[v] * 3;
    const a = p.corners[f] * 3;
    const b = p.corners[f + 1] * 2;
    const n = p.corners[f + 2] * 3;
    for (let k = 0; k < 3; k++) {
      position[v * 3 + k] = places.data[a + k];
      if (colour && a + k < colours.length) colour[v * 3 + k] = colours.data[a + k];
      if (normal && n >= 0) normal[v * 3 + k] = normals.data[n + k];
    }
    // OBJ counts texture heights from below, glTF from above.
    if (texture && b >= 0) {
      texture[v * 2] = textures.data[b];
      texture[v * 2 + 1] = 1 - textures.data[b + 1];
    }
  }
  const attributes: Record<string, ReturnType<typeof floats>> = { POSITION: floats(position, 3) };
  if (normal) attributes.NORMAL = floats(normal, 3);
  if (texture) attributes.TEXCOORD_0 = floats(texture, 2);
  if (colour) attributes.COLOR_0 = floats(colour, 3);
  const starts = new Uint32Array(p.sizes.length + 1);
  p.sizes.forEach((n, i) => {
    starts[i + 1] = starts[i] + n;
  });
  const materials = [...new Set(p.materials)];
  const offsets = new Uint32Array(p.sizes.length + 1);
  const corners = new Uint32Array(cornerCount);
  const pieces: Piece[] = [];
  let polygon = 0;
  let at = 0;
  for (const m of materials) {
    const from = polygon;
    for (let q = 0; q < p.sizes.length; q++) {
      if (p.materials[q] !== m) continue;
      for (let c = starts[q]; c < starts[q + 1]; c++) corners[at++] = vertexOf[c];
      offsets[++polygon] = at;
    }
    pieces.push({
      vertexStart: 0,
      vertexCount: count,
      polygonStart: from,
      polygonCount: polygon - from,
      material: m,
      attributes: Object.keys(attributes),
      mode: 4,
    });
  }
  return {
    name: p.name || fallback,
    vertexCount: count,
    attributes,
    pieces,
    polygonOffsets: offsets,
    corners,
    polygonOrigin: 'encoded',
    influences: null,
    influenceStorage: null,
    morphs: [],
  };
}
