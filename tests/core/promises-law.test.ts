import { ASPECTS } from '@/core/contracts/aspect';
import { promise } from '@/core/contracts/remedy';
import { compareRows } from '@/core/house/preview';
import fc from 'fast-check';
import { briefById } from '@/core/house/briefs';
import { effectsOf } from '@/core/house/effects';
import { REMEDIES, remedyById } from '@/core/house/registry';
import { RemedyError } from '@/core/contracts/remedy';
import { brokenInvariants } from '@/core/character/invariants';
import { parentBone, restWorld } from '@/core/character/hierarchy';
import { characterHeight } from '@/core/character/measure';
import { BODY_KINDS } from '@/core/character/body-kinds';
import type { Character } from '@/core/character/model';
import { decompose, normalise, quatAbout, quatMultiply } from '@/core/geometry/matrix';
import { node, replaceAt } from '@/core/character/model';
import { hungUnder } from '@/core/character/rehang';
import { withRoots } from '@/core/character/remove';
import { underSimilarity } from '@/core/character/similarity';
import { castCharacter } from './support/cast';
import { below } from './support/matchers';
import { dice, randomCharacter, real, seeds } from './support/random';

const brief = briefById('handset')!;

/** Parameters that make sense on a random character, drawn anew for every one of them. */
const DRAW: Readonly<Record<string, (c: Character, seed: number) => Record<string, unknown>>> = {
  rescale: (_c, s) => {
    const d = dice(s);
    return d.chance(0.5)
      ? { by: 'factor', factor: d.between(0.1, 8) }
      : { by: 'points', measured: d.between(0.1, 2), wanted: d.between(0.1, 2) };
  },
  'change-unit': (_c, s) => {
    const d = dice(s);
    return { metres: [0.01, 0.0254, 0.3048][d.below(3)], up: ['x', 'y', 'z'][d.below(3)] };
  },
  'set-on-ground': () => ({}),
  'turn-faces': (c) => ({ node: c.nodes.findIndex((n) => n.mesh >= 0) }),
  'join-roots': (c, s) => {
    const roots = c.nodes.flatMap((n, i) => (n.kind === 'bone' && parentBone(c.nodes, i) < 0 ? [i] : []));
    return { bone: roots[s % Math.max(1, roots.length)] ?? 0 };
  },
  'add-root': () => ({ name: 'ground' }),
  'settle-on-bone': (c, s) => {
    const rigid = c.nodes.flatMap((n, i) => (n.mesh >= 0 && n.skin < 0 ? [i] : []));
    return { node: rigid[s % Math.max(1, rigid.length)] ?? 0 };
  },
  'body-kind': (_c, s) => ({ kind: BODY_KINDS[s % BODY_KINDS.length] }),
  centre: () => ({}),
  'bake-scale': (c, s) => {
    const scaled = c.nodes.flatMap((n, i) => (n.scale.some((x) => x !== 1) ? [i] : []));
    return { node: scaled.length > 0 ? scaled[s % scaled.length] : 0 };
  },
  'bake-transform': (c) => ({ node: c.nodes.findIndex((n) => n.name === 'crate') }),
  'detach-keep-size': (c, s) => ({ node: c.nodes.findIndex((n) => n.name === (s % 2 ? 'crate' : 'lid')) }),
  'detach-own-size': (c) => ({ node: c.nodes.findIndex((n) => n.name === 'crate') }),
  'rescale-prop': (c, s) => ({
    node: c.nodes.findIndex((n) => n.name === 'lamp'),
    factor: dice(s).between(0.3, 3),
  }),
  'fit-skeleton': (_c, s) => ({ height: dice(s).between(0.5, 3) }),
  'choose-driver': (c) => ({ node: c.nodes.findIndex((n) => n.name === 'body'), driver: 'bones' }),
  'remove-strays': () => ({}),
  'return-to-rest': () => ({}),
  'recompute-binds': (_c, s) => ({ skin: s % 2, keep: s % 3 ? 'shape' : 'bind' }),
  'place-part': (c, s) => {
    const d = dice(s);
    const turn = quatAbout(normalise([d.between(-1, 1), 1, d.between(-1, 1)]), d.between(-3, 3));
    return {
      node: c.nodes.findIndex((n) => n.name === (s % 2 ? 'lamp' : 'crate')),
      place: somewhere(d),
      turn,
    };
  },
  'move-joint': (c, s) => {
    const d = dice(s);
    return { bone: someBone(c, d), place: somewhere(d), alone: d.chance(0.5) };
  },
  rename: (c, s) => ({ table: { [c.nodes[someBone(c, dice(s))].name]: 'called otherwise' } }),
  're-hang': (c, s) => {
    const d = dice(s);
    return { bone: someBone(c, d), parent: someBone(c, d) };
  },
  'root-to-origin': (c, s) => ({ bone: someBone(c, dice(s)) }),
  'merge-points': (c, s) => {
    const shown = c.nodes.flatMap((n, i) => (n.mesh >= 0 ? [i] : []));
    return { node: shown[s % shown.length], distance: dice(s).between(0.05, 0.4) };
  },
  'limit-influences': (_c, s) => ({ limit: 1 + (s % 3), dust: (s % 5) * 0.02 }),
  'fill-weights': () => ({ limit: 3 }),
  'give-to-parent': (c, s) => ({ bone: someBone(c, dice(s)) }),
};

type Dice = ReturnType<typeof dice>;

const somewhere = (d: Dice) => [d.between(-1, 1), d.between(0, 2), d.between(-1, 1)];

const someBone = (c: Character, d: Dice): number => {
  const bones = c.nodes.flatMap((n, i) => (n.kind === 'bone' ? [i] : []));
  return bones[d.below(bones.length)];
};

/** A character some of whose points carry nothing. */
const withBarePoints = (c: Character): Character => ({
  ...c,
  meshes: c.meshes.map((m) => {
    const f = m.influences;
    if (!f) return m;
    const weight = f.weight.slice();
    for (let v = 0; v < m.vertexCount; v += 7) weight.fill(0, f.offsets[v], f.offsets[v + 1]);
    return { ...m, influences: { ...f, weight } };
  }),
});

/** A character whose skeleton stands in a pose, for the remedies about rest and bind. */
const posed = (c: Character, seed: number): Character => {
  const d = dice(seed ^ 0x5f3759df);
  return {
    ...c,
    nodes: replaceAt(
      c.nodes,
      new Map(
        c.nodes.flatMap((n, i) =>
          n.kind === 'bone' && d.chance(0.5)
            ? [
                [
                  i,
                  { ...n, rotation: quatMultiply(n.rotation, quatAbout([0, 1, 0], d.between(-1, 1))) },
                ] as const,
              ]
            : [],
        ),
      ),
    ),
  };
};

/** What a random character needs for a remedy to have something to do. */
const PREPARED: Readonly<Record<string, (c: Character, seed: number) => Character>> = {
  'join-roots': (c, s) => {
    const bone = someBone(c, dice(s));
    const loose = { ...c, nodes: replaceAt(c.nodes, new Map([[bone, hungUnder(c, bone, -1)]])) };
    return withRoots(loose);
  },
  'return-to-rest': posed,
  'recompute-binds': posed,
  'fill-weights': withBarePoints,
};

/**
 * A figure with a head, feet and two sides, which a random tree of bones has not: one of the cast, turned,
 * moved and sized at random. Its own mesh stands beside it once more, bound to nothing, so that there is
 * something that a change of stance leaves.
 */
const figureSomewhere = (seed: number): Character => {
  const d = dice(seed);
  const axis = normalise([d.between(-1, 1), d.between(-1, 1), d.between(-1, 1) + 1e-3]);
  const c = underSimilarity(castCharacter(d.chance(0.5) ? 'stoker.dae' : 'deckhand.glb'), {
    scale: d.between(0.3, 3),
    rotation: quatAbout(axis, d.between(0.4, 2.8)),
    translation: [d.between(-1, 1), d.between(-1, 1), d.between(-1, 1)],
  });
  const beside = c.nodes.length;
  return {
    ...c,
    nodes: [...c.nodes, node({ name: 'beside', kind: 'mesh', mesh: 0, translation: [2, 0, 0] })],
    carried: {
      ...c.carried,
      scenes: c.carried.scenes.map((s, i) =>
        i === c.carried.scene ? { ...s, roots: [...s.roots, beside] } : s,
      ),
    },
  };
};

/**
 * Runs the remedy on what is given and holds what it says against what it did. Null where the remedy refuses.
 */
function holds(
  id: string,
  before: Character,
  drawn: Record<string, unknown>,
): { readonly watched: number } | null {
  const remedy = remedyById(id)!;
  let after: Character;
  let params: Record<string, unknown>;
  try {
    params = remedy.params.validateSync(drawn) as Record<string, unknown>;
    after = remedy.apply(before, params, brief);
  } catch (e) {
    if (e instanceof RemedyError || (e as Error).name === 'ValidationError') return null;
    throw e;
  }
  expect(brokenInvariants(after)).toEqual([]);
  const promised = remedy.promises(before, params, brief);
  const { others, outside } = effectsOf(before, after, promised);
  expect(outside).toEqual([]);
  expect({
    of: others.largest / (characterHeight(before) * promised.similarity.scale),
    where: others.where,
  }).toMatchObject({ of: below(1e-5) });
  // What the preview says is computed from the same thing, so it must not break either.
  expect(compareRows(remedy, before, after, params, brief).length).toBeGreaterThan(0);
  return { watched: others.meshes };
}

describe('what a remedy promises about everything that it shows holds, within 1e-5 of the height', () => {
  it.each(Object.keys(DRAW))('%s', (id) => {
    let applied = 0;
    let watched = 0;
    fc.assert(
      fc.property(seeds, seeds, (seed, draw) => {
        const before = (PREPARED[id] ?? ((c: Character) => c))(randomCharacter(seed), draw);
        expect(brokenInvariants(before)).toEqual([]);
        const done = holds(id, before, DRAW[id](before, draw));
        if (done) {
          applied++;
          watched += done.watched;
        }
      }),
      { numRuns: 60 },
    );
    expect(applied).toBeGreaterThan(10);
    expect(watched).toBeGreaterThan(0);
  });
  it('morphs-off', () => {
    let applied = 0;
    fc.assert(
      fc.property(seeds, (seed) => {
        const c = randomCharacter(seed);
        const done = holds('morphs-off', c, { node: c.nodes.findIndex((n) => n.name === 'body') });
        if (done) {
          applied++;
          expect(done.watched).toBeGreaterThan(0);
        }
      }),
      { numRuns: 40 },
    );
    expect(applied).toBeGreaterThan(10);
  });
  it('turn-to-axes, from whatever side', () =>
    fc.assert(
      fc.property(seeds, (seed) =>
        expect(holds('turn-to-axes', figureSomewhere(seed), {})!.watched).toBeGreaterThan(0),
      ),
      { numRuns: 6 },
    ));
  it('set-stance, from whatever side, to whatever stance', () =>
    fc.assert(
      fc.property(seeds, seeds, (seed, draw) => {
        const d = dice(draw);
        const done = holds('set-stance', figureSomewhere(seed), {
          arms: d.between(-20, 80),
          bend: d.between(5, 40),
          legs: d.between(1, 20),
        });
        expect(done!.watched).toBeGreaterThan(0);
      }),
      { numRuns: 6 },
    ));
  it('every remedy of the house is drawn here', () =>
    expect(REMEDIES.map((r) => r.id).sort()).toEqual(
      [...Object.keys(DRAW), 'morphs-off', 'turn-to-axes', 'set-stance'].sort(),
    ));
});

it('a remedy that lies about what it leaves alone is found out', () => {
  const c = randomCharacter(7);
  const body = c.nodes.findIndex((n) => n.name === 'body');
  const moved = {
    ...c,
    meshes: c.meshes.map((m, i) =>
      i === c.nodes[body].mesh
        ? {
            ...m,
            attributes: {
              ...m.attributes,
              POSITION: {
                ...m.attributes.POSITION,
                data: (m.attributes.POSITION.data as Float32Array).map((x, k) => (k === 30 ? x + 0.001 : x)),
              },
            },
          }
        : m,
    ),
  };
  const { others } = effectsOf(c, moved, promise(ASPECTS));
  expect(others.largest).toBeGreaterThan(1e-4);
  expect(others.where).toMatch(/^body/);
});

it('a morph target that was forgotten is found out, on or off', () => {
  const c = randomCharacter(7);
  const remedy = remedyById('rescale')!;
  const params = { by: 'factor', factor: 2 };
  const after = remedy.apply(c, params, brief);
  const forgotten = {
    ...after,
    meshes: after.meshes.map((m, i) => ({
      ...m,
      morphs: c.meshes[i].morphs,
      morphWeights: m.morphs.map(() => 0),
    })),
  };
  const off = { ...c, meshes: c.meshes.map((m) => ({ ...m, morphWeights: m.morphs.map(() => 0) })) };
  const { others } = effectsOf(off, forgotten, remedy.promises!(c, params, brief));
  expect(others.largest).toBeGreaterThan(0.01);
  expect(others.where).toMatch(/morph targets on/);
});

it('rescaling leaves every node scale as it is and multiplies every place by the factor', () => {
  fc.assert(
    fc.property(seeds, real(0.2, 5), (seed, factor) => {
      fc.pre(Math.abs(factor - 1) > 1e-6);
      const c = randomCharacter(seed);
      const after = remedyById('rescale')!.apply(c, { by: 'factor', factor }, brief);
      const [a, b] = [restWorld(c.nodes), restWorld(after.nodes)];
      c.nodes.forEach((n, i) => {
        expect(after.nodes[i].scale).toEqual(n.scale);
        for (let k = 12; k < 15; k++) expect(b[i * 16 + k]).toBeCloseTo(a[i * 16 + k] * factor, 9);
      });
    }),
    { numRuns: 40 },
  );
});

it('setting on the ground leaves a root bone in the origin where it is, and puts the lowest point at 0', () => {
  let held = 0;
  fc.assert(
    fc.property(seeds, (seed) => {
      const c = randomCharacter(seed);
      const root = c.nodes.findIndex((n) => n.name === 'root');
      const weightless: Character = {
        ...c,
        meshes: c.meshes.map((m, i) =>
          i === 0 && m.influences
            ? { ...m, influences: { ...m.influences, joint: m.influences.joint.map((j) => Math.max(1, j)) } }
            : m,
        ),
      };
      fc.pre(root >= 0);
      const after = remedyById('set-on-ground')!.apply(weightless, {}, brief);
      expect(decompose(restWorld(after.nodes), root * 16).translation.map(Math.abs)).toEqual([0, 0, 0]);
      held++;
    }),
    { numRuns: 40 },
  );
  expect(held).toBeGreaterThan(5);
});
