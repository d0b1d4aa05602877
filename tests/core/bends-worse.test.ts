/** What is handed over again is held against how it bent when it was handed over before. */
import type { Character } from '@/core/character/model';
import { type HandedMotion, handedMotionSchema } from '@/core/contracts/handed-motion';
import { USUAL_LIMITS } from '@/core/contracts/trials';
import { audit, checksInMotion } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { bendsWorseCheck } from '@/core/rooms/trials/checks/bends-worse';
import { SEEN_STRETCH, SEEN_VOLUME, handedMotionOf } from '@/core/rooms/trials/handed';
import { trialRows } from '@/core/rooms/trials/rows';
import { castCharacter } from './support/cast';

const brief = briefById('handset')!;
const clean = castCharacter('deckhand-clean.glb');
const handed = handedMotionOf(clean, USUAL_LIMITS);
const worse = (character: Character, since: HandedMotion | null) =>
  audit(character, { ...brief, trials: USUAL_LIMITS }, { checks: [bendsWorseCheck], handedOver: since });

it('what is kept are the figures of the trial, by names, and a docket can hold them', () => {
  const rows = trialRows(clean, USUAL_LIMITS);
  expect(handed.rows.map(({ bone, motion }) => [bone, motion])).toEqual(
    rows.map(({ bone, motion }) => [bone, motion]),
  );
  handed.rows.forEach(({ volume, stretch, to }, i) => {
    if (rows[i].volume === null) expect(volume).toBeNull();
    else expect(volume).toBeCloseTo(rows[i].volume!, 4);
    expect(stretch).toBeCloseTo(rows[i].stretch, 4);
    expect(to).toBeCloseTo(rows[i].to, 4);
  });
  expect(handedMotionSchema.validateSync(JSON.parse(JSON.stringify(handed)), { strict: true })).toEqual(
    handed,
  );
});

it('nothing is worse of what is as it was, and nothing is said where nothing was handed over', () => {
  expect(worse(clean, handed)).toEqual([]);
  expect(worse(clean, null)).toEqual([]);
  expect(checksInMotion(brief)).toContainEqual(expect.objectContaining({ id: 'bends-worse' }));
});

it('an answer from before is not kept: what was handed over may be another now', () => {
  const better = { ...handed, rows: handed.rows.map((row) => ({ ...row, volume: row.volume && 2 })) };
  const options = { checks: [bendsWorseCheck], earlier: { character: clean, findings: [] } };
  const wants = { ...brief, trials: USUAL_LIMITS };
  expect(audit(clean, wants, { ...options, handedOver: better }).length).toBeGreaterThan(5);
});

it('an elbow that was softened is told of with both figures, within the limits of the brief as well', () => {
  const elbow = clean.nodes.findIndex(({ name }) => name === 'arm_lower_rt');
  const softened = remedyById('set-band')!.apply(clean, { bone: elbow, width: 0.2 }, brief);
  const rows = trialRows(softened, USUAL_LIMITS);
  const isWorse = ({ bone, motion, volume, stretch }: (typeof rows)[number]) => {
    const before = handed.rows.find((row) => row.bone === bone && row.motion === motion)!;
    const lost = volume === null || before.volume === null ? 0 : before.volume - volume;
    return lost > SEEN_VOLUME || stretch - before.stretch > SEEN_STRETCH;
  };
  const wanted = [...new Set(rows.filter(isWorse).map(({ bone }) => bone))];
  const found = worse(softened, handed);
  expect(found.map(({ subject }) => subject.name).sort()).toEqual(wanted.sort());
  expect(wanted).toContain('arm_lower_rt');
  const mine = found.find(({ subject }) => subject.name === 'arm_lower_rt')!;
  expect(mine).toMatchObject({ gravity: 'worth', room: 'trials' });
  const bend = handed.rows.find(({ bone, motion }) => bone === 'arm_lower_rt' && motion === 'bend')!;
  expect(mine.expected).toBe(`${Math.round((bend.volume! - SEEN_VOLUME) * 100)} %`);
  expect(mine.message).toMatch(/keeps \d+ % of its volume \(bend, .*; when it was handed over it kept \d+ %/);
  expect(mine.pose!.turns.length).toBeGreaterThan(0);
  // The other way round it got better, which is no finding at that joint.
  const back = worse(clean, handedMotionOf(softened, USUAL_LIMITS));
  expect(back.map(({ subject }) => subject.name)).not.toContain('arm_lower_rt');
});

it('what was skinned otherwise, went elsewhere, or has no name of its own is not held against it, and that is said', () => {
  const lowered = (rows: HandedMotion['rows']) => rows.map((row) => ({ ...row, volume: 2, stretch: 0.1 }));
  const all = { ...handed, rows: lowered(handed.rows) };
  expect(worse(clean, all).length).toBeGreaterThan(5);
  const others: readonly HandedMotion[] = [
    { ...all, skinning: 'dual-quaternion' },
    { ...all, rows: all.rows.map((row) => ({ ...row, to: row.to + 5 })) },
    { ...all, rows: all.rows.map((row) => ({ ...row, bone: `${row.bone} that is gone` })) },
    { ...all, rows: [...all.rows, ...all.rows] },
  ];
  for (const other of others) {
    const found = worse(clean, other);
    expect(found.map(({ gravity, count }) => [gravity, count])).toEqual([['note', other.rows.length]]);
    expect(found[0].message).toMatch(
      /^\d+ of \d+ motions that were tried when it was handed over are not held/,
    );
  }
  // Of one alone it is said of that one.
  const [first, ...rest] = handed.rows;
  const one = worse(clean, { ...handed, rows: [{ ...first, to: first.to + 5 }, ...rest] });
  expect(one.map(({ gravity, count }) => [gravity, count])).toEqual([['note', 1]]);
});
