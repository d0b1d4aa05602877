import { spawnSync } from 'node:child_process';
import { DOMParser } from '@xmldom/xmldom';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { run } from '@/cli/run';
import type { Influences } from '@/core/geometry/influences';
import { readGltf } from '@/core/formats/gltf/read';
import { docketFile, sealDocket, signedText } from '@/core/house/docket';
import { makeKeyPair, signText } from '@/keys/ed25519';
import { castPath } from '../core/support/cast';
import { USUAL_LIMITS } from '@/core/contracts/trials';
import { handedMotionOf } from '@/core/rooms/trials/handed';
import { docketOver } from '../core/support/docket';
import { validate } from '../core/support/validator';

const cast = path.dirname(castPath('deckhand.glb'));
const hands = path.join(
  path.dirname(require.resolve('@webxr-input-profiles/assets/package.json')),
  'dist/profiles/generic-hand',
);
const folder = mkdtempSync(path.join(os.tmpdir(), 'bough-'));
const mostInfluences = ({ offsets }: Influences) =>
  offsets.reduce((most, end, vertex) => (vertex === 0 ? most : Math.max(most, end - offsets[vertex - 1])), 0);

/** A call in a process of its own, as people make it. */
const boughProcess = (...args: string[]) => {
  const returns = spawnSync(process.execPath, [path.resolve('dist/cli.mjs'), ...args], {
    encoding: 'utf8',
    cwd: folder,
  });
  return {
    code: returns.status,
    out: returns.stdout,
    err: returns.stderr,
    json: () => JSON.parse(returns.stdout),
  };
};

/** The same call within this process, which need not begin anew for each. */
const bough = (...args: string[]) => {
  const words = { out: '', err: '' };
  const writes = [
    jest.spyOn(process.stdout, 'write').mockImplementation((chunk) => {
      words.out += String(chunk);
      return true;
    }),
    jest.spyOn(process.stderr, 'write').mockImplementation((chunk) => {
      words.err += String(chunk);
      return true;
    }),
  ];
  try {
    const code = run(args);
    return { code, ...words, json: () => JSON.parse(words.out) };
  } finally {
    for (const write of writes) write.mockRestore();
  }
};

it('audit: the left hand hangs flat, its mesh and its 25 names are sound; exit 1', () => {
  const row = bough('audit', path.join(hands, 'left.glb'), '--brief', 'headset', '--json');
  expect(row.code).toBe(1);
  const report = row.json();
  expect(report).toMatchObject({ brief: 'headset', counts: { stops: 1, worth: 0 }, measures: { bones: 25 } });
  expect(report.findings.filter((finding: { gravity: string }) => finding.gravity !== 'note')).toMatchObject([
    { check: 'parents', room: 'skeleton', gravity: 'stops', count: 25 },
  ]);
});

it('a process ends with the code of its call, and writes what the call writes', () => {
  const hand = path.join(hands, 'left.glb');
  for (const args of [
    ['audit', hand, '--brief', 'headset', '--json'],
    ['checks', '--json'],
    ['audit', 'nowhere.glb'],
    ['convert', hand, path.join(folder, 'process.glb')],
  ]) {
    const { json: _, ...within } = bough(...args);
    expect([args[0], boughProcess(...args)]).toMatchObject([args[0], within]);
  }
});

it('audit: nothing stops the clean Deckhand; exit 0, in words', () => {
  const row = bough('audit', path.join(cast, 'deckhand-clean.glb'));
  expect(row).toMatchObject({ code: 0, err: '' });
  expect(row.out).toContain('0 stops hand-off, 0 worth fixing');
});

it('remap: left hand onto the right one, 25 of 25, weight kept, valid, deforming as before', async () => {
  const out = path.join(folder, 'out.glb');
  const row = bough(
    'remap',
    path.join(hands, 'left.glb'),
    '--to',
    path.join(hands, 'right.glb'),
    '--out',
    out,
    '--json',
  );
  expect(row.code).toBe(0);
  const report = row.json();
  expect(report.pairs.length).toBe(25);
  for (const pair of report.pairs) expect(pair).toMatchObject({ rule: 'carry', source: pair.target });
  expect(report.weight.after).toBeCloseTo(report.weight.before, 3);
  expect(report.vertices).toMatchObject({ changed: 0, trimmed: 0, unweighted: 0 });
  expect(report.deviation.max).toBeLessThan(1e-5);
  expect(await validate(new Uint8Array(readFileSync(out)))).toEqual([]);
});

it('remap: what the skeleton costs and what the move adds, by example or plainly, as a receiver holds it', () => {
  const remap = (...more: string[]) =>
    bough(
      'remap',
      path.join(hands, 'left.glb'),
      '--to',
      'quay',
      '--out',
      path.join(folder, 'cost.glb'),
      '--json',
      ...more,
    );
  const report = remap('--receiver', 'strict-old').json();
  for (const key of ['max', 'rms', 'p95'])
    expect(report.floor[key]).toBeLessThanOrEqual(report.deviation[key] + 1e-12);
  expect(report.arrival).toMatchObject({ receiver: 'strict-old', deviation: { max: expect.any(Number) } });
  expect(report.arrival.said.map((s: { text: string }) => s.text).join()).toContain('it keeps 2 of each');
  expect(report.arrival.deviation.max).toBeGreaterThan(report.deviation.max);
  expect(remap('--plain').json().example).toBe(null);
  const noMotion = remap('--motion', path.join(hands, 'right.glb'));
  expect([noMotion.code, noMotion.err]).toEqual([2, expect.stringContaining('holds no motion')]);
  // A crosswalk that folds every finger into the wrist adds what the skeleton does not cost.
  const walk = path.join(folder, 'folded.json');
  remap('--plain', '--save-crosswalk', walk);
  const file = JSON.parse(readFileSync(walk, 'utf8'));
  const wrist = file.rules.find((rule: { source: string }) => rule.source === 'wrist').target;
  for (const rule of file.rules) {
    delete rule.further;
    Object.assign(rule, rule.source === 'wrist' ? { rule: 'carry' } : { rule: 'fold', target: wrist });
  }
  writeFileSync(walk, JSON.stringify(file));
  const folded = remap('--plain', '--crosswalk', walk);
  expect([folded.code, folded.json().addsTooMuch]).toEqual([1, true]);
});

it('remap: the mesh brought to the rest pose, with the lengths of the skeleton, shows no difference to it', () => {
  const row = bough(
    'remap',
    path.join(cast, 'stoker.dae'),
    '--to',
    'vrm',
    '--mode',
    'mesh',
    '--lengths',
    'taken',
    '--plain',
    '--out',
    path.join(folder, 'rest.glb'),
    '--json',
  );
  const { conformity, deviation } = row.json();
  expect(conformity.otherRotation).toEqual([]);
  expect(conformity.otherLength.length).toBeLessThan(4);
  expect(deviation.max).toBeLessThan(1e-3);
});

it('remap: the rest shape by example says how far it goes from the posed one, and is left where that is wanted', () => {
  const move = (...more: string[]) =>
    bough(
      'remap',
      path.join(cast, 'stoker.dae'),
      ...['--to', 'vrm', '--plain', '--out', path.join(folder, 'shape.glb'), '--json', ...more],
    );
  const shaped = move('--mode', 'mesh').json();
  expect(shaped.rest.moved).toBeGreaterThan(100);
  expect(shaped.rest.rms).toBeGreaterThan(0);
  expect(shaped.rest.max).toBeGreaterThan(shaped.rest.rms);
  const posed = move('--mode', 'mesh', '--rest', 'posed').json();
  expect(posed.rest).toBe(null);
  expect(shaped.deviation.rms).toBeLessThan(posed.deviation.rms);
  const wrong = move('--rest', 'posed');
  expect([wrong.code, wrong.err]).toEqual([2, expect.stringMatching(/--rest .* goes with --mode mesh/)]);
});

it('receive: says what is lost and ends with 1, from a file of settings as well', () => {
  const settings = path.join(folder, 'ours.json');
  const house = JSON.parse(
    readFileSync(path.resolve('src/core/rooms/docket/receivers/browser.json'), 'utf8'),
  );
  writeFileSync(settings, JSON.stringify({ ...house, id: 'ours', title: 'Ours', empties: 'dropped' }));
  const lost = bough('receive', path.join(cast, 'deckhand.glb'), '--receiver', settings);
  expect([lost.code, lost.out]).toEqual([1, expect.stringContaining('“lantern hook”')]);
  const easy = bough('receive', path.join(hands, 'left.glb'), '--receiver', 'browser', '--json');
  expect([easy.code, easy.json().said]).toEqual([0, []]);
  writeFileSync(settings, JSON.stringify({ ...house, influences: 'many' }));
  const wrong = bough('receive', path.join(hands, 'left.glb'), '--receiver', settings);
  expect([wrong.code, wrong.err]).toEqual([2, expect.stringMatching(/influences/)]);
});

it('receive: writes what that machine holds, every draw on no more bones than it knows', () => {
  const out = path.join(folder, 'held.glb');
  const told = bough(
    'receive',
    path.join(cast, 'deckhand-clean.glb'),
    '--receiver',
    'strict-old',
    '--out',
    out,
    '--json',
  );
  expect(
    told.json().said.some((s: { text: string }) => /is drawn in \d+ parts instead of/.test(s.text)),
  ).toBe(true);
  const { skins } = readGltf([{ name: 'held.glb', bytes: new Uint8Array(readFileSync(out)) }]);
  expect(skins.length).toBeGreaterThan(1);
  for (const { joints } of skins) expect(joints.length).toBeLessThanOrEqual(24);
});

it('remap: with a crosswalk from a file, edited, and a limit', () => {
  const walk = path.join(folder, 'walk.json');
  const first = path.join(folder, 'a.glb');
  const second = path.join(folder, 'b.glb');
  expect(
    bough(
      'remap',
      path.join(cast, 'deckhand-clean.glb'),
      '--to',
      'quay',
      '--out',
      first,
      '--save-crosswalk',
      walk,
    ).code,
  ).toBe(0);
  const file = JSON.parse(readFileSync(walk, 'utf8')) as {
    rules: { source: string; rule: string; target: string | null }[];
  };
  const spine = file.rules.find((rule) => rule.source === 'spine_2')!;
  Object.assign(spine, { rule: 'fold', target: 'spine_1' });
  writeFileSync(walk, JSON.stringify(file));
  const row = bough(
    'remap',
    path.join(cast, 'deckhand-clean.glb'),
    '--to',
    'quay',
    '--crosswalk',
    walk,
    '--plain',
    '--limit',
    '2',
    '--out',
    second,
    '--json',
  );
  expect(row.json().pairs.find((pair: { source: string[] }) => pair.source[0] === 'spine_2')).toMatchObject({
    rule: 'fold',
    target: ['spine_1'],
  });
  expect(row.json().vertices.trimmed).toBeGreaterThan(0);
  const character = readGltf([{ name: 'b.glb', bytes: new Uint8Array(readFileSync(second)) }]);
  for (const mesh of character.meshes)
    if (mesh.influences) expect(mostInfluences(mesh.influences)).toBeLessThanOrEqual(2);
});

it('keeps points, polygons and bones as a set, which the file then has', () => {
  const file = path.join(cast, 'deckhand-clean.glb');
  const out = path.join(folder, 'set.glb');
  const { nodes, meshes } = readGltf([{ name: 'a.glb', bytes: new Uint8Array(readFileSync(file)) }]);
  const coat = nodes.findIndex(({ mesh, skin }) => mesh >= 0 && skin >= 0);
  const { name } = nodes[coat];
  const [bone] = nodes.filter(({ kind }) => kind === 'bone');
  const keep = ['fix', file, '--remedy', 'keep-set', 'name=cuff', `bones=${bone.name}`];
  expect(bough(...keep, `vertices=${name}:4-6,9`, `polygons=${name}:0`, '--out', out).code).toBe(0);
  const { sets } = readGltf([{ name: 'b.glb', bytes: new Uint8Array(readFileSync(out)) }]);
  expect(sets.map((set) => [set.name, set.bones.length, [...set.polygons[0].ids]])).toEqual([
    ['cuff', 1, [0]],
  ]);
  for (const id of [4, 5, 6, 9]) expect([...sets[0].vertices[0].ids]).toContain(id);
  expect(bough(...keep, `vertices=${name}:x`, '--out', out)).toMatchObject({ code: 2 });
  const most = meshes[nodes[coat].mesh].vertexCount;
  expect(bough(...keep, `vertices=${name}:${most}`, '--out', out).err).toMatch(/choose anew/);
});

it('fix: by the name of a node, numbers before and after; then the audit has one less', () => {
  const out = path.join(folder, 'fixed.glb');
  const file = path.join(cast, 'deckhand.glb');
  const row = bough('fix', file, '--remedy', 'bake-scale', 'node=lantern hook', '--out', out);
  expect(row).toMatchObject({ code: 0 });
  expect(row.out).toContain('Nodes with a scale: 1 → 0');
  const count = (file: string) =>
    bough('audit', file, '--json')
      .json()
      .findings.filter((finding: { check: string }) => finding.check === 'inherited-scale').length;
  expect([count(file), count(out)]).toEqual([1, 0]);
});

it('convert and the lists', () => {
  expect(bough('convert', path.join(hands, 'left.glb'), path.join(folder, 'c.glb')).code).toBe(0);
  for (const list of ['briefs', 'skeletons', 'checks', 'remedies']) {
    const rows = bough(list, '--json').json() as { id: string; room: string; title: string }[];
    expect(rows.length).toBeGreaterThan(2);
    for (const row of rows) expect(Object.keys(row).sort()).toEqual(['id', 'room', 'title']);
  }
  expect((bough('checks', '--json').json() as unknown[]).length).toBeGreaterThanOrEqual(12);
});

it('the Stoker, step by step on the command line, until placement is quiet; the file measures right', () => {
  const at = (k: number) => (k === 0 ? path.join(cast, 'stoker.dae') : path.join(folder, `stoker-${k}.glb`));
  const open = (k: number) =>
    (
      bough('audit', at(k), '--json').json().findings as {
        room: string;
        check: string;
        gravity: string;
        remedies: string[];
      }[]
    ).filter((finding) => finding.room === 'placement');
  expect(open(0).map((f) => f.check)).toEqual([
    'units',
    'inherited-scale',
    'height',
    'prop-height',
    'stance',
  ]);
  const steps: [string, ...string[]][] = [
    ['change-unit', 'metres=0.01'],
    ['bake-scale', 'node=export_group'],
    ['rescale', 'by=height', 'height=1.76'],
    ['rescale-prop', 'node=hand lamp', 'height=0.32'],
    ['set-stance', 'arms=0', 'bend=20'],
  ];
  steps.forEach(([remedy, ...params], k) =>
    expect(bough('fix', at(k), '--remedy', remedy, ...params, '--out', at(k + 1))).toMatchObject({
      code: 0,
      err: '',
    }),
  );
  // The file's own unit is glTF's metre now, so nothing of placement is left.
  expect(open(steps.length)).toEqual([]);
  const { measures, unit } = bough('measure', at(steps.length), '--json').json() as {
    measures: { id: string; value: number; state: string }[];
    unit: string;
  };
  expect(unit).toBe('m');
  expect(measures.find((measure) => measure.id === 'body-height')!.value).toBeCloseTo(1.76, 3);
  expect(measures.filter((measure) => measure.state === 'off')).toEqual([]);
});

it('surface: parts, sides and loops in figures, as a table and as JSON', () => {
  const file = path.join(cast, 'deckhand-clean.glb');
  const { parts, symmetry, loops } = bough('surface', file, '--json').json() as {
    parts: {
      name: string;
      kind: string | null;
      points: number;
      quads: number;
      genus: number;
      closed: boolean;
    }[];
    symmetry: { share: number; differences: unknown[] };
    loops: { bone: string; near: number; wanted: number }[];
  };
  const [body] = parts;
  expect(body).toMatchObject({ name: 'body 1', kind: 'skin', genus: 0, closed: true });
  // A closed surface of quads without a handle has two points more than quads (Euler).
  expect(body.points).toBe(body.quads + 2);
  expect(symmetry).toMatchObject({ share: 1, differences: [] });
  expect(loops.find(({ bone }) => bone === 'leg_lower_lt')).toMatchObject({ near: 5, wanted: 3 });
  const { out, code } = bough('surface', file);
  expect(code).toBe(0);
  expect(out).toContain('loops across joints: 28 joints counted');
  expect(bough('surface').code).toBe(2);
});

it('weights: a table goes out and comes back by order and by place; what cannot be read is told with its line', () => {
  const file = path.join(cast, 'deckhand-clean.glb');
  const [csv, json, back] = ['weights.csv', 'weights.json', 'back.glb'].map((name) =>
    path.join(folder, name),
  );
  expect(bough('weights', file, '--table', '--out', csv).code).toBe(0);
  expect(bough('weights', file, '--table', '--out', json).code).toBe(0);
  const lines = readFileSync(csv, 'utf8').trim().split('\n');
  expect(lines[0]).toBe('mesh,fingerprint,vertices,vertex,x,y,z,bone,weight');
  const outcomes = (table: string, onto: string) =>
    bough('weights', onto, '--apply', table, '--out', back, '--json').json().outcomes as {
      mesh: string;
      by: string;
      without: number;
      farthest: number;
    }[];
  // Onto meshes that have none, and they then pass like the one that they came from.
  const bare = path.join(cast, 'deckhand-unbound.glb');
  for (const table of [csv, json])
    for (const { by, without, farthest } of outcomes(table, bare))
      expect([by, without, farthest < 1e-5]).toEqual(['order', 0, true]);
  expect(bough('audit', back, '--json').json().counts.stops).toBe(0);
  // The same faces in another order, as another format writes them: by place.
  const other = path.join(folder, 'other.obj');
  expect(bough('convert', file, other).code).toBe(0);
  const told = bough(
    'weights',
    file,
    '--apply',
    spoilt(/^body,[^,]+,/gm, 'body,0000,'),
    '--out',
    back,
    '--json',
  ).json();
  expect(told.outcomes[0]).toMatchObject({ mesh: 'body', by: 'place', without: 0 });
  expect(bough('weights', file, '--apply', spoilt(/pelvis/g, 'nobody'), '--out', back)).toMatchObject({
    code: 2,
    err: expect.stringContaining('“nobody”'),
  });
  expect(bough('weights', file, '--apply', spoilt(/,([\d.]+)$/m, ',heavy'), '--out', back).err).toContain(
    'Line 2',
  );
  expect(bough('weights', file, '--apply', spoilt(/^mesh,/, 'net,'), '--out', back).err).toContain(
    'no column mesh',
  );
  expect(bough('weights', file).code).toBe(2);
  expect(bough('weights', file, '--table', '--apply', csv).code).toBe(2);

  function spoilt(from: RegExp, to: string): string {
    const name = path.join(folder, 'spoilt.csv');
    writeFileSync(name, lines.join('\n').replace(from, to));
    return name;
  }
});

it('bind and copy-weights: loose meshes get weights, from the bones and from another file', () => {
  const bare = path.join(cast, 'deckhand-unbound.glb');
  const out = path.join(folder, 'bound.glb');
  const told = bough('bind', bare, '--out', out, '--json').json();
  expect(told.bones).toBeGreaterThan(60);
  expect(told.outside).toContain('root');
  expect(told.parts.map(({ way }: { way: string }) => way)).toEqual(expect.arrayContaining(['heat', 'one']));
  expect(bough('audit', out, '--json').json().counts.stops).toBe(0);
  expect(bough('bind', path.join(cast, 'deckhand-clean.glb'), '--out', out)).toMatchObject({
    code: 2,
    err: expect.stringContaining('bound already'),
  });
  expect(bough('bind', bare, '--method', 'glue', '--out', out).code).toBe(2);
  // Onto the bones of another file, and without what that shows.
  const obj = path.join(folder, 'bare.obj');
  expect(bough('convert', bare, obj).code).toBe(0);
  const onto = bough('bind', obj, '--skeleton', 'quay', '--method', 'near', '--out', out, '--json').json();
  expect(onto.bones).toBeGreaterThan(40);
  const copied = bough(
    'copy-weights',
    path.join(cast, 'deckhand-clean.glb'),
    bare,
    '--out',
    out,
    '--json',
  ).json();
  expect(copied.meshes.map(({ mesh }: { mesh: string }) => mesh)).toEqual(['body', 'oilskin coat']);
  expect(
    bough('audit', out, '--json')
      .json()
      .findings.map(({ check }: { check: string }) => check),
  ).not.toContain('not-bound');
  expect(bough('copy-weights', bare, bare, '--mesh', 'body', '--out', out)).toMatchObject({
    code: 2,
    err: expect.stringContaining('No mesh “body”'),
  });
  expect(bough('copy-weights', bare, '--out', out).code).toBe(2);
});

it('convert: from and to every format, several files as one character, a unit for those that say none', () => {
  const obj = path.join(folder, 'deckhand.obj');
  const dae = path.join(folder, 'deckhand.dae');
  const both = path.join(folder, 'both.glb');
  expect(bough('convert', path.join(cast, 'deckhand-clean.glb'), dae).code).toBe(0);
  expect(bough('convert', dae, obj).out).toContain('OBJ knows no skeleton');
  expect(
    bough('measure', dae, '--json')
      .json()
      .measures.find((measure: { id: string }) => measure.id === 'body-height').value,
  ).toBeCloseTo(1.7816, 3);
  const centimetres = path.join(folder, 'body.obj');
  writeFileSync(centimetres, 'v 0 0 0\nv 30 0 0\nv 0 176 0\nf 1 2 3\n');
  expect(bough('convert', centimetres, path.join(cast, 'quay-skeleton.glb'), both, '--unit', 'cm').code).toBe(
    0,
  );
  const character = readGltf([{ name: 'both.glb', bytes: new Uint8Array(readFileSync(both)) }]);
  expect([character.meshes.length, character.nodes.filter((node) => node.kind === 'bone').length]).toEqual([
    1, 60,
  ]);
  expect(Math.max(...character.meshes[0].attributes.POSITION.data)).toBeCloseTo(1.76, 5);
  const heightOf = (...args: string[]) =>
    bough('measure', ...args, '--json')
      .json()
      .measures.find((measure: { id: string }) => measure.id === 'body-height').value;
  expect(heightOf(centimetres, '--unit', 'cm', '--scale', '0.5')).toBeCloseTo(0.88, 5);
  expect(heightOf(path.join(cast, 'deckhand-clean.glb'), '--scale', '2')).toBeCloseTo(2 * 1.781, 2);
  expect(bough('audit', centimetres, '--scale', '0').err).toMatch(/--scale takes a number from/);
  expect(bough('audit', centimetres, '--unit', 'ells').err).toMatch(
    /--unit takes one of m, dm, cm, mm, in, ft/,
  );
});

it.each([
  [['audit', 'nowhere.glb'], /cannot be opened/],
  [['audit', path.resolve('README.md')], /none of the formats/],
  [['audit'], /at least one file/],
  [['audit', 'x', '--brief', 'nobody'], /no brief “nobody”/],
  [['remap', 'x.glb', '--to', 'quay'], /--out/],
  [
    ['remap', 'x.glb', '--to', 'quay', '--out', 'y.glb', '--mode', 'sideways'],
    /--mode takes target or mesh, not “sideways”/,
  ],
  [['fix', 'x.glb', '--remedy', 'magic', '--out', 'y.glb'], /no remedy “magic”/],
  [['convert', 'a.glb', 'b.xyz'], /cannot be opened|is none of \.glb/],
  [['dance'], /no command “dance”/],
  [['audit', 'x', '--loud'], /--loud/],
])('%j: one line on standard error, exit 2', (args, sentence) => {
  const row = boughProcess(...args);
  expect(row.code).toBe(2);
  expect(row.err).toMatch(sentence);
  expect(row.err.trim().split('\n').length).toBe(1);
});

it('the gate: what is waived stops nothing, and JUnit XML says so; a waiver without need, and one of a wrong file, are told', () => {
  const deckhand = path.join(cast, 'deckhand.glb');
  const waivers = path.join(folder, 'waivers.json');
  const before = bough('audit', deckhand, '--json').json();
  const stops = [
    ...new Set(
      before.findings
        .filter((finding: { gravity: string }) => finding.gravity === 'stops')
        .map((finding: { check: string }) => finding.check),
    ),
  ] as string[];
  expect(stops.length).toBeGreaterThan(2);
  for (const check of stops) {
    const row = bough(
      'waive',
      deckhand,
      '--check',
      check,
      '--reason',
      'agreed',
      '--by',
      'R. Lindqvist',
      '--out',
      waivers,
    );
    expect([row.code, row.out]).toEqual([0, expect.stringContaining('waived by R. Lindqvist: ')]);
  }
  const junit = path.join(folder, 'gate.xml');
  const gate = bough('audit', deckhand, '--waivers', waivers, '--junit', junit, '--json');
  const report = gate.json();
  expect([gate.code, report.counts.stops, report.waivers]).toEqual([0, 0, []]);
  expect(report.waived.length).toBe(before.counts.stops);
  expect(report.waived[0]).toMatchObject({ reason: 'agreed', by: 'R. Lindqvist', key: expect.any(String) });
  const errors: string[] = [];
  const xml = new DOMParser({ onError: (level, text) => errors.push(`${level} ${text}`) }).parseFromString(
    readFileSync(junit, 'utf8'),
    'text/xml',
  );
  expect(errors).toEqual([]);
  const cases = [...xml.getElementsByTagName('testcase')];
  expect(cases.length).toBe(bough('checks', '--json').json().length);
  expect(xml.getElementsByTagName('failure').length).toBe(0);
  expect(
    [...xml.getElementsByTagName('skipped')].filter((element) =>
      /waived by R. Lindqvist: agreed/.test(element.getAttribute('message') ?? ''),
    ).length,
  ).toBe(stops.length);

  const failing = path.join(folder, 'failing.xml');
  expect(bough('audit', deckhand, '--junit', failing).code).toBe(1);
  expect(readFileSync(failing, 'utf8')).toContain(`failures="${stops.length}"`);
  const clean = bough('audit', path.join(cast, 'deckhand-clean.glb'), '--waivers', waivers);
  expect([clean.code, clean.out]).toEqual([0, expect.stringContaining('no longer needed')]);
  expect(
    bough('waive', deckhand, '--check', 'rust', '--reason', 'x', '--by', 'x', '--out', waivers),
  ).toMatchObject({ code: 2, err: expect.stringContaining('no check “rust”') });
  writeFileSync(waivers, JSON.stringify({ kind: 'young-bough-waivers', waivers: [{ keys: ['a'] }] }));
  expect(bough('audit', deckhand, '--waivers', waivers)).toMatchObject({
    code: 2,
    err: expect.stringContaining('is no file of waivers'),
  });
});

it('verify: the file that was handed over, one that was changed by a byte, and a docket that was changed', () => {
  const file = path.join(cast, 'capstan.glb');
  const bytes = new Uint8Array(readFileSync(file));
  const docket = path.join(folder, 'capstan-docket.json');
  const sealed = docketOver(bytes, 'capstan-r3.glb');
  writeFileSync(docket, docketFile(sealed));
  const right = bough('verify', file, '--docket', docket);
  expect(right).toMatchObject({ code: 0, err: '', out: expect.stringContaining('“capstan-r3.glb”') });
  expect(right.out).toContain('byte for byte');

  expect(right.out).toContain('not who made the docket');

  // Forged: everything is made anew but what only the house can make.
  const key = makeKeyPair();
  const signature = { key: key.publicHalf, value: signText(key, signedText(sealed)) };
  writeFileSync(docket, docketFile({ ...sealed, signature }));
  const ours = bough('verify', file, '--docket', docket, '--key', key.publicHalf);
  expect(ours).toMatchObject({
    code: 0,
    out: expect.stringContaining('is signed with the key that was given'),
  });
  const keyFile = path.join(folder, 'keys.txt');
  writeFileSync(keyFile, `${makeKeyPair().publicHalf}\n${key.publicHalf}\n`);
  expect(bough('verify', file, '--docket', docket, '--key', keyFile).code).toBe(0);
  const { signature: _, seal: __, ...open } = { ...sealed, signature };
  const forged = sealDocket({ ...open, by: 'somebody else' });
  const forger = makeKeyPair();
  const own = { key: forger.publicHalf, value: signText(forger, signedText(forged)) };
  const forgeries = [
    forged,
    { ...forged, signature },
    { ...forged, signature: own },
    { ...forged, signature: { ...own, key: key.publicHalf } },
    sealed,
  ];
  for (const forgery of forgeries) {
    writeFileSync(docket, docketFile(forgery));
    const said = bough('verify', file, '--docket', docket, '--key', key.publicHalf);
    expect([said.code, said.out]).toEqual([1, expect.stringContaining('does not come from that house')]);
    expect(bough('verify', file, '--docket', docket, '--key', key.publicHalf, '--json').json()).toMatchObject(
      {
        ok: false,
        signature: 'wrong',
      },
    );
  }
  writeFileSync(docket, docketFile(sealed));
  writeFileSync(keyFile, 'nothing');
  for (const key of [keyFile, 'abc'])
    expect(bough('verify', file, '--docket', docket, '--key', key)).toMatchObject({ code: 2 });

  const bent = path.join(folder, 'bent.glb');
  const other = bytes.slice();
  other[other.length - 5000] ^= 1;
  writeFileSync(bent, other);
  const wrong = bough('verify', bent, '--docket', docket);
  expect([wrong.code, wrong.out]).toEqual([1, expect.stringContaining('is not what was handed over')]);
  expect(wrong.out).toMatch(/: changed/);
  expect(bough('verify', bent, '--docket', docket, '--json').json()).toMatchObject({
    ok: false,
    isSealed: true,
    same: null,
    differences: [{ how: 'changed' }],
  });
  writeFileSync(bent, bytes.slice(0, 500));
  expect(bough('verify', bent, '--docket', docket)).toMatchObject({
    code: 1,
    out: expect.stringContaining('cannot be read'),
  });

  writeFileSync(docket, docketFile({ ...sealed, by: 'somebody else' }));
  expect(bough('verify', file, '--docket', docket)).toMatchObject({
    code: 1,
    out: expect.stringContaining('was changed after it was sealed'),
  });
  // What one reader takes for one name and another for another is nobody's word.
  writeFileSync(docket, docketFile(sealed).replace('"by":', '"by": "somebody else",\n "by":'));
  expect(bough('verify', file, '--docket', docket)).toMatchObject({
    code: 2,
    err: expect.stringMatching(/is no docket: the field “by” stands there twice/),
  });
  writeFileSync(docket, '{"kind":"young-bough-docket"}');
  for (const args of [['--docket', docket], [], ['--docket', path.join(folder, 'nothing.json')]])
    expect(bough('verify', file, ...args)).toMatchObject({
      code: 2,
      err: expect.stringMatching(/docket|nothing/),
    });
});

it('a waiver until a revision holds where it is said which one the file is', () => {
  const deckhand = path.join(cast, 'deckhand.glb');
  const waivers = path.join(folder, 'until.json');
  const { findings } = bough('audit', deckhand, '--json').json();
  const keys = findings.map((finding: { key: string }) => finding.key);
  writeFileSync(
    waivers,
    JSON.stringify({
      kind: 'young-bough-waivers',
      waivers: [{ keys, reason: 'for now', by: 'R. Lindqvist', untilRevision: 3 }],
    }),
  );
  const waived = (...more: string[]) =>
    bough('audit', deckhand, '--waivers', waivers, '--json', ...more).json();
  expect(waived('--revision', '3').waived).toHaveLength(keys.length);
  expect(waived('--revision', '4').waivers[0]).toMatchObject({ state: 'over' });
  expect(waived().waivers[0]).toMatchObject({ state: 'undated' });
  expect(bough('audit', deckhand, '--revision', 'x')).toMatchObject({ code: 2 });
});

it('tree: every bone with what it is for, as a drawing and as JSON', () => {
  const deckhand = path.join(cast, 'deckhand.glb');
  const { bones } = bough('tree', deckhand, '--json').json();
  expect(bones).toHaveLength(105);
  const named = (name: string) => bones.find((bone: { name: string }) => bone.name === name);
  expect(named('L_toes')).toMatchObject({
    parent: 'R_foot',
    side: 'left',
    twin: 'R_toes',
    kind: 'deforming',
  });
  expect(named('L_hand_ctrl')).toMatchObject({ kind: 'control', why: 'its name says so' });
  const drawn = bough('tree', deckhand);
  expect(drawn.out.trim().split('\n')).toHaveLength(105);
  expect(drawn.out).toMatch(/└ cap_tip {2}\(end, weight \d+\)/);
  expect(bough('tree')).toMatchObject({ code: 2 });
});

it('rename: by a table, into the convention, many bones by a pattern', () => {
  const deckhand = path.join(cast, 'deckhand.glb');
  const table = path.join(folder, 'names.tsv');
  writeFileSync(table, 'L_foot\tfoot_lt\r\nR_*_copy → R_*\nnobody,somebody\n');
  const out = path.join(folder, 'renamed.glb');
  const { names, unknown } = bough('rename', deckhand, '--table', table, '--out', out, '--json').json();
  expect(names).toHaveLength(2);
  expect(names).toEqual(
    expect.arrayContaining([
      { from: 'R_index_2_copy', to: 'R_index_2' },
      { from: 'L_foot', to: 'foot_lt' },
    ]),
  );
  expect(unknown).toEqual(['nobody']);
  // Every name of a supplier’s 105 into the convention, so that nothing is left to say of names.
  expect(bough('rename', deckhand, '--brief', 'handset', '--out', out).code).toBe(0);
  const left = bough('audit', out, '--brief', 'handset', '--json').json().findings;
  expect(
    left.filter(
      (f: { check: string; message: string }) =>
        f.check === 'bone-names' && /convention|leftover/.test(f.message),
    ),
  ).toEqual([]);
  const fixed = bough(
    'fix',
    deckhand,
    '--remedy',
    'extend-names',
    'bones=*_coat_*',
    'letters=cloth_',
    '--out',
    out,
  );
  expect(fixed.code).toBe(0);
  const cloth = bough('tree', out, '--json')
    .json()
    .bones.filter((b: { name: string }) => b.name.startsWith('cloth_'));
  expect(cloth).toHaveLength(40);
  expect(
    bough('fix', deckhand, '--remedy', 'extend-names', 'bones=zzz*', 'letters=x', '--out', out),
  ).toMatchObject({ code: 2 });
  writeFileSync(table, 'no pair here');
  expect(bough('rename', deckhand, '--table', table, '--out', out)).toMatchObject({
    code: 2,
    err: expect.stringContaining('holds no pair'),
  });
});

it('graft: the skeleton of one file under a bone of another, to size, without what it does not need', () => {
  const [deckhand, skeleton] = ['deckhand-clean.glb', 'quay-skeleton.glb'].map((file) =>
    path.join(cast, file),
  );
  const out = path.join(folder, 'grafted.glb');
  const call = ['graft', deckhand, skeleton, '--under', 'spine_3', '--out', out];
  const done = bough(...call, '--meet', 'pelvis=spine_3,head=head', '--drop', 'root,leg_*', '--json');
  expect(done.code).toBe(0);
  const rows = done.json().preview as { label: string; before: unknown; after: unknown }[];
  expect(rows.find(({ label }) => label.startsWith('Left behind'))).toMatchObject({
    after: expect.anything(),
  });
  const bones = bough('tree', out, '--json').json().bones as { name: string; parent: string | null }[];
  expect(bones.filter(({ name }) => name === 'pelvis').map(({ parent }) => parent)).toContain('spine_3');
  const stops = bough('audit', out, '--brief', 'handset', '--json').json().findings as { check: string }[];
  expect(stops.filter(({ check }) => check === 'one-root')).toEqual([]);
  for (const [more, why] of [
    [['--meet', 'pelvis'], /JOINT=ONTO/],
    [['--meet', 'nobody=head'], /no node “nobody”/],
    [['--drop', 'zzz*'], /Nothing in/],
    [['--top', 'leg_*'], /name one/],
  ] as const)
    expect(bough(...call, ...more)).toMatchObject({ code: 2, err: expect.stringMatching(why) });
  expect(bough('graft', deckhand, '--under', 'head', '--out', out)).toMatchObject({ code: 2 });
});

test('trial: every joint in figures, as a table and against another file; a limit that is passed stops, and says where', () => {
  const clean = path.join(cast, 'deckhand-clean.glb');
  const told = bough('trial', clean, '--json');
  expect(told.code).toBe(0);
  const report = JSON.parse(told.out);
  expect(report).toMatchObject({ brief: 'handset', asked: true, findings: [] });
  expect(report.joints.length).toBeGreaterThan(200);
  const elbow = report.joints.find(({ bone }: { bone: string }) => bone === 'arm_lower_lt');
  expect(elbow).toMatchObject({ motion: 'bend', to: 150 });
  expect(elbow.volume).toBeGreaterThan(0.5);
  expect(elbow.volume).toBeLessThan(0.8);
  expect(bough('trial', clean).out).toMatch(/Nothing passes a limit of the brief/);

  const stoker = bough('trial', path.join(cast, 'stoker.dae'), '--against', clean);
  expect(stoker.code).toBe(1);
  expect(stoker.out).toMatch(/stops hand-off At “LeftThigh” points are torn/);
  expect(stoker.out).toMatch(/LeftThigh +swing forward +\d+ % → \d+ %/);

  const csv = bough('trial', clean, '--csv').out.trim().split('\n');
  expect(csv[0].split(',')).toEqual(
    expect.arrayContaining(['bone', 'motion', 'degrees', 'volume', 'stretch', 'through']),
  );
  expect(csv).toHaveLength(report.joints.length + 1);

  // A brief that asks nothing of motion is told, and stops nothing.
  const free = bough('trial', path.join(cast, 'stoker.dae'), '--brief', 'gltf');
  expect(free.code).toBe(0);
  expect(free.out).toMatch(/The brief asks nothing of a figure in motion/);
  // The gate asks it with the rest where it is told to.
  expect(bough('audit', clean, '--in-motion').code).toBe(0);
  expect(bough('audit', path.join(cast, 'stoker.dae'), '--in-motion').out).toMatch(/trials +At “LeftThigh”/);
  // Held against a docket it tells what bends worse than what was handed over.
  const docket = path.join(folder, 'motion-docket.json');
  const { seal: _, ...open } = docketOver(new Uint8Array(readFileSync(clean)), 'deckhand-clean.glb');
  const motion = handedMotionOf(readGltf([{ name: 'clean.glb', bytes: readFileSync(clean) }]), USUAL_LIMITS);
  const rows = motion.rows.map((row) => (row.bone === 'arm_lower_lt' ? { ...row, volume: 1 } : row));
  writeFileSync(docket, docketFile(sealDocket({ ...open, motion: { ...motion, rows } })));
  const since = bough('audit', clean, '--in-motion', '--since', docket);
  expect(since.out).toMatch(
    /“arm_lower_lt” keeps \d+ % of its volume .*when it was handed over it kept 100 %/,
  );
  expect(bough('audit', clean, '--since', docket)).toMatchObject({
    code: 2,
    err: expect.stringContaining('--in-motion'),
  });
  writeFileSync(docket, docketFile(sealDocket(open)));
  expect(bough('audit', clean, '--in-motion', '--since', docket).err).toMatch(
    /does not say how the figure bent/,
  );
  for (const [given, why] of [
    [['trial'], /Name one file/],
    [['trial', clean, '--json', '--csv'], /Choose one of --json and --csv/],
    [['trial', clean, '--motion', path.join(cast, 'quay-skeleton.glb')], /holds no motion/],
  ] as const) {
    const refused = bough(...given);
    expect([given, refused.code]).toEqual([given, 2]);
    expect(refused.err).toMatch(why);
  }
});
