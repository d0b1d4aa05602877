/** Limbs turned and lengthened at rest, with the skin or without it, and bones put in. */
import { Object3D, Quaternion, Vector3 } from 'three';
import { restPlace, restWorld } from '@/core/character/hierarchy';
import { brokenInvariants } from '@/core/character/invariants';
import { placedMeshes } from '@/core/character/measure';
import type { Character } from '@/core/character/model';
import { distance } from '@/core/geometry/matrix';
import { briefById } from '@/core/house/briefs';
import { previewRemedy } from '@/core/house/preview';
import { remedyById } from '@/core/house/registry';
import { clipWorld } from '@/core/motion/pose';
import { castCharacter } from './support/cast';
import { threeDeformed } from './support/three';

const brief = briefById('handset')!;
const clean = castCharacter('deckhand-clean.glb');
const at = (character: Character, name: string) => character.nodes.findIndex((node) => node.name === name);
const placeOf = (character: Character, name: string) => restPlace(character.nodes, at(character, name));
const done = (character: Character, id: string, params: Readonly<Record<string, unknown>>) => {
  const remedy = remedyById(id)!;
  const preview = previewRemedy(
    remedy,
    character,
    remedy.params.cast(params) as Record<string, unknown>,
    brief,
  );
  expect(preview.effects.outside).toEqual([]);
  expect(brokenInvariants(preview.after)).toEqual([]);
  return preview;
};
const pointsOf = (character: Character) => placedMeshes(character).map(({ points }) => points);
const farthest = (a: ArrayLike<number>, b: ArrayLike<number>) =>
  Math.max(...Array.from({ length: a.length }, (_, i) => Math.abs(a[i] - b[i])));

/** Node worlds as three.js has them with some nodes turned about their own joints, about an axis of the world. */
function threeWorld(character: Character, turned: readonly (readonly [string, number])[]): Float64Array {
  const objects = character.nodes.map((node) => {
    const object = new Object3D();
    object.position.fromArray(node.translation);
    object.quaternion.fromArray([...node.rotation]);
    object.scale.fromArray(node.scale);
    return object;
  });
  const root = new Object3D();
  character.nodes.forEach(({ parent }, i) => (parent < 0 ? root : objects[parent]).add(objects[i]));
  root.updateMatrixWorld(true);
  for (const [name, degrees] of turned) {
    const object = objects[at(character, name)];
    const parent = object.parent!.getWorldQuaternion(new Quaternion());
    const local = new Vector3(0, 0, 1).applyQuaternion(parent.invert());
    object.quaternion.premultiply(new Quaternion().setFromAxisAngle(local, (degrees * Math.PI) / 180));
  }
  root.updateMatrixWorld(true);
  return Float64Array.from(objects.flatMap((object) => object.matrixWorld.elements));
}

describe('a limb turned at rest', () => {
  const params = { bone: at(clean, 'arm_upper_lt'), about: 'world-z', angle: -40, twin: true };

  it('with the skin: every point where three.js skins it, both sides as mirror images, clips as before', () => {
    const { after } = done(clean, 'turn-limb', { ...params, skin: 'along' });
    const wanted = threeWorld(clean, [
      ['arm_upper_lt', -40],
      ['arm_upper_rt', 40],
    ]);
    clean.nodes.forEach(({ mesh, skin, name }, node) => {
      if (mesh < 0 || skin < 0) return;
      const { data } = after.meshes[after.nodes[node].mesh].attributes.POSITION;
      expect([name, farthest(threeDeformed(clean, node, wanted), data)]).toEqual([
        name,
        expect.closeTo(0, 5),
      ]);
    });
    expect(farthest(restWorld(after.nodes), wanted)).toBeLessThan(1e-6);
    for (const time of [0, 0.7, 1.4])
      expect(
        farthest(clipWorld(clean, clean.clips[0], time), clipWorld(after, after.clips[0], time)),
      ).toBeLessThan(1e-6);
  });

  it('without it: the bones turn and no point moves', () => {
    const { after } = done(clean, 'turn-limb', { ...params, skin: 'stays', twin: false });
    pointsOf(after).forEach((points, i) => {
      if (clean.nodes[placedMeshes(clean)[i].node].skin < 0) return;
      expect(farthest(points, pointsOf(clean)[i])).toBeLessThan(2e-6);
    });
    const wanted = threeWorld(clean, [['arm_upper_lt', -40]]);
    expect(farthest(restWorld(after.nodes), wanted)).toBeLessThan(1e-6);
  });

  it('what cannot be done is said', () => {
    expect(() => done(clean, 'turn-limb', { ...params, angle: 0 })).toThrow(/changes nothing/);
    expect(() => done(clean, 'turn-limb', { bone: at(clean, 'head'), twin: true })).toThrow(/has no twin/);
  });
});

describe('bones made longer', () => {
  const forearm = at(clean, 'arm_lower_lt');
  const from = placeOf(clean, 'arm_lower_lt');
  const length = distance(from, placeOf(clean, 'hand_lt'));

  it('the next joint goes along the way, what hangs on it goes with it whole, nothing is scaled', () => {
    const { after, rows } = done(clean, 'lengthen-limb', { bones: [forearm], percent: 125, twins: true });
    expect(rows.map(({ label }) => label)).toContain('arm_lower_rt');
    const hand = placeOf(after, 'hand_lt');
    expect(distance(from, hand)).toBeCloseTo(1.25 * length, 6);
    const [left, right] = [hand, placeOf(after, 'hand_rt')];
    expect(distance(left, [-right[0], right[1], right[2]])).toBeLessThan(1e-6);
    expect(distance(hand, placeOf(after, 'long_3_lt'))).toBeCloseTo(
      distance(placeOf(clean, 'hand_lt'), placeOf(clean, 'long_3_lt')),
      6,
    );
    for (const { scale } of after.nodes) expect(scale).toEqual([1, 1, 1]);
  });

  it('the skin: what the hand carries whole goes as far as the hand, what the bone carries whole stretches by its share', () => {
    const { after } = done(clean, 'lengthen-limb', { bones: [forearm], percent: 125 });
    const axis = [0, 1, 2].map((k) => (placeOf(clean, 'hand_lt')[k] - from[k]) / length);
    let [carried, stretched] = [0, 0];
    placedMeshes(clean).forEach(({ mesh, skin, points }, i) => {
      if (!skin || !mesh.influences) return;
      const now = pointsOf(after)[i];
      const { offsets, joint } = mesh.influences;
      for (let vertex = 0; vertex < mesh.vertexCount; vertex++) {
        if (offsets[vertex + 1] - offsets[vertex] !== 1) continue;
        const { name } = clean.nodes[skin.joints[joint[offsets[vertex]]]];
        const p = points.subarray(vertex * 3, vertex * 3 + 3);
        const moved = [0, 1, 2].map((k) => now[vertex * 3 + k] - p[k]);
        let by = 0;
        if (/^(hand|thumb|point|long|ring|small).*_lt$/.test(name)) by = 0.25 * length;
        else if (/^(arm_lower|wrist_twist)_lt$/.test(name))
          by = 0.25 * axis.reduce((sum, a, k) => sum + a * (p[k] - from[k]), 0);
        else if (/^(arm|wrist|collar|spine)/.test(name) === false && Math.hypot(...moved) < 1e-6) continue;
        moved.forEach((x, k) => expect(Math.abs(x - by * axis[k])).toBeLessThan(2e-6));
        if (by === 0.25 * length) carried++;
        else if (by !== 0) stretched++;
      }
    });
    expect(carried).toBeGreaterThan(50);
    expect(stretched).toBeGreaterThan(0);
  });

  it('two bones of one limb at once: what the lower one carries goes along with the upper one, and stretches besides', () => {
    const both = [at(clean, 'arm_upper_lt'), forearm];
    const { after } = done(clean, 'lengthen-limb', { bones: both, percent: 125 });
    const elbow = [0, 1, 2].map((k) => placeOf(after, 'arm_lower_lt')[k] - from[k]);
    expect(Math.hypot(...elbow)).toBeGreaterThan(0.05);
    const axis = [0, 1, 2].map((k) => (placeOf(clean, 'hand_lt')[k] - from[k]) / length);
    let seen = 0;
    placedMeshes(clean).forEach(({ mesh, skin, points }, i) => {
      if (!skin || !mesh.influences) return;
      const now = pointsOf(after)[i];
      const { offsets, joint } = mesh.influences;
      for (let vertex = 0; vertex < mesh.vertexCount; vertex++) {
        if (offsets[vertex + 1] - offsets[vertex] !== 1) continue;
        const { name } = clean.nodes[skin.joints[joint[offsets[vertex]]]];
        if (name !== 'wrist_twist_lt' && name !== 'arm_lower_lt') continue;
        const p = points.subarray(vertex * 3, vertex * 3 + 3);
        const by = 0.25 * axis.reduce((sum, a, k) => sum + a * (p[k] - from[k]), 0);
        for (let k = 0; k < 3; k++)
          expect(Math.abs(now[vertex * 3 + k] - p[k] - elbow[k] - by * axis[k])).toBeLessThan(5e-6);
        seen++;
      }
    });
    expect(seen).toBeGreaterThan(0);
  });

  it('or the skin stays where it is', () => {
    const { after } = done(clean, 'lengthen-limb', { bones: [forearm], percent: 80, skin: 'stays' });
    expect(distance(from, placeOf(after, 'hand_lt'))).toBeCloseTo(0.8 * length, 6);
    placedMeshes(clean).forEach(({ skin, points }, i) => {
      if (skin) expect(farthest(points, pointsOf(after)[i])).toBeLessThan(2e-6);
    });
  });

  it('a bone without an end has no length to change', () =>
    expect(() => done(clean, 'lengthen-limb', { bones: [at(clean, 'cap')] })).toThrow(
      /no bone behind it that says how long it is/,
    ));
});

describe('a bone put in', () => {
  const under = at(clean, 'leg_lower_lt');

  it('half way along, with its twin as mirror image; no point moves', () => {
    const { after, effects } = done(clean, 'add-bone', { under, name: 'garter_lt', share: 0.5, twin: true });
    expect(effects.largestMove).toBe(0);
    const middle = placeOf(after, 'garter_lt');
    const [knee, foot] = [placeOf(clean, 'leg_lower_lt'), placeOf(clean, 'foot_lt')];
    middle.forEach((x, k) => expect(x).toBeCloseTo((knee[k] + foot[k]) / 2, 9));
    const other = placeOf(after, 'garter_rt');
    expect(distance(middle, [-other[0], other[1], other[2]])).toBeLessThan(1e-9);
    expect(after.nodes[after.nodes[at(after, 'garter_rt')].parent].name).toBe('leg_lower_rt');
  });

  it('within the chain on both sides: what came next hangs under it, and every clip goes as before', () => {
    const { after } = done(clean, 'add-bone', { under, name: 'shin_2_lt', split: true, twin: true });
    for (const side of ['lt', 'rt'])
      expect(after.nodes[after.nodes[at(after, `foot_${side}`)].parent].name).toBe(`shin_2_${side}`);
    const before = clipWorld(clean, clean.clips[0], 0.6);
    const now = clipWorld(after, after.clips[0], 0.6).subarray(0, before.length);
    expect(farthest(before, now)).toBeLessThan(1e-6);
  });

  it('at a place of its own; names that are taken, and twins without a side, are refused', () => {
    const place = [0.3, 1, 0.2];
    const { after } = done(clean, 'add-bone', { under, name: 'pouch', place });
    expect(distance(placeOf(after, 'pouch'), place as never)).toBeLessThan(1e-9);
    expect(() => done(clean, 'add-bone', { under, name: 'head' })).toThrow(/is called “head” already/);
    expect(() => done(clean, 'add-bone', { under, name: 'pouch', twin: true })).toThrow(/says no side/);
  });
});
