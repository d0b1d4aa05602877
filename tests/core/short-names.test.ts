/** Names in lists: shorter where they share much, and never two alike that were not. */
import fc from 'fast-check';
import { shortNames } from '@/core/character/short-names';

it('leaves out what most names share, wherever it stands', () => {
  const names = ['upper', 'lower', 'hand', 'thumb'].map((word) => `crew_a:arm_${word}_reference:left:0`);
  expect(shortNames(names)).toEqual(['upper', 'lower', 'hand', 'thumb']);
});

it('keeps short names as they are', () =>
  expect(shortNames(['arm_l', 'arm_r', 'leg_l', 'leg_r'])).toEqual(['arm_l', 'arm_r', 'leg_l', 'leg_r']));

it('never makes one of two different names, nor none of one', () =>
  fc.assert(
    fc.property(fc.array(fc.stringMatching(/^([a-c]{1,6}[_:. ]?){1,6}$/), { maxLength: 12 }), (names) => {
      const short = shortNames(names);
      expect(short).toHaveLength(names.length);
      expect(new Set(short).size).toBe(new Set(names).size);
      names.forEach((name, i) => expect(short[i] === '').toBe(name === ''));
    }),
  ));
