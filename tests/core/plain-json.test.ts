/** JSON that can be read in one way only (RFC 7493, I-JSON, 2.1 to 2.3). */
import fc from 'fast-check';
import { plainJson } from '@/core/contracts/plain-json';

it('anything that JSON writes of sound text is read as JSON reads it', () => {
  fc.assert(
    fc.property(fc.jsonValue({ stringUnit: 'binary' }), (value) => {
      const text = JSON.stringify(value, null, 1);
      expect(plainJson(text)).toEqual(JSON.parse(text));
    }),
  );
});

it('what can be read in two ways is refused', () => {
  const bad: readonly (readonly [string, RegExp])[] = [
    ['{"by": "a",\n "by": "b"}', /^the field “by” stands there twice in one object$/],
    ['{"a": [{"x": 1}, {"x": 2, "y": {"x": 3}, "x": 4}]}', /^the field “x” stands there twice/],
    ['{"a": 1, "\\u0061": 2}', /the field “a” stands there twice/],
    ['[1,\n\n 1e999]', /^the number 1e999 is beyond all numbers$/],
    ['{"note": "\\ud83d"}', /^a text in it holds half of a letter$/],
    ['{"\\udc00": 1}', /^a text in it holds half of a letter$/],
  ];
  for (const [text, why] of bad) expect(() => plainJson(text)).toThrow(why);
  for (const text of ['', '{', '{a: 1}', '[1,]', '// x\n1', "'a'"])
    expect(() => plainJson(text)).toThrow(SyntaxError);
});

it('what stands in itself too deep is refused with a sentence', () => {
  expect(() => plainJson(`${'['.repeat(200_000)}${']'.repeat(200_000)}`)).toThrow(/far too deep/);
});

it('the same field in two objects is no field twice, and twice the same says the same', () => {
  expect(plainJson('{"by": "a", "by": "a"}')).toEqual({ by: 'a' });
  expect(plainJson('[{"a": 1}, {"a": {"a": 2}}, 1.5e300, "🌿"]')).toEqual([
    { a: 1 },
    { a: { a: 2 } },
    1.5e300,
    '🌿',
  ]);
});
