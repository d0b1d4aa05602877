import { bonesOf, restWorld, weightOfNodes, ancestorsOf } from '../../character/hierarchy';
import { characterHeight, placedMeshes } from '../../character/measure';
import type { Character } from '../../character/model';
import { placedPoints } from '../../character/deform';
import { quatAbout } from '../../geometry/matrix';
import { clipSeconds, clipWorld, posedWorld, transferPose } from '../../motion/pose';
import type { Crosswalk } from '../../anatomy/crosswalk';
import type { Remapped } from './remap';
import { skeletonOf } from '../../anatomy/skeleton';

/** A pose that a proof is made in. */
export interface TrialPose {
  readonly label: string;
  /** World matrices of the source, 16 per node. */ readonly world: Float64Array;
}

/** How far points lie from where they were, pose by pose, metres. */
export interface Proof {
  /**
   * Largest, root-mean-square and 95th-percentile distance over all points and poses, metres; the percentile
   * is of each point's worst.
   */
  readonly max: number;
  readonly rms: number;
  readonly p95: number;
  /** The same as a share of the character's height. */
  readonly ofHeight: { readonly max: number; readonly rms: number; readonly p95: number };
  readonly poses: readonly { readonly label: string; readonly max: number }[];
  /** For every mesh node of the remapped character: the worst distance of every vertex, metres. */
  readonly worst: readonly { readonly node: number; readonly distance: Float32Array }[];
}

/**
 * Poses that put every joint to work: each bone that carries weight, or has one below that does, turned by
 * 40° about one of the world's axes in turn; all of them together by a little; and moments of the character's
 * clips. Bones in `skip` stay still.
 */
export function trialPoses(
  character: Character,
  skip: ReadonlySet<number> = new Set(),
  most = 60,
): TrialPose[] {
  const weight = weightOfNodes(character);
  const busy = new Set<number>();
  for (const b of bonesOf(character))
    if (weight[b] > 0) {
      busy.add(b);
      for (const a of ancestorsOf(character.nodes, b)) if (character.nodes[a].kind === 'bone') busy.add(a);
    }
  const bones = [...busy].filter((b) => !skip.has(b)).sort((a, b) => a - b);
  const step = Math.max(1, Math.ceil(bones.length / most));
  const axes = [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ] as const;
  const poses: TrialPose[] = [{ label: 'rest', world: restWorld(character.nodes) }];
  bones.forEach((b, i) => {
    if (i % step !== 0) return;
    poses.push({
      label: character.nodes[b].name,
      world: posedWorld(
        character,
        new Map([[b, quatAbout(axes[i % 3], ((i % 2 ? -1 : 1) * 40 * Math.PI) / 180)]]),
      ),
    });
  });
  for (let k = 0; k < 3; k++) {
    const turns = new Map(
      bones.map((b, i) => [b, quatAbout(axes[(i + k) % 3], 0.22 * Math.sin(1 + i * 2.4 + k))] as const),
    );
    poses.push({ label: `all together ${k + 1}`, world: posedWorld(character, turns) });
  }
  for (const clip of character.clips) {
    const seconds = clipSeconds(clip);
    for (const f of [0.2, 0.5, 0.8])
      poses.push({
        label: `${clip.name || 'clip'} at ${(seconds * f).toFixed(2)} s`,
        world: clipWorld(character, clip, seconds * f),
      });
  }
  return poses;
}

/**
 * The trial poses for a crosswalk: released bones stay still, since there is nothing on the other side that
 * could move like them.
 */
export function posesFor(character: Character, crosswalk: Crosswalk): TrialPose[] {
  const bones = skeletonOf(character).bones;
  return trialPoses(
    character,
    new Set(crosswalk.filter((r) => r.kind === 'release').map((r) => bones[r.source].node)),
  );
}

/**
 * The proof that a remap deforms as before: the same motions on both rigs, points compared in world space. A
 * pure rename or reorder gives zero to float precision.
 */
export function prove(before: Character, remapped: Remapped, poses: readonly TrialPose[]): Proof {
  const after = remapped.character;
  const pairs = placedMeshes(after).flatMap((p) => {
    const old = remapped.partner[p.node];
    const q = placedMeshes(before).find((x) => x.node === old);
    return q && q.points.length === p.points.length
      ? [{ node: p.node, after: p, before: q, distance: new Float32Array(p.points.length / 3) }]
      : [];
  });
  let sum = 0;
  let count = 0;
  const rows = poses.map(({ label, world }) => {
    const moved = transferPose(before, world, after, remapped.partner);
    let max = 0;
    for (const pair of pairs) {
      const a = placedPoints(pair.before.mesh, pair.before.skin, pair.before.node, world);
      const b = placedPoints(pair.after.mesh, pair.after.skin, pair.after.node, moved);
      for (let v = 0; v < pair.distance.length; v++) {
        const dx = a[v * 3] - b[v * 3];
        const dy = a[v * 3 + 1] - b[v * 3 + 1];
        const dz = a[v * 3 + 2] - b[v * 3 + 2];
        const d2 = dx * dx + dy * dy + dz * dz;
        sum += d2;
        count++;
        const d = Math.sqrt(d2);
        if (d > pair.distance[v]) pair.distance[v] = d;
        if (d > max) max = d;
      }
    }
    return { label, max };
  });
  const all = Float32Array.from(pairs.flatMap((p) => Array.from(p.distance))).sort();
  const height = characterHeight(before);
  const max = rows.reduce((m, r) => Math.max(m, r.max), 0);
  const rms = Math.sqrt(sum / Math.max(1, count));
  const p95 = all.length > 0 ? all[Math.min(all.length - 1, Math.floor(all.length * 0.95))] : 0;
  return {
    max,
    rms,
    p95,
    ofHeight: { max: max / height, rms: rms / height, p95: p95 / height },
    poses: rows,
    worst: pairs.map((p) => ({ node: p.node, distance: p.distance })),
  };
}
