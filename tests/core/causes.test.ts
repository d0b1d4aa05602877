/** Which pair a deviation comes from: the change of one pair that takes most of it away. */
import { type Crosswalk, isByHand, withRule } from '@/core/anatomy/crosswalk';
import { type Skeleton, skeletonOf } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { suggest } from '@/core/anatomy/suggest';
import { sampleCharacter } from '@/core/character/sample';
import { finish } from '@/core/motion/example';
import { causesOf, withCauseRemoved } from '@/core/rooms/crosswalk/causes';
import { posesFor } from '@/core/rooms/crosswalk/poses';
import { prove } from '@/core/rooms/crosswalk/proof';
import { remap } from '@/core/rooms/crosswalk/remap';
import { worstPoints } from '@/core/rooms/crosswalk/worst';
import { castCharacter } from './support/cast';

const ALLOWED = 0.002;
const boneOf = ({ bones }: Skeleton, name: string) => bones.findIndex((bone) => bone.name === name);

/** A member of the cast with a share of its points, tried on a skeleton. */
function tryOn(file: string, target: Skeleton) {
  const character = sampleCharacter(castCharacter(file), { inAll: 1500 }).character;
  const source = skeletonOf(character);
  const right = suggest(source, target);
  const provedBy = (crosswalk: Crosswalk) => {
    const moved = remap(character, target, crosswalk, { limit: 4 });
    const poses = posesFor(moved.reference, crosswalk);
    return { moved, poses, proof: prove(moved, poses) };
  };
  const causes = (crosswalk: Crosswalk) => {
    const { poses, proof } = provedBy(crosswalk);
    return finish(causesOf(character, target, crosswalk, { limit: 4 }, { poses, proof, allowed: ALLOWED }));
  };
  return { source, right, provedBy, causes };
}

describe('the likely cause of a deviation', () => {
  it.each([
    ['deckhand-clean.glb', QUAY, 'arm_lower_lt', 'leg_upper_rt'],
    ['deckhand-clean.glb', VRM_HUMANOID, 'head', 'rightFoot'],
    ['stoker.dae', QUAY, 'LeftShin', 'arm_upper_lt'],
  ] as const)(
    '%s: one wrong pair set by hand is named, with what it should be',
    (file, target, name, onto) => {
      const { source, right, provedBy, causes } = tryOn(file, target);
      const bone = boneOf(source, name);
      const wrong = withRule(right, bone, 'carry', boneOf(target, onto));
      const [first] = causes(wrong);
      expect(first).toMatchObject({ source: bone, isByHand: true, instead: { target: right[bone].target } });
      expect(first.taken).toBeGreaterThan(0.5);
      const mended = withCauseRemoved(wrong, target, first);
      expect(isByHand(mended[bone])).toBe(true);
      expect(provedBy(mended).proof.rms).toBeLessThan(0.5 * provedBy(wrong).proof.rms);
    },
  );
  it('two wrong pairs are both named, and no place of the body fills the list of the worst', () => {
    const { source, right, provedBy, causes } = tryOn('deckhand-clean.glb', QUAY);
    const [a, b] = [boneOf(source, 'arm_lower_lt'), boneOf(source, 'foot_rt')];
    const wrong = withRule(
      withRule(right, a, 'carry', boneOf(QUAY, 'leg_upper_rt')),
      b,
      'carry',
      boneOf(QUAY, 'hand_rt'),
    );
    expect(new Set(causes(wrong).map((cause) => cause.source))).toEqual(new Set([a, b]));
    const { moved, proof } = provedBy(wrong);
    const bones = worstPoints(moved.character, proof).map((point) => point.bone);
    expect(bones.length).toBeGreaterThan(3);
    for (const name of bones) expect(bones.filter((bone) => bone === name).length).toBeLessThanOrEqual(2);
  });
  it('of pairs that are right none is blamed, set by hand or not, also where the skeleton itself costs something', () => {
    for (const target of [QUAY, VRM_HUMANOID]) {
      const { right, causes } = tryOn('deckhand-clean.glb', target);
      expect(causes(right)).toEqual([]);
      const byHand = right.reduce(
        (crosswalk, rule) =>
          rule.kind === 'carry' ? withRule(crosswalk, rule.source, 'carry', rule.target) : crosswalk,
        right,
      );
      expect(causes(byHand)).toEqual([]);
    }
  });
});
