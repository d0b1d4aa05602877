import fc from 'fast-check';
import { VRMHumanBoneName, VRMHumanBoneParentMap, VRMRequiredHumanBoneName } from '@pixiv/three-vrm-core';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import {
  BundleError,
  addressAnywhere,
  addressOf,
  arrayBytes,
  arrayFromBytes,
  pack,
  unpack,
} from '@/core/character/bundle';
import { brokenInvariants } from '@/core/character/invariants';
import { fromStored, toStored } from '@/core/character/stored';
import { fingerprintOf, skeletonOf } from '@/core/anatomy/skeleton';
import { crosswalkFromFile, crosswalkToFile } from '@/core/rooms/crosswalk/file';
import { withRule } from '@/core/anatomy/crosswalk';
import { suggest } from '@/core/anatomy/suggest';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { H_ANIM_PARENTS, VRM_PARENTS, WEBXR_HAND_PARENTS } from '@/core/anatomy/trees';
import { readName } from '@/core/anatomy/names';
import { remedyById } from '@/core/house/registry';
import { castCharacter } from './support/cast';
import { tube } from './support/build';

const typed = fc.oneof(
  fc.uint8Array(),
  fc.float32Array({ noNaN: true }),
  fc.uint32Array(),
  fc.int16Array(),
  fc.float64Array({ noNaN: true }),
);
const value = fc.letrec((tie) => ({
  any: fc.oneof(
    { depthSize: 'small' },
    fc.string(),
    fc.double(),
    fc.boolean(),
    fc.constant(null),
    typed,
    fc.array(tie('any'), { maxLength: 5 }),
    fc.dictionary(fc.string(), tie('any'), { maxKeys: 5 }),
  ),
})).any;

describe('the bundle', () => {
  it('gives back what was packed, arrays in their own type, names with anything in them', () => {
    fc.assert(fc.property(value, (v) => expect(unpack(pack(v))).toEqual(v)));
    const odd = JSON.parse('{"__proto__": 1, "$array": 5, "$$number": "x"}') as object;
    expect(unpack(pack({ odd, x: new Float32Array([1]) }))).toEqual({ odd, x: new Float32Array([1]) });
  });
  it('stores an array once, however often it is named', () => {
    const a = new Float64Array(1000);
    expect(pack([a, a, a]).byteLength).toBeLessThan(9000);
  });
  it('refuses bytes that are no bundle, wherever they break off', () => {
    const good = pack({ a: new Float32Array(64), b: 'x' });
    for (let node = 0; node < good.byteLength - 8; node += 7)
      expect(() => unpack(good.slice(0, node))).toThrow(BundleError);
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 0, maxLength: 200 }), (b) => {
        expect(() => unpack(b.slice().buffer as ArrayBuffer)).toThrow(BundleError);
      }),
    );
    expect(() => arrayFromBytes(Uint8Array.from([6, 0, 0, 0, 0, 0, 0, 0, 1]))).toThrow(/damaged/);
    expect(arrayFromBytes(arrayBytes(new Int16Array([-5, 7])))).toEqual(new Int16Array([-5, 7]));
  });
});

describe('a stored character', () => {
  it('comes back whole, and a step stores only the arrays it touched', () => {
    const character = castCharacter('deckhand.glb');
    const before = toStored(character);
    const again = fromStored(before.stored, (hash) => before.bytes.get(hash));
    expect(again).toEqual(character);
    const after = toStored(
      remedyById('limit-influences')!.apply(again, { limit: 4, dust: 0 }, undefined as never),
    );
    const fresh = after.stored.arrays.filter((array) => !before.bytes.has(array));
    expect(fresh.length).toBeGreaterThan(0);
    expect(fresh.length).toBeLessThanOrEqual(6);
    expect(() => fromStored(before.stored, () => undefined)).toThrow(/missing/);
  });
});

describe('invariants', () => {
  const good = tube();
  it.each([
    [
      'a parent that is not there',
      { ...good, nodes: good.nodes.map((node, i) => (i === 1 ? { ...node, parent: 9 } : node)) },
      /parent 9/,
    ],
    [
      'a cycle',
      { ...good, nodes: good.nodes.map((node, i) => (i === 0 ? { ...node, parent: 1 } : node)) },
      /cycle/,
    ],
    [
      'a corner beyond the vertices',
      {
        ...good,
        meshes: [
          {
            ...good.meshes[0],
            corners: good.meshes[0].corners.map((corner, i) => (i === 5 ? 9999 : corner)),
          },
        ],
      },
      /names vertex 9999/,
    ],
    [
      'a joint beyond the skin',
      {
        ...good,
        skins: [{ ...good.skins[0], joints: [0], inverseBinds: good.skins[0].inverseBinds.slice(0, 16) }],
      },
      /joint 1 of 1/,
    ],
    [
      'a weight that is no number',
      {
        ...good,
        meshes: [
          {
            ...good.meshes[0],
            influences: {
              ...good.meshes[0].influences!,
              weight: good.meshes[0].influences!.weight.map((weight, i) => (i === 3 ? Number.NaN : weight)),
            },
          },
        ],
      },
      /not finite/,
    ],
  ])('%s is told', (_what, broken, sentence) =>
    expect(brokenInvariants(broken).join('; ')).toMatch(sentence),
  );
  it('nothing is told of a sound one', () => expect(brokenInvariants(good)).toEqual([]));
});

describe('trees of the open standards', () => {
  it('VRM: the same names and parents as @pixiv/three-vrm-core', () => {
    expect(VRM_PARENTS).toEqual(VRMHumanBoneParentMap);
    expect(new Set(VRM_HUMANOID.bones.map((bone) => bone.name))).toEqual(
      new Set(Object.values(VRMHumanBoneName)),
    );
    for (const name of Object.values(VRMRequiredHumanBoneName)) expect(VRM_PARENTS).toHaveProperty(name);
  });
  it('WebXR: the 25 joints of @types/webxr', () => {
    const types = readFileSync(
      path.join(path.dirname(require.resolve('@types/webxr/package.json')), 'index.d.ts'),
      'utf8',
    );
    const joints = [.../type XRHandJoint =([^;]+);/.exec(types)![1].matchAll(/"([^"]+)"/g)].map(
      (match) => match[1],
    );
    expect(joints.length).toBe(25);
    expect(Object.keys(WEBXR_HAND_PARENTS).sort()).toEqual(joints.sort());
  });
  it('H-Anim, level of articulation one: 18 joints (ISO/IEC 19774, from memory)', () =>
    expect(Object.keys(H_ANIM_PARENTS).length).toBe(18));
  it('every parent stands in its own table, and the Quay skeleton reads like a body', () => {
    for (const t of [VRM_PARENTS, H_ANIM_PARENTS, WEBXR_HAND_PARENTS])
      for (const path of Object.values(t)) if (path !== null) expect(t).toHaveProperty(path);
    expect(QUAY.bones.filter((bone) => readName(bone.name).part === '').map((bone) => bone.name)).toEqual([]);
  });
});

describe('names', () => {
  it.each([
    ['L_upperarm', 'upperarm', 'left'],
    ['arm_upper_rt', 'upperarm', 'right'],
    ['LeftLowerArm', 'lowerarm', 'left'],
    ['leftUpperLeg', 'upperleg', 'left'],
    ['r_elbow', 'lowerarm', 'right'],
    ['hips_c', 'pelvis', 'middle'],
    ['rightMiddleProximal', 'long', 'right'],
    ['pinky-finger-phalanx-distal', 'little', 'middle'],
    ['coat_a_1_lt', '', 'left'],
    ['vl5', 'spine', 'middle'],
    ['L_hand_ctrl', '', 'left'],
    ['Shoulder.R', 'collar', 'right'],
  ])('%s says %s, %s', (name, part, side) => expect(readName(name)).toMatchObject({ part, side }));
});

describe('crosswalks', () => {
  const source = skeletonOf(castCharacter('deckhand-clean.glb'));
  it('a fingerprint holds under reordering and changes with a name or a place', () => {
    const order = [...QUAY.bones.keys()].reverse();
    const reordered = {
      ...QUAY,
      bones: order.map((i) => ({
        ...QUAY.bones[i],
        parent: QUAY.bones[i].parent < 0 ? -1 : order.indexOf(QUAY.bones[i].parent),
      })),
    };
    expect(fingerprintOf(reordered)).toBe(fingerprintOf(QUAY));
    expect(
      fingerprintOf({
        ...QUAY,
        bones: QUAY.bones.map((bone, i) => (i === 4 ? { ...bone, name: 'other' } : bone)),
      }),
    ).not.toBe(fingerprintOf(QUAY));
    expect(
      fingerprintOf({
        ...QUAY,
        bones: QUAY.bones.map((bone, i) => (i === 4 ? { ...bone, place: [0, 3, 0] as const } : bone)),
      }),
    ).not.toBe(fingerprintOf(QUAY));
  });
  it('goes to a file and back', () => {
    const crosswalk = suggest(source, QUAY);
    expect(
      crosswalkFromFile(JSON.parse(JSON.stringify(crosswalkToFile(crosswalk, source, QUAY))), source, QUAY),
    ).toEqual(crosswalk);
    expect(() =>
      crosswalkFromFile({ ...crosswalkToFile(crosswalk, source, QUAY), rules: [] }, source, QUAY),
    ).toThrow(/no rule for the bone/);
  });
  it('a second bone on one target folds, and what is left alone carries again', () => {
    const crosswalk = suggest(source, QUAY);
    const [a, b] = ['spine_2', 'spine_3'].map((name) => source.bones.findIndex((bone) => bone.name === name));
    const target = crosswalk[a].target;
    const folded = withRule(crosswalk, b, 'fold', target);
    expect([folded[a].kind, folded[b].kind]).toEqual(['carry', 'fold']);
    const alone = withRule(folded, a, 'release', -1);
    expect(alone[b].kind).toBe('carry');
  });
});

it('content addresses are the same with Node’s own sums and without (FIPS 180-4)', () => {
  // The standard's own example.
  const abc = new TextEncoder().encode('abc');
  expect(addressOf(abc)).toBe('ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad');
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 300 }), (bytes) => {
      expect(addressOf(bytes)).toBe(addressAnywhere(bytes));
    }),
  );
});
