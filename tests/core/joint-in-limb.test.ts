/** Joints within their limbs: how far from the middle, where a brief wants them beside it, on the cast and in every habit. */
import { bodyOf } from '@/bench/bodies/body';
import { makeFigure, makeRandom } from '@/bench/match/figures';
import { HABITS } from '@/bench/match/habits';
import { restPlace } from '@/core/character/hierarchy';
import { placedMeshes } from '@/core/character/measure';
import { withJointsAt } from '@/core/character/place-joints';
import { cross, distance, normalise, subtract } from '@/core/geometry/matrix';
import type { Brief } from '@/core/house/brief';
import { briefById } from '@/core/house/briefs';
import { learnBrief } from '@/core/house/learn';
import { previewRemedy } from '@/core/house/preview';
import { checkById, remedyById } from '@/core/house/registry';
import { limbSectionsOf, sharesOff } from '@/core/anatomy/limb-sections';
import { castCharacter } from './support/cast';

const brief = briefById('handset')!;
const check = checkById('joint-in-limb')!;
const clean = castCharacter('deckhand-clean.glb');

it('every joint that is moved off the middle across its limb by half its radius is told as about half', () => {
  // Elbows, wrists, knees, ankles, and a finger of each length.
  for (const section of limbSectionsOf(clean).filter(({ role }, i) => role !== 'knuckle' || i % 5 === 0)) {
    const { bone, middle, radius } = section;
    const parent = restPlace(clean.nodes, clean.nodes[bone].parent);
    const way = normalise(subtract(middle, parent));
    const across = normalise(cross(way, Math.abs(way[1]) < 0.9 ? [0, 1, 0] : [0, 0, 1]));
    const place = [0, 1, 2].map((k) => middle[k] + 0.5 * radius * across[k]) as unknown as typeof middle;
    const moved = withJointsAt(clean, new Map([[bone, place]]));
    const now = limbSectionsOf(moved).find((other) => other.bone === bone)!;
    const share = sharesOff(moved, now, now.middle);
    expect([clean.nodes[bone].name, Math.abs(share - 0.5) < 0.12]).toEqual([clean.nodes[bone].name, true]);
  }
});

it('every joint of the clean Deckhand lies within an eighth of its radius; the nudged one of the other is brought back', () => {
  for (const section of limbSectionsOf(clean))
    expect(sharesOff(clean, section, section.middle)).toBeLessThan(0.125);
  expect(limbSectionsOf(clean).length).toBe(28);
  const delivered = castCharacter('deckhand.glb');
  const findings = check.run(delivered, brief);
  expect(findings.map(({ message }) => message)).toEqual(['“R_pinky_2” stands outside of its limb']);
  const [call] = findings[0].remedies;
  const remedy = remedyById(call.id)!;
  const { after, effects } = previewRemedy(
    remedy,
    delivered,
    remedy.params.cast(call.params) as Record<string, unknown>,
    brief,
  );
  expect([effects.outside, check.run(after, brief)]).toEqual([[], []]);
  placedMeshes(delivered).forEach(({ points, skin }, i) => {
    if (!skin) return;
    const now = placedMeshes(after)[i].points;
    expect(Math.max(...points.map((x, k) => Math.abs(x - now[k])))).toBeLessThan(2e-6);
  });
});

it('where a brief wants knees towards the inside of their bend they are told, and put there', () => {
  const jointPlaces = { ...(brief.jointPlaces as NonNullable<Brief['jointPlaces']>), knees: -0.8 };
  const inside: Brief = { ...brief, jointPlaces };
  const findings = check.run(clean, inside);
  expect(findings.map(({ subject }) => subject.name).sort()).toEqual(['leg_lower_lt', 'leg_lower_rt']);
  const params = findings[0].remedies[0].params as { bone: number; place: [number, number, number] };
  // The knee bends back: its inside lies behind the middle.
  const before = restPlace(clean.nodes, params.bone);
  expect(params.place[2]).toBeLessThan(before[2] - 0.03);
  const knee = limbSectionsOf(clean).find(({ bone }) => bone === params.bone)!;
  expect(distance(params.place, knee.middle)).toBeCloseTo(0.8 * knee.radius, 9);
  const moved = withJointsAt(clean, new Map([[params.bone, params.place]]));
  expect(distance(restPlace(moved.nodes, params.bone), params.place)).toBeLessThan(1e-9);
});

it('a straight finger beside its middle does not tell which side is wanted: only what lies beyond both is told', () => {
  const thumb = ['thumb_1_lt', 'thumb_2_lt', 'thumb_3_lt'].map((name) =>
    clean.nodes.findIndex((node) => node.name === name),
  );
  const { radius } = limbSectionsOf(clean).find(({ bone }) => bone === thumb[1])!;
  const aside = (by: number) =>
    withJointsAt(
      clean,
      new Map(
        thumb.map((bone) => {
          const [x, y, z] = restPlace(clean.nodes, bone);
          return [bone, [x, y + by * radius, z]] as const;
        }),
      ),
    );
  const told = (by: number, knuckles: number) => {
    const jointPlaces = { ...(brief.jointPlaces as NonNullable<Brief['jointPlaces']>), off: 0.4, knuckles };
    return check
      .run(aside(by), { ...brief, jointPlaces })
      .some(({ subject }) => subject.name === 'thumb_2_lt');
  };
  expect([told(0.8, 0), told(0.8, 0.7), told(0.8, -0.7)]).toEqual([true, false, false]);
  expect(told(1.4, 0.7)).toBe(true);
});

it('a learned brief passes its own model; machines, and limbs without flesh, are not asked', () => {
  const { brief: learned } = learnBrief(clean, brief, { id: 'learned', title: 'Learned', about: '' });
  expect(learned.jointPlaces!.off).toBeLessThanOrEqual(brief.jointPlaces!.off);
  expect(check.run(clean, learned)).toEqual([]);
  expect(limbSectionsOf(castCharacter('quay-skeleton.glb'))).toEqual([]);
  expect(limbSectionsOf(castCharacter('capstan.glb'))).toEqual([]);
});

it('of people in every habit a joint out of its limb is found, and no other', () => {
  const random = makeRandom(12);
  let asked = 0;
  for (const habit of HABITS.filter((_, i) => i % 3 === 0)) {
    const body = bodyOf(makeFigure(random, 'human', habit, { stance: 'T', steady: true }));
    expect(check.run(body, brief)).toEqual([]);
    const sections = limbSectionsOf(body);
    const section = sections.find(({ role }) => role === 'knee');
    if (!section) continue;
    const [x, y, z] = restPlace(body.nodes, section.bone);
    const moved = withJointsAt(body, new Map([[section.bone, [x, y, z + 1.4 * section.radius]]]));
    const found = check.run(moved, brief).map(({ subject }) => subject.name);
    expect(found).toContain(body.nodes[section.bone].name);
    expect(found.length).toBeLessThanOrEqual(2);
    asked++;
  }
  expect(asked).toBeGreaterThan(6);
});
