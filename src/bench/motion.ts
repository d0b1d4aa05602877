/** How near a mesh comes to where it was on a skeleton with fewer bones, over poses that nothing was fitted to. */
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { looksOf } from '../core/anatomy/looks';
import { type Skeleton, skeletonOf } from '../core/anatomy/skeleton';
import { QUAY } from '../core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '../core/anatomy/skeletons/vrm';
import { suggest } from '../core/anatomy/suggest';
import { placedPoints } from '../core/character/deform';
import { characterHeight, placedMeshes, shownMeshes } from '../core/character/measure';
import type { Character } from '../core/character/model';
import { readCharacter } from '../core/formats';
import { finish } from '../core/motion/example';
import { MotionFit } from '../core/motion/fit';
import { type Freedom, floorOf } from '../core/motion/floor';
import { posedWorld, transferPose } from '../core/motion/pose';
import { posesFor, turnBy } from '../core/rooms/crosswalk/poses';
import { priceOf } from '../core/rooms/crosswalk/deviation-floor';
import { prove } from '../core/rooms/crosswalk/proof';
import { type Remapped, remap } from '../core/rooms/crosswalk/remap';
import { makeRandom } from './match/figures';
import type { BenchRow } from './row';

const POSES = 40;

/** The second draw is looked at when all is done, and nothing is tuned to it. */
const DRAWS = [4711, 90_210];

/**
 * What the floor may use where it is held against weights by example: four bones a point, its own and those
 * beside.
 */
const SAME = { limit: 4, steps: 1 };

/**
 * Poses that nothing is fitted to or solved over. As bodies take them: all joints, the bones of spine and
 * neck together, twists at rest. Or any: every joint by itself, twists as well.
 */
function unseenPoses(character: Character, as: 'bodies' | 'any', seed: number): Float64Array[] {
  const random = makeRandom(seed);
  const skeleton = skeletonOf(character);
  const { readings } = looksOf(skeleton);
  const turn = (angle: number) => turnBy(random, angle);
  return Array.from({ length: POSES }, () => {
    const together = new Map(['spine', 'neck'].map((part) => [part, turn(0.25)]));
    const turns = new Map<number, readonly number[]>();
    skeleton.bones.forEach((bone, i) => {
      const { part, kind } = readings[i];
      if (part === 'root') return;
      if (as === 'any') turns.set(bone.node, turn(0.5));
      else if (kind === 'bone') turns.set(bone.node, together.get(part) ?? turn(part ? 0.7 : 0.2));
    });
    return posedWorld(character, turns);
  });
}

/** Root of the mean square distance over all points and poses, metres. */
function rms(
  before: Character,
  { character, sourceNodeOf }: Remapped,
  worlds: readonly Float64Array[],
  carry: (world: Float64Array) => Float64Array,
): number {
  let sum = 0;
  let count = 0;
  for (const world of worlds) {
    const moved = carry(world);
    for (const mesh of placedMeshes(character)) {
      const placed = placedMeshes(before).find((placedMesh) => placedMesh.node === sourceNodeOf[mesh.node]);
      if (!placed) continue;
      const a = placedPoints(placed.mesh, placed.skin, placed.node, world);
      const b = placedPoints(mesh.mesh, mesh.skin, mesh.node, moved);
      for (let i = 0; i < a.length; i++) sum += (a[i] - b[i]) ** 2;
      count += a.length / 3;
    }
  }
  return Math.sqrt(sum / Math.max(1, count));
}

const mm = (metres: number) => `${(1000 * metres).toFixed(2)} mm`;

/** What the same solve finds for the very poses, by bones of the same freedom or of any. */
function floorFor(
  before: Character,
  out: Remapped,
  worlds: readonly Float64Array[],
  freedom?: Freedom,
): number {
  const { withoutClips, sourceNodeOf, report } = out;
  const points = shownMeshes(withoutClips).flatMap(({ node, mesh, skin }) =>
    skin ? [{ node, vertices: everyTenth(mesh.vertexCount) }] : [],
  );
  const task = {
    source: before,
    target: withoutClips,
    sourceNodeOf,
    trimmed: report.trimmed,
    worlds,
  };
  const least = finish(floorOf(task, points, freedom));
  const sum = least.reduce((total, off) => off.squares.reduce((a, b) => a + b, total), 0);
  return Math.sqrt(sum / (worlds.length * least.reduce((sum, off) => sum + off.squares.length, 0)));
}

const everyTenth = (count: number) => Uint32Array.from({ length: Math.ceil(count / 10) }, (_, k) => k * 10);

/** A move by the rules, by fitted motion and by example, over poses that nothing was solved for. */
function rowsOf(
  name: string,
  before: Character,
  target: Skeleton,
  budgets: { bodies: number; any: number },
): BenchRow[] {
  const crosswalk = suggest(skeletonOf(before), target);
  const began = performance.now();
  const solved = remap(before, target, crosswalk, { limit: 4, weights: 'example' });
  const seconds = (performance.now() - began) / 1000;
  const plain = remap(before, target, crosswalk, { limit: 4 });
  const fit = new MotionFit({ source: before, target: plain.character, sourceNodeOf: plain.sourceNodeOf });
  const both = new MotionFit({ source: before, target: solved.character, sourceNodeOf: solved.sourceNodeOf });
  const rows = (['bodies', 'any'] as const).flatMap((as) =>
    DRAWS.flatMap((seed, draw): BenchRow[] => {
      const worlds = unseenPoses(before, as, seed);
      const today = rms(before, plain, worlds, (sourceWorld) =>
        transferPose(before, sourceWorld, plain.character, plain.sourceNodeOf),
      );
      const fitted = rms(before, plain, worlds, (sourceWorld) => fit.pose(sourceWorld));
      const example = rms(before, solved, worlds, (sourceWorld) => both.pose(sourceWorld));
      const same = floorFor(before, solved, worlds, SAME);
      const any = floorFor(before, solved, worlds);
      const what = `${name}, ${as === 'bodies' ? 'as bodies move' : 'every joint by itself'}, draw ${draw + 1}`;
      return [
        {
          work: `${what}: weights by example over folding, joint by joint`,
          measured: `${(example / today).toFixed(3)} × (${mm(today)}; ${mm(fitted)} with fitted motion; ${mm(example)} by example; RMS)`,
          budget: `≤ ${budgets[as]} ×`,
          holds: example <= budgets[as] * today,
        },
        {
          work: `${what}: over the best four bones a point for these very poses`,
          measured: `${(example / same).toFixed(2)} × (${mm(same)}; on any weights ${mm(any)})`,
          budget: '≤ 1.15 ×',
          holds: example <= 1.15 * same,
        },
      ];
    }),
  );
  return [
    ...rows,
    {
      work: `${name}: solving the weights by example`,
      measured: `${seconds.toFixed(1)} s`,
      budget: '≤ 10 s',
      holds: seconds <= 10,
    },
  ];
}

const characterOf = (name: string, bytes: Uint8Array) => readCharacter([{ name, bytes }]);

/** The rows of motion on other bones. */
export function motionRows(): BenchRow[] {
  const cast = (name: string) =>
    characterOf(name, new Uint8Array(readFileSync(path.join('dist', 'demo', name))));
  const hand = new Uint8Array(
    readFileSync('node_modules/@webxr-input-profiles/assets/dist/profiles/generic-hand/left.glb'),
  );
  return [
    ...rowsOf('the clean Deckhand on the VRM humanoid', cast('deckhand-clean.glb'), VRM_HUMANOID, {
      bodies: 0.2,
      any: 0.4,
    }),
    ...exactRow('the Stoker on the Quay skeleton', cast('stoker.dae'), QUAY),
    ...exactRow('the published left hand on the Quay skeleton', characterOf('left.glb', hand), QUAY),
  ];
}

/** Where the target has a bone for every one that moves anything, the move is exact, by example or not. */
function exactRow(name: string, before: Character, target: Skeleton): BenchRow[] {
  const crosswalk = suggest(skeletonOf(before), target);
  const out = remap(before, target, crosswalk, { limit: 4, weights: 'example' });
  const poses = posesFor(out.reference, crosswalk);
  const proof = prove(out, poses);
  const price = finish(priceOf(out, poses, proof));
  const height = characterHeight(before);
  return [
    {
      work: `${name}: what the move adds to what the skeleton costs, RMS over the proof`,
      measured: `${mm(proof.rms - price.rms)} on ${mm(price.rms)}`,
      budget: '≤ 0.1 % of the height',
      holds: proof.rms - price.rms <= 1e-3 * height,
    },
  ];
}
