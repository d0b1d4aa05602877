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
    nodes: clean.nodes.map((n) => ({
      ...n,
      name: names[n.name] ?? n.name,
      translation: n.kind === 'bone' ? n.translation.map((x) => x * 1.02) : n.translation,
    })),
  };
}

describe('a saved crosswalk', () => {
  const knee = source.bones.findIndex((b) => b.name === 'leg_lower_lt');
  const foot = VRM_HUMANOID.bones.findIndex((b) => b.name === 'leftFoot');
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
    const mine = theirs.bones.findIndex((b) => b.name === 'leg_lower_lt');
    expect(found.crosswalk[mine]).toMatchObject({ kind: 'carry', target: foot, locked: true });
    // What was only suggested is no more locked than it was.
    const spine = theirs.bones.findIndex((b) => b.name === 'spine_1');
    expect(found.crosswalk[spine].locked).toBe(false);
    expect(found.crosswalk.map((r) => r.source)).toEqual(theirs.bones.map((_, i) => i));
  });
  it('does not fit other skeletons, nor another target', () => {
    expect(adopt([saved], skeletonOf(castCharacter('stoker.dae')), VRM_HUMANOID)).toBe(null);
    const half = Object.fromEntries(
      source.bones.filter((_, i) => i % 2).map((b) => [b.name, `other ${b.name}`]),
    );
    expect(adopt([saved], skeletonOf(another(half)), VRM_HUMANOID)).toBe(null);
    expect(adopt([saved], source, QUAY)).toBe(null);
    expect(adopt([], source, VRM_HUMANOID)).toBe(null);
  });
});

describe('what lies off', () => {
  const walk = suggest(source, VRM_HUMANOID);
  const bone = (name: string) => source.bones.findIndex((b) => b.name === name);
  it('has its reason where the skeletons give one', () => {
    expect(whyOff(source, VRM_HUMANOID, walk, bone('spine_2'))).toContain('chest stands for several bones');
    expect(whyOff(source, VRM_HUMANOID, walk, bone('arm_upper_lt'))).toContain(
      'has no bone of its own there',
    );
    expect(whyOff(source, QUAY, suggest(source, QUAY), bone('leg_lower_lt'))).toBe(null);
  });
  it('is listed place by place, the worst first, none beside another', () => {
    const out = remap(clean, VRM_HUMANOID, walk, { limit: 4 });
    const proof = prove(out, posesFor(clean, walk));
    const list = worstPoints(out.character, proof);
    expect(list.length).toBe(8);
    expect(list[0].distance).toBeCloseTo(proof.max, 6);
    list.forEach((p, i) => {
      if (i > 0) expect(p.distance).toBeLessThanOrEqual(list[i - 1].distance);
      expect(proof.poses[p.pose].max).toBeGreaterThanOrEqual(p.distance - 1e-6);
      for (const q of list.slice(0, i))
        expect(Math.hypot(...p.place.map((x, k) => x - q.place[k]))).toBeGreaterThan(0.08);
    });
  });
});
