/** Patterns over names: they match as the language's own do, and none of them tries again and again. */
import fc from 'fast-check';
import { namePattern, whyNot, wildcardPattern } from '@/core/contracts/pattern';

const atom = fc.constantFrom('a', 'b', '_', '\\.', '\\d', '\\w', '[a-c]', '[^_]', '.', '\\u00e4');
const count = fc.constantFrom('', '*', '+', '?', '{2}', '*?');

/** Patterns put together of what briefs are written with; `isNested`: groups are repeated as well. */
const patternOf = (isNested: boolean) =>
  fc.letrec((tie) => ({
    one: fc.oneof(
      fc.tuple(atom, count).map(([p, n]) => `${p}${n}`),
      fc.tuple(tie('any'), isNested ? count : fc.constant('')).map(([p, n]) => `(?:${p as string})${n}`),
    ),
    any: fc.oneof(
      { maxDepth: 3 },
      fc.array(tie('one'), { minLength: 1, maxLength: 4 }).map((parts) => (parts as string[]).join('')),
      fc.tuple(tie('one'), tie('one')).map(([p, q]) => `${p as string}|${q as string}`),
    ),
  })).any as fc.Arbitrary<string>;
const name = fc
  .array(fc.constantFrom('a', 'b', 'c', '_', '.', '1', 'ä', 'A'), { maxLength: 8 })
  .map((l) => l.join(''));

it('are found where the regular expressions of the language are', () =>
  fc.assert(
    fc.property(patternOf(true), name, fc.boolean(), fc.boolean(), (path, name, isWhole, isCaseBlind) => {
      const text = isWhole ? `^(?:${path})$` : path;
      expect(namePattern(text, isCaseBlind).test(name)).toBe(
        new RegExp(text, isCaseBlind ? 'i' : '').test(name),
      );
    }),
    { numRuns: 2000 },
  ));

// Where what is repeated may be empty, engines differ in which of several matches they take.
it('find, and leave out, the same as they do', () =>
  fc.assert(
    fc.property(patternOf(false), name, (pattern, name) => {
      const ours = namePattern(pattern);
      expect(ours.exec(name)?.[0]).toBe(new RegExp(pattern).exec(name)?.[0]);
      if (!ours.test('')) expect(ours.removeFrom(name)).toBe(name.replace(new RegExp(pattern, 'g'), ''));
    }),
    { numRuns: 2000 },
  ));

it.each([
  ['(x|y|z)*abc(.{120})$', `${'xyz'.repeat(20_000)}abc`],
  ['^(a+)+$', `${'a'.repeat(50_000)}!`],
  ['^.*a.*b.*c.*d$', `${'abc'.repeat(10_000)}`],
  ['(.*)(.*)(.*)(.*)x', 'y'.repeat(20_000)],
])('%s comes to its end on the worst of names', (pattern, worst) => {
  // With an engine that tries again and again each of these would take longer than the test may.
  expect(whyNot(pattern)).toBeNull();
  expect(namePattern(pattern).test(worst)).toBe(false);
});

it('signs in a name stand for letters or counts, everything else for itself', () => {
  const any = wildcardPattern('arm.*(1)_##', { '*': '(.*?)', '#': '\\d' });
  expect(any.exec('arm.upper(1)_07')).toEqual(['arm.upper(1)_07', 'upper']);
  expect(any.exec('armxupper(1)_07')).toBeNull();
  expect(any.exec('arm.upper(1)_7')).toBeNull();
  // A name of many stars, on a name that almost fits.
  expect(wildcardPattern('*a'.repeat(30), { '*': '.*' }).test(`${'a'.repeat(20_000)}b`)).toBe(false);
});
