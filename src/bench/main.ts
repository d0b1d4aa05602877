/**
 * `npm run bench`: the budgets, each row a ratio or a time measured in this one run. 100 000 vertices, 120
 * bones, unless said.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import {
  Bone,
  BufferAttribute,
  BufferGeometry,
  Matrix4,
  Skeleton as ThreeSkeleton,
  SkinnedMesh,
  Vector3,
} from 'three';
import { Accessor, Document } from '@gltf-transform/core';
import { validateBytes } from 'gltf-validator';
import { sortPrimitiveWeights } from '@gltf-transform/functions';
import { BRIEFS } from '../core/house/briefs';
import { audit } from '../core/house/audit';
import type { Character, Influences, SceneNode } from '../core/character/model';
import { EMPTY_CARRIED, node } from '../core/character/model';
import { limitInfluences } from '../core/geometry/influences';
import { residentSkin, skinMatrices, skinPoints } from '../core/geometry/skinning';
import { QUAY } from '../core/anatomy/skeletons/quay';
import { skeletonOf } from '../core/anatomy/skeleton';
import { suggest } from '../core/anatomy/suggest';
import { remap } from '../core/rooms/crosswalk/remap';
import { restWorld } from '../core/character/hierarchy';
import { inverseOr } from '../core/geometry/matrix';
import { readCollada } from '../core/formats/collada/read';
import { readGltf } from '../core/formats/gltf/read';
import { writeGlb } from '../core/formats/gltf/write';
import { figureOf } from '../ui/worker/figure';
import { bindingRows } from './binding';
import { handRows } from './hand';
import { largeBodyRows } from './large-body';
import { nameRows } from './bodies/names';
import { bodyRows } from './bodies/report';
import { matchRows } from './match/report';
import { motionRows } from './motion';
import { restShapeRows } from './rest-shape';
import { measurePage } from './page';
import { queueRows } from './queue';
import { refineTo } from './refine';
import { surfaceRows } from './surface';
import { cleanHeron } from '../demo/heron';
import { trialRows } from './trials';

let seed = 7;
const random = () => {
  seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
  return seed / 4294967296;
};

/** A long tube of quads with a chain of bones along it, each vertex bound to `per` of them. */
function tube(vertices: number, bones: number, per: number): Character {
  const around = 100;
  const rings = Math.round(vertices / around);
  const points = new Float32Array(rings * around * 3);
  for (let row = 0; row < rings; row++)
    for (let k = 0; k < around; k++) {
      const a = (k / around) * 2 * Math.PI;
      const i = (row * around + k) * 3;
      points[i] = 0.3 * Math.cos(a);
      points[i + 1] = (row / (rings - 1)) * 1.76;
      points[i + 2] = 0.3 * Math.sin(a);
    }
  const corners = new Uint32Array((rings - 1) * around * 4);
  for (let row = 1, offset = 0; row < rings; row++)
    for (let k = 0; k < around; k++) {
      const next = (k + 1) % around;
      corners.set(
        [(row - 1) * around + k, row * around + k, row * around + next, (row - 1) * around + next],
        offset,
      );
      offset += 4;
    }
  const count = rings * around;
  const influences = tubeInfluences(count, around, bones, per);
  const nodes = tubeNodes(bones);
  const world = restWorld(nodes);
  const inverseBinds = new Float32Array(bones * 16);
  for (let i = 0; i < bones; i++) inverseBinds.set(inverseOr(world, i * 16), i * 16);
  const polygons = corners.length / 4;
  return {
    name: 'tube',
    nodes,
    clips: [],
    sets: [],
    notes: [],
    carried: EMPTY_CARRIED,
    source: { format: 'made', generator: '', unitMetres: 1, files: [] },
    skins: [{ name: 'tube', joints: Array.from({ length: bones }, (_, i) => i), inverseBinds }],
    meshes: [
      {
        name: 'tube',
        vertexCount: count,
        attributes: { POSITION: { data: points, size: 3, normalized: false, type: 'VEC3' } },
        pieces: [
          {
            vertexStart: 0,
            vertexCount: count,
            polygonStart: 0,
            polygonCount: polygons,
            material: -1,
            attributes: ['POSITION'],
            mode: 4,
          },
        ],
        polygonOffsets: Uint32Array.from({ length: polygons + 1 }, (_, i) => i * 4),
        corners,
        polygonOrigin: 'encoded',
        influences,
        influenceStorage: null,
        morphs: [],
      },
    ],
  };
}

function tubeInfluences(count: number, around: number, bones: number, per: number): Influences {
  const rings = count / around;
  const influences: Influences = {
    offsets: Uint32Array.from({ length: count + 1 }, (_, value) => value * per),
    joint: new Uint16Array(count * per),
    weight: new Float32Array(count * per),
  };
  for (let vertex = 0; vertex < count; vertex++) {
    let sum = 0;
    const first = Math.min(bones - per, Math.floor((Math.floor(vertex / around) / rings) * bones));
    for (let k = 0; k < per; k++) {
      const weight = 0.05 + random();
      influences.joint[vertex * per + k] = first + k;
      influences.weight[vertex * per + k] = weight;
      sum += weight;
    }
    for (let k = 0; k < per; k++) influences.weight[vertex * per + k] /= sum;
  }
  return influences;
}

const tubeNodes = (bones: number): SceneNode[] => [
  ...Array.from({ length: bones }, (_, i) =>
    node({
      name: `bone_${i}`,
      kind: 'bone' as const,
      parent: i - 1,
      translation: [0, i === 0 ? 0 : 1.76 / bones, 0],
    }),
  ),
  node({ name: 'tube', kind: 'mesh', mesh: 0, skin: 0 }),
];

/** The shortest of several runs, milliseconds: what the work takes when the machine does nothing else. */
function timeOf(runs: number, work: () => void): number {
  work();
  const times = Array.from({ length: runs }, () => {
    const began = performance.now();
    work();
    return performance.now() - began;
  });
  return Math.min(...times);
}

/**
 * Two works in turn, several rounds, so that both meet the same weather: the median of the rounds' ratios,
 * and the times of that round.
 */
function against(rounds: number, mine: () => void, theirs: () => number): { mine: number; theirs: number } {
  mine();
  const list = Array.from({ length: rounds }, () => {
    const b = theirs();
    return { mine: timeOf(5, mine), theirs: b };
  });
  return list.sort((a, b) => a.theirs / a.mine - b.theirs / b.mine)[Math.floor(rounds / 2)];
}

const clocked = (work: () => void): number => {
  const began = performance.now();
  work();
  return performance.now() - began;
};

const rows: { work: string; measured: string; budget: string; holds: boolean }[] = [];
const ratio = (work: string, mine: number, theirs: number, least: number) =>
  rows.push({
    work,
    measured: `${(theirs / mine).toFixed(1)} × (${mine.toFixed(2)} ms, reference ${theirs.toFixed(1)} ms)`,
    budget: `≥ ${least} ×`,
    holds: theirs / mine >= least,
  });
const limitTime = (work: string, mine: number, most: number) =>
  rows.push({ work, measured: `${mine.toFixed(1)} ms`, budget: `≤ ${most} ms`, holds: mine <= most });

function skinning(): void {
  const character = tube(100_000, 120, 4);
  const mesh = character.meshes[0];
  const influences = mesh.influences as Influences;
  const points = mesh.attributes.POSITION.data as Float32Array;
  const out = new Float32Array(points.length);
  const world = restWorld(character.nodes);
  const resident = residentSkin(points, influences, character.skins[0].joints.length);
  if (!resident) throw new Error('This machine has no WebAssembly SIMD.');
  const plain = timeOf(9, () => skinPoints(points, influences, skinMatrices(character.skins[0], world), out));
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(points, 3));
  geometry.setAttribute('skinIndex', new BufferAttribute(Uint16Array.from(influences.joint), 4));
  geometry.setAttribute('skinWeight', new BufferAttribute(influences.weight, 4));
  const bones = character.skins[0].joints.map((j) => {
    const bone = new Bone();
    bone.matrixWorld.fromArray(Array.from(world.subarray(j * 16, j * 16 + 16)));
    return bone;
  });
  const reference = new SkinnedMesh(geometry);
  reference.bind(
    new ThreeSkeleton(
      bones,
      character.skins[0].joints.map((_, j) =>
        new Matrix4().fromArray(Array.from(character.skins[0].inverseBinds.subarray(j * 16, j * 16 + 16))),
      ),
    ),
    new Matrix4(),
  );
  reference.skeleton.update();
  const vector = new Vector3();
  const { mine, theirs } = against(
    9,
    () => resident.pose(skinMatrices(character.skins[0], world), out),
    () =>
      clocked(() => {
        for (let vertex = 0; vertex < mesh.vertexCount; vertex++) reference.getVertexPosition(vertex, vector);
      }),
  );
  ratio('linear blend skinning, 4 influences, against three’s getVertexPosition', mine, theirs, 20);
  rows.push({
    work: 'the same by the plain loop',
    measured: `${(theirs / plain).toFixed(1)} × (${plain.toFixed(2)} ms)`,
    budget: 'the reference of the kernel',
    holds: true,
  });
}

function limiting(): void {
  const influences = tube(100_000, 120, 8).meshes[0].influences as Influences;
  const count = influences.offsets.length - 1;
  const reference = (): number => {
    const otherDocument = new Document();
    const buffer = otherDocument.createBuffer();
    const primitive = otherDocument.createPrimitive().setAttribute(
      'POSITION',
      otherDocument
        .createAccessor()
        .setType(Accessor.Type.VEC3)
        .setArray(new Float32Array(count * 3))
        .setBuffer(buffer),
    );
    for (let step = 0; step < 2; step++) {
      const j = new Uint16Array(count * 4);
      const world = new Float32Array(count * 4);
      for (let vertex = 0; vertex < count; vertex++)
        for (let k = 0; k < 4; k++) {
          j[vertex * 4 + k] = influences.joint[vertex * 8 + step * 4 + k];
          world[vertex * 4 + k] = influences.weight[vertex * 8 + step * 4 + k];
        }
      primitive
        .setAttribute(
          `JOINTS_${step}`,
          otherDocument.createAccessor().setType(Accessor.Type.VEC4).setArray(j).setBuffer(buffer),
        )
        .setAttribute(
          `WEIGHTS_${step}`,
          otherDocument.createAccessor().setType(Accessor.Type.VEC4).setArray(world).setBuffer(buffer),
        );
    }
    const began = performance.now();
    sortPrimitiveWeights(primitive, 4);
    return performance.now() - began;
  };
  const { mine, theirs } = against(
    5,
    () => {
      limitInfluences(influences, 4);
    },
    reference,
  );
  ratio('limit 8 → 4 and normalise, against gltf-transform’s sortPrimitiveWeights', mine, theirs, 40);
}

/** The faulty Deckhand of the demo cast, and the same made finer. */
function deckhands() {
  const bytes = new Uint8Array(readFileSync(path.join('dist', 'demo', 'deckhand.glb')));
  const own = readGltf([{ name: 'deckhand.glb', bytes }]);
  return { bytes, own, fine: refineTo(own, 100_000), finest: refineTo(own, 1_000_000) };
}

/** The Deckhand without a fault. */
const cleanDeckhand = (folder = ''): Character => {
  const bytes = new Uint8Array(readFileSync(path.join('dist', 'demo', folder, 'deckhand-clean.glb')));
  return readGltf([{ name: 'deckhand-clean.glb', bytes }]);
};

/** The Stoker of the demo cast: his body is of a number of points that comes to more than a million when it is halved. */
const stoker = (): Character => {
  const bytes = new Uint8Array(readFileSync(path.join('dist', 'demo', 'stoker.dae')));
  return readCollada([{ name: 'stoker.dae', bytes }]);
};

/** The same character with arrays of its own, so that nothing that was computed on it before is known. */
const fresh = (character: Character): Character => ({
  ...character,
  nodes: [...character.nodes],
  meshes: character.meshes.map((mesh) => ({
    ...mesh,
    attributes: {
      ...mesh.attributes,
      POSITION: { ...mesh.attributes.POSITION, data: mesh.attributes.POSITION.data.slice() },
    },
  })),
});

const countOf = (character: Character) =>
  character.meshes
    .reduce((sum, mesh) => sum + mesh.vertexCount, 0)
    .toLocaleString('en')
    .replaceAll(',', ' ');

/** Time of a whole audit of a character of which nothing is known, milliseconds. */
const auditTime = (character: Character, runs: number) =>
  timeOf(runs, () => {
    audit(fresh(character), BRIEFS[0]);
  });

function auditing({ own, fine, finest }: ReturnType<typeof deckhands>): void {
  const [a, b, ofFinest] = [auditTime(own, 4), auditTime(fine, 3), auditTime(finest, 1)];
  limitTime(`whole audit of the Deckhand, ${countOf(own)} vertices`, a, 1000);
  limitTime(`whole audit of a finer Deckhand, ${countOf(fine)} vertices`, b, 1000);
  const [fineMeasures, finestMeasures] = [fine, finest].map((character) =>
    character.meshes.reduce((sum, mesh) => sum + mesh.vertexCount, 0),
  );
  const allowed = (finestMeasures * Math.log(finestMeasures)) / (fineMeasures * Math.log(fineMeasures));
  rows.push({
    work: `whole audit of the finest Deckhand, ${countOf(finest)} vertices, over the finer one`,
    measured: `${(ofFinest / b).toFixed(1)} × as long (${ofFinest.toFixed(0)} ms)`,
    budget: `≤ ${allowed.toFixed(1)} × (n·log n)`,
    holds: ofFinest / b <= allowed,
  });
  const mine = auditTime(tube(100_000, 120, 4), 3);
  limitTime('whole audit of the tube, 100 000 vertices', mine, 1000);
}

/** Reading and auditing a file against what the standard's validator takes for the same bytes. */
async function againstValidator(name: string, bytes: Uint8Array): Promise<void> {
  const rounds: { mine: number; theirs: number }[] = [];
  for (let i = 0; i < 5; i++) {
    const mine = timeOf(2, () => {
      audit(readGltf([{ name: 'f.glb', bytes: bytes.slice() }]), BRIEFS[0]);
    });
    const begin = performance.now();
    // No fewer issues than there are: a validator that stops early is no reference.
    await validateBytes(bytes, { maxIssues: 0 });
    rounds.push({ mine, theirs: performance.now() - begin });
  }
  const { mine, theirs } = rounds.sort((a, b) => a.mine / a.theirs - b.mine / b.theirs)[2];
  rows.push({
    work: `read and audit ${name}, against gltf-validator on the same file`,
    measured: `${(mine / theirs).toFixed(2)} × its time (${mine.toFixed(0)} ms, reference ${theirs.toFixed(0)} ms)`,
    budget: '≤ 1 ×',
    holds: mine <= theirs,
  });
}

function remapping(): void {
  const character = tube(100_000, 120, 8);
  const walk = suggest(skeletonOf(character), QUAY).map((rule, i) => ({
    ...rule,
    kind: i < QUAY.bones.length ? ('carry' as const) : ('fold' as const),
    target: i % QUAY.bones.length,
  }));
  limitTime(
    'remap with limit, 100 000 vertices of 8 influences onto 60 bones',
    timeOf(9, () => {
      remap(character, QUAY, walk, { limit: 4 });
    }),
    60,
  );
}

/**
 * A character of a million vertices from its file to what the stage draws, and how much memory that takes
 * over the file's own size; in a process of its own, so that nothing else is counted.
 */
function large(): void {
  const file = path.join(mkdtempSync(path.join(os.tmpdir(), 'bough-bench-')), 'large.glb');
  writeFileSync(file, writeGlb(tube(1_000_000, 120, 4)).bytes);
  const run = (what: string) => {
    const returns = spawnSync(process.execPath, ['--expose-gc', process.argv[1], '--large', what, file], {
      encoding: 'utf8',
    });
    if (returns.status !== 0) throw new Error(returns.stderr);
    return JSON.parse(returns.stdout) as {
      read: number;
      audit: number;
      figure: number;
      peak: number;
      file: number;
    };
  };
  const server = run('audit');
  const stage = run('figure');
  const ten = (row: { peak: number; file: number }, work: string) =>
    rows.push({
      work,
      measured: `${(row.peak / row.file).toFixed(1)} × the file (${Math.round(row.peak / 1e6)} MB of ${Math.round(row.file / 1e6)} MB)`,
      budget: '≤ 10 ×',
      holds: row.peak <= 10 * row.file,
    });
  ten(server, 'memory to read and audit 1 000 000 vertices');
  ten(stage, 'memory to read 1 000 000 vertices and make what the stage draws');
  rows.push({
    work: 'read 1 000 000 vertices, audit them, make what the stage draws',
    measured: `${Math.round(server.read)} ms, ${Math.round(server.audit)} ms, ${Math.round(stage.figure)} ms`,
    budget: 'told',
    holds: true,
  });
}

/**
 * The child of {@link large}: does one thing, then says how long it took and how far memory rose above what
 * Node itself takes.
 */
function largeChild(what: string, file: string): void {
  const bytes = new Uint8Array(readFileSync(file));
  (globalThis as { gc?: () => void }).gc?.();
  const before = process.memoryUsage().rss - bytes.length;
  const clock = <T>(work: () => T): [T, number] => {
    const began = performance.now();
    const x = work();
    return [x, performance.now() - began];
  };
  const [character, read] = clock(() => readGltf([{ name: 'large.glb', bytes }]));
  const [, auditMs] = clock(() => (what === 'audit' ? audit(character, BRIEFS[0]) : null));
  const [, figure] = clock(() => (what === 'figure' ? figureOf(character) : null));
  process.stdout.write(
    JSON.stringify({
      read,
      audit: auditMs,
      figure,
      peak: process.resourceUsage().maxRSS * 1024 - before,
      file: bytes.length,
    }),
  );
}

if (process.argv[2] === '--large') {
  largeChild(process.argv[3], process.argv[4]);
  process.exit(0);
}

/** What the page's script may take at a time, milliseconds. */
const TASK = 8;

/** What a step on a whole character may take, milliseconds. */
const STEP = 1000;

/** The page in Chromium, against the house that serves at BASE_URL. */
async function paging(): Promise<void> {
  const base = process.env.BASE_URL;
  if (!base) return;
  const folder = mkdtempSync(path.join(os.tmpdir(), 'bough-bench-'));
  const dense = path.join(folder, 'dense.glb');
  writeFileSync(dense, writeGlb(refineTo(deckhands().own, 500_000)).bytes);
  const { step, longest } = await measurePage(base, dense);
  rmSync(folder, { recursive: true });
  rows.push({
    work: 'a step on the Deckhand, from the click to the mended picture',
    measured: `${Math.round(step)} ms`,
    budget: `≤ ${STEP} ms`,
    holds: step <= STEP,
  });
  for (const [what, time] of longest)
    rows.push({
      work: `longest task of the page’s script: ${what}`,
      measured: `${time.toFixed(1)} ms`,
      budget: `≤ ${TASK} ms`,
      holds: time <= TASK,
    });
}

/** Prints the rows; the process ends with 1 where one does not hold. */
function tell(): void {
  const width = Math.max(...rows.map((row) => row.work.length));
  for (const row of rows)
    process.stdout.write(
      `${row.holds ? '✓' : '✗'} ${row.work.padEnd(width)}  ${row.measured}  (budget ${row.budget})\n`,
    );
  process.exitCode = rows.every((row) => row.holds) ? 0 : 1;
}

if (process.argv[2] === 'match') {
  rows.push(...matchRows(3));
  tell();
  process.exit();
}

if (process.argv[2] === 'bodies') {
  rows.push(...bodyRows(), ...nameRows());
  tell();
  process.exit();
}

if (process.argv[2] === 'large') {
  rows.push(...largeBodyRows());
  tell();
  process.exit();
}

if (process.argv[2] === 'queue') {
  rows.push(...(await queueRows()));
  tell();
  process.exit();
}

if (process.argv[2] === 'motion') {
  rows.push(...motionRows(), ...restShapeRows());
  tell();
  process.exit();
}

if (process.argv[2] === 'hand') {
  rows.push(...handRows(deckhands().fine, stoker()));
  tell();
  process.exit();
}

if (process.argv[2] === 'surface') {
  rows.push(...(await surfaceRows(deckhands().own)));
  tell();
  process.exit();
}

if (process.argv[2] === 'weights') {
  rows.push(...bindingRows(deckhands().own));
  tell();
  process.exit();
}

if (process.argv[2] === 'trials') {
  rows.push(...trialRows(cleanDeckhand('coarse'), deckhands().fine, [cleanHeron(1)]));
  tell();
  process.exit();
}

if (process.argv[2] === 'page') {
  await paging();
  tell();
  process.exit();
}

const cast = deckhands();
skinning();
limiting();
auditing(cast);
await againstValidator('the Deckhand', cast.bytes);
await againstValidator('the finer Deckhand', writeGlb(cast.fine).bytes);
remapping();
large();
rows.push(
  ...matchRows(1),
  ...bodyRows(),
  ...nameRows(),
  ...motionRows(),
  ...restShapeRows(),
  ...largeBodyRows(),
  ...handRows(cast.fine, stoker()),
  ...(await surfaceRows(cast.own)),
  ...bindingRows(cast.own),
  ...trialRows(cleanDeckhand('coarse'), cast.fine, [cleanHeron(1)]),
);
await paging();
tell();
