/**
 * Which kind of body a character has, what is asked of it therefore, and that the whole audit finds on beasts and on
 * people who hold things just what is there. Values of kinds: common practice.
 */
import { bodyOf } from '@/bench/bodies/body';
import { ANY_BODY, drawBodies } from '@/bench/bodies/report';
import { makeBeast } from '@/bench/match/beasts';
import { makeFigure, makeRandom } from '@/bench/match/figures';
import { HABITS } from '@/bench/match/habits';
import { bearingOf } from '@/core/anatomy/landmarks';
import { bodyKindOf, readBodyKind } from '@/core/anatomy/body-kind';
import { looksOf } from '@/core/anatomy/looks';
import { meaningOf } from '@/core/anatomy/bones';
import { type Skeleton, type SkeletonBone, skeletonOf } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { WEBXR_HAND_LEFT } from '@/core/anatomy/skeletons/webxr-hand';
import { BODY_KINDS } from '@/core/character/body-kinds';
import { audit, silenceText, silentChecks } from '@/core/house/audit';
import { PLAIN_FIGURE } from '@/core/house/plain-briefs';
import { checkById, remedyById } from '@/core/house/registry';
import { castCharacter } from './support/cast';

const english = HABITS.find((habit) => habit.id === 'snake, side last')!;
const beast = (kind: 'cattle' | 'bird' | 'fish' | 'human' | 'elephant', seed = 3) =>
  bodyOf(makeFigure(makeRandom(seed), kind, english, { stance: 'T', plain: true, steady: true }));

describe('the kind of a body', () => {
  it('of the skeletons and the cast that ship', () => {
    expect([QUAY, VRM_HUMANOID, WEBXR_HAND_LEFT].map((skeleton) => readBodyKind(skeleton).kind)).toEqual([
      'two-legged',
      'two-legged',
      'hand',
    ]);
    expect(bodyKindOf(castCharacter('capstan.glb')).kind).toBe('machine');
    expect(bodyKindOf(castCharacter('stoker.dae')).kind).toBe('two-legged');
  });

  it('is told wrongly of no body of a fresh draw, and not told of one in eight at most', () => {
    const right = {
      human: 'two-legged',
      bird: 'winged',
      fish: 'finned',
    } as Record<string, string>;
    const cases = drawBodies(77, false);
    const unsure = cases.filter((body) => body.read === 'unknown');
    for (const body of cases)
      if (body.read !== 'unknown')
        expect([body.told, body.read]).toEqual([body.told, right[body.kind] ?? 'four-legged']);
    expect(unsure.length).toBeLessThan(cases.length / 8);
    expect(cases.length).toBeGreaterThan(200);
  });

  it('says how sure it is and why', () => {
    const { confidence, reasons } = bodyKindOf(beast('cattle'));
    expect(confidence).toBeGreaterThan(0.8);
    expect(reasons.join()).toMatch(/reach/);
  });

  it('is not sure where nothing tells: a chain, a skeleton without bones', () => {
    const chain = QUAY.bones.filter((_, i) => i < 4);
    expect(readBodyKind({ ...QUAY, bones: chain }).kind).toBe('unknown');
    expect(readBodyKind({ ...QUAY, bones: [] }).kind).toBe('unknown');
  });

  it('set by hand goes before what is worked out, is one step, and can be taken back', () => {
    const remedy = remedyById('body-kind')!;
    const cow = beast('cattle');
    const said = remedy.apply(cow, { kind: 'machine' }, ANY_BODY);
    expect(bodyKindOf(said)).toMatchObject({ kind: 'machine', confidence: 1, isByHand: true });
    expect(said.nodes).toBe(cow.nodes);
    const back = remedy.apply(said, { kind: 'worked-out' }, ANY_BODY);
    expect(bodyKindOf(back).kind).toBe('four-legged');
    expect(() => remedy.apply(back, { kind: 'worked-out' }, ANY_BODY)).toThrow(/already/);
  });
});

describe('what is asked of a body', () => {
  it('depends on its kind, and what is not asked is told', () => {
    const asking = { ...ANY_BODY, stance: PLAIN_FIGURE.stance };
    const silent = (kind: (typeof BODY_KINDS)[number]) => silentChecks(kind, asking).map((check) => check.id);
    expect(silent('two-legged')).toEqual([]);
    expect(silent('four-legged')).toEqual(['skeleton-height', 'stance', 'bend-direction']);
    expect(silent('unknown')).toEqual(expect.arrayContaining(['stance', 'facing', 'parents']));
    expect(silentChecks('four-legged', ANY_BODY).map((check) => check.id)).toEqual([
      'skeleton-height',
      'bend-direction',
    ]);
    expect(silenceText(beast('cattle'), asking)).toMatch(/^Not asked: .*Stance at rest.*four-legged/);
    const clean = castCharacter('deckhand-clean.glb');
    expect(silenceText(clean, ANY_BODY, { isMoved: true })).toBe('');
    expect(silenceText(clean, ANY_BODY)).toMatch(/^It was not tried in motion/);
  });

  it('of beasts and of people who hold things, in many habits: nothing that is not there, all that was put in', () => {
    const cases = drawBodies(91, true, 4);
    const false_ = cases.flatMap((body) => body.false.map((finding) => `${body.told}: ${finding.message}`));
    const missed = cases.flatMap((body) =>
      body.planted.filter((p) => !p.found && !p.silent).map((p) => `${body.told}: ${p.check}`),
    );
    expect(missed).toEqual([]);
    expect(false_.length * 50).toBeLessThanOrEqual(cases.length);
    expect(cases.flatMap((body) => body.planted.filter((p) => p.found)).length).toBeGreaterThan(150);
  });

  it('where a beast looks is told by its limbs and its head, wherever its spine goes', () => {
    for (const kind of ['cattle', 'elephant', 'bird'] as const) {
      const bearing = bearingOf(beast(kind))!;
      expect([kind, bearing.forward[2] > 0.97, bearing.up[1] > 0.9, bearing.left[0] > 0.97]).toEqual([
        kind,
        true,
        true,
        true,
      ]);
      expect(bearing.crossed).toBe(false);
    }
  });

  it('left and right that are exchanged in the names of a beast are found', () => {
    const cow = beast('cattle');
    const swap = (name: string) => name.replace(/_(l|r)$/, (_, s) => (s === 'l' ? '_r' : '_l'));
    const nodes = cow.nodes.map((node) => ({ ...node, name: swap(node.name) }));
    const found = audit({ ...cow, nodes }, ANY_BODY).filter((finding) => finding.check === 'facing');
    expect(found.map((finding) => finding.measured)).toEqual(['exchanged']);
  });

  it('where nothing tells where a body looks, that is said for the eyes', () => {
    const cow = bodyOf(
      makeFigure(
        makeRandom(4),
        'cattle',
        HABITS.find((habit) => habit.id === 'counted')!,
        { steady: true, plain: true },
      ),
    );
    const found = audit(cow, ANY_BODY).filter((finding) => finding.check === 'facing');
    expect(found.map((finding) => [finding.gravity, finding.measured])).toEqual([['note', 'not told']]);
  });
});

describe('bones that things are held by', () => {
  const person = bodyOf(
    makeFigure(makeRandom(5), 'human', english, { stance: 'T', plain: true, steady: true, holding: true }),
  );
  const kindOf = (name: RegExp) =>
    person.nodes.flatMap((node, i) => (name.test(node.name) ? [meaningOf(person, i)] : []));

  it('are a kind of their own, and no part of a body', () => {
    const held = kindOf(/^(weapon|shield|quiver|helmet|ammo|neck_guard)/);
    expect(held.length).toBe(12);
    expect(new Set(held.map((meaning) => `${meaning.kind}/${meaning.part}`))).toEqual(new Set(['attach/']));
  });

  it('do not make a limb of what is called after one', () => {
    expect(audit(person, ANY_BODY).filter((finding) => finding.check === 'parents')).toEqual([]);
  });

  it('that carry flesh or hold a limb below them are bones like any other', () => {
    const skeleton = skeletonOf(person);
    const at = skeleton.bones.findIndex((bone) => bone.name.startsWith('shield_arm'));
    const heavier: Skeleton = {
      ...skeleton,
      bones: skeleton.bones.map((bone, i): SkeletonBone => (i === at ? { ...bone, weight: 3 } : bone)),
    };
    expect(looksOf(heavier).readings[at].kind).toBe('bone');
    const last = skeleton.bones.findIndex((bone) => bone.name.startsWith('weapon'));
    const below = {
      ...skeleton,
      bones: [...skeleton.bones, { ...skeleton.bones[1], name: 'spine_9', parent: last }],
    };
    expect(looksOf(below).readings[last].kind).toBe('bone');
  });
});

it('“middle” in the name of a leg makes no finger of it, whose foot hangs elsewhere', () => {
  const random = makeRandom(1);
  const named = Array.from({ length: 120 }, () => bodyOf(makeBeast(random, { steady: true }))).filter(
    (body) => body.nodes.some(({ name }) => /leg_mid/i.test(name)),
  );
  expect(named.length).toBeGreaterThan(1);
  for (const body of named) expect(checkById('parents')!.run(body, ANY_BODY)).toEqual([]);
});
