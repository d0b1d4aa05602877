/** A crosswalk saved for one character, offered to another; and why points lie off. */
import { skeletonOf } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { suggest } from '@/core/anatomy/suggest';
import { withRule } from '@/core/anatomy/crosswalk';
import type { Character } from '@/core/character/model';
import { adopt } from '@/core/rooms/crosswalk/adopt';
import { crosswalkToFile } from '@/core/rooms/crosswalk/file';
import { posesFor } from '@/core/rooms/crosswalk/poses';
import { prove } from '@/core/rooms/crosswalk/proof';
import { remap } from '@/core/rooms/crosswalk/remap';
import { worstPoints } from '@/core/rooms/crosswalk/worst';
import { whyOff } from '@/core/rooms/crosswalk/why';
import { castCharacter } from './support/cast';

const clean = castCharacter('deckhand-clean.glb');
const source = skeletonOf(clean);

/** The same with some bones named otherwise, standing a little elsewhere. */
function another(names: Readonly<Record<string, string>>): Character {
  return {
    ...clean,
    nodes: clean.nodes.map((node) => ({
      ...node,
      name: names[node.name] ?? node.name,
      translation: node.kind === 'bone' ? node.translation.map((x) => x * 1.02) : node.translation,
    })),
  };
}

describe('a saved crosswalk', () => {
  const knee = source.bones.findIndex((bone) => bone.name === 'leg_lower_lt');
  const foot = VRM_HUMANOID.bones.findIndex((bone) => bone.name === 'leftFoot');
  const saved = crosswalkToFile(
    withRule(suggest(source, VRM_HUMANOID), knee, 'carry', foot),
    source,
    VRM_HUMANOID,
  );

  it('fits another character of nearly the same skeleton, rule by rule, and says what differs', () => {
    const theirs = skeletonOf(another({ coat_a_1_lt: 'tail_1', coat_b_1_lt: 'tail_2' }));
    const found = adopt([saved], theirs, VRM_HUMANOID)!;
    expect(found.from).toBe(source.title);
    expect(found.added).toEqual(['tail_1', 'tail_2']);
    expect(found.gone).toEqual(['coat_a_1_lt', 'coat_b_1_lt']);
    const mine = theirs.bones.findIndex((bone) => bone.name === 'leg_lower_lt');
    expect(found.crosswalk[mine]).toMatchObject({ kind: 'carry', target: foot, locked: true });
    // What was only suggested is no more locked than it was.
    const spine = theirs.bones.findIndex((bone) => bone.name === 'spine_1');
    expect(found.crosswalk[spine].locked).toBe(false);
    expect(found.crosswalk.map((rule) => rule.source)).toEqual(theirs.bones.map((_, i) => i));
  });
  it('does not fit other skeletons, nor another target', () => {
    expect(adopt([saved], skeletonOf(castCharacter('stoker.dae')), VRM_HUMANOID)).toBe(null);
    const half = Object.fromEntries(
      source.bones.filter((_, i) => i % 2).map((bone) => [bone.name, `other ${bone.name}`]),
    );
    expect(adopt([saved], skeletonOf(another(half)), VRM_HUMANOID)).toBe(null);
    expect(adopt([saved], source, QUAY)).toBe(null);
    expect(adopt([], source, VRM_HUMANOID)).toBe(null);
  });
});

describe('what lies off', () => {
  const crosswalk = suggest(source, VRM_HUMANOID);
  const bone = (name: string) => source.bones.findIndex((bone) => bone.name === name);
  it('has its reason where the skeletons give one', () => {
    expect(whyOff(source, VRM_HUMANOID, crosswalk, bone('spine_2'))).toContain(
      'chest stands for several bones',
    );
    expect(whyOff(source, VRM_HUMANOID, crosswalk, bone('arm_upper_lt'))).toContain(
      'has no bone of its own there',
    );
    expect(whyOff(source, QUAY, suggest(source, QUAY), bone('leg_lower_lt'))).toBe(null);
  });
  it('is listed place by place, the worst first, none beside another', () => {
    const out = remap(clean, VRM_HUMANOID, crosswalk, { limit: 4 });
    const proof = prove(out, posesFor(clean, crosswalk));
    const list = worstPoints(out.character, proof);
    expect(list.length).toBe(8);
    expect(list[0].distance).toBeCloseTo(proof.max, 6);
    list.forEach((point, i) => {
      if (i > 0) expect(point.distance).toBeLessThanOrEqual(list[i - 1].distance);
      expect(proof.poses[point.pose].max).toBeGreaterThanOrEqual(point.distance - 1e-6);
      for (const otherPoint of list.slice(0, i))
        expect(Math.hypot(...point.place.map((x, k) => x - otherPoint.place[k]))).toBeGreaterThan(0.08);
    });
  });
});
