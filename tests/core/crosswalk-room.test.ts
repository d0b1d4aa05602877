/**
 * What the crosswalk room goes by: limbs, what wants a look and why, several rules at once, files, hands by
 * themselves.
 */
import fc from 'fast-check';
import { type Crosswalk, type Rule, withChain, withRules } from '@/core/anatomy/crosswalk';
import { limbsOf } from '@/core/anatomy/limbs';
import { skeletonOfBones } from '@/core/anatomy/lone';
import { handednessOf, limbFor } from '@/core/anatomy/match';
import { type Skeleton, type SkeletonBone, skeletonOf } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { WEBXR_HAND_LEFT, WEBXR_HAND_RIGHT } from '@/core/anatomy/skeletons/webxr-hand';
import { suggest } from '@/core/anatomy/suggest';
import { readGltf } from '@/core/formats/gltf/read';
import { accept, doubtOf, proofOfRules } from '@/core/rooms/crosswalk/doubts';
import { crosswalkFromFile, crosswalkToFile } from '@/core/rooms/crosswalk/file';
import { noticesOf } from '@/core/rooms/crosswalk/notices';
import { posesFor, trialPoses } from '@/core/rooms/crosswalk/poses';
import { prove } from '@/core/rooms/crosswalk/proof';
import { remap } from '@/core/rooms/crosswalk/remap';
import { castCharacter, handBytes } from './support/cast';

/** The hands that `@webxr-input-profiles/assets` publishes. */
const publishedHand = (side: 'left' | 'right') =>
  skeletonOf(readGltf([{ name: `${side}.glb`, bytes: handBytes(side) }]));

const nameOf = (skeleton: Skeleton, i: number) => skeleton.bones[i].name;

describe('limbs', () => {
  it('of the Deckhand: each bone once, sides apart, cloth under what it hangs on', () => {
    const source = skeletonOf(castCharacter('deckhand-clean.glb'));
    const limbs = limbsOf(source, QUAY, suggest(source, QUAY));
    const all = limbs.flatMap((limb) => limb.bones);
    expect([...all].sort((a, b) => a - b)).toEqual(source.bones.map((_, i) => i));
    const titles = limbs.map((limb) => limb.title);
    for (const title of ['Trunk', 'Neck and head', 'Left arm', 'Left hand', 'Right leg'])
      expect(titles).toContain(title);
    for (const { title, bones, side } of limbs.filter((limb) => limb.side !== 0))
      for (const bone of bones)
        expect([title, nameOf(source, bone)]).toEqual([title, expect.stringMatching(side > 0 ? /lt/ : /rt/)]);
    const coat = limbs.find((limb) => limb.title.startsWith('Comes along'));
    expect(coat && coat.bones.length).toBeGreaterThan(4);
  });
  it('of a character whose names say nothing: by the counterparts, whatever the bones are called', () => {
    const renamed = (skeleton: Skeleton): Skeleton => ({
      ...skeleton,
      bones: skeleton.bones.map((bone, i) => ({ ...bone, name: `qx${(i * 7919) % 1009}` })),
    });
    const known = limbsOf(QUAY, VRM_HUMANOID, suggest(QUAY, VRM_HUMANOID));
    const hidden = renamed(QUAY);
    const limbs = limbsOf(hidden, VRM_HUMANOID, suggest(hidden, VRM_HUMANOID));
    const of = (list: typeof limbs, b: number) => list.find((limb) => limb.bones.includes(b))?.title;
    const same = QUAY.bones.filter((_, index) => of(limbs, index) === of(known, index)).length;
    expect(same).toBeGreaterThan(0.9 * QUAY.bones.length);
  });
  it('of a machine: one chain a limb, named after where it begins', () => {
    const source = skeletonOf(castCharacter('capstan.glb'));
    const limbs = limbsOf(source, source, suggest(source, source));
    expect(limbs.flatMap((limb) => limb.bones)).toHaveLength(source.bones.length);
    expect(limbs[0].title).toMatch(/^(Chain|Left chain|Right chain|Trunk|Unplaced)/);
  });
});

describe('what wants a look', () => {
  const rule = (change: Partial<Rule> = {}): Rule => ({
    source: 0,
    kind: 'fold',
    target: 0,
    confidence: 0.99,
    reasons: [],
    locked: false,
    ...change,
  });
  const off = (max: number) => ({ node: 0, max, pose: 3 });
  it('what the proof shows to be off, however sure the pair is, locked or not', () => {
    expect(doubtOf(rule(), off(0.223), 0.0015)).toBe('off');
    expect(doubtOf(rule({ locked: true }), off(0.223), 0.0015)).toBe('off');
    expect(doubtOf(rule(), off(0.001), 0.0015)).toBe(null);
  });
  it('what was found fine does not, until it lies farther off', () => {
    const seen = rule({ locked: true, accepted: 0.2 });
    expect(doubtOf(seen, off(0.2), 0.0015)).toBe(null);
    expect(doubtOf(seen, off(0.3), 0.0015)).toBe('off');
  });
  it('two readings, and pairs that are not sure, until they are locked', () => {
    expect(doubtOf(rule({ other: 4 }), null, 1)).toBe('two readings');
    expect(doubtOf(rule({ confidence: 0.4 }), null, 1)).toBe('unsure');
    expect(doubtOf(rule({ confidence: 0.4, locked: true }), null, 1)).toBe(null);
  });
  it('the bone that is folded wrongly answers for it, and no bone beside it', () => {
    const clean = castCharacter('deckhand-clean.glb');
    const source = skeletonOf(clean);
    const crosswalk = suggest(source, QUAY);
    const bone = source.bones.findIndex((bone) => bone.name === 'arm_lower_lt');
    const thigh = QUAY.bones.findIndex((bone) => bone.name === 'leg_upper_rt');
    const wrong = withRules(crosswalk, [bone], 'fold', thigh);
    const out = remap(clean, QUAY, wrong, { limit: 4 });
    const shown = proofOfRules(source, prove(out, posesFor(clean, wrong)));
    const doubts = wrong.filter((rule) => doubtOf(rule, shown[rule.source], 0.0015) === 'off');
    expect(doubts.map((doubt) => nameOf(source, doubt.source))).toContain('arm_lower_lt');
    expect(shown[bone]?.max).toBeGreaterThan(0.1);
    for (const name of ['arm_lower_rt', 'foot_lt', 'head'])
      expect([name, doubts.some((doubt) => nameOf(source, doubt.source) === name)]).toEqual([name, false]);
    const fine = accept(wrong, new Set(doubts.map((doubt) => doubt.source)), shown);
    expect(fine.filter((rule) => doubtOf(rule, shown[rule.source], 0.0015) === 'off')).toEqual([]);
  });
  it('the farthest point of all is laid at some pair’s door: here at the spine bone that goes with the wrong joint', () => {
    const clean = castCharacter('deckhand-clean.glb');
    const source = skeletonOf(clean);
    const crosswalk = suggest(source, VRM_HUMANOID);
    const proof = prove(remap(clean, VRM_HUMANOID, crosswalk, { limit: 4 }), posesFor(clean, crosswalk));
    const shown = proofOfRules(source, proof);
    const worst = shown.reduce((a, b) => ((b?.max ?? 0) > (a?.max ?? 0) ? b : a));
    expect(worst?.max).toBeGreaterThan(0.95 * proof.byPairs);
    expect(crosswalk[source.bones.findIndex((bone) => bone.node === worst?.node)].kind).toBe('fold');
  });
  it('every bone that carries weight is turned by itself once, in however few poses', () => {
    const clean = castCharacter('deckhand-clean.glb');
    for (const most of [7, 40, 500]) {
      const turned = trialPoses(clean, new Set(), most).flatMap((pose) => pose.turned);
      expect(new Set(turned).size).toBe(turned.length);
      const carrying = skeletonOf(clean).bones.filter((bone) => bone.weight > 0);
      for (const bone of carrying) expect(turned).toContain(bone.node);
    }
  });
});

describe('several rules at once', () => {
  it('carry in order: one after the other down the chain, the rest into its end', () => {
    const source = skeletonOf(castCharacter('stoker.dae'));
    const bones = [3, 4, 5, 6, 7];
    const first = VRM_HUMANOID.bones.findIndex((bone) => bone.name === 'leftIndexProximal');
    const crosswalk = withChain(suggest(source, VRM_HUMANOID), VRM_HUMANOID, bones, first);
    const names = bones.map(
      (bone) => `${crosswalk[bone].kind} ${nameOf(VRM_HUMANOID, crosswalk[bone].target)}`,
    );
    expect(names).toEqual([
      'carry leftIndexProximal',
      'carry leftIndexIntermediate',
      'carry leftIndexDistal',
      'fold leftIndexDistal',
      'fold leftIndexDistal',
    ]);
    expect(bones.every((bone) => crosswalk[bone].locked)).toBe(true);
  });
});

describe('the file of a crosswalk', () => {
  const bone = (name: string, parent: number): SkeletonBone => ({
    name,
    parent,
    place: [0, parent + 1, 0],
    rotation: [0, 0, 0, 1],
    weight: 1,
    holds: false,
    node: parent + 1,
  });
  const skeletonWith = (names: readonly string[]): Skeleton => ({
    id: '',
    title: 'made',
    bones: names.map((name, i) => bone(name, i - 1)),
  });
  it('comes back as it went, also where bones share a name', () => {
    const names = fc.array(fc.constantFrom('a', 'b', 'c'), { minLength: 1, maxLength: 12 });
    fc.assert(
      fc.property(names, names, fc.array(fc.nat()), (mine, theirs, picks) => {
        const [source, target] = [skeletonWith(mine), skeletonWith(theirs)];
        let crosswalk: Crosswalk = mine.map((_, i) => ({
          source: i,
          kind: 'keep',
          target: -1,
          confidence: 0.5,
          reasons: ['why'],
          locked: false,
          ...(i % 3 === 0 && { accepted: 0.25 }),
        }));
        picks.slice(0, mine.length).forEach((pick, i) => {
          crosswalk = withRules(crosswalk, [i], pick % 2 ? 'carry' : 'fold', pick % theirs.length);
        });
        expect(crosswalkFromFile(crosswalkToFile(crosswalk, source, target), source, target)).toEqual(
          crosswalk,
        );
      }),
    );
  });
  it('names what is missing', () => {
    const [source, target] = [skeletonWith(['a', 'a']), skeletonWith(['x'])];
    const crosswalk = suggest(source, target);
    const file = crosswalkToFile(crosswalk, source, target);
    expect(() => crosswalkFromFile(file, skeletonWith(['a', 'a', 'a']), target)).toThrow(
      /no rule for the bone “a”/,
    );
    const gone = {
      ...file,
      rules: file.rules.map((rule) => ({ ...rule, rule: 'carry' as const, target: 'y' })),
    };
    expect(() => crosswalkFromFile(gone, source, target)).toThrow(
      /“a” goes to “y”, which made does not have/,
    );
  });
});

describe('left and right', () => {
  /** A figure that is the same in front and behind, without names: all joints in one plane. */
  const flat: Skeleton = {
    ...QUAY,
    bones: QUAY.bones.map((bone, i) => ({
      ...bone,
      name: `q${i}`,
      place: [bone.place[0], bone.place[1], 0] as const,
    })),
  };
  it('that nothing tells are asked about, and follow one pair that a person sets', () => {
    const bare = QUAY.bones.flatMap((bone, i) =>
      /toe|foot|thumb|finger|point|long|ring|small/.test(bone.name) ? [] : [i],
    );
    const figure = skeletonOfBones(flat, bare);
    const crosswalk = suggest(figure, VRM_HUMANOID);
    const [notice] = noticesOf(figure, VRM_HUMANOID, crosswalk);
    expect(notice.text).toMatch(/which side is left/);
    const { source, target } = notice.other!;
    const turned = suggest(figure, VRM_HUMANOID, withRules(crosswalk, [source], 'carry', target));
    const sideOf = (w: Crosswalk, b: number) =>
      w[b].target < 0 ? '' : (/^(left|right)/.exec(nameOf(VRM_HUMANOID, w[b].target))?.[0] ?? '');
    const sided = crosswalk.filter((rule) => rule.kind === 'carry' && sideOf(crosswalk, rule.source) !== '');
    expect(sided.length).toBeGreaterThan(7);
    for (const rule of sided) expect(sideOf(turned, rule.source)).not.toBe(sideOf(crosswalk, rule.source));
  });
  it('that the figure tells are not', () => {
    const nameless: Skeleton = { ...QUAY, bones: QUAY.bones.map((bone, i) => ({ ...bone, name: `q${i}` })) };
    expect(noticesOf(nameless, VRM_HUMANOID, suggest(nameless, VRM_HUMANOID))).toEqual([]);
  });
});

describe('a hand by itself', () => {
  it('is the hand that it is: the published ones, and those of the standard', () => {
    for (const [hand, is] of [
      [publishedHand('left'), 1],
      [publishedHand('right'), -1],
      [WEBXR_HAND_LEFT, 1],
      [WEBXR_HAND_RIGHT, -1],
    ] as const)
      expect(Math.sign(handednessOf(hand))).toBe(is);
    expect(handednessOf(VRM_HUMANOID)).toBe(0);
  });
  it('goes onto its own side of a body, every finger to its like', () => {
    for (const side of ['left', 'right'] as const)
      for (const body of [VRM_HUMANOID, QUAY]) {
        const hand = publishedHand(side);
        const carried = suggest(hand, body).filter((rule) => rule.kind === 'carry');
        expect(carried).toHaveLength(16);
        const own = side === 'left' ? /^left|_lt$/ : /^right|_rt$/;
        for (const rule of carried) expect(nameOf(body, rule.target)).toMatch(own);
        expect(noticesOf(hand, body, suggest(hand, body))[0].text).toMatch(
          `the ${side} one of the body, by its shape`,
        );
      }
  });
  it('goes to the other side where a person has set one of its bones there', () => {
    const hand = publishedHand('left');
    const [{ other }] = noticesOf(hand, VRM_HUMANOID, suggest(hand, VRM_HUMANOID));
    expect(other?.label).toBe('It is the right one');
    const held = withRules(suggest(hand, VRM_HUMANOID), [other!.source], 'carry', other!.target);
    const again = suggest(hand, VRM_HUMANOID, held).filter((rule) => rule.kind === 'carry');
    expect(again).toHaveLength(16);
    for (const rule of again) expect(nameOf(VRM_HUMANOID, rule.target)).toMatch(/^right/);
  });
  it('that says a side in its names is that one, and one whose shape says nothing is asked about', () => {
    const named: Skeleton = {
      ...WEBXR_HAND_RIGHT,
      bones: WEBXR_HAND_RIGHT.bones.map((bone) => ({ ...bone, name: `left_${bone.name}` })),
    };
    expect(limbFor(named, VRM_HUMANOID)).toMatchObject({ side: 1, from: 'name' });
    const flat: Skeleton = {
      ...WEBXR_HAND_RIGHT,
      bones: WEBXR_HAND_RIGHT.bones.map((bone) => ({ ...bone, place: [bone.place[0], 0, bone.place[2]] })),
    };
    expect(limbFor(flat, VRM_HUMANOID)?.from).toBe('guess');
    expect(noticesOf(flat, VRM_HUMANOID, suggest(flat, VRM_HUMANOID))[0].text).toMatch(/please look/);
  });
  it('whose joints hang side by side without names gets no pair that is a guess, and says why', () => {
    const hand = publishedHand('left');
    const nameless: Skeleton = { ...hand, bones: hand.bones.map((bone, i) => ({ ...bone, name: `b${i}` })) };
    const crosswalk = suggest(nameless, WEBXR_HAND_LEFT);
    expect(crosswalk.filter((rule) => rule.kind === 'carry')).toEqual([]);
    expect(noticesOf(nameless, WEBXR_HAND_LEFT, crosswalk)[0].text).toMatch(/nothing was paired/);
    const held = suggest(nameless, WEBXR_HAND_LEFT, withRules(crosswalk, [3], 'carry', 5));
    expect(held.filter((rule) => rule.kind === 'carry')).toMatchObject([
      { source: 3, target: 5, locked: true },
    ]);
  });
  it('left onto right says so', () => {
    const hand = publishedHand('left');
    const crosswalk = suggest(hand, WEBXR_HAND_RIGHT);
    expect(noticesOf(hand, WEBXR_HAND_RIGHT, crosswalk)[0].text).toMatch(/left hand, and .* is a right one/);
    expect(noticesOf(hand, WEBXR_HAND_LEFT, suggest(hand, WEBXR_HAND_LEFT))).toEqual([]);
    expect(noticesOf(QUAY, VRM_HUMANOID, suggest(QUAY, VRM_HUMANOID))).toEqual([]);
  });
});
