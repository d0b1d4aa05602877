/** How thick limbs are at their joints, and how far joints turn. */
import { farthestTurn, trialTurn, usualTurn } from '@/core/anatomy/joint-ranges';
import { limbThickness } from '@/core/anatomy/limb-thickness';
import { meaningOf } from '@/core/anatomy/bones';
import { restWorld } from '@/core/character/hierarchy';
import { underSimilarity, STILL } from '@/core/character/similarity';
import { decompose, quatConjugate, quatMultiply } from '@/core/geometry/matrix';
import { trialPoses } from '@/core/rooms/crosswalk/poses';
import { castCharacter } from './support/cast';
import { chainTube } from './support/chain';

const bone = (part: string) => ({ part, kind: 'bone' });
const DEGREES = 180 / Math.PI;

describe('the thickness of a limb', () => {
  it.each([0.05, 0.12, 0.4])(
    'of a tube of radius %d is twice that at every joint (closed form)',
    (radius) => {
      const thickness = limbThickness(chainTube(4, 41, 16, radius));
      expect([...thickness.keys()].sort()).toEqual([1, 2, 3]);
      for (const t of thickness.values()) expect(t).toBeCloseTo(2 * radius, 6);
    },
  );
  it('goes with the figure, and tells a finger from a knee', () => {
    const character = castCharacter('deckhand-clean.glb');
    const twice = limbThickness(underSimilarity(character, { ...STILL, scale: 2 }));
    const once = limbThickness(character);
    for (const [b, t] of once) expect(twice.get(b)! / t).toBeCloseTo(2, 4);
    const at = (name: string) => once.get(character.nodes.findIndex((node) => node.name === name))!;
    // Made-up body: about what a tape would tell of its forms.
    expect([at('point_2_lt') < 0.03, at('leg_lower_lt') > 0.1, at('arm_lower_lt') > 0.08]).toEqual([
      true,
      true,
      true,
    ]);
  });
});

describe('how far joints turn', () => {
  // AAOS norms, from memory.
  it.each([
    ['upperarm', 180],
    ['lowerarm', 150],
    ['hand', 80],
    ['upperleg', 120],
    ['lowerleg', 135],
    ['foot', 50],
    ['neck', 60],
    ['spine', 80],
  ])('a slider turns %s by up to %d° (American Academy of Orthopaedic Surgeons)', (part, degrees) =>
    expect(farthestTurn(bone(part))).toBe(degrees),
  );
  it('what nothing is known of is turned farther by hand, and in a trial as far as is asked', () => {
    expect(farthestTurn({ part: '', kind: 'bone' })).toBe(120);
    expect(trialTurn({ part: '', kind: 'bone' }, 0.7)).toBe(0.7);
    expect(trialTurn(bone('lowerarm'), 0.7)).toBe(0.7);
    expect(trialTurn(bone('spine'), 0.7)).toBe(usualTurn(bone('spine')));
  });
  it('no bone of the Deckhand is turned farther in a trial than it turns in life, nor than 40°', () => {
    const character = castCharacter('deckhand-clean.glb');
    const rest = restWorld(character.nodes);
    let least = 90;
    for (const { world, turned } of trialPoses(character).filter((pose) => pose.turned.length === 1)) {
      const [b] = turned;
      const turn = quatMultiply(
        decompose(world, b * 16).rotation,
        quatConjugate(decompose(rest, b * 16).rotation),
      );
      const degrees = 2 * Math.acos(Math.min(1, Math.abs(turn[3]))) * DEGREES;
      expect(degrees).toBeCloseTo(trialTurn(meaningOf(character, b), 40 / DEGREES) * DEGREES, 1);
      least = Math.min(least, degrees);
    }
    // The spine bends by a fifth of what all of it does.
    expect(least).toBeLessThan(20);
  });
});
