import { wordTable } from '../../character/words';
import type { Attribute, Json, JsonObject, VertexArray } from '../../character/model';
import { ReadError, type ReadLimits, takeBytes } from '../errors';
import { type Opened, resourceOf } from './container';

type ArrayType =
  | Int8ArrayConstructor
  | Uint8ArrayConstructor
  | Int16ArrayConstructor
  | Uint16ArrayConstructor
  | Uint32ArrayConstructor
  | Float32ArrayConstructor;

/** By the number that stands for them in a file. */
const COMPONENTS: ReadonlyMap<unknown, ArrayType> = new Map<unknown, ArrayType>([
  [5120, Int8Array],
  [5121, Uint8Array],
  [5122, Int16Array],
  [5123, Uint16Array],
  [5125, Uint32Array],
  [5126, Float32Array],
]);

/** Components of an element, by the type of its accessor. */
export const SIZES = wordTable<number>({
  SCALAR: 1,
  VEC2: 2,
  VEC3: 3,
  VEC4: 4,
  MAT2: 4,
  MAT3: 9,
  MAT4: 16,
});

/** The component type that an attribute is written with. */
export const componentTypeOf = (array: VertexArray): number =>
  Number([...COMPONENTS].find(([, otherType]) => array.constructor === otherType)?.[0]);

const list = (x: Json | undefined): JsonObject[] => (Array.isArray(x) ? (x as JsonObject[]) : []);

/** Reads accessors out of a glTF's buffers, each once, and refuses whatever would read outside of them. */
export class Accessors {
  private readonly buffers: (Uint8Array | undefined)[] = [];
  private readonly read = new Map<string, Attribute>();
  private readonly odd = { bounds: 0, views: 0 };

  constructor(
    private readonly opened: Opened,
    private readonly limits: ReadLimits,
  ) {}

  fail(what: string): never {
    throw new ReadError(
      this.opened.name,
      what,
      'The file is damaged or was written wrongly; export it again.',
    );
  }

  /** What was not as the standard wants it and could be read all the same, in sentences. */
  notes(): string[] {
    const { bounds, views } = this.odd;
    const out: string[] = [];
    if (bounds > 0)
      out.push(
        `The bounds written for ${bounds === 1 ? 'one list' : `${bounds} lists`} of numbers are not theirs; the numbers count, and the bounds are made anew.`,
      );
    if (views > 0)
      out.push(
        `${views === 1 ? 'One view reaches' : `${views} views reach`} past the length that is stated for the buffer; the bytes are there and were read.`,
      );
    return out;
  }

  private at(kind: 'accessors' | 'bufferViews' | 'buffers', index: unknown, from: string): JsonObject {
    const item = list(this.opened.json[kind])[index as number];
    if (!Number.isInteger(index) || !item || typeof item !== 'object')
      this.fail(`${from} names ${kind.slice(0, -1)} ${String(index)}, which is not there`);
    return item;
  }

  private count(x: unknown, otherwise: number, from: string): number {
    const value = x === undefined ? otherwise : x;
    if (!Number.isInteger(value) || (value as number) < 0)
      this.fail(`${from} has a length or offset of ${String(value)}`);
    return value as number;
  }

  /** Bytes of a buffer view. */
  view(index: unknown, from: string): { bytes: Uint8Array; stride: number } {
    const json = this.at('bufferViews', index, from);
    if ((json.extensions as JsonObject | undefined)?.EXT_meshopt_compression)
      throw new ReadError(
        this.opened.name,
        'its buffers are compressed (EXT_meshopt_compression)',
        'Export it without compression.',
      );
    const buffer = this.buffer(json.buffer, `buffer view ${String(index)}`);
    const start = this.count(json.byteOffset, 0, `buffer view ${String(index)}`);
    const size = this.count(json.byteLength, -1, `buffer view ${String(index)}`);
    if (start + size > buffer.length)
      this.fail(`buffer view ${String(index)} ends at byte ${start + size} of a buffer of ${buffer.length}`);
    const stated = list(this.opened.json.buffers)[json.buffer as number].byteLength as number;
    if (start + size > stated) this.odd.views++;
    return {
      bytes: buffer.subarray(start, start + size),
      stride: this.count(json.byteStride, 0, `buffer view ${String(index)}`),
    };
  }

  private buffer(index: unknown, from: string): Uint8Array {
    const json = this.at('buffers', index, from);
    const i = index as number;
    const uri = typeof json.uri === 'string' ? json.uri : undefined;
    this.buffers[i] ??= resourceOf(this.opened, uri, `buffer ${i}`);
    const bytes = this.buffers[i];
    const size = this.count(json.byteLength, -1, `buffer ${i}`);
    if (size > bytes.length) this.fail(`buffer ${i} should have ${size} bytes and has ${bytes.length}`);
    return bytes;
  }

  /** The numbers of an accessor, in their own component type. Sparse values are put in place. */
  get(index: unknown, from: string): Attribute {
    const key = String(index);
    const known = this.read.get(key);
    if (known) return known;
    const json = this.at('accessors', index, from);
    const name = `accessor ${key}`;
    const type = String(json.type);
    const size = SIZES.get(type);
    const Type = COMPONENTS.get(json.componentType);
    if (!size) this.fail(`${name} has the unknown type “${type}”`);
    if (!Type) this.fail(`${name} has the unknown component type ${String(json.componentType)}`);
    const count = this.count(json.count, -1, name);
    if (count * size > this.limits.vertices * 16)
      this.fail(`${name} announces ${count} elements, more than the limit`);
    takeBytes(this.limits, 'made', count * size * Type.BYTES_PER_ELEMENT, this.opened.name);
    const data =
      json.bufferView === undefined
        ? new Type(this.sized(count * size, name))
        : this.elements(json.bufferView, this.count(json.byteOffset, 0, name), Type, type, count, name);
    if (json.sparse) this.putSparse(data, json.sparse as JsonObject, Type, type, size, name);
    if (!isBounded(data, size, json)) this.odd.bounds++;
    const attribute: Attribute = { data, size, normalized: json.normalized === true, type };
    this.read.set(key, attribute);
    return attribute;
  }

  private sized(count: number, name: string): number {
    if (count > this.limits.vertices * 4)
      this.fail(`${name} announces ${count} numbers without any bytes behind them`);
    return count;
  }

  private elements(
    view: unknown,
    offset: number,
    Type: ArrayType,
    type: string,
    count: number,
    name: string,
  ): VertexArray {
    const { bytes, stride } = this.view(view, name);
    const width = Type.BYTES_PER_ELEMENT;
    const size = SIZES.get(type) ?? 1;
    // Columns of a matrix of small components start at multiples of 4 bytes (glTF 2.0, 3.6.2.4).
    const rows = type.startsWith('MAT') ? Math.sqrt(size) : size;
    const column = type.startsWith('MAT') ? (rows * width + 3) & ~3 : rows * width;
    const element = column * (size / rows);
    const step = stride || element;
    if (step < element) this.fail(`${name} has a stride of ${step} bytes for elements of ${element}`);
    if (count > 0 && offset + step * (count - 1) + element > bytes.length)
      this.fail(
        `${name} reads to byte ${offset + step * (count - 1) + element} of a buffer view of ${bytes.length}`,
      );
    const out = new Type(count * size);
    if (step === size * width && column === rows * width) {
      new Uint8Array(out.buffer).set(bytes.subarray(offset, offset + count * step));
      return out;
    }
    const target = new Uint8Array(out.buffer);
    for (let i = 0; i < count; i++) {
      for (let corner = 0; corner < size / rows; corner++) {
        const from = offset + i * step + corner * column;
        target.set(bytes.subarray(from, from + rows * width), (i * size + corner * rows) * width);
      }
    }
    return out;
  }

  private putSparse(
    data: VertexArray,
    sparse: JsonObject,
    Type: ArrayType,
    type: string,
    size: number,
    name: string,
  ): void {
    const count = this.count(sparse.count, -1, `${name} sparse`);
    const where = (sparse.indices ?? {}) as JsonObject;
    const what = (sparse.values ?? {}) as JsonObject;
    const IndexType = COMPONENTS.get(where.componentType);
    if (!IndexType || IndexType === Float32Array) this.fail(`${name} has sparse indices of an unknown type`);
    const places = this.elements(
      where.bufferView,
      this.count(where.byteOffset, 0, name),
      IndexType,
      'SCALAR',
      count,
      `${name} sparse indices`,
    );
    const values = this.elements(
      what.bufferView,
      this.count(what.byteOffset, 0, name),
      Type,
      type,
      count,
      `${name} sparse values`,
    );
    for (let k = 0; k < count; k++) {
      if ((places[k] + 1) * size > data.length)
        this.fail(`${name} has a sparse value for element ${places[k]}, which is not there`);
      data.set(values.subarray(k * size, k * size + size) as never, places[k] * size);
    }
  }
}

/** True where an accessor states no bounds, or those of its numbers (glTF 2.0, 3.6.2.5). */
function isBounded(data: VertexArray, size: number, json: JsonObject): boolean {
  const { min, max } = json;
  if (!Array.isArray(min) || !Array.isArray(max) || data.length === 0) return true;
  for (let k = 0; k < size; k++) {
    let least = Infinity;
    let most = -Infinity;
    for (let i = k; i < data.length; i += size) {
      if (data[i] < least) least = data[i];
      if (data[i] > most) most = data[i];
    }
    if (Math.fround(Number(min[k])) !== least || Math.fround(Number(max[k])) !== most) return false;
  }
  return true;
}
