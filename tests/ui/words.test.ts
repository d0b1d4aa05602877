/** Numbers and sentences as people read them. */
import { type ChangeEffects, NO_EFFECTS } from '@/core/contracts/effects';
import fc from 'fast-check';
import { effectsText, smallLength } from '@/core/contracts/effects-words';
import { ago, numberText, sentence, withUnit } from '@/ui/kit/format';
import { anyReal } from '../core/support/random';

it('numbers keep as many digits as matter, thousands apart', () => {
  expect(
    [0, -0, 3, 1234567, 1234.56, 123.456, 1.23456, 0.012345, 0.00012345, -2.5, Number.NaN, Infinity].map(
      numberText,
    ),
  ).toEqual([
    '0',
    '0',
    '3',
    '1\u202f234\u202f567',
    '1\u202f235',
    '123.5',
    '1.235',
    '0.012',
    '0.00012',
    '-2.500',
    '—',
    '—',
  ]);
  expect(numberText('1 × 1 × 1')).toBe('1 × 1 × 1');
});
/** Half of the last digit that is shown. */
function roundingOf(size: number): number {
  if (size >= 1000) return 0.5;
  if (size >= 100) return 0.0501;
  if (size >= 0.01) return 0.000501;
  // A millionth is the last that is told.
  return size >= 1e-4 ? size * 0.051 : 1e-6;
}

it('what is shown lies within the last digit of what is', () =>
  fc.assert(
    fc.property(anyReal(-1e7, 1e7), (x) => {
      const shown = Number(numberText(x).replaceAll('\u202f', ''));
      const size = Math.abs(x);
      expect(Math.abs(shown - x)).toBeLessThanOrEqual(roundingOf(size));
    }),
  ));
it('one of a thing is not many of it', () =>
  expect([
    withUnit(1, 'nodes'),
    withUnit(2, 'nodes'),
    withUnit(1, 'm'),
    withUnit('body', 'nodes'),
    withUnit(4, ''),
  ]).toEqual(['1 node', '2 nodes', '1 m', 'body', '4']));
it('a number stays on one line with its unit and its factors, words may part', () =>
  expect([
    sentence('stands at 0.8 × 0.8 × -0.8: 3 more'),
    sentence('wants 1.760 m ± 0.050 m in metres'),
    sentence('is 80 % to 103 % as tall, 5 in all, 2 inches'),
  ]).toEqual([
    'stands at 0.8\u00a0×\u00a00.8\u00a0×\u00a0-0.8: 3 more',
    'wants 1.760\u00a0m ±\u00a00.050\u00a0m in metres',
    'is 80\u00a0% to 103\u00a0% as tall, 5\u00a0in all, 2 inches',
  ]));
it('times pass', () => {
  const before = (s: number) => ago(new Date(Date.now() - s * 1000));
  expect([before(5), before(120), before(7200), before(3 * 86400)]).toEqual([
    'just now',
    '2 minutes ago',
    '2 hours ago',
    '3 days ago',
  ]);
});
it('how far something moved is told in the brief’s unit, and in millimetres where that is metres and it is less', () =>
  expect([
    smallLength(0, 'm'),
    smallLength(0.00012, 'm'),
    smallLength(0.00012, 'cm'),
    smallLength(0.0254, 'in'),
    smallLength(0.9999, 'm'),
    smallLength(3.553, 'm'),
    smallLength(35.5, 'cm'),
  ]).toEqual(['0 mm', '0.120 mm', '0.0120 cm', '1.00 in', '1000 mm', '3.55 m', '3550 cm']));
it('a step says what it touched, and whether anything else moved, however little is known of it', () => {
  const others = { largest: 0, where: '', poses: 5, meshes: 3, holds: 'in every pose' as const };
  const effects: ChangeEffects = {
    kind: 'changed',
    nodes: [],
    meshes: [],
    skins: 0,
    joints: [],
    clips: [],
    removed: [],
    largestMove: 0,
    vertices: [1, 1],
    scale: 1,
    outside: [],
    others,
  };
  const say = (more: Partial<ChangeEffects>) => effectsText({ ...effects, ...more }, 'm');
  expect(effectsText(NO_EFFECTS, 'm')).toBe('');
  expect(say({})).toBe(
    'Node, mesh, bind and clip stay as they were. Nothing else changed: 0 mm over 5 trial poses.',
  );
  expect(say({ nodes: ['a'], meshes: ['b', 'c'], joints: ['d'], clips: ['e', 'f'], removed: ['g'] })).toBe(
    'Touched 1 node (a), 2 meshes (b, c), 1 bind (d), 2 clips (e, f), 1 node taken out (g). Nothing else changed: 0 mm over 5 trial poses.',
  );
  expect(say({ nodes: ['a'], scale: 1.25, others: { ...others, largest: 0.004, where: 'body, rest' } })).toBe(
    'Touched 1 node (a). The rest moved up to 4.00 mm but for the factor 1.25 over 5 trial poses (body, rest).',
  );
  expect(say({ nodes: ['a'], others: { ...others, holds: 'at rest' } })).toBe(
    'Touched 1 node (a). Nothing else changed: 0 mm at rest.',
  );
  const long = `${'x'.repeat(20)} and ${'y'.repeat(20)}`;
  expect(say({ meshes: ['a', 'b', 'c'], joints: ['d', 'e', 'f', 'g'], nodes: [long] })).toBe(
    `Touched 1 node (${'x'.repeat(14)}…${'y'.repeat(13)}), 3 meshes (a, b, c), 4 binds (d, e …). Nothing else changed: 0 mm over 5 trial poses.`,
  );
  expect(say({ nodes: ['a'], others: { ...others, meshes: 0 } })).toBe(
    'Touched 1 node (a). There was nothing else that could have moved.',
  );
  expect(say({ nodes: ['a'], outside: ['clips'] })).toBe(
    'Touched 1 node (a). Beyond what it promised it changed clips. Nothing else changed: 0 mm over 5 trial poses.',
  );
});
