/** The page's own worker: everything that follows the hand and could take longer than a blink. */
import { expose, transfer } from 'comlink';
import { briefById } from '@/core/house/briefs';
import type { ChangeEffects } from '@/core/contracts/effects';
import { nodesAfter } from '@/core/house/effects';
import { previewRemedy } from '@/core/house/preview';
import { remedyById } from '@/core/house/registry';
import { type PreviewRow } from '@/core/house/preview';
import type { Character } from '@/core/character/model';
import type { Crosswalk } from '@/core/anatomy/crosswalk';
import { type Proof, posesFor, prove } from '@/core/rooms/crosswalk/proof';
import { type RemapReport, remap } from '@/core/rooms/crosswalk/remap';
import { type Skeleton, characterOfSkeleton, fingerprintOf, skeletonOf } from '@/core/anatomy/skeleton';
import { suggest } from '@/core/anatomy/suggest';
import { weightsOfJoint } from '@/core/geometry/influences';
import { clipMorphs, clipSeconds, clipWorld, posedWorld } from '@/core/motion/pose';
import { placedPoints } from '@/core/character/deform';
import { bonesOf, meshNodesOf } from '@/core/character/hierarchy';
import { placedMeshes } from '@/core/character/measure';
import { morphed, morphsAt } from '@/core/character/morphs';
import type { Measure } from '@/core/contracts/measure';
import { measuresOf } from '@/core/rooms/placement/measures';
import { type SceneGroup, sceneOf } from '@/core/rooms/placement/scene';
import { type Figure, type Ghost, figureOf, trianglesOf } from './figure';

let character: Character | null = null;

const need = (): Character => {
  if (!character) throw new Error('No character is open.');
  return character;
};

function figureTransfer(f: Figure): Figure {
  return transfer(
    f,
    f.meshes.flatMap((m) => [
      m.points.buffer,
      m.normals.buffer,
      m.triangles.buffer,
      m.polygonOf.buffer,
      m.edges.buffer,
    ]),
  );
}

export type Preview =
  { rows: readonly PreviewRow[]; effects: ChangeEffects; ghost: Ghost[] | null } | { refused: string };

export interface Comparison {
  figures: [Figure, Figure];
  apart: { node: number; distance: Float32Array }[];
  most: number;
  where: string;
  points: number;
  lost: string[];
  came: string[];
  measures: [Measure[], Measure[]];
  counts: [Counted, Counted];
}
export interface Counted {
  nodes: number;
  bones: number;
  meshes: number;
  vertices: number;
  polygons: number;
  clips: number;
}

/** The shapes that a step would move: what stays where it is needs no ghost. */
function ghostOf(before: Character, after: Character): Ghost[] | null {
  if (before.nodes === after.nodes && before.meshes === after.meshes && before.skins === after.skins)
    return null;
  const nodeOf = nodesAfter(before, after);
  const back = new Map<number, number>();
  nodeOf.forEach((to, from) => {
    if (to >= 0) back.set(to, from);
  });
  const old = new Map(placedMeshes(before).map((p) => [p.node, p.points]));
  const stays = (p: Float32Array, q: Float32Array | undefined) =>
    !!q && q.length === p.length && p.every((x, i) => Math.abs(x - q[i]) < 1e-5);
  const moved = placedMeshes(after).filter((p) => !stays(p.points, old.get(back.get(p.node) ?? -1)));
  return moved.length > 0
    ? moved.map((p) => ({ points: p.points.slice(), triangles: trianglesOf(p.mesh) }))
    : null;
}

const desk = {
  open(c: Character): Figure {
    character = c;
    return figureTransfer(figureOf(c));
  },
  /** Weight of a bone at every vertex of every bound mesh; a mesh that does not know the bone is left out. */
  weights(node: number): { node: number; weights: Float32Array }[] {
    const c = need();
    return meshNodesOf(c).flatMap((i) => {
      const n = c.nodes[i];
      const f = c.meshes[n.mesh].influences;
      const joint = n.skin >= 0 ? c.skins[n.skin].joints.indexOf(node) : -1;
      return f
        ? [
            {
              node: i,
              weights: joint >= 0 ? weightsOfJoint(f, joint) : new Float32Array(c.meshes[n.mesh].vertexCount),
            },
          ]
        : [];
    });
  },
  /** Numbers before and after, what else would move, and the shape that would come of it; or the one sentence that says why not. */
  preview(remedyId: string, params: Record<string, unknown>, brief: string): Preview {
    try {
      const c = need();
      const remedy = remedyById(remedyId);
      const b = briefById(brief);
      if (!remedy || !b) throw new Error('The remedy is not known; reload the page.');
      const checked = remedy.params.validateSync(params) as Record<string, unknown>;
      const { rows, effects, after } = previewRemedy(remedy, c, checked, b);
      const ghost = ghostOf(c, after);
      return transfer(
        { rows, effects, ghost },
        ghost ? ghost.map((g) => g.points.buffer).concat(ghost.map((g) => g.triangles.buffer)) : [],
      );
    } catch (error) {
      return { refused: error instanceof Error ? error.message : String(error) };
    }
  },
  measures(brief: string): Measure[] {
    const b = briefById(brief);
    return b ? measuresOf(need(), b) : [];
  },
  scene(): { of: SceneGroup['of']; strays: [number, string][] } {
    const s = sceneOf(need());
    return { of: s.of, strays: [...s.strays] };
  },
  /** Two revisions beside each other: how far every vertex of the second lies from the first, and the shape of the first. */
  compare(a: Character, b: Character, brief: string): Comparison {
    const nodeOf = nodesAfter(a, b);
    const back = new Map<number, number>();
    nodeOf.forEach((to, from) => {
      if (to >= 0) back.set(to, from);
    });
    const old = new Map(placedMeshes(a).map((p) => [p.node, p]));
    let most = 0;
    let where = '';
    let points = 0;
    const apart = placedMeshes(b).flatMap((p) => {
      const q = old.get(back.get(p.node) ?? -1);
      if (!q || q.points.length !== p.points.length) return [];
      const distance = new Float32Array(p.points.length / 3);
      for (let v = 0; v < distance.length; v++) {
        const d = Math.hypot(
          p.points[v * 3] - q.points[v * 3],
          p.points[v * 3 + 1] - q.points[v * 3 + 1],
          p.points[v * 3 + 2] - q.points[v * 3 + 2],
        );
        distance[v] = d;
        if (d > 1e-6) points++;
        if (d > most) {
          most = d;
          where = b.nodes[p.node].name;
        }
      }
      return [{ node: p.node, distance }];
    });
    const what = briefById(brief);
    const counts = (c: Character) => ({
      nodes: c.nodes.length,
      bones: bonesOf(c).length,
      meshes: c.meshes.length,
      vertices: c.meshes.reduce((n, m) => n + m.vertexCount, 0),
      polygons: c.meshes.reduce((n, m) => n + m.polygonOffsets.length - 1, 0),
      clips: c.clips.length,
    });
    const lost = a.nodes.flatMap((n, i) => (nodeOf[i] < 0 ? [n.name] : []));
    const came = b.nodes.flatMap((n, i) => (back.has(i) ? [] : [n.name]));
    return {
      figures: [figureOf(a), figureOf(b)],
      apart,
      most,
      where,
      points,
      lost,
      came,
      measures: what ? [measuresOf(a, what), measuresOf(b, what)] : [[], []],
      counts: [counts(a), counts(b)],
    };
  },
  skeleton(): Skeleton {
    return skeletonOf(need());
  },
  skeletonOf(c: Character): Skeleton {
    return skeletonOf(c);
  },
  skeletonFigure(s: Skeleton): Figure {
    return figureOf(characterOfSkeleton(s));
  },
  fingerprints(target: Skeleton): { source: string; target: string } {
    return { source: fingerprintOf(skeletonOf(need())), target: fingerprintOf(target) };
  },
  suggest(target: Skeleton, locked: Crosswalk): Crosswalk {
    return suggest(skeletonOf(need()), target, locked);
  },
  /** The remap carried out here, for its numbers, its picture and its proof; nothing is saved. */
  trial(
    target: Skeleton,
    crosswalk: Crosswalk,
    limit: number,
  ): { report: RemapReport; proof: Proof; figure: Figure } {
    const c = need();
    const result = remap(c, target, crosswalk, { limit });
    return {
      report: result.report,
      proof: prove(c, result, posesFor(c, crosswalk)),
      figure: figureOf(result.character),
    };
  },
  clips(): { name: string; seconds: number }[] {
    return need().clips.map((c, i) => ({ name: c.name || `clip ${i + 1}`, seconds: clipSeconds(c) }));
  },
  /** The posed points of every mesh and the posed world matrices: under a clip at a time, or one bone turned about its own axes. */
  pose(what: { clip: number; time: number } | { bone: number; turn: readonly number[] } | null): {
    world: Float64Array;
    meshes: { node: number; points: Float32Array }[];
  } {
    const c = need();
    const world =
      what === null
        ? posedWorld(c, new Map())
        : 'clip' in what
          ? clipWorld(c, c.clips[what.clip], what.time)
          : posedWorld(c, new Map([[what.bone, what.turn]]));
    const meshes = meshNodesOf(c).map((i) => {
      const n = c.nodes[i];
      const on = what && 'clip' in what ? clipMorphs(c, c.clips[what.clip], what.time, i) : morphsAt(c, i);
      return {
        node: i,
        points: placedPoints(morphed(c.meshes[n.mesh], on), n.skin >= 0 ? c.skins[n.skin] : null, i, world),
      };
    });
    return transfer({ world, meshes }, [world.buffer, ...meshes.map((m) => m.points.buffer)]);
  },
};

export type DeskWorker = typeof desk;
expose(desk);
