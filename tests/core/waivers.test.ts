/** Findings that are accepted: what holds, what has grown, what is no longer needed. */
import fc from 'fast-check';
import type { Finding } from '@/core/contracts/finding';
import {
  type Waiver,
  applyWaivers,
  hasGrown,
  waiverFile,
  waiverFor,
  waiversFrom,
} from '@/core/contracts/waiver';
import { audit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { castCharacter } from './support/cast';

const brief = briefById('handset')!;
const findings = audit(castCharacter('deckhand.glb'), brief);
const said = { reason: 'agreed with the lead', by: 'R. Lindqvist' };
const TODAY = '2026-11-26';

it('sets findings apart, each once, and leaves the others as they are', () => {
  fc.assert(
    fc.property(fc.subarray([...findings]), (some) => {
      const waivers = some.length > 0 ? [waiverFor(some, said)] : [];
      const { open, waived, notes } = applyWaivers(findings, waivers, { today: TODAY });
      expect(waived.map((w) => w.finding)).toEqual(findings.filter((f) => some.includes(f)));
      expect(open).toEqual(findings.filter((f) => !some.includes(f)));
      expect(notes).toEqual([]);
    }),
  );
});

it('holds over a new audit of the same, and is no longer needed where the finding is gone', () => {
  const waiver = waiverFor(findings, said);
  expect(applyWaivers(audit(castCharacter('deckhand.glb'), brief), [waiver], { today: TODAY }).open).toEqual(
    [],
  );
  const clean = audit(castCharacter('deckhand-clean.glb'), brief);
  const { notes, waived } = applyWaivers(clean, [waiver], { today: TODAY });
  expect(waived).toEqual([]);
  expect(notes.map((n) => n.state)).toEqual(findings.map(() => 'idle'));
});

it('what has grown is open again: of more things, or farther from what is wanted; what has shrunk stays waived', () => {
  const one = { measured: 1.9, expected: 1.76, count: 1 };
  expect(hasGrown(one, { measured: 1.9, count: 1 })).toBe(false);
  expect(hasGrown(one, { measured: 1.85, count: 1 })).toBe(true);
  // As far off on the other side is no more than was accepted.
  expect(hasGrown({ ...one, measured: 1.62 }, { measured: 1.9, count: 1 })).toBe(false);
  expect(hasGrown({ ...one, measured: 1.6 }, { measured: 1.9, count: 1 })).toBe(true);
  expect(hasGrown({ ...one, count: 3 }, { measured: 1.9, count: 2 })).toBe(true);
  expect(hasGrown({ measured: 'bent', expected: 'straight', count: 1 }, { measured: 'bent', count: 1 })).toBe(
    false,
  );
  const waiver = waiverFor(findings, said);
  const worse = findings.map((f): Finding => ({ ...f, count: f.count + 1 }));
  const { open, notes } = applyWaivers(worse, [waiver], { today: TODAY });
  expect([open.length, new Set(notes.map((n) => n.state))]).toEqual([findings.length, new Set(['grown'])]);
});

it('holds to the end of its last day, and one that is over may be covered by another', () => {
  const [first] = findings;
  const until = (day: string): Waiver => waiverFor([first], { ...said, until: day });
  const open = (waivers: Waiver[]) => applyWaivers(findings, waivers, { today: TODAY }).open.includes(first);
  expect([open([until(TODAY)]), open([until('2026-11-25')])]).toEqual([false, true]);
  const both = applyWaivers(findings, [until('2026-11-25'), until('2027-01-01')], { today: TODAY });
  expect([both.open.includes(first), both.notes]).toEqual([false, []]);
});

it.each<[string, object, RegExp]>([
  ['no reason', { keys: ['a'], by: 'x' }, /reason/],
  ['an empty one', { keys: ['a'], by: 'x', reason: '' }, /reason/],
  ['no name', { keys: ['a'], reason: 'x' }, /by/],
  ['no finding', { keys: [], reason: 'x', by: 'x' }, /keys/],
  ['another day', { keys: ['a'], reason: 'x', by: 'x', until: 'soon' }, /until/],
  ['a field that nobody knows', { keys: ['a'], reason: 'x', by: 'x', mood: 'fine' }, /mood/],
])('a waiver with %s is refused by its field', (_, waiver, message) => {
  expect(() => waiversFrom({ kind: 'young-bough-waivers', waivers: [waiver] })).toThrow(message);
});

it('holds up to its last revision, and says so where nobody says which one it is', () => {
  const [first] = findings;
  const waiver = waiverFor([first], { ...said, untilRevision: 4 });
  const at = (revision?: number) => {
    const { open, notes } = applyWaivers(findings, [waiver], { today: TODAY, revision });
    return [open.includes(first), notes.map((n) => n.state)];
  };
  expect([at(4), at(5), at()]).toEqual([
    [false, []],
    [true, ['over']],
    [true, ['undated']],
  ]);
  expect(waiversFrom(JSON.parse(JSON.stringify(waiverFile([waiver]))))).toEqual([waiver]);
});

it('hangs on what is found, whatever the file is called', () => {
  const keys = (name: string) => audit({ ...castCharacter('deckhand.glb'), name }, brief).map((f) => f.key);
  expect(keys('deckhand_final_v7')).toEqual(keys('deckhand'));
});
