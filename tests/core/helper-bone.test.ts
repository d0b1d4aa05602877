/** Helper bones: half the turn, shared weight alone, fuller limbs when bent, moved by clips as three.js plays them. */
import { parentBone, restPlace } from '@/core/character/hierarchy';
import { placedMeshes } from '@/core/character/measure';
import { type Character, type Clip, positionsOf } from '@/core/character/model';
import { writeGlb } from '@/core/formats/gltf/write';
import { quatAbout, quatConjugate, quatMultiply } from '@/core/geometry/matrix';
import { audit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { sectionWhenBent } from '@/core/motion/helper-bone';
import { castCharacter } from './support/cast';
import { chainTube } from './support/chain';
import { threeGltf, playedTurns } from './support/three-play';

const brief = briefById('handset')!;
const remedy = remedyById('add-helper')!;
const apply = (character: Character, params: object) =>
  remedy.apply(character, remedy.params.cast(params) as Record<string, unknown>, brief);
const clean = castCharacter('deckhand-clean.glb');
const at = (character: Character, name: string) => character.nodes.findIndex((node) => node.name === name);

it.each([
  ['elbow', 'arm_lower_lt', 'arm_lower_half_lt'],
  ['knee', 'leg_lower_rt', 'leg_lower_half_rt'],
])('a bent %s keeps more of its section, the more the farther it is bent', (_, name, helper) => {
  const bone = at(clean, name);
  const after = apply(clean, { bone });
  const made = at(after, helper);
  expect(parentBone(after.nodes, made)).toBe(parentBone(clean.nodes, bone));
  expect(restPlace(after.nodes, made).map((x) => x.toFixed(6))).toEqual(
    restPlace(clean.nodes, bone).map((x) => x.toFixed(6)),
  );
  const [few, many] = [60, 110].map((degrees) => {
    const [before, now] = [
      sectionWhenBent(clean, bone, degrees)!,
      sectionWhenBent(after, bone, degrees, made)!,
    ];
    expect(now).toBeGreaterThan(before);
    return now - before;
  });
  expect(many).toBeGreaterThan(few);
});

it('linear blending of two bones half and half loses half of a section at a right angle, as the closed form says', () => {
  // Half of a point turned by 0 and half by θ about the joint lies at cos(θ/2) of its distance, across the hinge.
  const tube = chainTube(2, 81, 24);
  const mesh = tube.meshes[0];
  const half = {
    ...tube,
    meshes: [
      {
        ...mesh,
        influences: {
          ...mesh.influences!,
          weight: mesh.influences!.weight.map((weight, k) => {
            const { offsets } = mesh.influences!;
            const vertex = offsets.findIndex((end, v) => v > 0 && end > k) - 1;
            const y = positionsOf(mesh)[vertex * 3 + 1];
            return Math.abs(y - 1) < 0.3 ? 0.5 : weight;
          }),
        },
      },
    ],
  };
  for (const degrees of [60, 90])
    expect(sectionWhenBent(half, 1, degrees)).toBeCloseTo(Math.cos((degrees * Math.PI) / 360), 2);
});

it('weights still sum to one, only points that both sides move have it, and seams stay closed', () => {
  const bone = at(clean, 'arm_lower_lt');
  const after = apply(clean, { bone, reach: 0.08 });
  const helper = at(after, 'arm_lower_half_lt');
  const joint = restPlace(clean.nodes, bone);
  let carried = 0;
  for (const { node, mesh, skin, points } of placedMeshes(after)) {
    const own = skin?.joints.indexOf(helper) ?? -1;
    const before = clean.meshes[clean.nodes[node].mesh].influences;
    if (!mesh.influences || !before || own < 0) continue;
    const { offsets, joint: joints, weight } = mesh.influences;
    const byPlace = new Map<string, number>();
    for (let v = 0; v < mesh.vertexCount; v++) {
      let [sum, given] = [0, 0];
      for (let k = offsets[v]; k < offsets[v + 1]; k++) {
        sum += weight[k];
        if (joints[k] === own) given += weight[k];
      }
      let total = 0;
      for (let k = before.offsets[v]; k < before.offsets[v + 1]; k++) total += before.weight[k];
      expect(sum).toBeCloseTo(total, 5);
      const place = points.subarray(v * 3, v * 3 + 3);
      const key = Array.from(place, (x) => x.toFixed(6)).join();
      if (byPlace.has(key)) expect(given).toBeCloseTo(byPlace.get(key)!, 4);
      byPlace.set(key, given);
      if (given > 0) expect(Math.hypot(...joint.map((x, axis) => x - place[axis]))).toBeLessThan(0.24);
      carried += given;
    }
  }
  expect(carried).toBeGreaterThan(1);
});

it('clips turn it half as far as the joint, in three.js', async () => {
  const bone = at(clean, 'arm_lower_lt');
  const rest = clean.nodes[bone].rotation;
  const keys = [0, 0.9, -0.4].flatMap((angle) => [...quatMultiply(rest, quatAbout([0.6, 0.8, 0], angle))]);
  const clip: Clip = {
    name: 'bend',
    channels: [
      {
        node: bone,
        path: 'rotation',
        interpolation: 'LINEAR',
        times: Float32Array.of(0, 1, 2),
        values: Float32Array.from(keys),
      },
    ],
  };
  const after = apply({ ...clean, clips: [clip] }, { bone });
  const gltf = await threeGltf(writeGlb(after).bytes);
  for (const [time, angle] of [
    [0, 0],
    [1, 0.9],
    [0.5, 0.45],
    [1.25, 0.575],
    [1.75, -0.075],
  ] as const) {
    const turns = playedTurns(gltf, gltf, 0, time);
    const above = turns.get('arm_upper_lt')!;
    const local = above.clone().invert().multiply(turns.get('arm_lower_half_lt')!);
    const turned = quatMultiply(quatConjugate(rest), local.toArray());
    const wanted = quatAbout([0.6, 0.8, 0], angle / 2);
    const dot = turned.reduce((sum, x, k) => sum + x * wanted[k], 0);
    expect(Math.abs(dot)).toBeCloseTo(1, 5);
  }
});

it('on both sides it is nothing that any check takes for a fault', () => {
  const both = ['arm_lower_lt', 'arm_lower_rt', 'leg_lower_lt', 'leg_lower_rt'].reduce(
    (character, name) => apply(character, { bone: at(character, name) }),
    clean,
  );
  const told = (character: Character) =>
    audit(character, brief).map(({ check, message }) => `${check}: ${message}`);
  expect(told(both)).toEqual(told(clean));
});

it.each<[string, object, RegExp]>([
  ['at the top', { bone: 0 }, /no bone above it/],
  ['that is gone', { bone: 1e6 }, /not there any more/],
  ['nothing is shared at', { bone: at(clean, 'arm_lower_lt'), reach: 1e-6 }, /No point within/],
])('a joint %s is refused in a sentence', (_, params, why) =>
  expect(() => apply(clean, params)).toThrow(why),
);
