/**
 * What `gltf-validator` (the standard's own, from the registry) calls an error is refused, noted, or found; and
 * whatever was read is written without any. The files of Debian's `assimp-testmodels`, and a sound figure with
 * one fault at a time.
 */
import { existsSync, readFileSync, readdirSync } from 'node:fs';
import path from 'node:path';
import type { Character } from '@/core/character/model';
import { readCharacter, writeCharacter } from '@/core/formats';
import { audit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { validate } from './support/validator';

type Json = Record<string, unknown>;
type Numbers = Float32Array | Uint16Array | Uint8Array;

/** A sound bound quad strip of two joints with everything on it that can be wrong. */
function sound() {
  const places = Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0, 0, 2, 0, 1, 2, 0]);
  const normals = Float32Array.from({ length: 18 }, (_, i) => (i % 3 === 2 ? 1 : 0));
  const uvs = Float32Array.from({ length: 12 }, (_, i) => i / 12);
  const joints = Uint8Array.from({ length: 24 }, (_, i) => (i % 4 === 1 ? 1 : 0));
  const weights = Float32Array.from({ length: 24 }, (_, i) => (i % 4 < 2 ? 0.5 : 0));
  const indices = Uint16Array.from([0, 1, 2, 2, 1, 3, 2, 3, 4, 4, 3, 5]);
  const binds = new Float32Array(32);
  for (const j of [0, 1]) for (const k of [0, 5, 10, 15]) binds[j * 16 + k] = 1;
  const deltas = new Float32Array(18).fill(0.1);
  const times = Float32Array.from([0, 1]);
  const turns = Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1]);
  const arrays: Numbers[] = [places, normals, uvs, joints, weights, indices, binds, deltas, times, turns];
  const accessors: Json[] = [
    { componentType: 5126, count: 6, type: 'VEC3', min: [0, 0, 0], max: [1, 2, 0] },
    { componentType: 5126, count: 6, type: 'VEC3' },
    { componentType: 5126, count: 6, type: 'VEC2' },
    { componentType: 5121, count: 6, type: 'VEC4' },
    { componentType: 5126, count: 6, type: 'VEC4' },
    { componentType: 5123, count: 12, type: 'SCALAR' },
    { componentType: 5126, count: 2, type: 'MAT4' },
    {
      componentType: 5126,
      count: 6,
      type: 'VEC3',
      min: [0, 0, 0].map(() => Math.fround(0.1)),
      max: [0, 0, 0].map(() => Math.fround(0.1)),
    },
    { componentType: 5126, count: 2, type: 'SCALAR', min: [0], max: [1] },
    { componentType: 5126, count: 2, type: 'VEC4' },
  ].map((a, i) => ({ bufferView: i, ...a }));
  const json = {
    asset: { version: '2.0', generator: 'a test' },
    scene: 0,
    scenes: [{ nodes: [0, 1] }],
    nodes: [
      { name: 'body', mesh: 0, skin: 0 } as Json,
      { name: 'hips', children: [2] } as Json,
      { name: 'spine', translation: [0, 1, 0] } as Json,
    ],
    meshes: [
      {
        name: 'body',
        primitives: [
          {
            attributes: { POSITION: 0, NORMAL: 1, TEXCOORD_0: 2, JOINTS_0: 3, WEIGHTS_0: 4 } as Json,
            indices: 5,
            material: 0,
            targets: [{ POSITION: 7 }],
          } as Json,
        ],
      } as Json,
    ],
    skins: [{ joints: [1, 2], inverseBindMatrices: 6 } as Json],
    animations: [
      {
        name: 'still',
        samplers: [{ input: 8, output: 9 } as Json],
        channels: [{ sampler: 0, target: { node: 2, path: 'rotation' } } as Json],
      } as Json,
    ],
    materials: [{ name: 'oilskin', pbrMetallicRoughness: { metallicFactor: 0 } } as Json],
    accessors,
  };
  return { arrays, json };
}

type Sound = ReturnType<typeof sound>;

/** The parts as one .gltf with its bytes inside. */
function packed({ arrays, json }: Sound): Uint8Array {
  const parts = arrays.map((array) => new Uint8Array(array.buffer, array.byteOffset, array.byteLength));
  const targets: Record<number, number> = { 5: 34963 };
  let at = 0;
  const bufferViews = parts.map((part, i) => {
    const view = {
      buffer: 0,
      byteOffset: at,
      byteLength: part.length,
      ...(i < 6 ? { target: targets[i] ?? 34962 } : {}),
    };
    at += (part.length + 3) & ~3;
    return view;
  });
  const all = new Uint8Array(at);
  parts.forEach((part, i) => all.set(part, bufferViews[i].byteOffset));
  const uri = `data:application/octet-stream;base64,${Buffer.from(all).toString('base64')}`;
  const whole = { ...json, bufferViews, buffers: [{ byteLength: at, uri }] };
  return new TextEncoder().encode(JSON.stringify(whole));
}

/**
 * What no writing can mend: weights that nobody gave, told by the writer; a picture's space that a material
 * lacks.
 */
const BEYOND = /have no weight, which glTF 2\.0 does not allow/;

/** Errors that the validator has with what the house writes of a character. */
async function errorsWritten(character: Character): Promise<string[]> {
  const { files: out, notes } = writeCharacter(character, 'glb', 'x');
  const errors = await validate(out[0].bytes);
  return errors.filter(
    (error) =>
      !(BEYOND.test(notes.join('\n')) && /^ACCESSOR_WEIGHTS_NON_NORMALIZED .* sum: 0\.$/.test(error)) &&
      !error.startsWith('MESH_PRIMITIVE_NO_TANGENT_SPACE'),
  );
}

const brief = briefById('handset')!;

/** What the house says of bytes: that it refuses them and why, or its notes and findings. */
function told(name: string, files: Parameters<typeof readCharacter>[0]) {
  let character: Character;
  try {
    character = readCharacter(files);
  } catch (error) {
    return { refused: (error as Error).message, said: (error as Error).message, character: null };
  }
  const findings = audit(character, brief).map((finding) => finding.message);
  return { refused: null, said: [...character.notes, ...findings].join('\n'), character };
}

const prim = (s: Sound) => (s.json.meshes[0].primitives as Json[])[0];
const attributes = (s: Sound) => prim(s).attributes as Json;
const node = (s: Sound, i: number) => s.json.nodes[i];

/** One fault: what is done to the sound file, the validator's code for it, and what the house says. */
const FAULTS: readonly (readonly [string, (s: Sound) => void, string, RegExp])[] = [
  [
    'a longer normal',
    (s) => {
      s.arrays[1][2] = 3;
    },
    'ACCESSOR_VECTOR3_NON_UNIT',
    /1 normals were not of length one/,
  ],
  [
    'a normal of nothing',
    (s) => {
      s.arrays[1][2] = 0;
    },
    'ACCESSOR_VECTOR3_NON_UNIT',
    /1 normals had no direction/,
  ],
  [
    'a NaN in a texture place',
    (s) => {
      s.arrays[2][3] = NaN;
    },
    'ACCESSOR_INVALID_FLOAT',
    /TEXCOORD_0 held something that is no number/,
  ],
  [
    'a NaN in a position',
    (s) => {
      s.arrays[0][3] = NaN;
    },
    'ACCESSOR_INVALID_FLOAT',
    /position that is not a finite number/,
  ],
  [
    'an endless weight',
    (s) => {
      s.arrays[4][0] = Infinity;
    },
    'ACCESSOR_INVALID_FLOAT',
    /1 weights were below nothing or no number/,
  ],
  [
    'a weight below nothing',
    (s) => {
      s.arrays[4][0] = -0.5;
    },
    'ACCESSOR_WEIGHTS_NEGATIVE',
    /1 weights were below nothing or no number/,
  ],
  [
    'weights of another sum',
    (s) => {
      s.arrays[4][0] = 0.8;
    },
    'ACCESSOR_WEIGHTS_NON_NORMALIZED',
    /do not sum to one/,
  ],
  [
    'a joint that is not there',
    (s) => {
      s.arrays[3][1] = 9;
    },
    'ACCESSOR_JOINTS_INDEX_OOB',
    /bound to joint 9/,
  ],
  [
    'a joint twice',
    (s) => {
      s.arrays[3][1] = 0;
    },
    'ACCESSOR_JOINTS_INDEX_DUPLICATE',
    /twice/,
  ],
  [
    'fewer normals',
    (s) => {
      s.json.accessors[1].count = 4;
    },
    'MESH_PRIMITIVE_UNEQUAL_ACCESSOR_COUNT',
    /NORMAL of mesh 0 “body”, primitive 0 has 4 elements for 6 vertices/,
  ],
  [
    'fewer points than normals',
    (s) => {
      s.json.accessors[0].count = 5;
      s.json.accessors[5].count = 9;
      s.json.accessors[7].count = 5;
    },
    'MESH_PRIMITIVE_UNEQUAL_ACCESSOR_COUNT',
    /NORMAL of .* has 6 elements for 5 vertices/,
  ],
  [
    'fewer weights',
    (s) => {
      s.json.accessors[4].count = 5;
    },
    'MESH_PRIMITIVE_UNEQUAL_ACCESSOR_COUNT',
    /WEIGHTS_0 of .* has 5 elements for 6 vertices/,
  ],
  [
    'a shorter morph target',
    (s) => {
      s.json.accessors[7].count = 3;
    },
    'MESH_PRIMITIVE_MORPH_TARGET_INVALID_ATTRIBUTE_COUNT',
    /target 0 of .* has 3 elements for 6 vertices/,
  ],
  [
    'joints without weights',
    (s) => {
      delete attributes(s).WEIGHTS_0;
    },
    'MESH_PRIMITIVE_JOINTS_WEIGHTS_MISMATCH',
    /only one of JOINTS_0 and WEIGHTS_0/,
  ],
  [
    'an index beyond the vertices',
    (s) => {
      s.arrays[5][3] = 77;
    },
    'ACCESSOR_INDEX_OOB',
    /index 3 of .* names vertex 77 of 6/,
  ],
  [
    'bounds of something else',
    (s) => {
      s.json.accessors[0].max = [1, 5, 0];
    },
    'ACCESSOR_MAX_MISMATCH',
    /bounds written for one list/,
  ],
  [
    'a second set of texture places alone',
    (s) => {
      attributes(s).TEXCOORD_1 = 2;
      delete attributes(s).TEXCOORD_0;
    },
    'MESH_PRIMITIVE_INDEXED_SEMANTIC_CONTINUITY',
    /TEXCOORD_1 without TEXCOORD_0/,
  ],
  [
    'an inverse bind that is no affine matrix',
    (s) => {
      s.arrays[6][15] = 2;
    },
    'ACCESSOR_INVALID_IBM',
    /last row of 1 inverse binds/,
  ],
  [
    'a rotation of another length',
    (s) => {
      node(s, 2).rotation = [0, 0, 0, 2];
    },
    'VALUE_NOT_IN_RANGE',
    /rotation of node 2 “spine” had the length 2/,
  ],
  [
    'a name that is a number',
    (s) => {
      node(s, 2).name = 7;
    },
    'TYPE_MISMATCH',
    /“name” of nodes\[2\] is 7 where text belongs/,
  ],
  [
    'a material that is not there',
    (s) => {
      prim(s).material = 4;
    },
    'UNRESOLVED_REFERENCE',
    /“material” of primitives\[0\] of meshes\[0\] is 4, and there are 1 materials/,
  ],
  [
    'a scene that is not there',
    (s) => {
      s.json.scene = 3;
    },
    'UNRESOLVED_REFERENCE',
    /“scene” of the file is 3/,
  ],
  [
    'a colour of three',
    (s) => {
      s.json.materials[0].pbrMetallicRoughness = { baseColorFactor: [1, 1, 1] };
    },
    'ARRAY_LENGTH_NOT_IN_LIST',
    /a list of 3 where 4 numbers belong/,
  ],
  [
    'a list where an object belongs',
    (s) => {
      s.json.materials[0].pbrMetallicRoughness = [];
    },
    'TYPE_MISMATCH',
    /where an object belongs/,
  ],
  [
    'two thirds of a triangle',
    (s) => {
      s.json.accessors[5].count = 11;
    },
    '',
    /last 2 of 11 indices/,
  ],
  [
    'a node under two',
    (s) => {
      s.json.nodes[0].children = [2];
    },
    'NODE_PARENT_OVERRIDE',
    /hangs under two parents/,
  ],
  [
    'a circle of nodes',
    (s) => {
      node(s, 2).children = [1];
      s.json.scenes[0].nodes = [0];
    },
    'NODE_LOOP',
    /hang in a cycle/,
  ],
  [
    'a scale and a matrix',
    (s) => {
      node(s, 2).matrix = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 1, 0, 1];
    },
    'NODE_MATRIX_TRS',
    /has a matrix and translation besides/,
  ],
  [
    'times that go back',
    (s) => {
      s.arrays[8][0] = 2;
      s.json.accessors[8].min = [1];
      s.json.accessors[8].max = [2];
    },
    'ACCESSOR_ANIMATION_INPUT_NON_INCREASING',
    /times of channel 0 .* do not rise/,
  ],
  [
    'a turn of another length in a clip',
    (s) => {
      s.arrays[9][3] = 3;
    },
    'ACCESSOR_ANIMATION_SAMPLER_OUTPUT_NON_NORMALIZED_QUATERNION',
    /1 turns of channel 0 .* not of length one/,
  ],
  [
    'a root that its scene names twice',
    (s) => {
      s.json.scenes[0].nodes = [0, 1, 1];
    },
    'DUPLICATE_ELEMENTS',
    /scene named a node that it had named before once/,
  ],
  [
    'a camera of no kind',
    (s) => {
      Object.assign(s.json, { cameras: [{ name: 'wide', perspective: { yfov: 1, znear: 0.1 } }] });
    },
    'UNDEFINED_PROPERTY',
    /cameras\[0\] lacks what makes a camera/,
  ],
  [
    'a camera that looks behind itself',
    (s) => {
      Object.assign(s.json, {
        cameras: [{ type: 'orthographic', orthographic: { xmag: 1, ymag: 1, znear: 2, zfar: 1 } }],
      });
    },
    'CAMERA_ZFAR_LEQUAL_ZNEAR',
    /cameras\[0\] lacks what makes a camera/,
  ],
  [
    'a list where a camera belongs',
    (s) => {
      Object.assign(s.json, { cameras: [[]] });
    },
    'TYPE_MISMATCH',
    /a list of 0 where an object belongs; it counts as a plain camera/,
  ],
  [
    'a light with a colour of two',
    (s) => {
      Object.assign(s.json, {
        extensionsUsed: ['KHR_lights_punctual'],
        extensions: { KHR_lights_punctual: { lights: [{ type: 'point', color: [1, 1] }] } },
      });
    },
    'ARRAY_LENGTH_NOT_IN_LIST',
    /a list of 2 where 3 numbers belong/,
  ],
  [
    'a light of no kind',
    (s) => {
      Object.assign(s.json, {
        extensionsUsed: ['KHR_lights_punctual'],
        extensions: { KHR_lights_punctual: { lights: [{ color: [1, 1, 1] }] } },
      });
    },
    'UNDEFINED_PROPERTY',
    /lights\[0\] of KHR_lights_punctual of the file lacks what makes a light/,
  ],
  [
    'a sheared node that a clip turns',
    (s) => {
      delete node(s, 2).translation;
      node(s, 2).matrix = [1, 0, 0, 0, 0.5, 1, 0, 0, 0, 0, 1, 0, 0, 1, 0, 1];
    },
    'ANIMATION_CHANNEL_TARGET_NODE_MATRIX',
    /has place, turn and scale now, and is no longer sheared/,
  ],
];

it('the figure without a fault is sound', async () => {
  expect(await validate(packed(sound()))).toEqual([]);
});

it.each(FAULTS)('%s', async (_what, spoil, code, says) => {
  const s = sound();
  spoil(s);
  const bytes = packed(s);
  const errors = await validate(bytes);
  expect(errors.join('\n')).toContain(code);
  const { said, character } = told('x.gltf', [{ name: 'x.gltf', bytes }]);
  expect(said).toMatch(says);
  if (character) expect(await errorsWritten(character)).toEqual([]);
});

const MODELS = '/usr/share/assimp/models';
const walk = (folder: string): string[] =>
  readdirSync(folder, { withFileTypes: true }).flatMap((dirent) =>
    dirent.isDirectory() ? walk(path.join(folder, dirent.name)) : [path.join(folder, dirent.name)],
  );
const files = existsSync(MODELS) ? walk(MODELS).filter((file) => /\.(glb|gltf)$/i.test(file)) : [];

(files.length > 0 ? it.each(files) : it.skip.each(['assimp-testmodels']))('%s', async (file) => {
  const folder = path.dirname(file);
  const beside = walk(folder).filter((otherFile) => otherFile !== file && !/\.(glb|gltf)$/i.test(otherFile));
  const bytes = new Uint8Array(readFileSync(file));
  const { character, said } = told(file, [
    { name: path.basename(file), bytes },
    ...beside
      .slice(0, 60)
      .map((file) => ({ name: path.relative(folder, file), bytes: new Uint8Array(readFileSync(file)) })),
  ]);
  if (!character) {
    expect(said).toMatch(/\.(glb|gltf): .+\. .+\.$/);
    return;
  }
  expect(await errorsWritten(character)).toEqual([]);
  const open = async (uri: string) =>
    new Uint8Array(readFileSync(path.join(folder, decodeURIComponent(uri))));
  const errors = (await validate(bytes, open)).filter(
    (entry) => !entry.startsWith('MESH_PRIMITIVE_NO_TANGENT_SPACE'),
  );
  if (errors.length > 0) expect({ errors, notes: character.notes }).not.toMatchObject({ notes: [] });
});
