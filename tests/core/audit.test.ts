/**
 * An audit as a whole: what every finding holds, in which order, under which key; and what a step changed.
 */
import { object } from 'yup';
import { ASPECTS } from '@/core/contracts/aspect';
import { promise } from '@/core/contracts/remedy';
import { anything, onlyMoves } from './support/promises';
import fc from 'fast-check';
import { BRIEFS, briefById } from '@/core/house/briefs';
import { effectsOf, nodesAfter } from '@/core/house/effects';
import { CHECKS, remedyById } from '@/core/house/registry';
import { audit } from '@/core/house/audit';
import { countGravity } from '@/core/contracts/finding';
import { type Check } from '@/core/contracts/check';
import { GRAVITIES, theCharacter } from '@/core/contracts/finding';
import { ROOM_IDS } from '@/core/contracts/rooms';
import { defineCheck } from '@/core/contracts/check';
import { joinCharacters } from '@/core/character/join';
import { brokenInvariants } from '@/core/character/invariants';
import { placedMeshes } from '@/core/character/measure';
import { type Character, node, replaceAt } from '@/core/character/model';
import { fromStored, toStored } from '@/core/character/stored';
import { STILL, underSimilarity } from '@/core/character/similarity';
import { readCharacter, writeCharacter } from '@/core/formats';
import { clipWorld } from '@/core/motion/pose';
import { meshFrom, tube } from './support/build';
import { castCharacter } from './support/cast';
import { box, figure } from './support/figure';
import { randomCharacter, seeds } from './support/random';

const handset = briefById('handset')!;
const stance = { arms: 0, legs: 0, bend: 0 };
const apart = (a: ArrayLike<number>, b: ArrayLike<number>) => {
  let d = 0;
  for (let i = 0; i < a.length; i++) d = Math.max(d, Math.abs(a[i] - b[i]));
  return d;
};

describe('findings', () => {
  const sound = (character: Character, brief = handset) => {
    const found = audit(character, brief);
    for (const finding of found) {
      expect([finding.check, ROOM_IDS.includes(finding.room), GRAVITIES.includes(finding.gravity)]).toEqual([
        finding.check,
        true,
        true,
      ]);
      expect([finding.check, finding.message, finding.why]).toEqual([
        finding.check,
        expect.stringMatching(/^[A-Z“0-9]/),
        expect.stringMatching(/\.$/),
      ]);
      expect(`${finding.message} ${finding.why}`).not.toMatch(/undefined|NaN|null|\[object|Infinity/);
      for (const evidence of finding.evidence)
        expect([
          finding.check,
          evidence.label,
          typeof evidence.now === 'number' ? Number.isFinite(evidence.now) : evidence.now.length > 0,
        ]).toEqual([finding.check, evidence.label, true]);
      for (const element of finding.elements) {
        const most = element.ids.reduce((most, id) => Math.max(most, id), 0);
        const isOfNodes = element.kind === 'bone' || element.kind === 'node';
        const mesh = character.meshes[character.nodes[isOfNodes ? 0 : element.node]?.mesh];
        const counts = {
          vertex: mesh?.vertexCount,
          edge: mesh?.vertexCount,
          polygon: mesh?.polygonOffsets.length - 1,
          bone: character.nodes.length,
          node: character.nodes.length,
        };
        const count = counts[element.kind];
        if (element.ids.length > 0)
          expect([finding.check, element.kind, most < count]).toEqual([finding.check, element.kind, true]);
      }
      for (const remedy of finding.remedies)
        expect([remedy.id, remedyById(remedy.id)!.params.isValidSync(remedy.params)]).toEqual([
          remedy.id,
          true,
        ]);
    }
    expect(new Set(found.map((finding) => finding.key)).size).toBe(found.length);
    return found;
  };
  it.each([
    'deckhand.glb',
    'deckhand-clean.glb',
    'stoker.dae',
    'heron.glb',
    'capstan.glb',
    'quay-skeleton.glb',
  ])('of %s say what, where and why, under every brief', (file) => {
    for (const brief of BRIEFS) sound(castCharacter(file), brief);
  });
  it('of random characters too', () =>
    fc.assert(
      fc.property(seeds, fc.constantFrom(...BRIEFS), (seed, brief) => {
        sound(randomCharacter(seed), brief);
      }),
      { numRuns: 60 },
    ));
  it('keep keys apart where many things have one name', () =>
    fc.assert(
      fc.property(seeds, (seed) => {
        const character = randomCharacter(seed);
        sound({ ...character, nodes: character.nodes.map((node) => ({ ...node, name: 'same' })) });
      }),
      { numRuns: 30 },
    ));
  it('keep their keys through a file and through a step that is about something else', () => {
    const character = castCharacter('deckhand.glb');
    const keys = (otherCharacter: Character) =>
      audit(otherCharacter, handset)
        .map((finding) => finding.key)
        .sort();
    const again = readCharacter([
      { name: 'deckhand.glb', bytes: writeCharacter(character, 'glb', 'deckhand').files[0].bytes },
    ]);
    // The standard wants sums of 1, and the writer makes them so, which its notes say.
    expect(keys(again)).toEqual(keys(character).filter((key) => !key.startsWith('weight-sum/')));
    const grounded = remedyById('set-on-ground')!.apply(character, {}, handset);
    expect(keys(grounded)).toEqual(keys(character).filter((key) => !key.startsWith('ground/')));
  });
});

describe('an audit', () => {
  const check = (
    id: string,
    room: Check['room'],
    gravities: readonly ('stops' | 'worth' | 'note')[],
    reads: Check['reads'] = [],
  ) =>
    defineCheck({
      id,
      room,
      title: id,
      why: 'Because.',
      settings: object({}),
      reads,
      run: (character) =>
        gravities.map((gravity, i) => ({
          gravity,
          subject: theCharacter(character),
          message: `${id} ${i}`,
          measured: 1,
          expected: 0,
          mark: String(i),
        })),
    });
  const checks = [
    check('p1', 'placement', ['note', 'stops']),
    check('s1', 'skeleton', ['worth']),
    check('p2', 'placement', ['stops', 'worth']),
  ];
  it('goes room by room, the heaviest first, else as found', () =>
    expect(audit(tube(), handset, { checks }).map((finding) => finding.message)).toEqual([
      'p1 1',
      'p2 0',
      'p2 1',
      'p1 0',
      's1 0',
    ]));
  it('tells after every check how far it is', () => {
    const told: [string, number, number, number][] = [];
    audit(tube(), handset, {
      checks,
      onCheck: (check, found, done, of) => told.push([check.id, found.length, done, of]),
    });
    expect(told).toEqual([
      ['p1', 2, 1, 3],
      ['s1', 1, 2, 3],
      ['p2', 2, 3, 3],
    ]);
  });
  it('broken off, runs no further check', () => {
    let run = 0;
    const counting = checks.map((check) => ({
      ...check,
      run: (...a: Parameters<Check['run']>) => {
        run++;
        return check.run(...a);
      },
    }));
    audit(tube(), handset, { checks: counting, cancelled: () => run === 1 });
    expect(run).toBe(1);
  });
  it('a check that breaks off is a finding of its own, and the others answer', () => {
    const broken: Check = {
      ...checks[1],
      run: () => {
        throw new Error('divided by nothing');
      },
    };
    const found = audit(tube(), handset, { checks: [broken, checks[0]] });
    // In the order of the work, whatever the order in which they were asked.
    expect(found.map((finding) => finding.check)).toEqual(['p1', 'p1', 's1']);
    expect(found[2].message).toBe('The check “s1” broke off and has no answer: divided by nothing');
  });
  it('counts by gravity', () =>
    expect(countGravity(audit(tube(), handset, { checks }))).toEqual({ stops: 2, worth: 2, note: 1 }));
  it('has every check once, each in a room, each saying why', () => {
    expect(new Set(CHECKS.map((check) => check.id)).size).toBe(CHECKS.length);
    for (const check of CHECKS)
      expect([
        check.id,
        ROOM_IDS.includes(check.room),
        check.title.length > 3,
        check.why.endsWith('.'),
      ]).toEqual([check.id, true, true, true]);
  });
});

describe('what a step changed', () => {
  it('nothing, where nothing was done', () =>
    fc.assert(
      fc.property(seeds, (seed) => {
        const character = randomCharacter(seed);
        const effects = effectsOf(character, character, anything(character));
        expect([
          effects.nodes,
          effects.meshes,
          effects.skins,
          effects.joints,
          effects.clips,
          effects.removed,
          effects.largestMove,
          effects.others.largest,
        ]).toEqual([[], [], 0, [], [], [], 0, 0]);
      }),
      { numRuns: 20 },
    ));
  it('names what was touched, what is gone, and how far the shape went', () => {
    const character = figure(stance);
    const hand = character.nodes.findIndex((node) => node.name === 'left hand');
    const b = box([0, 0, 0], [1, 1, 1]);
    const more = {
      ...character,
      meshes: [...character.meshes, meshFrom(b.points, b.polygons)],
      nodes: [...character.nodes, node({ name: 'crate', kind: 'mesh', mesh: 1, translation: [2, 0, 0] })],
    };
    const moved = {
      ...more,
      nodes: replaceAt(more.nodes, new Map([[hand, { ...more.nodes[hand], translation: [0.5, 0, 0] }]])),
    };
    const effects = effectsOf(more, moved, onlyMoves(more.nodes.findIndex((node) => node.name === 'body')));
    expect([effects.nodes, effects.meshes, effects.removed]).toEqual([['left hand'], [], []]);
    expect(effects.largestMove).toBeGreaterThan(0.1);
    // The body hangs on the hand and was meant; the crate was not, and stays.
    expect(effects.others).toMatchObject({ largest: 0, meshes: 1 });
    expect(
      effectsOf(more, { ...more, nodes: more.nodes.slice(0, -1), meshes: character.meshes }, anything(more))
        .removed,
    ).toEqual(['crate']);
  });
  it('finds what moved though it was not meant, and where', () => {
    const b = box([0, 0, 0], [1, 1, 1]);
    const target = tube();
    const before = {
      ...target,
      meshes: [...target.meshes, meshFrom(b.points, b.polygons)],
      nodes: [...target.nodes, node({ name: 'crate', kind: 'mesh', mesh: 1 })],
    };
    const slid = {
      ...before,
      nodes: replaceAt(before.nodes, new Map([[3, { ...before.nodes[3], translation: [0, 0.25, 0] }]])),
    };
    expect(effectsOf(before, slid, promise(ASPECTS, { meant: [2], holds: 'at rest' })).others).toMatchObject({
      largest: 0.25,
      where: 'crate, rest',
      poses: 1,
      meshes: 1,
    });
  });
  it('a mesh that lost points without being meant to is not called unmoved', () => {
    const target = tube();
    const fewer = tube(15);
    expect(
      effectsOf(target, { ...target, meshes: fewer.meshes }, promise(ASPECTS, { holds: 'at rest' })).others
        .largest,
    ).toBe(Infinity);
  });
  it('nodes are followed through others that came or went', () => {
    const named = (...names: string[]) => ({ ...tube(), nodes: names.map((name) => node({ name })) });
    const follow = (a: string[], b: string[]) => [...nodesAfter(named(...a), named(...b))];
    expect(follow(['a', 'b', 'c'], ['a', 'b', 'c'])).toEqual([0, 1, 2]);
    expect(follow(['a', 'b', 'c'], ['a', 'c'])).toEqual([0, -1, 1]);
    expect(follow(['a', 'b', 'c'], ['a', 'b', 'c', 'd'])).toEqual([0, 1, 2]);
    expect(follow(['a', 'b', 'c'], ['a', 'x', 'c'])).toEqual([0, 1, 2]);
    expect(follow(['a', 'a', 'a'], ['a', 'a'])).toEqual([0, 1, -1]);
  });
});

describe('two characters as one', () => {
  it('both stand and move as they did, each with its own', () =>
    fc.assert(
      fc.property(seeds, seeds, (one, two) => {
        const a = randomCharacter(one);
        const b = randomCharacter(two);
        const both = joinCharacters(a, b, { shareBones: false });
        expect(brokenInvariants(both)).toEqual([]);
        const [pa, pb, placeds] = [placedMeshes(a), placedMeshes(b), placedMeshes(both)];
        expect(placeds.length).toBe(pa.length + pb.length);
        pa.forEach((placed, i) => expect(apart(placeds[i].points, placed.points)).toBe(0));
        pb.forEach((placed, i) => expect(apart(placeds[pa.length + i].points, placed.points)).toBe(0));
        b.clips.forEach((clip, i) => {
          const mine = clipWorld(b, clip, 0.6);
          const theirs = clipWorld(both, both.clips[a.clips.length + i], 0.6);
          expect(apart(theirs.subarray(a.nodes.length * 16), mine)).toBe(0);
        });
        expect([both.added!.length, both.nodes.filter((node) => node.source === 1).length]).toEqual([
          1,
          b.nodes.length,
        ]);
      }),
      { numRuns: 25 },
    ));
  it('bones are shared only where they stand alike', () => {
    const character = figure(stance);
    const bones = character.nodes.filter((node) => node.kind === 'bone').length;
    const count = (otherCharacter: Character) =>
      otherCharacter.nodes.filter((node) => node.kind === 'bone').length;
    expect(count(joinCharacters(character, character))).toBe(bones);
    // The root in the origin stands alike at any size; the others do not.
    expect(count(joinCharacters(character, underSimilarity(character, { ...STILL, scale: 2 })))).toBe(
      2 * bones - 1,
    );
    expect(joinCharacters(character, character).notes.join(' ')).toMatch(
      new RegExp(`${bones} bones of “figure” stand where`),
    );
  });
  it('one after another, in whatever grouping, is the same lists', () =>
    fc.assert(
      fc.property(seeds, seeds, seeds, (x, y, z) => {
        const [a, b, character] = [x, y, z].map(randomCharacter);
        const off = { shareBones: false };
        const left = joinCharacters(joinCharacters(a, b, off), character, off);
        const right = joinCharacters(a, joinCharacters(b, character, off), off);
        expect(left.nodes.map((node) => [node.name, node.parent, node.mesh, node.skin])).toEqual(
          right.nodes.map((node) => [node.name, node.parent, node.mesh, node.skin]),
        );
        expect(left.skins.map((skin) => skin.joints)).toEqual(right.skins.map((skin) => skin.joints));
      }),
      { numRuns: 15 },
    ));
});

describe('in the store', () => {
  it('random characters come back whole, and what two share is stored once', () =>
    fc.assert(
      fc.property(seeds, (seed) => {
        const character = randomCharacter(seed);
        const { stored, bytes } = toStored(character);
        expect(fromStored(stored, (hash) => bytes.get(hash))).toEqual(character);
        const next = toStored({
          ...character,
          nodes: replaceAt(character.nodes, new Map([[0, { ...character.nodes[0], name: 'other' }]])),
        });
        expect([...next.bytes.keys()].filter((hash) => !bytes.has(hash))).toEqual([]);
      }),
      { numRuns: 30 },
    ));
  it('an array that is missing is said, not made up', () => {
    const { stored, bytes } = toStored(tube());
    const [first] = bytes.keys();
    expect(() => fromStored(stored, (hash) => (hash === first ? undefined : bytes.get(hash)))).toThrow();
  });
});
