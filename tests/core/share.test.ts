/** Weights shared over chains of another length, in closed form and as laws. */
import fc from 'fast-check';
import { counterparts, normaliseRule, withRule, withShare, type Crosswalk } from '@/core/anatomy/crosswalk';
import { skeletonOf } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { suggest } from '@/core/anatomy/suggest';
import { posesFor } from '@/core/rooms/crosswalk/poses';
import { prove } from '@/core/rooms/crosswalk/proof';
import { remap } from '@/core/rooms/crosswalk/remap';
import { crosswalkFromFile, crosswalkToFile } from '@/core/rooms/crosswalk/file';
import { shareRows, sharesAt } from '@/core/rooms/crosswalk/share';
import { influencesFrom } from '@/core/geometry/influences';
import { castCharacter } from './support/cast';
import { chainTube } from './support/chain';
import { rule } from './support/moved';
import { real } from './support/random';

const straight = {
  joints: [4, 7, 9],
  ways: [
    {
      at: [0, 1, 2],
      places: [
        [0, 0, 0],
        [0, 1, 0],
        [0, 2, 0],
        [0, 3, 0],
      ] as const,
    },
  ],
};

describe('a weight along a chain', () => {
  it('is half and half at a joint, and whole in the middle of a bone (common practice)', () => {
    expect(Array.from(sharesAt([0.3, 1, 0], straight))).toEqual([0.5, 0.5, 0]);
    expect(Array.from(sharesAt([0, 2, -0.2], straight))).toEqual([0, 0.5, 0.5]);
    expect(Array.from(sharesAt([0, 1.5, 0], straight))).toEqual([0, 1, 0]);
    expect(Array.from(sharesAt([0, -4, 0], straight))).toEqual([1, 0, 0]);
    expect(Array.from(sharesAt([0, 9, 0], straight))).toEqual([0, 0, 1]);
  });
  it('sums to one, is never negative, and goes over smoothly', () => {
    const place = fc.tuple(real(-1, 1), real(-1, 4), real(-1, 1));
    fc.assert(
      fc.property(place, (place) => {
        const a = sharesAt(place, straight);
        const b = sharesAt([place[0], place[1] + 1e-4, place[2]], straight);
        expect(a.reduce((x, y) => x + y, 0)).toBeCloseTo(1, 12);
        expect(Math.min(...a)).toBeGreaterThanOrEqual(0);
        a.forEach((x, i) => expect(Math.abs(x - b[i])).toBeLessThan(1e-3));
      }),
    );
  });
  it('keeps to the limit without letting go of what others carry', () => {
    const influences = influencesFrom([
      [
        [4, 0.4],
        [1, 0.3],
        [2, 0.3],
      ],
    ]);
    const arrivals = Array.from({ length: 5 }, (_, to) => ({ to, span: to === 4 ? straight : undefined }));
    const out = shareRows(influences, [0, 1, 0], arrivals, 3);
    expect([...out.joint].sort((a, b) => a - b)).toEqual([1, 2, expect.any(Number)].sort());
    expect(out.weight.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 6);
    expect([...out.weight].sort()[0]).toBeCloseTo(0.3, 6);
  });
});

describe('a straight tube whose chain of four goes to two and back', () => {
  const four = chainTube(4);
  const [S4, S2] = [skeletonOf(four), skeletonOf(chainTube(2))];
  const down: Crosswalk = [rule(0, 'carry', 0), rule(1, 'fold', 0), rule(2, 'carry', 1), rule(3, 'fold', 1)];
  const two = remap(four, S2, down, { limit: 4 }).character;
  const up = normaliseRule([rule(0, 'carry', 0), rule(1, 'carry', 2)]);
  const shared = withShare(withShare(up, S4, 0, 0, [1]), S4, 1, 2, [3]);
  const back = remap(two, S4, shared, { limit: 4 });

  it('has the weights that it had (closed form: both are shares along one line)', () => {
    const [a, b] = [four, back.character].map((character) => {
      const influences = character.meshes[0].influences!;
      const { joints } = character.skins[0];
      return Array.from({ length: influences.offsets.length - 1 }, (_, vertex) => {
        const row = new Array<number>(4).fill(0);
        for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++) {
          const bone = Number(character.nodes[joints[influences.joint[k]]].name.slice(5)) - 1;
          row[bone] += influences.weight[k];
        }
        return row;
      });
    });
    let most = 0;
    a.forEach((row, index) =>
      row.forEach((weight, i) => (most = Math.max(most, Math.abs(weight - b[index][i])))),
    );
    expect(a.length).toBeGreaterThan(300);
    // What is below 1/255 was not worth a bone.
    expect(most).toBeLessThan(0.01);
  });
  it('goes exactly as the tube of two went', () => {
    expect(prove(back, posesFor(two, shared)).max).toBeLessThan(1e-6);
  });
  it('is the same from its file', () => {
    const file = JSON.parse(JSON.stringify(crosswalkToFile(shared, S2, S4)));
    expect(crosswalkFromFile(file, S2, S4)).toEqual(shared);
    file.rules[0].further = [{ name: 'nobody' }];
    expect(() => crosswalkFromFile(file, S2, S4)).toThrow('shared with “nobody”');
  });
});

describe('a chain of four that goes over one of two', () => {
  const four = chainTube(4);
  const [S4, S2] = [skeletonOf(four), skeletonOf(chainTube(2))];
  const folded = normaliseRule([
    rule(0, 'carry', 0),
    rule(1, 'fold', 0),
    rule(2, 'carry', 1),
    rule(3, 'fold', 1),
  ]);
  const joined = withShare(folded, S2, 1, 0, [1]);

  it('shares the bone between over both, and those that lead them go on doing so', () => {
    expect(joined[1]).toMatchObject({ kind: 'share', joins: true, target: 0, further: [1] });
    expect([...counterparts(S2, joined)]).toEqual([0, 2]);
    expect(joined.map((rule) => rule.kind)).toEqual(['carry', 'share', 'carry', 'fold']);
  });
  it('by place: half and half at the joint between, and whole in the middle of a bone (closed form)', () => {
    const { character } = remap(four, S2, joined, { limit: 4 });
    const { influences, attributes } = character.meshes[0];
    const given = four.meshes[0].influences!;
    const places = attributes.POSITION.data as Float32Array;
    const joint = S4.bones[2].place[1];
    let seen = 0;
    for (let vertex = 0; vertex + 1 < influences!.offsets.length; vertex++) {
      const row = (otherInfluences: typeof given) => {
        const out = [0, 0, 0, 0];
        for (let k = otherInfluences.offsets[vertex]; k < otherInfluences.offsets[vertex + 1]; k++)
          out[otherInfluences.joint[k]] += otherInfluences.weight[k];
        return out;
      };
      const [mine, theirs] = [row(given), row(influences!)];
      const share = Math.min(1, Math.max(0, (places[vertex * 3 + 1] - joint / 2) / joint));
      const over = share * share * (3 - 2 * share);
      expect(Math.abs(theirs[1] - (mine[1] * over + mine[2] + mine[3]))).toBeLessThan(1 / 255 + 1e-6);
      if (mine[1] > 0.2 && over > 0.1) seen++;
    }
    expect(seen).toBeGreaterThan(20);
  });
  it('folds again when nothing but its first is left, and leads when the one that led has gone', () => {
    expect(withShare(joined, S2, 1, 0, [])[1]).toMatchObject({ kind: 'fold', target: 0 });
    const alone = withRule(joined, 0, 'release', -1)[1];
    expect([alone.kind, alone.joins, alone.further]).toEqual(['share', undefined, [1]]);
  });
  it('is the same from its file', () => {
    const file = JSON.parse(JSON.stringify(crosswalkToFile(joined, S4, S2)));
    expect(crosswalkFromFile(file, S4, S2)).toEqual(joined);
  });
  it('what only a share had is given up to the bone that takes it; what another led is shared on', () => {
    const up = withShare(normaliseRule([rule(0, 'carry', 0), rule(1, 'carry', 2)]), S4, 0, 0, [1]);
    expect(withRule(up, 1, 'carry', 1)[0]).toMatchObject({ kind: 'carry', target: 0 });
    expect(withRule(joined, 2, 'carry', 1)[1].further).toEqual([1]);
  });
});

describe('suggested', () => {
  it('a spine of five goes over one of three: the bone between by its place, which brings the mesh nearer', () => {
    const clean = castCharacter('deckhand-clean.glb');
    const source = skeletonOf(clean);
    const walk = suggest(source, VRM_HUMANOID);
    const shares = walk.filter((rule) => rule.kind === 'share');
    expect(shares.map((share) => source.bones[share.source].name)).toEqual(['spine_2']);
    const names = [shares[0].target, ...(shares[0].further ?? [])].map(
      (bone) => VRM_HUMANOID.bones[bone].name,
    );
    expect([names.sort(), shares[0].joins]).toEqual([['chest', 'spine'], true]);
    const folded = walk.map((otherRule) =>
      otherRule.joins ? rule(otherRule.source, 'fold', otherRule.target) : otherRule,
    );
    const [by, without] = [walk, folded].map((crosswalk) =>
      prove(remap(clean, VRM_HUMANOID, crosswalk, { limit: 4 }), posesFor(clean, crosswalk)),
    );
    const { node } = source.bones[shares[0].source];
    const [shared, joined] = [by, without].map(
      (proof) => proof.bones.find((bone) => bone.node === node)!.max,
    );
    expect(shared).toBeLessThan(0.8 * joined);
    expect(by.rms).toBeLessThan(without.rms);
  });
  it('a spine of three goes on over one of five, and every bone of it moves the mesh', () => {
    const stoker = castCharacter('stoker.dae');
    const source = skeletonOf(stoker);
    const crosswalk = suggest(source, QUAY);
    const over = (name: string) => {
      const rule = crosswalk.find((otherRule) => source.bones[otherRule.source].name === name)!;
      return [rule.kind, ...[rule.target, ...(rule.further ?? [])].map((bone) => QUAY.bones[bone].name)];
    };
    expect(over('SpineLower')).toEqual(['share', 'spine_1', 'spine_2']);
    expect(over('Neck')).toEqual(['share', 'neck_1', 'neck_2']);
    const out = remap(stoker, QUAY, crosswalk, { limit: 4 });
    expect(prove(out, posesFor(out.reference, crosswalk)).max).toBeLessThan(2e-6);
    const weight = new Map<string, number>();
    for (const mesh of out.character.meshes) {
      const skin = out.character.nodes.find(
        (node) => node.skin >= 0 && out.character.meshes[node.mesh] === mesh,
      )?.skin;
      const influences = mesh.influences;
      if (!influences || skin === undefined) continue;
      influences.joint.forEach((j, k) => {
        const { name } = out.character.nodes[out.character.skins[skin].joints[j]];
        weight.set(name, (weight.get(name) ?? 0) + influences.weight[k]);
      });
    }
    for (let k = 1; k <= 5; k++) expect(weight.get(`spine_${k}`)).toBeGreaterThan(10);
  });
});
