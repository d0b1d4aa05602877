import { type Character, type JsonObject, type Mesh, type Piece, node } from '../../character/model';
import { toHouseAxes } from '../../character/axes';
import { DEFAULT_LIMITS, type InputFile, ReadError, type ReadLimits, printable, takeCount } from '../errors';
import { NumberScanner, type ReadOptions, bareCharacter, floats, sourceOf, textOf } from '../text';
import { type CoincidentPoints, countTogether, togetherNotes } from '../coincident-points';
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
 * Reads a Wavefront OBJ with its .mtl and pictures, if they were chosen along: polygons as they are, objects
 * (o) or else groups (g) as meshes, negative indices, materials, vertex colours. Lines, points and free-form
 * surfaces are named in the notes. The format says neither unit nor axes; `options` may. Throws {@link
 * ReadError} with the line.
 */
export function readObj(
  files: readonly InputFile[],
  limits: ReadLimits = DEFAULT_LIMITS,
  options: ReadOptions = {},
): Character {
  const main = files.find((file) => /\.obj$/i.test(file.name)) ?? files[0];
  const scan = new ObjScan(main.name, textOf(main, limits), limits);
  scan.run();
  const filled = scan.parts.filter((part) => part.sizes.length > 0);
  if (filled.length === 0) {
    const pointCount = scan.places.length / 3;
    const what = pointCount === 0 ? 'no points and no faces' : `${pointCount} points and no faces`;
    throw new ReadError(main.name, `it holds ${what}`, 'Export it with its faces.');
  }
  const library = readMaterials(files, scan.libraries, limits);
  const bare = bareCharacter(main.name, sourceOf('Wavefront OBJ', '', files, options));
  const meshes = filled.map((part) => meshOf(part, scan, bare.name));
  const count = meshes.reduce((sum, mesh) => sum + mesh.vertexCount, 0);
  if (count > limits.vertices)
    throw new ReadError(
      main.name,
      `it has ${count} vertices, more than the limit of ${limits.vertices}`,
      'Split it, or raise the limit in the settings.',
    );
  const nodes = meshes.map((mesh, i) => node({ name: mesh.name, kind: 'mesh', mesh: i }));
  const materials = scan.materials.map((name): JsonObject =>
    materialJson(name, library.materials.get(name), library.textures),
  );
  return toHouseAxes({
    ...bare,
    nodes,
    meshes,
    notes: [...scan.notes(), ...library.notes],
    carried: {
      ...bare.carried,
      materials,
      images: library.images,
      textures: library.images.map((_, i) => ({ source: i })),
      scenes: [{ json: {}, roots: nodes.map((_, i) => i) }],
    },
  });
}

const FREE_FORM = /^(curv2?|surf|cstype|deg|bmat|step|parm|trim|hole|scrv|sp|end|con|vp)$/;
/** What draws or sorts and carries no shape: smoothing, levels of detail, shadows, techniques. */
const WITHOUT_SHAPE =
  /^(s|mg|bevel|c_interp|d_interp|lod|shadow_obj|trace_obj|ctech|stech|maplib|usemap|call|csh)$/;

/**
 * One walk over the text of an OBJ, which gathers its points, faces and names. Throws {@link ReadError} with
 * the line.
 */
class ObjScan {
  readonly places = new Numbers();
  readonly colours = new Numbers();
  readonly textures = new Numbers();
  readonly normals = new Numbers();
  readonly parts: Part[] = [];
  readonly materials: string[] = [];
  readonly libraries: string[] = [];
  /** Meshes that keep several points at one place. */
  readonly together: CoincidentPoints[] = [];
  private readonly partNamed = new Map<string, Part>();
  private readonly materialNamed = new Map<string, number>();
  private readonly left = new Map<string, number>();
  private readonly row: number[] = [];
  private part: Part | null = null;
  private material = -1;
  private object = '';
  private group = '';
  private lineNumber = 0;
  private degenerate = 0;
  /** Where the next line of the file begins. */
  private at = 0;
  /** The line at hand: from … to of `source`, which is the whole text, or a line that was continued. */
  private source = '';
  private from = 0;
  private to = 0;

  constructor(
    private readonly fileName: string,
    private readonly text: string,
    private readonly limits: ReadLimits,
  ) {}

  run(): void {
    while (this.nextLine()) {
      let space = this.from;
      while (space < this.to && this.source.charCodeAt(space) > 32) space++;
      const word = this.source.slice(this.from, space);
      if (word === 'v' || word === 'vn' || word === 'vt') this.readNumbers(word, space);
      else if (word === 'f' || word === 'fo') this.readFace(space);
      else this.readWord(word, this.source.slice(space, this.to).trim());
    }
  }

  /** What the file holds and a character does not, in sentences. */
  notes(): string[] {
    const notes = [...this.left].map(
      ([what, index]) =>
        `${index} ${index === 1 ? what.replace(/^(\w+?)s\b/, '$1') : what} ${index === 1 ? 'is' : 'are'} not carried: a character has meshes of polygons only.`,
    );
    if (this.degenerate > 0)
      notes.push(`${this.degenerate} faces had fewer than three corners and were left out.`);
    return [...notes, ...togetherNotes(this.together)];
  }

  private fail(what: string, advice = 'Export it again.'): never {
    throw new ReadError(this.fileName, `line ${this.lineNumber}: ${what}`, advice);
  }

  private quoted(): string {
    return `“${printable(this.source.slice(this.from, this.to), 40)}”`;
  }

  private skip(what: string): void {
    this.left.set(what, (this.left.get(what) ?? 0) + 1);
  }

  /** Takes up the next line that says something; false at the end of the file. */
  private nextLine(): boolean {
    const { text } = this;
    while (this.at < text.length) {
      let end = text.indexOf('\n', this.at);
      if (end < 0) end = text.length;
      this.lineNumber++;
      this.source = text;
      this.from = this.at;
      this.to = end;
      this.at = end + 1;
      while (isBlank(text.charCodeAt(this.to - 1))) this.to--;
      if (text.charCodeAt(this.to - 1) === BACKSLASH) this.joinContinued();
      while (this.from < this.to && this.source.charCodeAt(this.from) <= 32) this.from++;
      if (this.from < this.to && this.source.charCodeAt(this.from) !== HASH) return true;
    }
    return false;
  }

  /** A backslash at the end continues the line. */
  private joinContinued(): void {
    const { text } = this;
    let long = text.slice(this.from, this.to - 1);
    let continued = true;
    while (continued && this.at < text.length) {
      let stop = text.indexOf('\n', this.at);
      if (stop < 0) stop = text.length;
      const more = text.slice(this.at, stop).trimEnd();
      this.lineNumber++;
      this.at = stop + 1;
      continued = more.endsWith('\\');
      long += ` ${continued ? more.slice(0, -1) : more}`;
    }
    this.source = long;
    this.from = 0;
    this.to = long.length;
  }

  /** A point (v), normal (vn) or texture place (vt). */
  private readNumbers(word: 'v' | 'vn' | 'vt', start: number): void {
    const scan = new NumberScanner(this.source, start, this.to);
    const list = { v: this.places, vn: this.normals, vt: this.textures }[word];
    const kept = word === 'vt' ? 2 : 3;
    const need = word === 'vt' ? 1 : 3;
    let index = 0;
    const extra: number[] = [];
    for (let x = scan.next(); x !== undefined; x = scan.next()) {
      if (!Number.isFinite(x)) this.fail(`${this.quoted()} holds something that is not a finite number`);
      if (index < kept) list.push(x);
      else if (word === 'v') extra.push(x);
      index++;
    }
    if (index < need) this.fail(`${this.quoted()} has ${index} numbers where ${need} are needed`);
    if (word === 'vt' && index === 1) list.push(0);
    if (word === 'v') this.takeExtra(extra);
  }

  /** What stands behind a point's place: a colour, or the weight of a rational point. */
  private takeExtra(extra: readonly number[]): void {
    const { colours, places, limits } = this;
    if (extra.length >= 3) {
      while (colours.length < places.length - 3) colours.push(1);
      for (const x of extra.slice(0, 3)) colours.push(x);
    } else if (extra.length === 1 && extra[0] !== 1) {
      this.skip('weights of rational points');
    }
    if (places.length / 3 > limits.vertices)
      throw new ReadError(
        this.fileName,
        `it has more than ${limits.vertices} points`,
        'Split it, or raise the limit in the settings.',
      );
  }

  /** A face: three indices a corner (place, texture place, normal), −1 where one is left out. */
  private readFace(start: number): void {
    const { row, to } = this;
    // A corner takes at least two letters.
    if ((to - start) / 2 > MOST_CORNERS)
      this.fail(
        `${this.quoted()} is a face of far too many corners`,
        'The file is damaged; export it again.',
      );
    const counts = [this.places.length / 3, this.textures.length / 2, this.normals.length / 3];
    row.length = 0;
    let i = start;
    while (i < to) {
      while (i < to && this.source.charCodeAt(i) <= 32) i++;
      if (i >= to) break;
      i = this.readCorner(i, counts);
      while (i < to && this.source.charCodeAt(i) > 32) i++;
    }
    if (row.length < 9) {
      this.degenerate++;
      return;
    }
    this.part ??= this.beginPart();
    const { part } = this;
    if (part.used + row.length > part.corners.length) {
      const grown = new Int32Array((part.used + row.length) * 2);
      grown.set(part.corners.subarray(0, part.used));
      part.corners = grown;
    }
    part.corners.set(row, part.used);
    part.used += row.length;
    part.sizes.push(row.length / 3);
    part.materials.push(this.material);
  }

  /** Reads one corner, written a, a/b, a//c or a/b/c, into the row; gives where it ends. */
  private readCorner(start: number, counts: readonly number[]): number {
    const { source, row, to } = this;
    let i = start;
    for (let k = 0; k < 3; k++) {
      let value = 0;
      let any = false;
      const sign = source.charCodeAt(i) === MINUS ? -1 : 1;
      if (sign < 0 || source.charCodeAt(i) === PLUS) i++;
      for (
        let corner = source.charCodeAt(i);
        i < to && corner >= 48 && corner <= 57;
        corner = source.charCodeAt(++i)
      ) {
        value = value * 10 + corner - 48;
        any = true;
      }
      if (i < to && source.charCodeAt(i) > 32 && source.charCodeAt(i) !== SLASH)
        this.fail(`${this.quoted()} names a corner that is not whole numbers`);
      if (!any && k === 0) this.fail(`${this.quoted()} has a corner without a point`);
      row.push(any ? this.indexOf(value, sign, k, counts) : -1);
      if (i >= to || source.charCodeAt(i) !== SLASH) break;
      i++;
    }
    while (row.length % 3 !== 0) row.push(-1);
    return i;
  }

  /** The index that a corner names, counted from the front or, with a minus, from the back. */
  private indexOf(value: number, sign: 1 | -1, k: number, counts: readonly number[]): number {
    const index = sign > 0 ? value - 1 : counts[k] - value;
    if (index >= 0 && index < counts[k]) return index;
    // It names coordinates that were left out.
    if (k > 0 && counts[k] === 0) return -1;
    const what = ['point', 'texture place', 'normal'][k];
    return this.fail(`a face names ${what} ${sign * value}, and there are ${counts[k]} so far`);
  }

  private beginPart(): Part {
    takeCount(this.limits, 'objects', 1, this.fileName);
    const name = this.object || this.group || '';
    const part: Part = { name, corners: new Int32Array(3072), used: 0, sizes: [], materials: [] };
    this.parts.push(part);
    if (!this.partNamed.has(name)) this.partNamed.set(name, part);
    return part;
  }

  private readWord(word: string, rest: string): void {
    if (word === 'o') {
      this.object = rest;
      this.part = null;
    } else if (word === 'g') {
      this.beginGroup(rest);
    } else if (word === 'usemtl') {
      this.material = this.materialAt(rest);
    } else if (word === 'mtllib') {
      this.libraries.push(rest);
    } else if (word === 'l') {
      this.skip('lines');
    } else if (word === 'p') {
      this.skip('points without faces');
    } else if (FREE_FORM.test(word)) {
      this.skip('free-form curves and surfaces');
    } else if (!WITHOUT_SHAPE.test(word)) {
      if (this.places.length === 0 && this.parts.length === 0 && this.lineNumber > 40)
        this.fail('this is not a Wavefront OBJ', 'Choose an .obj with points (v) and faces (f).');
      this.skip(`lines that begin with “${printable(word, 16)}”`);
    }
  }

  private materialAt(name: string): number {
    const known = this.materialNamed.get(name);
    if (known !== undefined) return known;
    takeCount(this.limits, 'materials', 1, this.fileName);
    const at = this.materials.push(name) - 1;
    this.materialNamed.set(name, at);
    return at;
  }

  private beginGroup(name: string): void {
    if (this.object !== '') {
      this.skip('groups inside objects');
      return;
    }
    this.group = name;
    this.part = this.partNamed.get(name) ?? null;
  }
}

/** A face of more corners than this is no face. */
const MOST_CORNERS = 1 << 20;

const BACKSLASH = 92;
const HASH = 35;
const MINUS = 45;
const PLUS = 43;
const SLASH = 47;
const isBlank = (code: number) => code === 13 || code === 32 || code === 9;

function materialJson(
  name: string,
  material: ObjMaterial | undefined,
  textures: ReadonlyMap<string, number>,
): JsonObject {
  if (!material) return { name };
  const texture = material.map === undefined ? undefined : textures.get(material.map);
  return {
    name,
    pbrMetallicRoughness: {
      baseColorFactor: [...material.colour, material.opacity],
      metallicFactor: 0,
      roughnessFactor: material.roughness,
      ...(texture === undefined ? {} : { baseColorTexture: { index: texture } }),
    },
    ...(material.opacity < 1 ? { alphaMode: 'BLEND' } : {}),
  };
}

/**
 * Corners gathered into vertices: one for every combination of place, texture place and normal. Polygons lie
 * sorted by material.
 */
function meshOf(part: Part, scan: ObjScan, fallback: string): Mesh {
  const gathered = gatherVertices(part);
  const attributes = attributesOf(part, gathered, scan);
  const filePoints = gathered.first.subarray(0, gathered.count).map((corner) => part.corners[corner * 3]);
  const together = countTogether(part.name || fallback, filePoints, attributes.POSITION.data as Float32Array);
  if (together) scan.together.push(together);
  const { vertexOf, count } = gathered;
  const starts = new Uint32Array(part.sizes.length + 1);
  part.sizes.forEach((size, i) => {
    starts[i + 1] = starts[i] + size;
  });
  const offsets = new Uint32Array(part.sizes.length + 1);
  const corners = new Uint32Array(vertexOf.length);
  const pieces: Piece[] = [];
  let polygon = 0;
  let at = 0;
  for (const [material, polygons] of polygonsByMaterial(part)) {
    const from = polygon;
    for (const otherPolygon of polygons) {
      for (let polygon = starts[otherPolygon]; polygon < starts[otherPolygon + 1]; polygon++)
        corners[at++] = vertexOf[polygon];
      offsets[++polygon] = at;
    }
    pieces.push({
      vertexStart: 0,
      vertexCount: count,
      polygonStart: from,
      polygonCount: polygon - from,
      material,
      attributes: Object.keys(attributes),
      mode: 4,
    });
  }
  return {
    name: part.name || fallback,
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

/** The polygons of every material, in the order in which materials come. */
function polygonsByMaterial({ materials }: Part): Map<number, number[]> {
  const out = new Map<number, number[]>();
  materials.forEach((material, index) => {
    const list = out.get(material);
    if (list) list.push(index);
    else out.set(material, [index]);
  });
  return out;
}

interface Gathered {
  /** Vertex of every corner. */
  readonly vertexOf: Uint32Array;
  /** The first corner of every vertex. */
  readonly first: Int32Array;
  readonly count: number;
  readonly anyTexture: boolean;
  readonly anyNormal: boolean;
}

function gatherVertices(part: Part): Gathered {
  const cornerCount = part.used / 3;
  let size = 16;
  while (size < cornerCount * 2) size *= 2;
  const table = new Int32Array(size).fill(-1);
  const vertexOf = new Uint32Array(cornerCount);
  const first = new Int32Array(cornerCount);
  let count = 0;
  let anyTexture = false;
  let anyNormal = false;
  for (let corner = 0; corner < cornerCount; corner++) {
    const a = part.corners[corner * 3];
    const b = part.corners[corner * 3 + 1];
    const normal = part.corners[corner * 3 + 2];
    if (b >= 0) anyTexture = true;
    if (normal >= 0) anyNormal = true;
    let hash = Math.imul(a, 73856093) ^ Math.imul(b, 19349663) ^ Math.imul(normal, 83492791);
    hash = (hash ^ (hash >>> 15)) & (size - 1);
    for (;;) {
      const vertex = table[hash];
      if (vertex < 0) {
        table[hash] = count;
        first[count] = corner;
        vertexOf[corner] = count++;
        break;
      }
      const offset = first[vertex] * 3;
      if (
        part.corners[offset] === a &&
        part.corners[offset + 1] === b &&
        part.corners[offset + 2] === normal
      ) {
        vertexOf[corner] = vertex;
        break;
      }
      hash = (hash + 1) & (size - 1);
    }
  }
  return { vertexOf, first, count, anyTexture, anyNormal };
}

function attributesOf(part: Part, { first, count, anyTexture, anyNormal }: Gathered, scan: ObjScan) {
  const { places, textures, normals, colours } = scan;
  const position = new Float32Array(count * 3);
  const texture = anyTexture ? new Float32Array(count * 2) : null;
  const normal = anyNormal ? new Float32Array(count * 3) : null;
  const colour = colours.length > 0 ? new Float32Array(count * 3).fill(1) : null;
  for (let vertex = 0; vertex < count; vertex++) {
    const offset = first[vertex] * 3;
    const a = part.corners[offset] * 3;
    const b = part.corners[offset + 1] * 2;
    const oneNormal = part.corners[offset + 2] * 3;
    for (let k = 0; k < 3; k++) {
      position[vertex * 3 + k] = places.data[a + k];
      if (colour && a + k < colours.length) colour[vertex * 3 + k] = colours.data[a + k];
      if (normal && oneNormal >= 0) normal[vertex * 3 + k] = normals.data[oneNormal + k];
    }
    // OBJ counts texture heights from below, glTF from above.
    if (texture && b >= 0) {
      texture[vertex * 2] = textures.data[b];
      texture[vertex * 2 + 1] = 1 - textures.data[b + 1];
    }
  }
  const attributes: Record<string, ReturnType<typeof floats>> = { POSITION: floats(position, 3) };
  if (normal) attributes.NORMAL = floats(normal, 3);
  if (texture) attributes.TEXCOORD_0 = floats(texture, 2);
  if (colour) attributes.COLOR_0 = floats(colour, 3);
  return attributes;
}
