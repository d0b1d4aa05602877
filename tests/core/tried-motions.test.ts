/** What a brief has a figure tried in: ranges of its own, and poses of several joints at once. */
import { Matrix4, Object3D, Quaternion, Vector3 } from 'three';
import { restWorld } from '@/core/character/hierarchy';
import { jointMotionsOf, turnsOfMotion } from '@/core/anatomy/joint-motions';
import { type JointPart, MOTIONS_OF } from '@/core/anatomy/joint-ranges';
import { TRIALS, USUAL_LIMITS, type TrialLimits } from '@/core/contracts/trials';
import { audit, checksInMotion } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { decompose, quatConjugate, quatRotate } from '@/core/geometry/matrix';
import { posedWorld } from '@/core/motion/pose';
import { trialsOf } from '@/core/rooms/trials/findings';
import { isLookedAtForClashes, triedMotions } from '@/core/rooms/trials/motions';
import { trialRows } from '@/core/rooms/trials/rows';
import { cleanHeron } from '@/demo/heron';
import { castCharacter } from './support/cast';

const clean = castCharacter('deckhand-clean.glb');
const node = (name: string) => clean.nodes.findIndex((one) => one.name === name);
const CROUCH: TrialLimits['poses'] = [
  { pose: 'crouch', part: 'upperleg', side: 'both', motion: 'swing forward', degrees: 100 },
  { pose: 'crouch', part: 'lowerleg', side: 'both', motion: 'bend', degrees: 120 },
  { pose: 'crouch', part: 'foot', side: 'both', motion: 'up', degrees: 15 },
];
const REACH: TrialLimits['poses'] = [
  { pose: 'over the shoulder', part: 'upperarm', side: 'left', motion: 'raise sideways', degrees: 150 },
  { pose: 'over the shoulder', part: 'upperarm', side: 'left', motion: 'turn out', degrees: 60 },
  { pose: 'over the shoulder', part: 'lowerarm', side: 'left', motion: 'bend', degrees: 110 },
];
const wishing = (more: Partial<TrialLimits>): TrialLimits => ({ ...USUAL_LIMITS, ...more });
const motionsOf = (limits: TrialLimits, name: string) =>
  triedMotions(clean, limits).filter(({ motion }) => motion === name);

/** How far a joint ends in a motion, degrees; none where it is not tried in it. */
const ends = (limits: TrialLimits, bone: string, name: string) =>
  motionsOf(limits, name).find((one) => one.bone === node(bone))?.degrees;

describe('ranges of a brief', () => {
  it('end a motion of a joint, on both sides; all others go by the share that is asked for', () => {
    const limits = wishing({ reach: 0.5, ranges: [{ part: 'lowerarm', motion: 'bend', degrees: 90 }] });
    expect([ends(limits, 'arm_lower_lt', 'bend'), ends(limits, 'arm_lower_rt', 'bend')]).toEqual([90, 90]);
    const [whole, half] = [USUAL_LIMITS, limits].map((one) => ends(one, 'leg_upper_lt', 'swing forward'));
    expect(half).toBeCloseTo(whole! / 2, 5);
    const last = trialsOf(clean, limits)
      .find(({ motion }) => motion.bone === node('arm_lower_lt'))!
      .samples.at(-1);
    expect(last?.degrees).toBe(90);
  });
  it('a bird’s thighs go to and fro a little, and it has shins all the same', () => {
    const heron = cleanHeron(1);
    const thighs = triedMotions(heron, USUAL_LIMITS).filter(({ part }) => part === 'upperleg');
    expect(new Set(thighs.map(({ motion }) => motion))).toEqual(
      new Set(['swing forward', 'swing back', 'spread']),
    );
    expect(Math.max(...thighs.map(({ degrees }) => degrees))).toBe(40);
    expect(triedMotions(heron, USUAL_LIMITS).some(({ part }) => part === 'lowerleg')).toBe(true);
  });
  it('of nothing leave it out', () => {
    const limits = wishing({ ranges: [{ part: 'lowerleg', motion: 'bend', degrees: 0 }] });
    expect(ends(USUAL_LIMITS, 'leg_lower_lt', 'bend')).toBeGreaterThan(100);
    expect(ends(limits, 'leg_lower_lt', 'bend')).toBeUndefined();
  });
  it('may name all that joints do, and nothing else: the lists of both agree', () => {
    const made = new Map<string, Set<string>>();
    // An arm that hangs is raised and not lowered; one in a T the other way round.
    for (const character of [clean, castCharacter('stoker.dae')])
      for (const { part, motion, isInLife } of jointMotionsOf(character))
        if (isInLife) made.set(part, new Set([...(made.get(part) ?? []), motion]));
    for (const [part, names] of made)
      expect([part, [...names].filter((name) => !MOTIONS_OF[part as JointPart]?.includes(name))]).toEqual([
        part,
        [],
      ]);
    const unmade = Object.entries(MOTIONS_OF).flatMap(([part, names]) =>
      names.filter((name) => !made.get(part)?.has(name)).map((name) => `${part} ${name}`),
    );
    expect(unmade).toEqual([]);
  });
  it('what a joint does not do is refused, by its name', () => {
    const asking = (motion: string) =>
      TRIALS.validate({ ranges: [{ part: 'lowerarm', motion, degrees: 90 }] });
    return Promise.all([
      expect(asking('bend')).resolves.toMatchObject({ ranges: [{ motion: 'bend' }] }),
      expect(asking('spread')).rejects.toThrow('the elbow does not “spread”; it has: bend'),
    ]);
  });
});

describe('poses of several joints', () => {
  it.each([
    ['crouch', CROUCH],
    ['over the shoulder', REACH],
  ])('%s: what a joint hangs on carries it along (three.js scene graph)', (name, poses) => {
    const [motion] = motionsOf(wishing({ poses }), name);
    const mine = posedWorld(clean, turnsOfMotion(motion, motion.degrees));
    const objects = clean.nodes.map(({ translation, rotation, scale }) => {
      const object = new Object3D();
      object.position.fromArray(translation as unknown as number[]);
      object.quaternion.fromArray(rotation as unknown as number[]);
      object.scale.fromArray(scale as unknown as number[]);
      return object;
    });
    clean.nodes.forEach(({ parent }, i) => parent >= 0 && objects[parent].add(objects[i]));
    // The same turns, each about the axis as it lies in the bone's own frame at rest.
    for (const { bone, share, axis } of motion.joints) {
      const { rotation } = decompose(restWorld(clean.nodes), bone * 16);
      const own = new Vector3(...quatRotate(quatConjugate(rotation), axis!));
      const radians = (motion.degrees * share * Math.PI) / 180;
      objects[bone].quaternion.multiply(new Quaternion().setFromAxisAngle(own, radians));
    }
    clean.nodes.forEach(({ parent }, i) => parent < 0 && objects[i].updateMatrixWorld(true));
    expect(motion.joints.length).toBeGreaterThan(3);
    const sides = new Set(motion.joints.map(({ bone }) => clean.nodes[bone].name.slice(-3)));
    expect([...sides].sort()).toEqual(poses[0].side === 'both' ? ['_lt', '_rt'] : ['_lt']);
    objects.forEach((object, i) => {
      const theirs = new Matrix4().copy(object.matrixWorld).elements;
      theirs.forEach((number, k) => expect(mine[i * 16 + k]).toBeCloseTo(number, 5));
    });
  });

  it('a crouch brings the heels back under, the knees before them', () => {
    const [motion] = motionsOf(wishing({ poses: CROUCH }), 'crouch');
    const posed = posedWorld(clean, turnsOfMotion(motion, motion.degrees));
    const at = (name: string, axis: number) => posed[node(name) * 16 + 12 + axis];
    for (const side of ['lt', 'rt']) {
      expect(at(`leg_lower_${side}`, 2) - at(`leg_upper_${side}`, 2)).toBeGreaterThan(0.3);
      expect(at(`leg_upper_${side}`, 1) - at(`foot_${side}`, 1)).toBeLessThan(0.45);
      expect(at(`foot_${side}`, 2)).toBeLessThan(at(`leg_lower_${side}`, 2) - 0.1);
    }
  });

  it('are told at every joint that turns, looked at once for what goes through what', () => {
    const motions = motionsOf(wishing({ poses: CROUCH }), 'crouch');
    expect(motions.map(({ bone }) => clean.nodes[bone].name).sort()).toEqual(
      ['foot', 'leg_lower', 'leg_upper'].flatMap((part) => [`${part}_lt`, `${part}_rt`]),
    );
    expect(motions.filter(isLookedAtForClashes)).toHaveLength(1);
    const rows = trialRows(clean, wishing({ poses: CROUCH })).filter(({ motion }) => motion === 'crouch');
    // A knee in a crouch bends as it does by itself: nothing else of the crouch reaches its flesh.
    const alone = trialRows(
      clean,
      wishing({ ranges: [{ part: 'lowerleg', motion: 'bend', degrees: 120 }] }),
    ).find(({ bone, motion }) => bone === 'leg_lower_lt' && motion === 'bend')!;
    const knee = rows.find(({ bone }) => bone === 'leg_lower_lt')!;
    expect(knee.volume).toBeCloseTo(alone.volume!, 2);
    // Both sides keep alike.
    for (const row of rows) {
      const other = rows.find(({ bone }) => bone === row.bone.replace(/_lt$/, '_rt'))!;
      expect(Math.abs((row.volume ?? 1) - (other.volume ?? 1))).toBeLessThan(0.03);
    }
  });

  it('become findings that stand in them, under their name', () => {
    const brief = {
      ...briefById('handset')!,
      trials: wishing({ volume: 0.66, reach: 0.05, poses: CROUCH }),
    };
    const found = audit(clean, brief, { checks: checksInMotion(brief) });
    const knee = found.find(
      ({ check, subject }) => check === 'volume-lost' && subject.name === 'leg_lower_lt',
    )!;
    expect(knee.message).toContain('(crouch)');
    expect(knee.pose?.words).toBe('crouch');
    expect(knee.pose!.turns.length).toBeGreaterThan(5);
    expect(
      audit(
        clean,
        { ...brief, trials: wishing({ volume: 0.66, reach: 0.05 }) },
        { checks: checksInMotion(brief) },
      ),
    ).toEqual([]);
  });

  it('of joints that a character does not have are none', () => {
    const capstan = castCharacter('capstan.glb');
    expect(
      triedMotions(capstan, wishing({ poses: CROUCH })).filter(({ motion }) => motion === 'crouch'),
    ).toEqual([]);
  });
});
