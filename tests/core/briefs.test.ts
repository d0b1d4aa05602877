/** Briefs: read, learned, proposed; and that every setting of every check matters. */
import { readFileSync } from 'node:fs';
import path from 'node:path';
import Ajv from 'ajv';
import fc from 'fast-check';
import type { AnyObject, AnyObjectSchema, ArraySchema, Schema } from 'yup';
import { restWorld } from '@/core/character/hierarchy';
import { weightOfNodes } from '@/core/character/hierarchy';
import type { Character } from '@/core/character/model';
import { inverseOr, times, quatAbout, quatMultiply } from '@/core/geometry/matrix';
import { countGravity } from '@/core/contracts/finding';
import { whyNot } from '@/core/contracts/pattern';
import { type LengthUnit, inUnit, lengthFrom, lengthText, ownUnit, unitSign } from '@/core/contracts/units';
import { readCharacter } from '@/core/formats';
import { audit } from '@/core/house/audit';
import { fingerprintOf, skeletonOf } from '@/core/anatomy/skeleton';
import { skeletonById } from '@/core/anatomy/skeletons';
import { ownSkeletonOf, skeletonWanted } from '@/core/anatomy/skeletons/wanted';
import { type Brief, briefAsOfToday, briefSchema } from '@/core/house/brief';
import { briefChanges } from '@/core/house/brief-changes';
import { briefForm, leavesOfForm, valueAt, withValueAt } from '@/core/house/brief-form';
import { briefJsonSchema } from '@/core/house/brief-json-schema';
import { BRIEFS, briefById } from '@/core/house/briefs';
import { learnBrief, takenAtFirst, withLearned } from '@/core/house/learn';
import { PLAIN_BRIEFS, PLAIN_FIGURE } from '@/core/house/plain-briefs';
import { betterBrief, kindOf, proposeBrief } from '@/core/house/propose';
import { readBrief } from '@/core/house/read-brief';
import { CHECKS } from '@/core/house/registry';
import {
  LETTERS,
  type NamingParts,
  SEPARATORS,
  examplesOf,
  namingOf,
  partsOf,
  patternOf,
} from '@/core/rooms/skeleton/naming';
import { castCharacter, handBytes } from './support/cast';
import { withBentPart } from './support/changed-joints';
import { tube } from './support/build';
import { chainTube } from './support/chain';
import { spoiltReads } from './support/spoilt';

const hand = readCharacter([{ name: 'left.glb', bytes: handBytes('left') }]);
const CAST = [
  'deckhand.glb',
  'deckhand-clean.glb',
  'stoker.dae',
  'heron.glb',
  'capstan.glb',
  'quay-skeleton.glb',
];
const everyone = (): [string, Character][] => [
  ...CAST.map((file): [string, Character] => [file, castCharacter(file)]),
  ['left.glb', hand],
  ['tube', tube()],
  ['chain', chainTube(4)],
];
/** A figure with a bone of the body that the game's skeleton does not have. */
function jawed(character: Character): Character {
  const nodes = character.nodes.map((node) => (node.name === 'cap' ? { ...node, name: 'jaw' } : node));
  return { ...character, nodes };
}

/** A figure whose first joint is said to be a control, though it carries weight. */
function steered(character: Character): Character {
  const control = character.skins[0].joints.find((j) => weightOfNodes(character)[j] > 0);
  const nodes = character.nodes.map((node, i) =>
    i === control ? { ...node, boneKind: 'control' as const } : node,
  );
  return { ...character, nodes };
}

/** A figure with a clip that turns a bone by 85° about its x, and an order of its own that bears that. */
function turned(character: Character): Character {
  const bone = character.nodes.findIndex(({ name }) => name === 'head');
  const nodes = character.nodes.map((node, i) =>
    i === bone ? { ...node, turnOrder: 'xyz' as const } : node,
  );
  const values = Float32Array.from(
    quatMultiply(character.nodes[bone].rotation, quatAbout([1, 0, 0], (85 * Math.PI) / 180)),
  );
  const channel = {
    node: bone,
    path: 'rotation',
    interpolation: 'LINEAR',
    times: Float32Array.of(0),
    values,
  } as const;
  return { ...character, nodes, clips: [{ name: 'nod', channels: [channel] }] };
}

/** A figure whose joints all lie beside it: the skeleton moved aside, bound anew where it is. */
function aside(character: Character): Character {
  const root =
    character.skins[0].joints.find(
      (j) => character.nodes[j].kind === 'bone' && character.nodes[j].parent < 0,
    ) ?? character.skins[0].joints[0];
  const nodes = character.nodes.map((node, i) =>
    i === root
      ? { ...node, translation: [node.translation[0] + 0.6, node.translation[1], node.translation[2]] }
      : node,
  );
  const [before, after] = [restWorld(character.nodes), restWorld(nodes)];
  const skins = character.skins.map((skin) => {
    const inverseBinds = new Float64Array(skin.inverseBinds.length);
    skin.joints.forEach((j, k) => {
      const through = times(before, skin.inverseBinds, j * 16, k * 16);
      inverseBinds.set(times(inverseOr(after, j * 16), through), k * 16);
    });
    return { ...skin, inverseBinds };
  });
  return { ...character, nodes, skins };
}
const copy = (brief: Brief): AnyObject => JSON.parse(JSON.stringify(brief));

describe('reading a brief', () => {
  it('takes every brief of the house as it is', () => {
    for (const brief of BRIEFS) expect(readBrief(copy(brief))).toEqual(brief);
    expect(new Set(BRIEFS.map((brief) => brief.id)).size).toBe(BRIEFS.length);
  });
  it('names the first field that is unknown, wherever it stands', () => {
    expect(() => readBrief({ ...copy(PLAIN_FIGURE), colour: 1 })).toThrow(
      'a field “colour” that no brief has',
    );
    const deep = copy(PLAIN_FIGURE);
    deep.naming.sides = { left: '_l', right: '_r', middle: '_m' };
    expect(() => readBrief(deep)).toThrow('“naming.sides.middle”');
    const prop = copy(PLAIN_FIGURE);
    prop.props = [{ pattern: 'a', title: 'a', height: 1, tolerance: 0, wide: 2 }];
    expect(() => readBrief(prop)).toThrow('“props[0].wide”');
    expect(() => readBrief({ ...copy(PLAIN_FIGURE), checks: { rust: 'off' } })).toThrow('“checks.rust”');
  });
  it('names a field that is missing or wrong', () => {
    const { limits: _, ...without } = copy(PLAIN_FIGURE);
    expect(() => readBrief(without)).toThrow(/limits/);
    expect(() => readBrief({ ...copy(PLAIN_FIGURE), unit: 'ell' })).toThrow(/unit/);
    expect(() => readBrief({ ...copy(PLAIN_FIGURE), checks: { quads: 'loud' } })).toThrow(/checks.quads/);
  });
  it('refuses patterns that are none, that look around, and those that are too large', () => {
    const named = (pattern: string) => {
      const b = copy(PLAIN_FIGURE);
      b.naming.pattern = pattern;
      return () => readBrief(b);
    };
    expect(named('^(a')).toThrow('pattern “naming.pattern” is no regular expression');
    expect(named('^(?!left)')).toThrow('pattern “naming.pattern” looks around');
    expect(named('a'.repeat(1001))).toThrow('has 1001 letters, and 1000 are the most');
    expect(named('(.{900}|b)(.{900}|c)(.{900}|d)(.{900}|e)(.{900}|f)')).toThrow('counts too far');
    expect(named('((a{100}){100})')).toThrow('repeats what is repeated too often');
    expect(named('^[a-z]+(_[a-z]+)*$')).not.toThrow();
    expect(named('lamp.*oil')).not.toThrow();
    for (const brief of BRIEFS) expect(whyNot(brief.naming.pattern)).toBeNull();
  });
});

describe('the JSON Schema of a brief', () => {
  const validate = new Ajv({ strict: false, allErrors: true }).compile(briefJsonSchema());
  it('is the one that is published', () => {
    const published = JSON.parse(readFileSync(path.resolve('docs/brief.schema.json'), 'utf8'));
    expect(published).toEqual(JSON.parse(JSON.stringify(briefJsonSchema())));
  });
  it('agrees with what is read (ajv): on the briefs of the house, and on ways to spoil one', () => {
    const spoilt: ((b: AnyObject) => void)[] = [
      (b) => (b.colour = 1),
      (b) => delete b.limits,
      (b) => (b.limits.bones = 'many'),
      (b) => (b.limits.bones = -3),
      (b) => (b.unit = 'ell'),
      (b) => (b.naming.sides = { left: '_l' }),
      (b) => (b.height = { target: 0, tolerance: 1 }),
      (b) => (b.props = [{ title: 'a lamp' }]),
      (b) => (b.checks = { quads: 'loud' }),
      (b) => (b.checks = { rust: 'off' }),
      (b) => (b.tree = 'oak'),
      (b) => (b.naming.forbidden = 'hips'),
      (b) => (b.ownSkeleton = { title: 'mine', bones: [] }),
      (b) =>
        (b.ownSkeleton = {
          title: 'mine',
          bones: [{ name: 'a', parent: -1, place: [0, 0], rotation: [0, 0, 0, 1] }],
        }),
    ];
    for (const brief of BRIEFS)
      expect([brief.id, validate(copy(brief)), validate.errors]).toEqual([brief.id, true, null]);
    for (const spoil of spoilt) {
      const b = copy(PLAIN_FIGURE);
      spoil(b);
      expect([String(spoil), validate(b)]).toEqual([String(spoil), false]);
      expect(() => readBrief(b)).toThrow();
    }
  });
});

describe('rules for checks', () => {
  const deckhand = castCharacter('deckhand.glb');
  const brief = briefById('handset')!;
  it('one that is off finds nothing, and the others find what they found', () => {
    const all = audit(deckhand, brief);
    const { check } = all.find((finding) => finding.gravity === 'stops')!;
    const rest = audit(deckhand, { ...brief, checks: { [check]: 'off' } });
    expect(rest).toEqual(all.filter((finding) => finding.check !== check));
    expect(rest.length).toBeLessThan(all.length);
  });
  it('another gravity counts so, but what is only told stays told', () => {
    const all = audit(deckhand, brief);
    const eased = audit(deckhand, {
      ...brief,
      checks: Object.fromEntries(CHECKS.map((check) => [check.id, 'worth'])),
    });
    expect(countGravity(eased).stops).toBe(0);
    expect(countGravity(eased).note).toBe(countGravity(all).note);
    expect(eased.length).toBe(all.length);
    const rules = Object.fromEntries(CHECKS.map((check) => [check.id, 'stops' as const]));
    const told = everyone().flatMap(([, character]) =>
      audit(character, brief)
        .filter((finding) => finding.gravity === 'note')
        .map((finding) => [character, finding.key] as const),
    );
    expect(told.length).toBeGreaterThan(0);
    for (const [character, key] of told)
      expect(
        audit(character, { ...brief, checks: rules }).find((finding) => finding.key === key)?.gravity,
      ).toBe('note');
  });
});

/** Checks that hold a character against numbers and nothing else. */
const LEARNED = (
  'height skeleton-height ground middle pivot stance apart not-at-rest inverse-binds node-scale inherited-scale ' +
  'one-root bone-budget influence-limit weight-sum coincident quads'
).split(' ');

describe('a learned brief', () => {
  const named = { id: 'learned', title: 'Learned', about: '' };
  it('passes its own model, whoever that is', () => {
    for (const [name, character] of everyone()) {
      const { brief, settings, eased } = learnBrief(character, PLAIN_FIGURE, named);
      const heavy = audit(character, brief).filter((finding) => finding.gravity !== 'note');
      expect([name, heavy.map((finding) => finding.message)]).toEqual([name, []]);
      // What is held against numbers is learned, never eased.
      expect([name, eased.filter((id) => LEARNED.includes(id))]).toEqual([name, []]);
      expect(readBrief(copy(brief))).toEqual(brief);
      if (character.skins.length > 0) expect(settings.length).toBeGreaterThan(8);
    }
  });
  it('asks no more checks than the one that it begins from', () => {
    const { brief } = learnBrief(castCharacter('deckhand-clean.glb'), briefById('gltf')!, named);
    expect(brief.checks).toMatchObject({ parents: 'off', 'bone-names': 'off' });
  });
  it('takes what is more likely a fault than a wish only when it is told to, and says why', () => {
    const character = castCharacter('deckhand.glb');
    const learned = learnBrief(character, PLAIN_FIGURE, named);
    const ground = learned.settings.find((setting) => setting.path === 'groundTolerance')!;
    expect(ground.doubt).toMatch(/a fault of the model is no wish/);
    expect([ground.plain, ground.before]).toEqual([0.01, 0.01]);
    const taken = takenAtFirst(learned.settings);
    expect(taken.has('groundTolerance')).toBe(false);
    expect(taken.has('limits.influences')).toBe(true);
    const at = (brief: Brief) => audit(character, brief).some((finding) => finding.check === 'ground');
    expect(withLearned(learned, taken).groundTolerance).toBe(0.01);
    expect([at(withLearned(learned, taken)), at(learned.brief)]).toEqual([true, false]);
    const all = new Set(learned.settings.map((setting) => setting.path));
    expect(withLearned(learned, all)).toEqual(learned.brief);
    // The clean one has next to nothing to doubt.
    const clean = learnBrief(castCharacter('deckhand-clean.glb'), PLAIN_FIGURE, named);
    expect(clean.settings.filter((setting) => setting.doubt).map((learned) => learned.path)).toEqual([
      'naming.longest',
      'surface.coincident',
    ]);
  });
  it('of one that is right eases nothing, and stops the faulty Deckhand', () => {
    const clean = castCharacter('deckhand-clean.glb');
    const { brief, eased, settings } = learnBrief(clean, PLAIN_FIGURE, named);
    expect(eased).toEqual([]);
    expect(brief.height!.target).toBeCloseTo(1.76, 1);
    expect(brief.limits).toEqual({ influences: 4, bones: expect.any(Number), depth: 14 });
    expect(new RegExp(brief.naming.pattern).test('arm_upper_lt')).toBe(true);
    expect(brief.naming.sides).toEqual({ left: '_lt', right: '_rt' });
    expect(settings.find((setting) => setting.path === 'height.target')).toMatchObject({
      now: brief.height!.target,
    });
    const counts = countGravity(audit(castCharacter('deckhand.glb'), brief));
    expect(counts.stops).toBeGreaterThan(3);
  });
});

describe('names built from parts', () => {
  const parts = fc.record({
    letters: fc.constantFrom(...LETTERS),
    separator: fc.constantFrom(...SEPARATORS),
    numbers: fc.boolean(),
    prefix: fc.constantFrom('', 'rig:', 'DEF-', 'b '),
  });
  it('say what they allow: their examples follow the pattern, and the parts come back from it', () => {
    fc.assert(
      fc.property(parts, (parts: NamingParts) => {
        const pattern = patternOf(parts);
        for (const name of examplesOf(parts, null))
          expect([name, new RegExp(pattern).test(name)]).toEqual([name, true]);
        expect(patternOf(partsOf(pattern)!)).toBe(pattern);
        expect(whyNot(pattern)).toBeNull();
        expect(namingOf(examplesOf(parts, null))).not.toBeNull();
      }),
      { numRuns: 60 },
    );
    expect(partsOf('^(anything|else)$')).toBeNull();
  });
});

describe('the form', () => {
  it('asks every setting of every check once, and says of each what it does', () => {
    const { rooms } = briefForm();
    const names = rooms.flatMap((room) =>
      room.checks.flatMap((check) => check.fields.map((field) => field.path)),
    );
    const all = new Set(CHECKS.flatMap((check) => Object.keys(check.settings.fields)));
    expect([...names].sort()).toEqual([...all].sort());
    for (const leaf of leavesOfForm().values()) {
      expect([leaf.path, leaf.label === leaf.path]).toEqual([leaf.path, false]);
      if (leaf.kind === 'number')
        expect([leaf.path, leaf.hint.endsWith('.'), Boolean(leaf.quantity)]).toEqual([leaf.path, true, true]);
    }
  });
  it('stands a setting with the check that measures it', () => {
    const where = new Map(
      briefForm().rooms.flatMap((room) =>
        room.checks.flatMap((check) => check.fields.map((field) => [field.path, check.id] as const)),
      ),
    );
    expect([where.get('height'), where.get('naming'), where.get('surface')]).toEqual([
      'height',
      'bone-names',
      'coincident',
    ]);
  });
  it('changes one value and leaves the rest', () => {
    const next = withValueAt(PLAIN_FIGURE, 'limits.bones', 12);
    expect(next.limits).toEqual({ influences: 4, bones: 12, depth: 32 });
    expect(PLAIN_FIGURE.limits.bones).toBe(75);
    expect(next.naming).toBe(PLAIN_FIGURE.naming);
    expect(valueAt(next, 'limits.bones')).toBe(12);
    expect(
      briefChanges(PLAIN_FIGURE, { ...next, checks: { quads: 'off' } }).map((change) => [
        change.path,
        change.before,
        change.after,
      ]),
    ).toEqual([
      ['limits.bones', 75, 12],
      ['checks.quads', undefined, 'off'],
    ]);
    expect(briefChanges(PLAIN_FIGURE, PLAIN_FIGURE)).toEqual([]);
  });
  it.each<[string, number | null]>([
    ['1.76', 1.76],
    ['1,76 m', 1.76],
    ['176 cm', 1.76],
    ['1760mm', 1.76],
    ['5 ft 9 in', 5 * 0.3048 + 9 * 0.0254],
    ['5′9″', 5 * 0.3048 + 9 * 0.0254],
    ['5\' 9.5"', 5 * 0.3048 + 9.5 * 0.0254],
    ['2 inches', 0.0508],
    ['1e-4 m', 1e-4],
    ['five', null],
    ['5 ells', null],
    ['5 m and', null],
    ['', null],
  ])('takes %s as a length (ISO 80000-3; the inch of 1959)', (text, metres) => {
    const read = lengthFrom(text, 'm');
    if (metres === null) expect(read).toBeNull();
    else expect(read).toBeCloseTo(metres, 9);
    if (text === '1.76') expect(lengthFrom(text, 'cm')).toBeCloseTo(0.0176, 9);
  });
});

describe('the brief that fits', () => {
  it('is one for what the file is, with the reason', () => {
    const kinds = Object.fromEntries(everyone().map(([name, character]) => [name, kindOf(character).kind]));
    expect(kinds).toMatchObject({
      'deckhand.glb': 'figure',
      'stoker.dae': 'figure',
      'heron.glb': 'figure',
      'capstan.glb': 'machine',
      'quay-skeleton.glb': 'figure',
      'left.glb': 'hand',
    });
    expect(proposeBrief(hand, BRIEFS)).toMatchObject({
      brief: 'headset',
      reason: expect.stringMatching(/hand/),
    });
    expect(proposeBrief(castCharacter('capstan.glb'), BRIEFS)?.brief).toBe('deck-gear');
    expect(proposeBrief(castCharacter('deckhand-clean.glb'), BRIEFS)?.brief).toBe('handset');
    const machine = castCharacter('capstan.glb');
    const deckGear = briefById('deck-gear')!;
    expect(betterBrief(machine, briefById('handset')!, BRIEFS)?.brief).toBe('deck-gear');
    expect(betterBrief(machine, deckGear, BRIEFS)).toBeNull();
    expect(betterBrief(machine, briefById('gltf')!, BRIEFS)).toBeNull();
    const bare = {
      ...tube(),
      nodes: tube().nodes.map((node) => ({ ...node, kind: 'mesh' as const })),
      skins: [],
    };
    expect(proposeBrief(bare, BRIEFS)).toBeNull();
  });
});

/** Paths of every single setting, with its schema. */
function leavesOf(schema: Schema, at: string): [string, Schema][] {
  if (schema.type === 'array')
    return leavesOf((schema as ArraySchema<unknown[], AnyObject>).innerType as Schema, `${at}[0]`);
  if (schema.type !== 'object') return [[at, schema]];
  return Object.entries((schema as AnyObjectSchema).fields).flatMap(([name, field]) =>
    leavesOf(field as Schema, at ? `${at}.${name}` : name),
  );
}

/** What is read by others than checks; and rows of which no part makes sense by itself, see tried-motions. */
const NOT_CHECKED =
  /^(id|version|title|about|unit|skeleton|ownSkeleton\..*|proofTolerance|skins|checks\..*|trials\.(ranges|poses)\[0\]\..*)$/;

function setAt(brief: AnyObject, at: string, value: unknown): void {
  const names = at.replace('[0]', '.0').split('.');
  const last = names.pop() as string;
  const holder = names.reduce((o, name) => (o[name] ??= {}), brief);
  holder[last] = value;
}

function otherValues(schema: Schema): unknown[] {
  const { oneOf, type, meta } = schema.describe() as {
    oneOf: unknown[];
    type: string;
    meta?: { quantity?: string };
  };
  if (oneOf.length > 0) return oneOf;
  if (type === 'number') return [0, 1e-9, 0.25, 1, 2, 1e6];
  if (meta?.quantity === 'pattern') return ['^z{9}$', '.', 'lantern'];
  return ['zz', '_lt', 'L_forearm'];
}

it('every setting of every check matters: changed, some finding of the cast comes, goes or is another', () => {
  const base = briefById('handset')!;
  const clean = castCharacter('deckhand-clean.glb');
  const rooms = [
    ...everyone().map(([, character]) => character),
    aside(clean),
    steered(clean),
    jawed(clean),
    turned(clean),
    withBentPart(clean),
  ]
    .sort((a, b) => countOf(a) - countOf(b))
    .map((character) => ({ character, known: new Map<string, string>() }));
  // The findings as somebody reads them, of the checks that read a setting.
  const seen = (character: Character, brief: Brief, checks: readonly string[]) =>
    JSON.stringify(
      audit(character, withOnly(brief, checks), { isMoved: true }).map((finding) => ({
        ...finding,
        elements: finding.elements.length,
      })),
    );
  const isSeen = (brief: Brief, checks: readonly string[]) =>
    rooms.some(({ character, known }) => {
      const key = checks.join();
      if (!known.has(key)) known.set(key, seen(character, base, checks));
      return seen(character, brief, checks) !== known.get(key);
    });
  const idle: string[] = [];
  for (const [at, schema] of leavesOf(briefSchema, '')) {
    if (NOT_CHECKED.test(at)) continue;
    const [field] = at.split(/[.[]/);
    const checks = CHECKS.filter((check) => Object.hasOwn(check.settings.fields, field)).map(
      (check) => check.id,
    );
    expect([at, checks.length > 0]).toEqual([at, true]);
    const matters = otherValues(schema).some((value) => {
      const b = copy(base);
      setAt(b, at, value);
      try {
        return isSeen(readBrief(b), checks);
      } catch {
        return false;
      }
    });
    if (!matters) idle.push(at);
  }
  expect(idle).toEqual([]);
});

const countOf = (character: Character) => character.meshes.reduce((sum, mesh) => sum + mesh.vertexCount, 0);

/** A brief under which only these checks are asked. */
const withOnly = (brief: Brief, checks: readonly string[]): Brief => ({
  ...brief,
  checks: Object.fromEntries(
    CHECKS.filter((check) => !checks.includes(check.id)).map((check) => [check.id, 'off' as const]),
  ),
});

describe('names, one by one', () => {
  const clean = castCharacter('deckhand-clean.glb');
  const found = (naming: Partial<Brief['naming']>) => {
    const base = briefById('handset')!;
    const brief = readBrief({ ...base, naming: { ...base.naming, ...naming } });
    return audit(clean, brief).filter((finding) => finding.check === 'bone-names');
  };
  it('a name that is allowed need not match, be short or be free of leftovers', () => {
    const [first, second] = clean.nodes.filter((node) => node.kind === 'bone').map((node) => node.name);
    const strict = { pattern: '^zz', longest: 3 };
    const count = (mark: string, more = {}) =>
      found({ ...strict, ...more }).find((finding) => finding.key.endsWith(mark))?.count ?? 0;
    for (const mark of ['convention', 'long'])
      expect(count(mark) - count(mark, { allowed: [first, second] })).toBe(2);
    expect(count('convention', { allowed: [first.toUpperCase()] })).toBe(count('convention'));
  });
  it('a name that is forbidden stops hand-off, however well it matches', () => {
    const [name] = clean.nodes.filter((node) => node.kind === 'bone').map((node) => node.name);
    expect(found({})).toEqual([]);
    expect(found({ forbidden: [name, 'nobody'] })).toMatchObject([
      { gravity: 'stops', count: 1, message: expect.stringContaining(`“${name}”`) },
    ]);
  });
});

describe('the skeleton that is wanted', () => {
  const clean = castCharacter('deckhand-clean.glb');
  const own = ownSkeletonOf(skeletonOf(clean), 'the crew');
  const mine = { ...PLAIN_FIGURE, skeleton: 'own', ownSkeleton: own };
  it('comes along in the brief’s file and is the same again', () => {
    const back = readBrief(copy(mine));
    const skeleton = skeletonWanted(back)!;
    expect(skeleton.title).toBe('the crew');
    expect(skeleton.bones.map((bone) => bone.name)).toEqual(skeletonOf(clean).bones.map((bone) => bone.name));
    expect(fingerprintOf(skeleton)).toBe(fingerprintOf(skeletonOf(clean)));
  });
  it('of the house is known by its id', () => {
    expect(skeletonWanted(PLAIN_FIGURE)).toBe(skeletonById('vrm'));
  });
  it.each<[string, object, RegExp]>([
    ['one that the house does not have', { skeleton: 'oak' }, /“oak” that the house does not have/],
    ['its own without one', { ownSkeleton: null }, /“ownSkeleton” holds none/],
    [
      'a parent that comes later',
      { ownSkeleton: { title: 'x', bones: [{ ...own.bones[0], parent: 3 }, ...own.bones.slice(1)] } },
      /ownSkeleton\.bones\[0\]/,
    ],
  ])('is refused where it is %s', (_, more, words) => {
    expect(() => readBrief({ ...copy(mine), ...more })).toThrow(words);
  });
  it('is learned from the model: its own, or one of the house where it is that', () => {
    const names = { id: 'learned', title: 'Learned', about: '' };
    const learned = learnBrief(clean, PLAIN_FIGURE, names).brief;
    expect(fingerprintOf(skeletonWanted(learned)!)).toBe(fingerprintOf(skeletonOf(clean)));
    const bare = learnBrief(castCharacter('quay-skeleton.glb'), PLAIN_FIGURE, names).brief;
    expect(fingerprintOf(skeletonWanted(bare)!)).toBe(
      fingerprintOf(skeletonOf(castCharacter('quay-skeleton.glb'))),
    );
  });
});

it('a brief that was kept before some fields came is read with these as they are where nothing is said', () => {
  const old = copy(PLAIN_FIGURE);
  for (const field of ['allowed', 'forbidden']) delete old.naming[field];
  delete old.ownSkeleton;
  expect(briefAsOfToday(old as unknown as Brief)).toEqual(PLAIN_FIGURE);
});

it('a brief of which polygons near a joint were told by a length is read with a share of the limb’s thickness', () => {
  const old = copy(PLAIN_FIGURE);
  const { nearJointShare: _, ...surface } = old.surface;
  Object.assign(old, {
    surface: { ...surface, nearJoint: 0.0825 },
    height: { target: 1.76, tolerance: 0.1 },
  });
  // A limb of a figure of 1.76 m is about 11 cm thick.
  const wanted = { ...PLAIN_FIGURE.surface, nearJointShare: 0.75 };
  expect(readBrief(old).surface).toEqual(wanted);
  expect(briefAsOfToday(old as unknown as Brief).surface).toEqual(wanted);
  expect(() => readBrief({ ...old, surface: { ...surface, nearJoint: 'near' } })).toThrow(/nearJoint/);
});

it('a brief that told ends and controls by patterns over names is read with what may carry weight', () => {
  const { carriers, ...rest } = copy(PLAIN_FIGURE);
  const house = '(^|[_.\\- :])(end|tip)([_.\\- ]|\\d|$)';
  const read = (of: object) => readBrief({ ...rest, ...of }).carriers;
  expect(read({ endPattern: house, controlPattern: house })).toEqual(carriers);
  expect(read({ endPattern: null, controlPattern: house })).toEqual({ ...carriers, ends: 'free' });
  expect(read({ endPattern: '_stop$', controlPattern: '^rig_' })).toEqual({
    ...carriers,
    never: '(_stop$)|(^rig_)',
  });
  expect(
    briefAsOfToday({ ...rest, endPattern: null, controlPattern: null } as unknown as Brief).carriers,
  ).toEqual({
    ...carriers,
    ends: 'free',
    controls: 'free',
  });
});

it('a thing where a number belongs is told as that', () => {
  const odd = { ...PLAIN_FIGURE, skeletonShare: { least: 0.8, most: { toString: [] } } };
  expect(() => readBrief(odd)).toThrow('it holds a thing where a number or a word belongs');
});

it('a brief with anything in it is read, or refused in a sentence; what is read is audited by', () => {
  const own = ownSkeletonOf(skeletonOf(tube()), 'a tube');
  const mine = { ...PLAIN_FIGURE, skeleton: 'own', ownSkeleton: own, checks: { quads: 'off' } };
  const refused = spoiltReads(mine, (json) => {
    const brief = readBrief(json);
    expect(Array.isArray(audit(tube(), brief))).toBe(true);
    expect(skeletonWanted(brief)).toBeDefined();
  });
  expect(refused).toBeGreaterThan(50);
});

describe('a unit of the game’s own', () => {
  const deckhand = castCharacter('deckhand.glb');
  it('is so many to the metre: every length of an audit is told in it, and read back from it', () => {
    const of = (unit: LengthUnit) => {
      const found = audit(deckhand, { ...PLAIN_FIGURE, unit, height: { target: 1.76, tolerance: 0.02 } });
      return found.find((finding) => finding.check === 'height')!;
    };
    const [metres, own] = [of('m'), of('32/m')];
    expect(own.measured).toBeCloseTo(Number(metres.measured) * 32, 9);
    expect(own.expected).toBeCloseTo(1.76 * 32, 9);
    expect(own.unit).toBe('u');
    expect(own.message).toMatch(/stands \d+\.\d\d u tall; the brief wants 56\.32 u ± 0\.64 u$/);
    expect(JSON.stringify(audit(deckhand, { ...PLAIN_FIGURE, unit: '32/m' }))).not.toContain('32/m');
    expect(lengthFrom('56.32', '32/m')).toBeCloseTo(1.76, 9);
    expect(lengthFrom('56.32 u', '32/m')).toBeCloseTo(1.76, 9);
    expect(lengthFrom('176 cm', '32/m')).toBeCloseTo(1.76, 9);
  });
  it('is written in one way, whatever the number; what is no such number is refused in a sentence', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.0001, max: 99_999, noNaN: true }),
        fc.double({ min: -9, max: 9, noNaN: true }),
        (per, x) => {
          const unit = ownUnit(per)!;
          expect(readBrief({ ...PLAIN_FIGURE, unit }).unit).toBe(unit);
          expect(unitSign(unit)).toBe('u');
          expect(inUnit(1, unit)).toBeCloseTo(per, 5);
          expect(lengthText(x, unit)).toMatch(/^-?\d+\.\d+ u$/);
        },
      ),
    );
    for (const per of [0, -1, NaN, Infinity, 1e-9, 1e9]) expect(ownUnit(per)).toBeNull();
    for (const unit of ['u', '0/m', '/m', '-3/m', '1e3/m', '32/cm', 'yd', 32, null])
      expect(() => readBrief({ ...PLAIN_FIGURE, unit })).toThrow(/unit/);
  });
});

it('the plain briefs know of no ferry', () => {
  for (const brief of PLAIN_BRIEFS) expect(JSON.stringify(brief)).not.toMatch(/ferry|quay|lantern/i);
});
