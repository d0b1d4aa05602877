/** How near a mesh comes to where it was on a skeleton with fewer bones, over poses that nothing was fitted to. */
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { looksOf } from '../core/anatomy/looks';
import { skeletonOf } from '../core/anatomy/skeleton';
import { VRM_HUMANOID } from '../core/anatomy/skeletons/vrm';
import { suggest } from '../core/anatomy/suggest';
import { placedPoints } from '../core/character/deform';
import { placedMeshes } from '../core/character/measure';
import type { Character } from '../core/character/model';
import { readCharacter } from '../core/formats';
import { quatAbout } from '../core/geometry/matrix';
import { MotionFit } from '../core/motion/fit';
import { posedWorld, transferPose } from '../core/motion/pose';
import { type Remapped, remap } from '../core/rooms/crosswalk/remap';
import { makeRandom } from './match/figures';
import type { Row } from './match/report';

const POSES = 20;

/** Poses as bodies take them: all joints a little, the bones of spine and neck together, twists at rest. */
function bodyPoses(c: Character): Float64Array[] {
  const random = makeRandom(4711);
  const skeleton = skeletonOf(c);
  const { readings } = looksOf(skeleton);
  const turn = (most: number) => {
    const [x, y, z] = [random() - 0.5, random() - 0.5, random() - 0.5];
    const size = Math.hypot(x, y, z) || 1;
    return quatAbout([x / size, y / size, z / size], most * random());
  };
  return Array.from({ length: POSES }, () => {
    const together = new Map(['spine', 'neck'].map((part) => [part, turn(0.25)]));
    const turns = new Map<number, readonly number[]>();
    skeleton.bones.forEach((b, i) => {
      const { part, kind } = readings[i];
      if (kind !== 'bone' || part === 'root') return;
      turns.set(b.node, together.get(part) ?? turn(part ? 0.7 : 0.2));
    });
    return posedWorld(c, turns);
  });
}

/** Root of the mean square distance over all points and poses, metres. */
function rms(
  before: Character,
  { character, partner }: Remapped,
  worlds: readonly Float64Array[],
  carry: (world: Float64Array) => Float64Array,
): number {
  let sum = 0;
  let count = 0;
  for (const world of worlds) {
    const moved = carry(world);
    for (const q of placedMeshes(character)) {
      const p = placedMeshes(before).find((x) => x.node === partner[q.node]);
      if (!p) continue;
      const a = placedPoints(p.mesh, p.skin, p.node, world);
      const b = placedPoints(q.mesh, q.skin, q.node, moved);
      for (let i = 0; i < a.length; i++) sum += (a[i] - b[i]) ** 2;
      count += a.length / 3;
    }
  }
  return Math.sqrt(sum / Math.max(1, count));
}

/** The rows of motion on other bones. */
export function motionRows(): Row[] {
  const name = 'deckhand-clean.glb';
  const c = readCharacter([{ name, bytes: new Uint8Array(readFileSync(path.join('dist', 'demo', name))) }]);
  const out = remap(c, VRM_HUMANOID, suggest(skeletonOf(c), VRM_HUMANOID), { limit: 4 });
  const fit = new MotionFit(c, out.character, out.partner);
  const worlds = bodyPoses(c);
  const plain = rms(c, out, worlds, (w) => transferPose(c, w, out.character, out.partner));
  const fitted = rms(c, out, worlds, (w) => fit.pose(w));
  const mm = (metres: number) => `${(1000 * metres).toFixed(2)} mm`;
  return [
    {
      work: 'motion of the clean Deckhand on the VRM humanoid, fitted, over turning joint by joint',
      measured: `${(fitted / plain).toFixed(2)} × as far off (${mm(fitted)}, ${mm(plain)} RMS)`,
      budget: '≤ 0.4 ×',
      holds: fitted <= 0.4 * plain,
    },
  ];
}
