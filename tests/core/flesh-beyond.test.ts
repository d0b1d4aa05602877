/** Chains that end before their flesh does. */
import { withBonesFolded } from '@/core/motion/fold';
import { restPlace } from '@/core/character/hierarchy';
import { distance } from '@/core/geometry/matrix';
import { briefById } from '@/core/house/briefs';
import { previewRemedy } from '@/core/house/preview';
import { checkById, remedyById } from '@/core/house/registry';
import { castCharacter } from './support/cast';
import { chainTube } from './support/chain';

const brief = briefById('handset')!;
const check = checkById('flesh-beyond')!;

it('a tube of two metres on bones of a third of a metre, the last two of them gone: its flesh goes on three bones long', () => {
  const whole = chainTube(6);
  expect(check.run(whole, brief)).toEqual([]);
  const short = withBonesFolded(whole, new Set([4, 5])).character;
  const [finding] = check.run(short, brief);
  // From 1 m up to 2 m, where each bone is ⅓ m long.
  expect(finding).toMatchObject({ gravity: 'worth', measured: 3, subject: { name: 'bone_4' } });
  const [call] = finding.remedies;
  const remedy = remedyById(call.id)!;
  const { after, effects } = previewRemedy(
    remedy,
    short,
    remedy.params.cast(call.params) as Record<string, unknown>,
    brief,
  );
  expect(effects.outside).toEqual([]);
  const added = after.nodes.findIndex(({ name }) => name === 'bone_5');
  expect(distance(restPlace(after.nodes, added), [0, 1.5, 0])).toBeLessThan(1e-5);
  // It carries nothing yet, so that the flesh still goes on without a bone; there is only its weight left to give.
  expect(check.run(after, brief)).toMatchObject([{ measured: 3, subject: { name: 'bone_4' }, remedies: [] }]);
});

it('nobody of the cast has such a chain; a coat without its lower bones has five on each side', () => {
  for (const file of ['deckhand.glb', 'stoker.dae', 'heron.glb', 'capstan.glb'])
    expect([file, check.run(castCharacter(file), brief)]).toEqual([file, []]);
  const clean = castCharacter('deckhand-clean.glb');
  const lower = clean.nodes.flatMap(({ name }, i) => (/^coat_._3_/.test(name) ? [i] : []));
  const short = withBonesFolded(clean, new Set(lower)).character;
  const strict = { ...brief, fleshBeyond: 1.5 };
  expect(check.run(clean, strict)).toEqual([]);
  expect(check.run(short, strict).length).toBe(10);
});
