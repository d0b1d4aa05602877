/** Findings that are accepted: what holds, what has grown, what is no longer needed. */
import fc from 'fast-check';
import type { Finding } from '@/core/contracts/finding';
import {
  type FindingTold,
  type Waiver,
  applyWaivers,
  hasGrown,
  takeWaivers,
  waiverFile,
  waiverFor,
  waiversFrom,
} from '@/core/contracts/waiver';
import { audit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { castCharacter } from './support/cast';
import { spoiltReads } from './support/spoilt';

const brief = briefById('handset')!;
const findings = audit(castCharacter('deckhand.glb'), brief);
const said = { reason: 'agreed with the lead', by: 'R. Lindqvist' };
const TODAY = '2026-11-26';

it('sets findings apart, each once, and leaves the others as they are', () => {
  fc.assert(
    fc.property(fc.subarray([...findings]), (some) => {
      const waivers = some.length > 0 ? [waiverFor(some, said)] : [];
      const { open, waived, notes } = applyWaivers(findings, waivers, { today: TODAY });
      expect(waived.map((w) => w.finding)).toEqual(findings.filter((finding) => some.includes(finding)));
      expect(open).toEqual(findings.filter((finding) => !some.includes(finding)));
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
  expect(notes.map((note) => note.state)).toEqual(findings.map(() => 'idle'));
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
  const worse = findings.map((finding): Finding => ({ ...finding, count: finding.count + 1 }));
  const { open, notes } = applyWaivers(worse, [waiver], { today: TODAY });
  expect([open.length, new Set(notes.map((note) => note.state))]).toEqual([
    findings.length,
    new Set(['grown']),
  ]);
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
    return [open.includes(first), notes.map((note) => note.state)];
  };
  expect([at(4), at(5), at()]).toEqual([
    [false, []],
    [true, ['over']],
    [true, ['undated']],
  ]);
  expect(waiversFrom(JSON.parse(JSON.stringify(waiverFile([waiver]))))).toEqual([waiver]);
});

it('hangs on what is found, whatever the file is called', () => {
  const keys = (name: string) =>
    audit({ ...castCharacter('deckhand.glb'), name }, brief).map((finding) => finding.key);
  expect(keys('deckhand_final_v7')).toEqual(keys('deckhand'));
});

describe('laws of waivers', () => {
  const told = (i: number, count: number, measured: number): FindingTold => ({
    key: `check/${i}`,
    check: 'check',
    gravity: (['stops', 'worth', 'note'] as const)[i % 3],
    message: `finding ${i}`,
    measured,
    expected: 0,
    count,
  });
  const someFindings = fc
    .uniqueArray(fc.integer({ min: 0, max: 12 }), { maxLength: 10 })
    .chain((ids) =>
      fc.tuple(
        ...ids.map((i) =>
          fc
            .tuple(fc.integer({ min: 0, max: 9 }), fc.integer({ min: -9, max: 9 }))
            .map(([count, measured]) => told(i, count, measured)),
        ),
      ),
    );
  const someWaivers = (all: readonly FindingTold[]) =>
    fc.array(
      fc
        .tuple(
          fc.subarray([...all, told(99, 1, 1)], { minLength: 1 }),
          fc.option(fc.constantFrom('2026-01-01', TODAY, '2030-01-01'), { nil: undefined }),
          fc.option(fc.integer({ min: 1, max: 6 }), { nil: undefined }),
          fc.integer({ min: -2, max: 2 }),
        )
        .map(([of, until, untilRevision, less]) => {
          const then = of.map((finding) => ({ ...finding, count: finding.count + less }));
          return waiverFor(then, { ...said, until, untilRevision });
        }),
      { maxLength: 5 },
    );
  const cases = someFindings.chain((all) => fc.tuple(fc.constant(all), someWaivers(all)));
  const moment = { today: TODAY, revision: 3 };
  it('every finding is open or waived and never both, in the order in which they stood', () => {
    fc.assert(
      fc.property(cases, ([all, waivers]) => {
        const { open, waived } = applyWaivers(all, waivers, moment);
        const apart = new Set([...open, ...waived.map((w) => w.finding)]);
        expect(apart).toEqual(new Set(all));
        expect(open.length + waived.length).toBe(all.length);
        expect(open).toEqual(all.filter((finding) => open.includes(finding)));
        for (const { finding, waiver } of waived) expect(waiver.keys).toContain(finding.key);
      }),
    );
  });
  it('another waiver opens nothing, and every key that does not hold is told why', () => {
    fc.assert(
      fc.property(cases, ([all, waivers]) => {
        const before = applyWaivers(all, waivers.slice(1), moment);
        const after = applyWaivers(all, waivers, moment);
        expect(before.open).toEqual(expect.arrayContaining([...after.open]));
        const held = new Set(after.waived.map((w) => w.finding.key));
        const told = new Set(after.notes.map((note) => note.key));
        for (const key of waivers.flatMap((waiver) => waiver.keys))
          expect(held.has(key)).toBe(!told.has(key));
      }),
    );
  });
  it('what has more things to it, or lies farther off, is open; what has fewer stays waived', () => {
    fc.assert(
      fc.property(someFindings, fc.integer({ min: 1, max: 5 }), (all, more) => {
        const waiver = waiverFor(all, said);
        const grown = all.map((finding) => ({ ...finding, count: finding.count + more }));
        expect(applyWaivers(grown, [waiver], moment).open).toEqual(grown);
        const farther = all.map((finding) => ({
          ...finding,
          measured: Number(finding.measured) * 2 + Math.sign(Number(finding.measured)),
        }));
        expect(applyWaivers(farther, [waiver], moment).open).toEqual(
          farther.filter((f) => Number(f.measured) !== 0),
        );
        const fewer = all.map((finding) => ({ ...finding, count: Math.max(0, finding.count - more) }));
        expect(applyWaivers(fewer, [waiver], moment).open).toEqual([]);
      }),
    );
  });
  it('taken onto a character, a file sets apart what it would by itself; taken twice, it adds nothing', () => {
    let taking = 0;
    fc.assert(
      fc.property(cases, ([all, waivers]) => {
        const { taken, left } = takeWaivers(waivers, all, [], moment);
        const stands = taken.map((t) => t.waiver);
        expect(stands.length + left.known + left.elsewhere + left.over).toBe(waivers.length);
        const apart = (some: readonly Waiver[]) => {
          const { open, waived } = applyWaivers(all, some, moment);
          return { open, waived: waived.map((w) => w.finding.key) };
        };
        expect(apart(stands)).toEqual(apart(waivers));
        for (const { waiver, findings: of } of taken) {
          expect(waiver.keys).toEqual(of.map((finding) => finding.key));
          expect(Object.keys(waiver.accepted ?? {}).sort()).toEqual([...waiver.keys].sort());
        }
        const again = takeWaivers(waivers, all, stands, moment);
        expect(again.taken).toEqual([]);
        expect(again.left.known).toBe(left.known + stands.length);
        taking += stands.length;
      }),
    );
    expect(taking).toBeGreaterThan(20);
  });
  it('what was accepted stays as it was accepted: another number, another reason is another waiver', () => {
    const [finding] = findings;
    const then = waiverFor([{ ...finding, count: finding.count - 1 }], said);
    const now = waiverFor([finding], said);
    const { taken } = takeWaivers([then], findings, [], moment);
    expect(taken).toEqual([{ waiver: then, findings: [finding] }]);
    expect(applyWaivers(findings, [taken[0].waiver], moment).open).toContain(finding);
    expect(takeWaivers([now], findings, [then], moment).taken).toHaveLength(1);
    expect(takeWaivers([{ ...now, reason: 'another' }], findings, [now], moment).taken).toHaveLength(1);
    expect(takeWaivers([now], findings, [now], moment).left).toEqual({ known: 1, elsewhere: 0, over: 0 });
    const clean = audit(castCharacter('deckhand-clean.glb'), brief);
    expect(takeWaivers([now], clean, [], moment).left).toEqual({ known: 0, elsewhere: 1, over: 0 });
    // Written by hand, without what was accepted.
    const { accepted: _, ...bare } = now;
    expect(takeWaivers([bare], findings, [], moment).taken[0].waiver).toEqual(bare);
  });
  it('a file of waivers with anything in it is read, or refused in a sentence', () => {
    const [first] = findings;
    const file = waiverFile([waiverFor([first], { ...said, until: TODAY, untilRevision: 2 })]);
    const refused = spoiltReads(file, waiversFrom);
    expect(refused).toBeGreaterThan(20);
  });
});

describe('what is no waiver', () => {
  const plain = { keys: ['a'], reason: 'as agreed', by: 'R.' };
  it.each([
    ['accepted null', { accepted: null }],
    ['accepted a word', { accepted: 'all of it' }],
    ['a count in words', { accepted: { a: { count: 'one' } } }],
    ['half a thing', { accepted: { a: { count: 0.5 } } }],
    ['something else beside', { accepted: { a: { count: 1, colour: 'red' } } }],
    ['a measure without end', { accepted: { a: { measured: Infinity } } }],
    ['a day that no calendar has', { until: '2027-02-30' }],
    ['a day in words', { until: 'tomorrow' }],
  ])('%s is refused', (_, more) => {
    expect(() => waiversFrom({ kind: waiverFile([]).kind, waivers: [{ ...plain, ...more }] })).toThrow();
  });
  it.each([
    ['a leap day', { until: '2028-02-29' }],
    [
      'what was measured and counted',
      { accepted: { a: { measured: 0.5, count: 3 }, b: { measured: 'many' } } },
    ],
  ])('%s is taken', (_, more) => {
    expect(waiversFrom({ kind: waiverFile([]).kind, waivers: [{ ...plain, ...more }] })).toEqual([
      { ...plain, ...more },
    ]);
  });
});
