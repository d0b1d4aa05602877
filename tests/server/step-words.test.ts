/** What every kind of step is told as in a report. */
import type { Step } from '@/core/contracts/step';
import { stepWords } from '@/server/steps';

it('a move onto another skeleton is told by what that is called, not by its id', () => {
  const step = {
    kind: 'remap' as const,
    target: 'own',
    limit: 4,
    crosswalk: { target: { title: 'the crew' } },
  };
  expect(stepWords(step)).toMatch(/^Onto the crew, at most 4/);
  expect(stepWords({ ...step, crosswalk: null })).toMatch(/^Onto own, /);
  const mesh = { mode: 'mesh', lengths: 'taken', weights: 'example' } as const;
  expect(stepWords({ ...step, how: mesh })).toMatch(
    /; the mesh brought to its rest pose, its bones as long as there; weights by example\.$/,
  );
  const plain = { mode: 'target', lengths: 'kept', weights: 'rules' } as const;
  expect(stepWords({ ...step, how: plain })).toMatch(
    /at most 4 influences a point; weights by the rules alone\.$/,
  );
});

const ABOUT = { bytes: 1, sha256: '' };
it.each<[Step, string]>([
  [
    {
      kind: 'import',
      files: [
        { name: 'a.gltf', ...ABOUT },
        { name: 'a.bin', ...ABOUT },
      ],
      notes: [],
    },
    'a.gltf, a.bin',
  ],
  [{ kind: 'edit', title: 'moved a joint', patch: '', names: [] }, 'By hand: moved a joint.'],
  [
    { kind: 'copy', from: { character: 'Stoker', revision: 4, label: 'clean' } },
    'From revision 4 of Stoker, “clean”.',
  ],
  [
    { kind: 'add', files: [{ name: 'cap.obj', ...ABOUT }], notes: [], unit: 'centimetres' },
    'cap.obj, read in centimetres.',
  ],
  [
    { kind: 'delivery', files: [{ name: 'b.glb', ...ABOUT }], notes: [], after: 3 },
    'b.glb; 0 recorded steps done again.',
  ],
  [
    {
      kind: 'delivery',
      files: [{ name: 'b.glb', ...ABOUT }],
      notes: [],
      after: 3,
      rows: [
        { label: 'rescaled', outcome: 'done' },
        { label: 'moved', outcome: 'does not fit', why: 'x' },
        { label: 'set down', outcome: 'not needed', why: 'y' },
      ],
    },
    'b.glb; 3 recorded steps done again, of which 1 no longer fit: moved.',
  ],
  [{ kind: 'remedy', remedy: 'gone-since', params: {}, names: {} }, 'gone-since'],
])('a step of kind %# is told in words', (step, words) => {
  expect(stepWords(step)).toBe(words);
});
