/** The page's own worker: everything that follows the hand and could take longer than a blink. */
import { expose, transfer } from 'comlink';
import { briefById } from '@/core/audit/briefs';
import { effectsOf } from '@/core/audit/effects';
import { remedyById } from '@/core/audit/registry';
import type { Compared } from '@/core/audit/types';
import type { Character } from '@/core/character/model';
import type { Crosswalk } from '@/core/crosswalk/crosswalk';
import { type Proof, posesFor, prove } from '@/core/crosswalk/proof';
import { type RemapReport, remap } from '@/core/crosswalk/remap';
import { type Skeleton, characterOfSkeleton, fingerprintOf, skeletonOf } from '@/core/crosswalk/skeleton';
import { suggest } from '@/core/crosswalk/suggest';
import { weightsOfJoint } from '@/core/geometry/influences';
import { clipSeconds, clipWorld, posedWorld } from '@/core/trials/pose';
import { placedPoints } from '@/core/geometry/skinning';
import { meshNodesOf } from '@/core/character/hierarchy';
import { type Figure, figureOf } from './figure';

let character: Character | null = null;

const need = (): Character => { if (!character) throw new Error('No character is open.'); return character; };

function figureTransfer(f: Figure): Figure {
  return transfer(f, f.meshes.flatMap((m) => [m.points.buffer, m.normals.buffer, m.triangles.buffer, m.polygonOf.buffer, m.edges.buffer]));
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
      const n = c.nodes[i], f = c.meshes[n.mesh].influences;
      const joint = n.skin >= 0 ? c.skins[n.skin].joints.indexOf(node) : -1;
      return f ? [{ node: i, weights: joint >= 0 ? weightsOfJoint(f, joint) : new Float32Array(c.meshes[n.mesh].vertexCount) }] : [];
    });
  },
  /** Numbers before and after, or the one sentence that says why not. */
  preview(remedyId: string, params: Record<string, unknown>, brief: string): { rows: Compared[]; largestMove: number } | { refused: string } {
    try {
      const c = need(), remedy = remedyById(remedyId), b = briefById(brief);
      if (!remedy || !b) throw new Error('The remedy is not known; reload the page.');
      const checked = remedy.params.validateSync(params) as Record<string, unknown>;
      const rows = remedy.preview(c, checked, b);
      return { rows, largestMove: effectsOf(c, remedy.apply(c, checked, b)).largestMove };
    } catch (error) {
      return { refused: error instanceof Error ? error.message : String(error) };
    }
  },
  skeleton(): Skeleton { return skeletonOf(need()); },
  skeletonOf(c: Character): Skeleton { return skeletonOf(c); },
  skeletonFigure(s: Skeleton): Figure { return figureOf(characterOfSkeleton(s)); },
  fingerprints(target: Skeleton): { source: string; target: string } { return { source: fingerprintOf(skeletonOf(need())), target: fingerprintOf(target) }; },
  suggest(target: Skeleton, locked: Crosswalk): Crosswalk { return suggest(skeletonOf(need()), target, locked); },
  /** The remap carried out here, for its numbers, its picture and its proof; nothing is saved. */
  trial(target: Skeleton, crosswalk: Crosswalk, limit: number): { report: RemapReport; proof: Proof; figure: Figure } {
    const c = need();
    const result = remap(c, target, crosswalk, { limit });
    return { report: result.report, proof: prove(c, result, posesFor(c, crosswalk)), figure: figureOf(result.character) };
  },
  clips(): { name: string; seconds: number }[] { return need().clips.map((c, i) => ({ name: c.name || `clip ${i + 1}`, seconds: clipSeconds(c) })); },
  /** The posed points of every mesh and the posed world matrices: under a clip at a time, or one bone turned about its own axes. */
  pose(what: { clip: number; time: number } | { bone: number; turn: readonly number[] } | null): { world: Float64Array; meshes: { node: number; points: Float32Array }[] } {
    const c = need();
    const world = what === null ? posedWorld(c, new Map()) : 'clip' in what ? clipWorld(c, c.clips[what.clip], what.time) : posedWorld(c, new Map([[what.bone, what.turn]]));
    const meshes = meshNodesOf(c).map((i) => {
      const n = c.nodes[i];
      return { node: i, points: placedPoints(c.meshes[n.mesh], n.skin >= 0 ? c.skins[n.skin] : null, i, world) };
    });
    return transfer({ world, meshes }, [world.buffer, ...meshes.map((m) => m.points.buffer)]);
  },
};

export type DeskWorker = typeof desk;
expose(desk);
