/** One skeleton hung on another, and bones folded away: in place, in size, in motion. */
import fc from 'fast-check';
import { ancestorsOf, parentBone, restPlace, restWorld, weightOfNodes } from '@/core/character/hierarchy';
import { joinCharacters } from '@/core/character/join';
import { placedMeshes } from '@/core/character/measure';
import type { Character, Clip } from '@/core/character/model';
import { similarityMatrix } from '@/core/character/similarity';
import { grafted, similarityOf } from '@/core/character/graft';
import { brokenInvariants } from '@/core/character/invariants';
import { withWeightGiven } from '@/core/character/give-weight';
import { cheapestFolds } from '@/core/motion/bone-costs';
import { withBonesFolded } from '@/core/motion/fold';
import { leftBehind } from '@/core/motion/follows';
import { clipWorld } from '@/core/motion/pose';
import { probedWorld, probesOf } from '@/core/motion/probe';
import { placedPoints } from '@/core/character/deform';
import { briefById } from '@/core/house/briefs';
import { audit } from '@/core/house/audit';
import { checkById, remedyById } from '@/core/house/registry';
import { writeGlb } from '@/core/formats/gltf/write';
import { type Vec3, distance, quatAbout } from '@/core/geometry/matrix';
import { withJointsAt } from '@/core/character/place-joints';
import { bodyOf } from '@/bench/bodies/body';
import { makeFigure, makeRandom } from '@/bench/match/figures';
import { HABITS } from '@/bench/match/habits';
import { KINDS, type FigureKind } from '@/bench/match/roles';
import { castCharacter } from './support/cast';
import { chainTube } from './support/chain';
import { randomCharacter, seeds } from './support/random';
import { playedPoints, threeGltf } from './support/three-play';

const brief = briefById('handset')!;
const host = castCharacter('deckhand-clean.glb');

const at = (character: Character, name: string) =>
  character.nodes.findIndex((candidate) => candidate.name === name);

/** A feather of five bones far from the body, five times as large as it should be, with a clip of its own. */
const feather = (): Character => {
  const tube = chainTube(5);
  const bones = tube.skins[0].joints;
  const nodes = tube.nodes.map((one, i) => {
    const nth = bones.indexOf(i);
    return nth < 0 ? { ...one, name: 'feather' } : { ...one, name: `feather_${nth}` };
  });
  const turn = (nth: number, radians: number): Clip['channels'][number] => ({
    node: bones[nth],
    path: 'rotation',
    interpolation: 'LINEAR',
    times: Float32Array.of(0, 0.5, 1),
    values: Float32Array.from([0, 1, 0].flatMap((share) => [...quatAbout([0.6, 0, 0.8], radians * share)])),
  });
  const [x, y, z] = nodes[bones[0]].translation;
  const lift: Clip['channels'][number] = {
    node: bones[0],
    path: 'translation',
    interpolation: 'LINEAR',
    times: Float32Array.of(0, 1),
    values: Float32Array.of(x, y, z, x + 0.3, y + 0.2, z - 0.1),
  };
  const clips = [{ name: 'flutter', channels: [turn(0, 0.7), turn(2, -0.9), lift] }];
  return { ...tube, name: 'feather', nodes, clips };
};

const joined = joinCharacters({ ...host, clips: [] }, feather());
const spine = at(joined, 'spine_3');
const meetings = [
  { joint: at(joined, 'feather_0'), onto: spine },
  { joint: at(joined, 'feather_4'), onto: at(joined, 'head') },
];

const shown = (character: Character, name: string) =>
  placedMeshes(character).find((placed) => character.nodes[placed.node].name === name)!;

describe('two joints that meet', () => {
  const by = similarityOf(joined, meetings);
  const after = grafted(joined, meetings[0].joint, spine, by);

  /** How far points are, along an axis, from where the similarity takes others, at most. */
  const farthestFrom = (before: ArrayLike<number>, now: ArrayLike<number>): number => {
    const map = similarityMatrix(by);
    let most = 0;
    for (let i = 0; i < before.length; i++) {
      const [axis, first] = [i % 3, i - (i % 3)];
      const wanted = [0, 1, 2].reduce(
        (sum, k) => sum + map[k * 4 + axis] * before[first + k],
        map[12 + axis],
      );
      most = Math.max(most, Math.abs(now[i] - wanted));
    }
    return most;
  };

  it('both stand where they were to stand, and nothing of the host moved', () => {
    expect(brokenInvariants(after)).toEqual([]);
    for (const { joint, onto } of meetings)
      expect(distance(restPlace(after.nodes, joint), restPlace(joined.nodes, onto))).toBeLessThan(1e-6);
    expect(parentBone(after.nodes, meetings[0].joint)).toBe(spine);
    joined.nodes.forEach(({ name }, i) => {
      if (!name.startsWith('feather')) expect(after.nodes[i]).toEqual(joined.nodes[i]);
    });
  });

  it('the mesh went through the same similarity, and no node keeps a scale', () => {
    expect(by.scale).toBeLessThan(0.9);
    const [before, now] = [shown(joined, 'feather').points, shown(after, 'feather').points];
    expect(farthestFrom(before, now)).toBeLessThan(2e-6);
    for (const { name, scale } of after.nodes)
      if (name.startsWith('feather')) for (const factor of scale) expect(factor).toBeCloseTo(1, 9);
  });

  it('it follows the bone that it hangs on, and did not before', () => {
    expect(leftBehind(joined, meetings[0].joint, spine)).toBeGreaterThan(0.1);
    expect(leftBehind(after, meetings[0].joint, spine)).toBeLessThan(2e-6);
  });

  it('its clip does the same, smaller and elsewhere (three.js plays both files)', async () => {
    const [a, b] = await Promise.all([threeGltf(writeGlb(joined).bytes), threeGltf(writeGlb(after).bytes)]);
    for (const time of [0, 0.2, 0.5, 0.77, 1]) {
      const [before, now] = [a, b].map((gltf) => playedPoints(gltf, 0, time).get('feather')!);
      expect(farthestFrom(before, now)).toBeLessThan(2e-5);
    }
  });
});

describe('the remedy', () => {
  const remedy = remedyById('graft')!;
  const params = (of: object) =>
    remedy.params.cast({ bone: meetings[0].joint, under: spine, ...of }) as Record<string, unknown>;
  const apply = (of: object) => remedy.apply(joined, params(of), brief);

  it('leaves no second root, drops what is not needed, and tells how it follows', () => {
    const found = (character: Character) =>
      audit(character, brief).filter(({ check, key }) => check === 'one-root' && key.includes('count'));
    const [twoRoots, ...others] = found(joined);
    expect(others).toEqual([]);
    expect(twoRoots.remedies!.map(({ id }) => id)).toEqual(['graft', 'join-roots', 'add-root']);
    expect(twoRoots.remedies![0].params.bone).toBe(meetings[0].joint);
    expect(joined.nodes[twoRoots.remedies![0].params.under as number].kind).toBe('bone');
    const surplus = [at(joined, 'feather_0'), at(joined, 'feather_4')];
    const after = apply({ surplus });
    expect(found(after)).toEqual([]);
    expect(after.nodes.map(({ name }) => name)).not.toContain('feather_0');
    expect(after.nodes[after.nodes[at(after, 'feather_1')].parent].name).toBe('spine_3');
    // What they carried is carried by the bones above.
    expect(weightOfNodes(after)[at(after, 'feather_3')]).toBeCloseTo(
      weightOfNodes(joined)[at(joined, 'feather_3')] + weightOfNodes(joined)[at(joined, 'feather_4')],
      3,
    );
    const rows = remedy.rows(apply({}), params({}), brief);
    expect(rows.find(({ label }) => /Left behind/.test(label))!.value).toBeLessThan(0.01);
  });

  it.each<[string, object, RegExp]>([
    ['a joint of the host', { joint: spine, onto: spine }, /no joint of the branch/],
    ['half a meeting', { joint: meetings[0].joint }, /choose both/],
    ['onto itself', { joint: meetings[0].joint, onto: meetings[1].joint }, /moves with it/],
    [
      'two in one point',
      { joint: meetings[0].joint, onto: spine, second: meetings[0].joint, secondOnto: spine },
      /one point/,
    ],
    ['surplus of the host', { surplus: [spine] }, /no bone of the branch/],
    ['a bone that is gone', { surplus: [1e6] }, /not there any more/],
    ['under itself', { under: meetings[1].joint }, /hangs below it/],
  ])('%s is refused in a sentence', (_, of, why) => expect(() => apply(of)).toThrow(why));

  it('a mesh bound to both is not torn', () => {
    const skins = joined.skins.map((skin, i) =>
      i === joined.nodes[at(joined, 'feather')].skin
        ? {
            ...skin,
            joints: [...skin.joints, spine],
            inverseBinds: Float64Array.from([...skin.inverseBinds, ...skin.inverseBinds.subarray(0, 16)]),
          }
        : skin,
    );
    const both = { ...joined, skins };
    expect(() => remedy.apply(both, params({ joint: meetings[0].joint, onto: spine }), brief)).toThrow(
      /“feather” is bound to bones inside and outside of the branch/,
    );
    expect(parentBone(remedy.apply(both, params({}), brief).nodes, meetings[0].joint)).toBe(spine);
  });

  it('under a bone scaled unevenly it cannot keep its shape, and that is told', () => {
    const nodes = joined.nodes.map((one, i) => (i === spine ? { ...one, scale: [1, 2, 1] } : one));
    expect(() => remedy.apply({ ...joined, nodes }, params({}), brief)).toThrow(/bake its scale first/);
  });
});

describe('bones folded away', () => {
  it('what hangs on them moves as it did, at every key of every clip', () =>
    fc.assert(
      fc.property(seeds, (seed) => {
        const drawn = randomCharacter(seed);
        const inner = drawn.nodes.flatMap((one, i) =>
          one.kind === 'bone' && one.mesh < 0 && parentBone(drawn.nodes, i) >= 0 ? [i] : [],
        );
        if (inner.length === 0) return;
        const folded = new Set([inner[seed % inner.length], inner[(seed >> 8) % inner.length]]);
        const safe = inner.filter(
          (i) => ![i, ...ancestorsOf(drawn.nodes, i)].some((above) => folded.has(above)),
        );
        const into = seed % 3 === 0 && safe.length > 0 ? safe[seed % safe.length] : -1;
        const { character: after, newOf } = withBonesFolded(drawn, folded, into);
        expect(brokenInvariants(after)).toEqual([]);
        drawn.clips.forEach((clip, c) => {
          const times = new Set(clip.channels.flatMap((channel) => [...channel.times]));
          for (const time of times) {
            const before = clipWorld(drawn, clip, time);
            const now = clipWorld(after, after.clips[c], time);
            newOf.forEach((to, from) => {
              if (to < 0) return;
              for (let k = 12; k < 15; k++)
                expect(Math.abs(now[to * 16 + k] - before[from * 16 + k])).toBeLessThan(1e-4);
            });
          }
        });
        const [was, is] = [restWorld(drawn.nodes), restWorld(after.nodes)];
        newOf.forEach((to, from) => {
          if (to < 0) return;
          for (let k = 0; k < 16; k++)
            expect(Math.abs(is[to * 16 + k] - was[from * 16 + k])).toBeLessThan(1e-6);
        });
      }),
      { numRuns: 60 },
    ));

  it('between two keys that turn at once it stays near the way that it had', () => {
    const turn = (node: number, axis: readonly number[], radians: number): Clip['channels'][number] => ({
      node,
      path: 'rotation',
      interpolation: 'LINEAR',
      times: Float32Array.of(0, 1),
      values: Float32Array.from([0, 0, 0, 1, ...quatAbout(axis, radians)]),
    });
    const tube = chainTube(5);
    const clip = { name: 'both', channels: [turn(1, [1, 0, 0], 1.6), turn(2, [0, 0, 1], -1.4)] };
    const { character: after, newOf } = withBonesFolded({ ...tube, clips: [clip] }, new Set([1]));
    for (const time of [0.1, 0.4, 0.62, 0.9]) {
      const before = clipWorld(tube, clip, time);
      const now = clipWorld(after, after.clips[0], time);
      const apart = Math.max(
        ...[12, 13, 14].map((k) => Math.abs(before[4 * 16 + k] - now[newOf[4] * 16 + k])),
      );
      expect(apart).toBeLessThan(0.02);
    }
  });

  it('a chain of them gives its weight to the bone above the chain; the sum stays', () => {
    const gone = ['spine_2', 'spine_3', 'spine_4'].map((name) => at(host, name));
    const { character: after } = withBonesFolded(host, new Set(gone));
    const [before, now] = [weightOfNodes(host), weightOfNodes(after)];
    const sum = (weight: Float64Array) => weight.reduce((a, b) => a + b, 0);
    expect(sum(now)).toBeCloseTo(sum(before), 2);
    expect(now[at(after, 'spine_1')]).toBeCloseTo(
      before[at(host, 'spine_1')] + gone.reduce((total, bone) => total + before[bone], 0),
      2,
    );
    expect(
      after.skins.every(({ joints }) => joints.every((joint) => after.nodes[joint].kind === 'bone')),
    ).toBe(true);
  });

  it('into a bone that is named: weight and what hung there go to it', () => {
    const [small, ring] = ['small_2_lt', 'ring_2_lt'].map((name) => at(host, name));
    const { character: after } = withBonesFolded(host, new Set([small]), ring);
    const [before, now] = [weightOfNodes(host), weightOfNodes(after)];
    expect(now[at(after, 'ring_2_lt')]).toBeCloseTo(before[ring] + before[small], 3);
    expect(after.nodes[after.nodes[at(after, 'small_3_lt')].parent].name).toBe('ring_2_lt');
    const remedy = remedyById('fold-bones')!;
    const below = at(host, 'small_3_lt');
    expect(() => remedy.apply(host, { bones: [small], into: below }, brief)).toThrow(
      /fold into a bone that stays/,
    );
    expect(() => remedy.apply(host, { bones: [small], into: 1e6 }, brief)).toThrow(/not there any more/);
  });

  it('two bones in one place are told, and folded into one', () => {
    const check = checkById('stacked-bones')!;
    expect(check.run(host, brief)).toEqual([]);
    const hand = at(host, 'hand_lt');
    const place = restPlace(host.nodes, at(host, 'arm_lower_lt')) as Vec3;
    const stacked = withJointsAt(host, new Map([[hand, place]]));
    const [finding, ...others] = check.run(stacked, brief);
    expect(others).toEqual([]);
    expect(finding.message).toBe('“hand_lt” stands where “arm_lower_lt” stands, and both carry weight');
    const [{ id, params }] = finding.remedies!;
    const remedy = remedyById(id)!;
    const after = remedy.apply(stacked, remedy.params.cast(params) as Record<string, unknown>, brief);
    expect(check.run(after, brief)).toEqual([]);
    expect(at(after, 'hand_lt')).toBe(-1);
    const [before, now] = [weightOfNodes(stacked), weightOfNodes(after)];
    expect(now[at(after, 'arm_lower_lt')]).toBeCloseTo(before[hand] + before[at(stacked, 'arm_lower_lt')], 3);
  });

  it('of figures and beasts in every habit none is told to stand on another', () => {
    const check = checkById('stacked-bones')!;
    for (const habit of HABITS.filter((_, i) => i % 3 === 0))
      for (const kind of Object.keys(KINDS) as FigureKind[]) {
        const body = bodyOf(
          makeFigure(makeRandom(17), kind, habit, { stance: 'T', steady: true, holding: true }),
        );
        expect([habit.id, kind, check.run(body, brief).map(({ message }) => message)]).toEqual([
          habit.id,
          kind,
          [],
        ]);
      }
  });

  it('a bone at the top cannot go, and one that shows a mesh itself cannot', () => {
    const remedy = remedyById('fold-bones')!;
    expect(() => remedy.apply(host, { bones: [at(host, 'root')] }, brief)).toThrow(
      /no bone above it that stays/,
    );
    const nodes = host.nodes.map((one) => (one.name === 'cap' ? { ...one, mesh: 0 } : one));
    expect(() => remedy.apply({ ...host, nodes }, { bones: [at(host, 'cap')] }, brief)).toThrow(
      /shows something itself/,
    );
    expect(() => remedy.apply(host, { bones: [] }, brief)).toThrow(/choose those that go/);
  });
});

it('weight given away: where both moved a point, one entry with the sum is left', () => {
  const [from, to] = [at(host, 'arm_lower_lt'), at(host, 'arm_upper_lt')];
  const after = withWeightGiven(host, new Map([[from, to]]));
  expect(weightOfNodes(after)[from]).toBe(0);
  for (const { mesh, skin } of after.nodes) {
    const influences = mesh >= 0 && skin >= 0 ? after.meshes[mesh].influences : null;
    if (!influences) continue;
    for (let vertex = 0; vertex + 1 < influences.offsets.length; vertex++) {
      const row = influences.joint.subarray(influences.offsets[vertex], influences.offsets[vertex + 1]);
      expect(new Set(row).size).toBe(row.length);
    }
  }
});

describe('folding down to a budget', () => {
  const tube = chainTube(9);
  const alone = { keeps: new Set<number>(), twins: new Map<number, number>() };

  /** How far all points are from where they were when bones carry for others, every bone moving as it did: RMS, metres. */
  function strayed(character: Character, heirs: ReadonlyMap<number, number>): number {
    const given = withWeightGiven(character, heirs);
    let [sum, count] = [0, 0];
    for (const probe of probesOf(character)) {
      const world = probedWorld(character, probe);
      character.nodes.forEach(({ mesh, skin }, i) => {
        if (mesh < 0 || skin < 0) return;
        const [a, b] = [character, given].map(({ meshes, skins }) =>
          placedPoints(meshes[mesh], skins[skin], i, world),
        );
        for (let k = 0; k < a.length; k += 3) {
          sum += (a[k] - b[k]) ** 2 + (a[k + 1] - b[k + 1]) ** 2 + (a[k + 2] - b[k + 2]) ** 2;
          count++;
        }
      });
    }
    return Math.sqrt(sum / count);
  }

  it('what is told is what skinning gives, fold after fold, and each is the best of those that are left', () => {
    // Down to one bone: those that took weight are folded in their turn.
    const folds = cheapestFolds(tube, { ...alone, most: 1 });
    expect(folds).toHaveLength(8);
    const heirs = new Map<number, number>();
    const { nodes } = tube;
    const folded = (bone: number) => {
      let heir = parentBone(nodes, bone);
      while (heirs.has(heir)) heir = parentBone(nodes, heir);
      const next = new Map([...heirs].map(([from, to]) => [from, to === bone ? heir : to] as const));
      return next.set(bone, heir);
    };
    for (const { bone, heir, rms } of folds) {
      const left = tube.skins[0].joints.slice(1).filter((one) => !heirs.has(one));
      expect(rms).toBeCloseTo(Math.min(...left.map((one) => strayed(tube, folded(one)))), 6);
      const next = folded(bone);
      expect(next.get(bone)).toBe(heir);
      for (const [from, to] of next) heirs.set(from, to);
      expect(rms).toBeCloseTo(strayed(tube, heirs), 6);
    }
  });

  it('both sides go together, what holds a prop stays, and what is to stay', () => {
    const delivered = castCharacter('deckhand.glb');
    const remedy = remedyById('fold-to-budget')!;
    const kept = at(delivered, 'L_pinky_2');
    const after = remedy.apply(delivered, { most: 70, stay: [kept] }, brief);
    expect(Math.max(...after.skins.map(({ joints }) => joints.length))).toBeLessThanOrEqual(70);
    const names = new Set(after.nodes.map(({ name }) => name));
    expect(names).toContain('L_pinky_2');
    expect(names).toContain('R_pinky_2');
    expect(names).toContain('lantern_ring');
    expect(names).not.toContain('L_hand_ctrl');
    const gone = delivered.nodes.flatMap(({ name, kind }) =>
      kind === 'bone' && !names.has(name) ? [name] : [],
    );
    const sides = (side: string) => gone.filter((name) => name.startsWith(side)).map((name) => name.slice(2));
    // The copy’s leftover in its name is one of the planted faults.
    expect(
      sides('R_')
        .map((name) => name.replace('_copy', ''))
        .sort(),
    ).toEqual(sides('L_').sort());
    expect(
      audit(after, { ...brief, limits: { ...brief.limits, bones: 70 } }).map(({ check }) => check),
    ).not.toContain('bone-budget');
    expect(() => remedy.apply(after, { most: 70, stay: [] }, brief)).toThrow(/nothing to fold/);
    expect(() => remedy.apply(tube, { most: 1, stay: tube.skins[0].joints.slice(0, 4) }, brief)).toThrow(
      /Only 5 bones can go/,
    );
  });

  it('the finding of the budget offers it with the brief’s number', () => {
    const tight = { ...brief, limits: { ...brief.limits, bones: 90 } };
    const [found] = audit(castCharacter('deckhand.glb'), tight).filter(
      ({ check }) => check === 'bone-budget',
    );
    expect(found.remedies).toContainEqual({ id: 'fold-to-budget', params: { most: 90 } });
  });
});
