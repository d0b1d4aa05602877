/**
 * Small files that ask for much, or that say what cannot be: a standing set, in every format. Each is to be read or refused
 * within the time and the memory that a file may take.
 */
import { strToU8, zipSync } from 'fflate';
import type { Json, JsonObject } from '../core/character/model';
import type { InputFile } from '../core/formats/errors';

export interface Bomb {
  readonly name: string;
  readonly files: () => InputFile[];
  /** What has to come of it: some are within the limits and have to be taken, some may not be. */
  readonly must?: 'be read' | 'be refused';
}

const FLOAT = 5126;
const SHORT = 5123;
const BYTE = 5121;

/** A glTF made list by list. */
class Gltf {
  readonly json: Record<string, Json> & { nodes: JsonObject[]; meshes: JsonObject[] } = {
    asset: { version: '2.0' },
    scene: 0,
    nodes: [],
    meshes: [],
  };
  private readonly accessors: JsonObject[] = [];
  private readonly views: JsonObject[] = [];
  private readonly parts: Uint8Array[] = [];
  private size = 0;

  /** An accessor of these numbers; gives its place. */
  add(
    data: Float32Array | Uint16Array | Uint8Array | Uint32Array,
    type: string,
    more: JsonObject = {},
  ): number {
    const width = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT4: 16 }[type] ?? 1;
    const componentType = componentOf(data);
    const bytes = new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
    this.views.push({ buffer: 0, byteOffset: this.size, byteLength: bytes.length });
    this.parts.push(bytes, new Uint8Array(-bytes.length & 3));
    this.size += (bytes.length + 3) & ~3;
    const count = data.length / width;
    return (
      this.accessors.push({ bufferView: this.views.length - 1, componentType, type, count, ...more }) - 1
    );
  }

  /** Indices of triangles that all have the first two of so many points, and one of the others each; gives their place. */
  aroundEdge(points: number): number {
    const corners = (_: unknown, i: number) => [0, 1, 2 + Math.floor(i / 3)][i % 3];
    return this.add(Uint32Array.from({ length: points * 3 - 6 }, corners), 'SCALAR');
  }

  /** An accessor without bytes behind it: zeros. */
  zeros(type: string, count: number, componentType = FLOAT): number {
    return this.accessors.push({ componentType, type, count }) - 1;
  }

  /** A mesh of one triangle; gives its place. */
  triangle(more: JsonObject = {}): number {
    const position = this.add(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0), 'VEC3', {
      min: [0, 0, 0],
      max: [1, 1, 0],
    });
    return this.json.meshes.push({ primitives: [{ attributes: { POSITION: position }, ...more }] }) - 1;
  }

  file(name = 'bomb.glb'): InputFile[] {
    const json: JsonObject = {
      ...this.json,
      ...(this.json.scenes ? {} : { scenes: [{ nodes: rootsOf(this.json.nodes) }] }),
      ...(this.accessors.length > 0 && { accessors: this.accessors }),
      ...(this.views.length > 0 && { bufferViews: this.views, buffers: [{ byteLength: this.size }] }),
    };
    if (this.json.meshes.length === 0) delete (json as Record<string, Json>).meshes;
    return [{ name, bytes: container(strToU8(JSON.stringify(json)), this.parts, this.size) }];
  }
}

function componentOf(data: object): number {
  if (data instanceof Float32Array) return FLOAT;
  if (data instanceof Uint16Array) return SHORT;
  return data instanceof Uint32Array ? 5125 : BYTE;
}

function rootsOf(nodes: readonly JsonObject[]): number[] {
  const below = new Set(nodes.flatMap((node) => (node.children as number[] | undefined) ?? []));
  return nodes.flatMap((_, i) => (below.has(i) ? [] : [i]));
}

function container(json: Uint8Array, parts: readonly Uint8Array[], size: number): Uint8Array {
  const room = (json.length + 3) & ~3;
  const out = new Uint8Array(20 + room + (size > 0 ? 8 + size : 0)).fill(32, 20, 20 + room);
  const view = new DataView(out.buffer);
  view.setUint32(0, 0x46546c67, true);
  view.setUint32(4, 2, true);
  view.setUint32(8, out.length, true);
  view.setUint32(12, room, true);
  view.setUint32(16, 0x4e4f534a, true);
  out.set(json, 20);
  if (size === 0) return out;
  view.setUint32(20 + room, size, true);
  view.setUint32(24 + room, 0x004e4942, true);
  let at = 28 + room;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}

const text = (name: string, words: string): InputFile[] => [{ name, bytes: strToU8(words) }];
const times = <T>(count: number, make: (i: number) => T): T[] =>
  Array.from({ length: count }, (_, i) => make(i));
const lines = (count: number, line: (i: number) => string): string => times(count, line).join('\n');

/** Joints in a tree, the children of each found by the rule, with a mesh whose points all of them carry. */
function joints(node: number, parent: (i: number) => number, name: (i: number) => string): InputFile[] {
  const gltf = new Gltf();
  const children = times(node, () => [] as number[]);
  for (let i = 1; i < node; i++) children[parent(i)].push(i);
  for (let i = 0; i < node; i++)
    gltf.json.nodes.push({
      name: name(i),
      translation: i === 0 ? [0, 0, 0] : [0.01 * Math.cos(i), 0.02, 0.01 * Math.sin(i)],
      ...(children[i].length > 0 && { children: children[i] }),
    });
  const bound = Math.min(node, 65_000);
  const places = new Float32Array(bound * 9);
  const corners = new Uint16Array(bound * 12);
  const weights = new Float32Array(bound * 12);
  for (let triangle = 0; triangle < bound; triangle++)
    for (let corner = 0; corner < 3; corner++) {
      const vertex = triangle * 3 + corner;
      places.set(
        [
          Math.cos(triangle) + (corner === 1 ? 0.01 : 0),
          triangle / bound + (corner === 2 ? 0.01 : 0),
          Math.sin(triangle),
        ],
        vertex * 3,
      );
      corners[vertex * 4] = triangle;
      weights[vertex * 4] = 1;
    }
  const binds = new Float32Array(bound * 16);
  for (let j = 0; j < bound; j++) for (let k = 0; k < 4; k++) binds[j * 16 + k * 5] = 1;
  const attributes = {
    POSITION: gltf.add(places, 'VEC3', { min: [-1, 0, -1], max: [1.01, 1.01, 1] }),
    JOINTS_0: gltf.add(corners, 'VEC4'),
    WEIGHTS_0: gltf.add(weights, 'VEC4'),
  };
  gltf.json.meshes.push({ name: 'body', primitives: [{ attributes }] });
  gltf.json.skins = [{ joints: times(bound, (i) => i), inverseBindMatrices: gltf.add(binds, 'MAT4') }];
  gltf.json.nodes.push({ name: 'body', mesh: 0, skin: 0 });
  return gltf.file();
}

const WORDS = ['upper_arm', 'hand', 'thigh', 'spine', 'cloth', 'finger', 'tail', 'ear'];

const OF_GLTF: readonly Bomb[] = [
  ...(
    [
      ['of capitals', 'A'.repeat(10_000_000)],
      ['of small letters', 'a'.repeat(10_000_000)],
      ['of both in turn', 'aB'.repeat(5_000_000)],
      ['of letters of scripts in turn', 'a左'.repeat(3_000_000)],
      ['of marks', '_'.repeat(10_000_000)],
      ['of numbers', '7'.repeat(10_000_000)],
      ['of accents on one letter', `e${'\u0301'.repeat(5_000_000)}`],
    ] as const
  ).map(([what, name]): Bomb => ({
    name: `a bone’s name of ten million letters, ${what}`,
    files: () =>
      joints(
        4,
        (i) => i - 1,
        (i) => `${name}${i}`,
      ),
  })),
  {
    name: '2 000 bones whose names are alike for a thousand letters',
    files: () =>
      joints(
        2000,
        (i) => (i - 1) >> 1,
        (i) => `${'long_'.repeat(200)}${i}`,
      ),
  },
  {
    name: '20 000 joints, each under one of the first hundred',
    files: () =>
      joints(
        20_000,
        (i) => i % Math.min(i, 100),
        (i) => `${WORDS[i % 8]}_${i}`,
      ),
    must: 'be read',
  },
  {
    name: '20 000 joints in a tree of two, with sides in their names',
    files: () =>
      joints(
        20_000,
        (i) => (i - 1) >> 1,
        (i) => `${WORDS[i % 8]}${i >> 1}_${i % 2 ? 'L' : 'R'}`,
      ),
    must: 'be read',
  },
  {
    name: '20 000 joints, all under the root',
    files: () =>
      joints(
        20_000,
        () => 0,
        (i) => `${WORDS[i % 8]}.${i}`,
      ),
    must: 'be read',
  },
  {
    name: '20 000 joints in a hundred chains',
    files: () =>
      joints(
        20_000,
        (i) => Math.max(0, i - 100),
        (i) => `chain${i % 100}_${Math.floor(i / 100)}`,
      ),
  },
  {
    name: '20 000 joints without names',
    files: () =>
      joints(
        20_000,
        (i) => (i - 1) >> 2,
        () => '',
      ),
    must: 'be read',
  },
  {
    name: '20 000 joints of one name',
    files: () =>
      joints(
        20_000,
        (i) => (i - 1) >> 2,
        () => 'bone',
      ),
    must: 'be read',
  },
  {
    name: '60 000 joints',
    files: () =>
      joints(
        60_000,
        (i) => (i - 1) >> 1,
        (i) => `b${i}`,
      ),
    must: 'be refused',
  },
  {
    name: '64 000 nodes beside one another',
    files: () => {
      const gltf = new Gltf();
      gltf.json.nodes.push(
        { name: 'body', mesh: gltf.triangle() },
        ...times(63_999, (i) => ({ name: `n${i}` })),
      );
      return gltf.file();
    },
  },
  {
    name: '200 000 nodes without anything',
    files: () =>
      text('x.gltf', JSON.stringify({ asset: { version: '2.0' }, nodes: times(200_000, () => ({})) })),
    must: 'be refused',
  },
  {
    name: '64 000 nodes that show one mesh',
    files: () => {
      const gltf = new Gltf();
      const mesh = gltf.triangle();
      gltf.json.nodes.push(...times(64_000, (i) => ({ name: `n${i}`, mesh, translation: [i, 0, 0] })));
      return gltf.file();
    },
  },
  {
    name: '8 400 meshes of a triangle each',
    files: () => {
      const gltf = new Gltf();
      gltf.json.nodes.push(
        ...times(8400, (i) => ({ name: `n${i}`, mesh: gltf.triangle(), translation: [i, 0, 0] })),
      );
      return gltf.file();
    },
    must: 'be read',
  },
  {
    name: '200 000 morph targets without data',
    files: () => {
      const gltf = new Gltf();
      const mesh = gltf.triangle({ targets: times(200_000, () => ({})) });
      gltf.json.nodes.push({ name: 'body', mesh });
      return gltf.file();
    },
    must: 'be refused',
  },
  {
    name: '20 000 morph targets that share their data',
    files: () => {
      const gltf = new Gltf();
      const POSITION = gltf.zeros('VEC3', 3);
      gltf.json.nodes.push({
        name: 'body',
        mesh: gltf.triangle({ targets: times(20_000, () => ({ POSITION })) }),
      });
      return gltf.file();
    },
  },
  {
    name: '300 morph targets of 30 000 points that share their data',
    files: () => {
      const gltf = new Gltf();
      const places = Float32Array.from({ length: 90_000 }, (_, i) => Math.sin(i * 12.9898) * 0.9);
      const POSITION = gltf.add(places, 'VEC3');
      gltf.json.meshes.push({
        primitives: [{ attributes: { POSITION }, targets: times(300, () => ({ POSITION })) }],
      });
      gltf.json.nodes.push({ name: 'body', mesh: 0 });
      return gltf.file();
    },
  },
  {
    name: '20 000 clips',
    files: () => {
      const gltf = new Gltf();
      gltf.json.nodes.push({ name: 'body', mesh: gltf.triangle() });
      const input = gltf.add(Float32Array.of(0, 1), 'SCALAR', { min: [0], max: [1] });
      const output = gltf.add(new Float32Array(6), 'VEC3');
      const samplers = [{ input, output }];
      const channels = [{ sampler: 0, target: { node: 0, path: 'translation' } }];
      gltf.json.animations = times(20_000, (i) => ({ name: `clip ${i}`, samplers, channels }));
      return gltf.file();
    },
  },
  {
    name: 'a clip of 60 000 channels',
    files: () => {
      const gltf = new Gltf();
      gltf.json.nodes.push(
        { name: 'body', mesh: gltf.triangle() },
        ...times(20_000, (i) => ({ name: `n${i}` })),
      );
      const input = gltf.add(Float32Array.of(0, 1), 'SCALAR', { min: [0], max: [1] });
      const samplers = [
        { input, output: gltf.add(new Float32Array(6), 'VEC3') },
        { input, output: gltf.add(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1), 'VEC4') },
      ];
      const channels = times(60_000, (i) => ({
        sampler: i % 3 === 1 ? 1 : 0,
        target: { node: 1 + Math.floor(i / 3), path: ['translation', 'rotation', 'scale'][i % 3] },
      }));
      gltf.json.animations = [{ samplers, channels }];
      return gltf.file();
    },
  },
  {
    name: 'a clip of a million times',
    files: () => {
      const gltf = new Gltf();
      gltf.json.nodes.push({ name: 'body', mesh: gltf.triangle() });
      const count = 1_000_000;
      const input = gltf.add(
        Float32Array.from({ length: count }, (_, i) => i / 60),
        'SCALAR',
        { min: [0], max: [16667] },
      );
      const output = gltf.add(
        Float32Array.from({ length: count * 3 }, (_, i) => Math.sin(i)),
        'VEC3',
      );
      gltf.json.animations = [
        {
          samplers: [{ input, output }],
          channels: [{ sampler: 0, target: { node: 0, path: 'translation' } }],
        },
      ];
      return gltf.file();
    },
  },
  {
    name: '10 000 skins of one joint',
    files: () => {
      const gltf = new Gltf();
      gltf.json.nodes.push({ name: 'root' }, { name: 'body', mesh: gltf.triangle() });
      gltf.json.skins = times(10_000, () => ({ joints: [0] }));
      return gltf.file();
    },
  },
  {
    name: '2 000 skins of 2 000 joints',
    files: () => {
      const gltf = new Gltf();
      gltf.json.nodes.push(...times(2000, (i) => ({ name: `b${i}` })), {
        name: 'body',
        mesh: gltf.triangle(),
      });
      const all = times(2000, (i) => i);
      gltf.json.skins = times(2000, () => ({ joints: all }));
      return gltf.file();
    },
  },
  {
    name: '100 000 primitives of one mesh that share their points',
    files: () => {
      const gltf = new Gltf();
      const POSITION = gltf.add(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0), 'VEC3');
      gltf.json.meshes.push({ primitives: times(100_000, () => ({ attributes: { POSITION } })) });
      gltf.json.nodes.push({ name: 'body', mesh: 0 });
      return gltf.file();
    },
  },
  {
    name: '20 000 primitives of one mesh, each with points of its own',
    files: () => {
      const gltf = new Gltf();
      const places = () => gltf.add(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0), 'VEC3');
      gltf.json.meshes.push({ primitives: times(20_000, () => ({ attributes: { POSITION: places() } })) });
      gltf.json.nodes.push({ name: 'body', mesh: 0 });
      return gltf.file();
    },
  },
  {
    name: '5 000 attributes of one mesh',
    files: () => {
      const gltf = new Gltf();
      const mesh = gltf.triangle();
      const [primitive] = gltf.json.meshes[0].primitives as { attributes: Record<string, number> }[];
      const zeros = gltf.zeros('SCALAR', 3);
      for (let i = 0; i < 5000; i++) primitive.attributes[`_A${i}`] = zeros;
      gltf.json.nodes.push({ name: 'body', mesh });
      return gltf.file();
    },
  },
  {
    name: '2 000 sets of influences on every point',
    files: () => {
      const gltf = new Gltf();
      const count = 300;
      const attributes: Record<string, number> = { POSITION: gltf.zeros('VEC3', count) };
      const joint = gltf.add(new Uint8Array(count * 4), 'VEC4');
      const weight = gltf.add(new Float32Array(count * 4).fill(0.1), 'VEC4');
      for (let k = 0; k < 2000; k++)
        Object.assign(attributes, { [`JOINTS_${k}`]: joint, [`WEIGHTS_${k}`]: weight });
      gltf.json.meshes.push({ primitives: [{ attributes }] });
      gltf.json.skins = [{ joints: [0] }];
      gltf.json.nodes.push({ name: 'root' }, { name: 'body', mesh: 0, skin: 0 });
      return gltf.file();
    },
  },
  {
    name: '100 000 materials, and one that is used',
    files: () => {
      const gltf = new Gltf();
      gltf.json.nodes.push({ name: 'body', mesh: gltf.triangle({ material: 0 }) });
      gltf.json.materials = times(100_000, (i) => ({ name: `m${i}` }));
      return gltf.file();
    },
  },
  {
    name: '50 000 scenes that show everything',
    files: () => {
      const gltf = new Gltf();
      gltf.json.nodes.push({ name: 'body', mesh: gltf.triangle() });
      gltf.json.scenes = times(50_000, () => ({ nodes: [0] }));
      return gltf.file();
    },
  },
  {
    name: '2 000 scenes of 2 000 nodes',
    files: () => {
      const gltf = new Gltf();
      gltf.json.nodes.push(
        { name: 'body', mesh: gltf.triangle() },
        ...times(2000, (i) => ({ name: `n${i}` })),
      );
      const all = times(2001, (i) => i);
      gltf.json.scenes = times(2000, () => ({ nodes: all }));
      return gltf.file();
    },
  },
  {
    name: 'extras of ten million letters on a node',
    files: () => {
      const gltf = new Gltf();
      gltf.json.nodes.push({ name: 'body', mesh: gltf.triangle(), extras: { note: 'x'.repeat(10_000_000) } });
      return gltf.file();
    },
  },
  {
    name: 'extras of 300 000 fields',
    files: () => {
      const gltf = new Gltf();
      const extras = Object.fromEntries(times(300_000, (i) => [`field ${i}`, i]));
      gltf.json.nodes.push({ name: 'body', mesh: gltf.triangle(), extras });
      return gltf.file();
    },
  },
  {
    name: 'extras 50 000 deep',
    files: () =>
      text(
        'x.gltf',
        `{"asset":{"version":"2.0"},"nodes":[{"name":"a","extras":${'['.repeat(50_000)}${']'.repeat(50_000)}}]}`,
      ),
  },
  {
    name: 'a thousand accessors over the same sixteen megabytes',
    files: () => {
      const gltf = new Gltf();
      const POSITION = gltf.add(new Float32Array(1 << 22), 'SCALAR');
      const again = times(1000, () => {
        const at = gltf.zeros('VEC4', 1 << 20);
        (gltf as unknown as { accessors: Record<string, Json>[] }).accessors[at].bufferView = 0;
        return at;
      });
      const attributes = Object.fromEntries(again.map((a, i) => [`_A${i}`, a]));
      gltf.json.meshes.push({ primitives: [{ attributes: { POSITION, ...attributes } }] });
      gltf.json.nodes.push({ name: 'body', mesh: 0 });
      return gltf.file();
    },
    must: 'be refused',
  },
  {
    name: 'a billion points without bytes behind them',
    files: () => {
      const gltf = new Gltf();
      gltf.json.meshes.push({
        primitives: [{ attributes: { POSITION: gltf.zeros('VEC3', 1_000_000_000) } }],
      });
      gltf.json.nodes.push({ name: 'body', mesh: 0 });
      return gltf.file();
    },
    must: 'be refused',
  },
  {
    name: '300 000 points at one place, in faces that share an edge',
    files: () => {
      const gltf = new Gltf();
      const count = 100_000;
      const POSITION = gltf.zeros('VEC3', count);
      const indices = gltf.aroundEdge(count);
      gltf.json.meshes.push({ primitives: [{ attributes: { POSITION }, indices }] });
      gltf.json.nodes.push({ name: 'body', mesh: 0 });
      return gltf.file();
    },
  },
  {
    name: '100 000 faces around one edge',
    files: () => {
      const gltf = new Gltf();
      const count = 100_000;
      const places = Float32Array.from({ length: count * 3 }, (_, i) => {
        const vertex = Math.floor(i / 3);
        if (vertex < 2) return i % 3 === 1 ? vertex : 0;
        return [Math.cos(vertex), 0.5, Math.sin(vertex)][i % 3];
      });
      const POSITION = gltf.add(places, 'VEC3');
      const indices = gltf.aroundEdge(count);
      gltf.json.meshes.push({ primitives: [{ attributes: { POSITION }, indices }] });
      gltf.json.nodes.push({ name: 'body', mesh: 0 });
      return gltf.file();
    },
  },
  {
    name: '100 000 loose triangles on top of one another',
    files: () => {
      const gltf = new Gltf();
      const places = Float32Array.from({ length: 900_000 }, (_, i) => [0, 0, 0, 1, 0, 0, 0, 1, 0][i % 9]);
      gltf.json.meshes.push({ primitives: [{ attributes: { POSITION: gltf.add(places, 'VEC3') } }] });
      gltf.json.nodes.push({ name: 'body', mesh: 0 });
      return gltf.file();
    },
  },
  {
    name: 'a face of 100 000 corners in the encoding of polygons',
    files: () => {
      const gltf = new Gltf();
      const count = 100_000;
      const places = Float32Array.from({ length: count * 3 }, (_, i) => {
        const turn = (Math.floor(i / 3) / count) * 2 * Math.PI;
        return [Math.cos(turn), Math.sin(turn), 0][i % 3];
      });
      const indices = gltf.add(
        Uint32Array.from(
          { length: (count - 2) * 3 },
          (_, i) => [0, 1 + Math.floor(i / 3), 2 + Math.floor(i / 3)][i % 3],
        ),
        'SCALAR',
      );
      const primitive = {
        attributes: { POSITION: gltf.add(places, 'VEC3') },
        indices,
        extensions: { FB_ngon_encoding: {} },
      };
      gltf.json.meshes.push({ primitives: [primitive] });
      gltf.json.nodes.push({ name: 'body', mesh: 0 });
      gltf.json.extensionsUsed = ['FB_ngon_encoding'];
      return gltf.file();
    },
  },
  {
    name: 'nodes that hang in one another',
    files: () =>
      text(
        'x.gltf',
        JSON.stringify({ asset: { version: '2.0' }, nodes: [{ children: [1] }, { children: [0] }] }),
      ),
    must: 'be refused',
  },
  {
    name: '10 000 nodes one under the other',
    files: () => {
      const gltf = new Gltf();
      gltf.json.nodes.push(
        ...times(10_000, (i) => ({ name: `n${i}`, ...(i < 9999 && { children: [i + 1] }) })),
      );
      return gltf.file();
    },
    must: 'be refused',
  },
  {
    name: '100 000 buffers beside the file',
    files: () =>
      text(
        'x.gltf',
        JSON.stringify({
          asset: { version: '2.0' },
          nodes: [{ name: 'a' }],
          buffers: times(100_000, () => ({
            byteLength: 1,
            uri: 'data:application/octet-stream;base64,AA==',
          })),
        }),
      ),
  },
  {
    name: '50 000 pictures that share one view',
    files: () => {
      const gltf = new Gltf();
      gltf.json.nodes.push({ name: 'body', mesh: gltf.triangle() });
      gltf.add(new Uint8Array(100_000), 'SCALAR');
      gltf.json.images = times(50_000, () => ({ bufferView: 1, mimeType: 'image/png' }));
      return gltf.file();
    },
  },
  {
    name: 'places as pairs of numbers',
    files: () => typed({ POSITION: ['VEC2', 3] }),
    must: 'be refused',
  },
  {
    name: 'normals, tangents, texture places and colours of other types than they have',
    files: () =>
      typed({
        POSITION: ['VEC3', 3],
        NORMAL: ['VEC2', 3],
        TANGENT: ['SCALAR', 3],
        TEXCOORD_0: ['SCALAR', 3],
        COLOR_0: ['VEC2', 3],
      }),
  },
  {
    name: 'a morph target whose places are single numbers',
    files: () => typed({ POSITION: ['VEC3', 3] }, { POSITION: ['SCALAR', 3], NORMAL: ['VEC4', 3] }),
  },
];

/** A triangle whose attributes are of the types that are given. */
function typed(
  attributes: Readonly<Record<string, readonly [string, number]>>,
  target?: Readonly<Record<string, readonly [string, number]>>,
): InputFile[] {
  const gltf = new Gltf();
  const made = (of: Readonly<Record<string, readonly [string, number]>>) =>
    Object.fromEntries(Object.entries(of).map(([name, [type, count]]) => [name, gltf.zeros(type, count)]));
  gltf.json.meshes.push({
    primitives: [{ attributes: made(attributes), ...(target && { targets: [made(target)] }) }],
  });
  gltf.json.nodes.push({ name: 'body', mesh: 0 });
  return gltf.file();
}

const TRIANGLE = 'v 0 0 0\nv 1 0 0\nv 0 1 0\n';

const OF_OBJ: readonly Bomb[] = [
  ...(['o', 'g'] as const).map((word): Bomb => ({
    name: `an OBJ of 200 000 ${word === 'o' ? 'objects' : 'groups'}`,
    files: () => text('x.obj', TRIANGLE + lines(200_000, (i) => `${word} part${i}\nf 1 2 3`)),
    must: 'be refused',
  })),
  {
    name: 'an OBJ of 9 000 objects',
    files: () => text('x.obj', TRIANGLE + lines(9000, (i) => `o part${i}\nf 1 2 3`)),
    must: 'be read',
  },
  {
    name: 'an OBJ whose faces change between two groups 200 000 times',
    files: () => text('x.obj', TRIANGLE + lines(200_000, (i) => `g part${i % 2}\nf 1 2 3`)),
  },
  {
    name: 'an OBJ of 100 000 materials',
    files: () => text('x.obj', TRIANGLE + lines(100_000, (i) => `usemtl m${i}\nf 1 2 3`)),
  },
  {
    name: 'an OBJ that names 100 000 libraries',
    files: () => text('x.obj', lines(100_000, (i) => `mtllib m${i}.mtl`) + `\n${TRIANGLE}f 1 2 3\n`),
  },
  {
    name: 'an OBJ with a face of 500 000 corners',
    files: () => text('x.obj', `${TRIANGLE}f${' 1 2 3'.repeat(166_666)}\n`),
  },
  {
    name: 'an OBJ whose one line is continued 300 000 times',
    files: () => text('x.obj', `${TRIANGLE}f 1 2 3 \\\n${'1 \\\n'.repeat(300_000)}2\n`),
  },
  {
    name: 'an OBJ of 700 000 faces at one point',
    files: () => text('x.obj', `${'v 0 0 0\n'.repeat(3)}${'f 1 2 3\n'.repeat(700_000)}`),
  },
  {
    name: 'an OBJ of a million points that no face uses',
    files: () => text('x.obj', `${'v 1 2 3\n'.repeat(1_000_000)}f 1 2 3\n`),
  },
  {
    name: 'an OBJ of places beyond counting',
    files: () => text('x.obj', `v 1e400 0 0\n${TRIANGLE}f 2 3 4\n`),
    must: 'be refused',
  },
  {
    name: 'an OBJ of five million comments',
    files: () => text('x.obj', `${'# \n'.repeat(5_000_000)}${TRIANGLE}f 1 2 3\n`),
  },
  {
    name: 'an object’s name of ten million letters',
    files: () => text('x.obj', `o ${'Ab'.repeat(5_000_000)}\n${TRIANGLE}f 1 2 3\n`),
  },
];

const joint = (i: number, inside = '') =>
  `JOINT b${i}\n{\nOFFSET 0 1 0\nCHANNELS 3 Zrotation Xrotation Yrotation\n${inside || 'End Site\n{\nOFFSET 0 1 0\n}'}\n}`;
const bvh = (joints: string, frames: number, time: string, row: string) =>
  `HIERARCHY\nROOT r\n{\nOFFSET 0 0 0\nCHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation\n${joints}\n}\nMOTION\nFrames: ${frames}\nFrame Time: ${time}\n${`${row}\n`.repeat(frames)}`;

const OF_BVH: readonly Bomb[] = [
  {
    name: 'a BVH of 9 000 joints beside one another',
    files: () =>
      text(
        'x.bvh',
        bvh(
          lines(9000, (i) => joint(i)),
          1,
          '0.03',
          '0 '.repeat(27_006),
        ),
      ),
    must: 'be read',
  },
  {
    name: 'a BVH of 50 000 joints',
    files: () =>
      text(
        'x.bvh',
        bvh(
          lines(50_000, (i) => joint(i)),
          0,
          '0.03',
          '',
        ),
      ),
    must: 'be refused',
  },
  {
    name: 'a BVH of 5 000 joints one in the other',
    files: () => {
      const opened = lines(
        5000,
        (i) => `JOINT b${i}\n{\nOFFSET 0 1 0\nCHANNELS 3 Zrotation Xrotation Yrotation`,
      );
      return text('x.bvh', bvh(`${opened}\n${'}\n'.repeat(5000)}`, 0, '0.03', ''));
    },
    must: 'be refused',
  },
  {
    name: 'a BVH of 500 000 frames',
    files: () => text('x.bvh', bvh(joint(0), 500_000, '0.0083', '0 1 0 0 0 0 0 0 0')),
  },
  ...['1e300', '1e30', '1e-300', '-1', '0', 'NaN', '1e999'].map((time): Bomb => ({
    name: `a BVH whose frames take ${time} s`,
    files: () => text('x.bvh', bvh(joint(0), 3, time, '0 1 0 0 0 0 0 0 0')),
    must: 'be refused',
  })),
  {
    name: 'a BVH that announces a billion frames',
    files: () => text('x.bvh', bvh(joint(0), 0, '0.03', '').replace('Frames: 0', 'Frames: 1000000000')),
    must: 'be refused',
  },
  {
    name: 'a joint’s name of ten million letters',
    files: () => text('x.bvh', bvh(joint(0).replace('b0', 'aB'.repeat(5_000_000)), 0, '0.03', '')),
  },
  {
    name: 'a BVH that turns by 1e300 degrees',
    files: () => text('x.bvh', bvh(joint(0), 2, '0.03', '0 1 0 1e300 0 0 0 0 0')),
  },
];

const dae = (inside: string, scene = '<scene><instance_visual_scene url="#s"/></scene>') =>
  `<?xml version="1.0"?><COLLADA version="1.4.1" xmlns="http://www.collada.org/2005/11/COLLADASchema"><asset><unit meter="1"/><up_axis>Y_UP</up_axis></asset>${inside}${scene}</COLLADA>`;
const visual = (nodes: string) =>
  `<library_visual_scenes><visual_scene id="s">${nodes}</visual_scene></library_visual_scenes>`;
const geometry = (id: string) =>
  `<geometry id="${id}"><mesh><source id="${id}p"><float_array id="${id}a" count="9">0 0 0 1 0 0 0 1 0</float_array><technique_common><accessor source="#${id}a" count="3" stride="3"><param name="X" type="float"/><param name="Y" type="float"/><param name="Z" type="float"/></accessor></technique_common></source><vertices id="${id}v"><input semantic="POSITION" source="#${id}p"/></vertices><triangles count="1"><input semantic="VERTEX" source="#${id}v" offset="0"/><p>0 1 2</p></triangles></mesh></geometry>`;

const OF_COLLADA: readonly Bomb[] = [
  {
    name: 'a COLLADA of 60 000 nodes',
    files: () => text('x.dae', dae(visual(lines(60_000, (i) => `<node id="n${i}"/>`)))),
  },
  {
    name: 'a COLLADA of 20 000 joints that a skin names',
    files: () => {
      const count = 20_000;
      const names = times(count, (i) => `b${i}`).join(' ');
      const skin = `<library_controllers><controller id="c"><skin source="#g"><source id="j"><Name_array id="ja" count="${count}">${names}</Name_array><technique_common><accessor source="#ja" count="${count}" stride="1"><param name="JOINT" type="name"/></accessor></technique_common></source><source id="m"><float_array id="ma" count="${count * 16}">${'1 0 0 0 0 1 0 0 0 0 1 0 0 0 0 1 '.repeat(count)}</float_array><technique_common><accessor source="#ma" count="${count}" stride="16"><param name="TRANSFORM" type="float4x4"/></accessor></technique_common></source><source id="w"><float_array id="wa" count="1">1</float_array><technique_common><accessor source="#wa" count="1" stride="1"><param name="WEIGHT" type="float"/></accessor></technique_common></source><joints><input semantic="JOINT" source="#j"/><input semantic="INV_BIND_MATRIX" source="#m"/></joints><vertex_weights count="3"><input semantic="JOINT" source="#j" offset="0"/><input semantic="WEIGHT" source="#w" offset="1"/><vcount>1 1 1</vcount><v>0 0 1 0 2 0</v></vertex_weights></skin></controller></library_controllers>`;
      const nodes = `<node id="root" type="JOINT">${lines(count, (i) => `<node id="b${i}" sid="b${i}" type="JOINT"/>`)}</node><node id="body"><instance_controller url="#c"><skeleton>#root</skeleton></instance_controller></node>`;
      return text(
        'x.dae',
        dae(`<library_geometries>${geometry('g')}</library_geometries>${skin}${visual(nodes)}`),
      );
    },
  },
  {
    name: 'a COLLADA whose nodes are instances of one another, doubled thirty times',
    files: () => {
      const nodes = lines(
        30,
        (i) =>
          `<node id="n${i}">${i < 29 ? `<instance_node url="#n${i + 1}"/><instance_node url="#n${i + 1}"/>` : ''}</node>`,
      );
      return text(
        'x.dae',
        dae(`<library_nodes>${nodes}</library_nodes>${visual('<node><instance_node url="#n0"/></node>')}`),
      );
    },
    must: 'be refused',
  },
  {
    name: 'a COLLADA of 8 000 geometries',
    files: () =>
      text(
        'x.dae',
        dae(
          `<library_geometries>${lines(8000, (i) => geometry(`g${i}`))}</library_geometries>${visual(lines(8000, (i) => `<node id="n${i}"><instance_geometry url="#g${i}"/></node>`))}`,
        ),
      ),
    must: 'be read',
  },
  {
    name: 'a COLLADA of 39 000 nodes that show one geometry',
    files: () =>
      text(
        'x.dae',
        dae(
          `<library_geometries>${geometry('g')}</library_geometries>${visual(lines(39_000, (i) => `<node id="n${i}"><instance_geometry url="#g"/></node>`))}`,
        ),
      ),
  },
  {
    name: 'a COLLADA whose controllers move one another',
    files: () => {
      const morph = (a: string, b: string) =>
        `<controller id="${a}"><morph source="#${b}"><targets/></morph></controller>`;
      return text(
        'x.dae',
        dae(
          `<library_controllers>${morph('a', 'b')}${morph('b', 'a')}</library_controllers>${visual('<node><instance_controller url="#a"/></node>')}`,
        ),
      );
    },
    must: 'be refused',
  },
  {
    name: 'a COLLADA that defines entities of itself',
    files: () =>
      text(
        'x.dae',
        `<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa">${times(9, (i) => `<!ENTITY a${i} "${'&a;'.repeat(10)}">`).join('')}]>${dae(visual('<node/>'))}`,
      ),
    must: 'be refused',
  },
  {
    name: 'a COLLADA 100 000 elements deep',
    files: () =>
      text('x.dae', dae(`${'<extra>'.repeat(100_000)}${'</extra>'.repeat(100_000)}${visual('<node/>')}`)),
    must: 'be refused',
  },
  {
    name: 'a COLLADA with 200 000 attributes on one element',
    files: () => text('x.dae', dae(visual(`<node ${times(200_000, (i) => `a${i}="1"`).join(' ')}/>`))),
  },
  {
    name: 'a COLLADA of half a million small elements',
    files: () =>
      text(
        'x.dae',
        dae(`<library_effects>${'<effect/>'.repeat(500_000)}</library_effects>${visual('<node id="a"/>')}`),
      ),
  },
  {
    name: 'a COLLADA of 10 000 animations',
    files: () => {
      const animation = (i: number) =>
        `<animation id="k${i}"><source id="t${i}"><float_array id="ta${i}" count="2">0 1</float_array><technique_common><accessor source="#ta${i}" count="2" stride="1"><param name="TIME" type="float"/></accessor></technique_common></source><source id="o${i}"><float_array id="oa${i}" count="2">0 1</float_array><technique_common><accessor source="#oa${i}" count="2" stride="1"><param name="X" type="float"/></accessor></technique_common></source><sampler id="s${i}"><input semantic="INPUT" source="#t${i}"/><input semantic="OUTPUT" source="#o${i}"/></sampler><channel source="#s${i}" target="n${i % 1000}/move.X"/></animation>`;
      return text(
        'x.dae',
        dae(
          `<library_animations>${lines(10_000, animation)}</library_animations>${visual(lines(1000, (i) => `<node id="n${i}"><translate sid="move">0 0 0</translate></node>`))}`,
        ),
      );
    },
  },
  {
    name: 'a node’s name of ten million letters in COLLADA',
    files: () => text('x.dae', dae(visual(`<node id="a" name="${'aB'.repeat(5_000_000)}"/>`))),
  },
  {
    name: 'a COLLADA whose polygons announce more corners than there are',
    files: () =>
      text(
        'x.dae',
        dae(
          `<library_geometries>${geometry('g').replace('<triangles count="1">', '<triangles count="900000000">')}</library_geometries>${visual('<node><instance_geometry url="#g"/></node>')}`,
        ),
      ),
  },
];

const packed = (name: string, entries: Record<string, Uint8Array>): InputFile[] => [
  { name, bytes: zipSync(entries, { level: 9 }) },
];

/** A zip whose one file is other bytes than its sum says. */
function wrongSum(): InputFile[] {
  const [file] = packed('x.zip', { 'x.obj': strToU8(`${TRIANGLE}f 1 2 3\n`) });
  const view = new DataView(file.bytes.buffer, file.bytes.byteOffset);
  const directory = file.bytes.findLastIndex(
    (_, i) => i + 4 <= file.bytes.length && view.getUint32(i, true) === 0x02014b50,
  );
  view.setUint32(14, 0x12345678, true);
  view.setUint32(directory + 16, 0x12345678, true);
  return [file];
}

const OF_ARCHIVES: readonly Bomb[] = [
  {
    name: 'an archive of two gigabytes of zeros',
    files: () =>
      packed('x.zip', {
        ...Object.fromEntries(times(8, (i) => [`a${i}.bin`, new Uint8Array(1 << 28)])),
        'x.obj': strToU8(TRIANGLE),
      }),
    must: 'be refused',
  },
  {
    name: 'an archive of 20 000 files',
    files: () => packed('x.zip', Object.fromEntries(times(20_000, (i) => [`f${i}`, new Uint8Array(0)]))),
    must: 'be refused',
  },
  { name: 'an archive whose sum is another', files: wrongSum, must: 'be refused' },
  {
    name: 'an archive in an archive in an archive',
    files: () => {
      let [file] = packed('x.zip', { 'x.obj': strToU8(`${TRIANGLE}f 1 2 3\n`) });
      for (let i = 0; i < 10; i++) [file] = packed('x.zip', { 'y.zip': file.bytes });
      return [file];
    },
  },
];

export const BOMBS: readonly Bomb[] = [...OF_GLTF, ...OF_OBJ, ...OF_BVH, ...OF_COLLADA, ...OF_ARCHIVES];
