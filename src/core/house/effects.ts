import { ancestorsOf, meshNodesOf } from '../character/hierarchy';
import { placedMeshes } from '../character/measure';
import type { Character, Skin } from '../character/model';
import { morphed, morphsAt } from '../character/morphs';
import { STILL, type Similarity, similarityMatrix } from '../character/similarity';
import { placedPoints } from '../character/deform';
import { probedWorld, probesOf } from '../motion/probe';
import type { Pledge } from '../contracts/types';

/** What a step touched, and how far the rest moved: the answer to “did anything else change?”. */
export interface Effects {
  readonly nodes: readonly string[];
  readonly meshes: readonly string[];
  readonly skins: number;
  /** Names of the joints whose inverse binds were made anew. */
  readonly joints: readonly string[];
  readonly clips: readonly string[];
  readonly removed: readonly string[];
  /** Largest move of any point at rest, metres, over meshes that kept their points. */
  readonly largestMove: number;
  /** Points before and after. */
  readonly vertices: readonly [number, number];
  /** The factor that everything was scaled by on purpose. */
  readonly scale: number;
  /** Over `poses` trial poses: the largest movement of what the step did not mean to touch, metres, and where. */
  readonly others: {
    readonly largest: number;
    readonly where: string;
    readonly poses: number;
    readonly meshes: number;
    readonly holds: Pledge['holds'];
  };
}

const label = (s: string, i: number, what: string) => s || `${what} ${i}`;

/** New index of every old node, −1 for one that went: the same index where none went or came in between, else by name in the order of the list. */
export function nodesAfter(before: Character, after: Character): Int32Array {
  const out = new Int32Array(before.nodes.length).fill(-1);
  let k = 0;
  before.nodes.forEach((n, i) => {
    if (before.nodes.length <= after.nodes.length && after.nodes[i]?.name === n.name) {
      out[i] = i;
      return;
    }
    for (let j = k; j < after.nodes.length; j++)
      if (after.nodes[j].name === n.name && after.nodes[j].kind === n.kind) {
        out[i] = j;
        k = j + 1;
        return;
      }
  });
  if (before.nodes.length === after.nodes.length)
    before.nodes.forEach((_, i) => {
      if (out[i] < 0) out[i] = i;
    });
  return out;
}

/** What a step meant to change where its remedy does not say: the meshes that it made anew, and those that hang or are bound on what it touched. */
function touchedMeshes(before: Character, after: Character, nodeOf: Int32Array): Set<number> {
  const changed = before.nodes.map((n, i) => nodeOf[i] < 0 || after.nodes[nodeOf[i]] !== n);
  return new Set(
    meshNodesOf(before).filter((i) => {
      const n = before.nodes[i];
      const now = nodeOf[i] >= 0 ? after.nodes[nodeOf[i]] : null;
      if (!now || before.meshes[n.mesh] !== after.meshes[now.mesh] || changed[i]) return true;
      if (n.skin < 0) return ancestorsOf(before.nodes, i).some((a) => changed[a]);
      return (
        before.skins[n.skin] !== after.skins[now.skin] ||
        before.skins[n.skin].joints.some(
          (j) => changed[j] || ancestorsOf(before.nodes, j).some((a) => changed[a]),
        )
      );
    }),
  );
}

/**
 * Compares two states of a character, the second made from the first by one step.
 * @param pledge what the step's remedy promised; without one, nothing moves but what it touched
 */
export function effectsOf(before: Character, after: Character, pledge?: Pledge): Effects {
  const nodeOf = nodesAfter(before, after);
  let largestMove = 0;
  const now = new Map(placedMeshes(after).map((p) => [p.node, p]));
  for (const p of placedMeshes(before)) {
    const q = now.get(nodeOf[p.node]);
    if (!q || q.points.length !== p.points.length || q.points === p.points) continue;
    for (let i = 0; i < p.points.length; i += 3) {
      const d = Math.hypot(
        p.points[i] - q.points[i],
        p.points[i + 1] - q.points[i + 1],
        p.points[i + 2] - q.points[i + 2],
      );
      if (d > largestMove) largestMove = d;
    }
  }
  const sum = (c: Character) => c.meshes.reduce((n, m) => n + m.vertexCount, 0);
  const joints = new Set(
    after.skins.flatMap((s, i) =>
      s === before.skins[i]
        ? []
        : s.joints
            .filter((_, k) => bindChanged(before.skins[i], s, k))
            .map((j) => label(after.nodes[j].name, j, 'joint')),
    ),
  );
  return {
    nodes: before.nodes.flatMap((n, i) =>
      nodeOf[i] >= 0 && after.nodes[nodeOf[i]] !== n && !onlyRenumbered(n, after.nodes[nodeOf[i]])
        ? [label(n.name, i, 'node')]
        : [],
    ),
    meshes: after.meshes.flatMap((m, i) => (before.meshes.includes(m) ? [] : [label(m.name, i, 'mesh')])),
    skins: after.skins.filter((s) => !before.skins.includes(s)).length,
    joints: [...joints],
    clips: after.clips.flatMap((c, i) => (c === before.clips[i] ? [] : [label(c.name, i, 'clip')])),
    removed: before.nodes.flatMap((n, i) => (nodeOf[i] < 0 ? [label(n.name, i, 'node')] : [])),
    largestMove,
    vertices: [sum(before), sum(after)],
    scale: pledge?.similarity.scale ?? 1,
    others: othersOf(
      before,
      after,
      nodeOf,
      pledge ?? { similarity: STILL, meant: touchedMeshes(before, after, nodeOf), holds: 'in every pose' },
    ),
  };
}

function bindChanged(before: Skin | undefined, after: Skin, k: number): boolean {
  if (!before || before.inverseBinds.length < (k + 1) * 16) return true;
  for (let e = k * 16; e < (k + 1) * 16; e++)
    if (Math.abs(before.inverseBinds[e] - after.inverseBinds[e]) > 1e-9) return true;
  return false;
}

/** True where a node is the same but for its numbers of other things, after something was taken out of the lists. */
function onlyRenumbered(a: Character['nodes'][number], b: Character['nodes'][number]): boolean {
  return (Object.keys({ ...a, ...b }) as (keyof typeof a)[]).every(
    (k) => k === 'parent' || k === 'mesh' || k === 'skin' || a[k] === b[k],
  );
}

/** The largest distance between what was not meant to change, carried through the similarity, and where it is now. */
function othersOf(
  before: Character,
  after: Character,
  nodeOf: Int32Array,
  pledge: Pledge,
): Effects['others'] {
  const { similarity, meant, holds } = pledge;
  const watched = meshNodesOf(before).filter(
    (i) => !meant.has(i) && nodeOf[i] >= 0 && after.nodes[nodeOf[i]].mesh >= 0,
  );
  const probes = holds === 'at rest' ? probesOf(before).slice(0, 1) : probesOf(before);
  let largest = 0;
  let where = '';
  const compare = (
    i: number,
    old: Float64Array,
    fresh: Float64Array,
    said: string,
    morphs?: (k: number) => number,
  ) => {
    const d = apart(
      pointsUnder(before, i, old, morphs),
      pointsUnder(after, nodeOf[i], fresh, morphs),
      similarity,
    );
    if (d > largest) {
      largest = d;
      where = `${label(before.nodes[i].name, i, 'node')}, ${said}`;
    }
  };
  for (const probe of probes) {
    const old = probedWorld(before, probe);
    const fresh = probedWorld(after, probe, nodeOf, similarity);
    for (const i of watched) compare(i, old, fresh, probe.label);
    // Morph targets are on by different shares, so that no two of them make up for each other.
    if (probe.label === 'rest')
      for (const i of watched)
        if (before.meshes[before.nodes[i].mesh].morphs.length > 0)
          compare(i, old, fresh, 'morph targets on', (k) => 0.4 + 0.15 * (k % 5));
  }
  return { largest, where, poses: probes.length, meshes: watched.length, holds };
}

/** World points of a mesh node under node worlds, its morph targets as they are at rest or as `morphs` says for each. */
function pointsUnder(
  character: Character,
  node: number,
  world: Float64Array,
  morphs?: (k: number) => number,
): Float32Array {
  const n = character.nodes[node];
  const mesh = character.meshes[n.mesh];
  return placedPoints(
    morphed(mesh, morphs ? mesh.morphs.map((_, k) => morphs(k)) : morphsAt(character, node)),
    n.skin >= 0 && mesh.influences ? character.skins[n.skin] : null,
    node,
    world,
  );
}

/** Largest distance between S(p) and q, metres; infinite where the counts differ. */
export function apart(p: Float32Array, q: Float32Array, s: Similarity): number {
  if (p.length !== q.length) return Infinity;
  const m = similarityMatrix(s);
  let worst = 0;
  for (let i = 0; i < p.length; i += 3) {
    const x = p[i];
    const y = p[i + 1];
    const z = p[i + 2];
    const a = m[0] * x + m[4] * y + m[8] * z + m[12] - q[i];
    const b = m[1] * x + m[5] * y + m[9] * z + m[13] - q[i + 1];
    const c = m[2] * x + m[6] * y + m[10] * z + m[14] - q[i + 2];
    const d = a * a + b * b + c * c;
    if (d > worst) worst = d;
  }
  return Math.sqrt(worst);
}
