/** What the hand does before it is kept: the draft of the page, and what it looks like. */
import { restPlace, restWorld } from '@/core/character/hierarchy';
import { placedMeshes } from '@/core/character/measure';
import type { Character } from '@/core/character/model';
import { decompose, distance } from '@/core/geometry/matrix';
import { Draft } from '@/core/house/draft';
import { type Patch, packPatches, titleOf, unpackPatches } from '@/core/house/edit';
import type { Brief } from '@/core/house/brief';
import { type Pose, boneFigures, weldedNormals } from './figure';

export interface DraftState {
  /** Changes that can be taken back one by one. */
  readonly steps: number;
  readonly canRedo: boolean;
  /** What was done, in words. */
  readonly title: string;
  /** Farthest that a joint or a point has gone, metres. */
  readonly largest: number;
  /** What stands elsewhere now; null where nothing does. */
  readonly pose: Pose | null;
  /** Where the nodes that were touched stand now: world place, metres, and turn, a quaternion. */
  readonly stands: ReadonlyMap<number, Stand>;
}

export interface Stand {
  readonly place: readonly [number, number, number];
  readonly turn: readonly number[];
}

/** The draft that lies on the desk; none until the hand does something. */
export class DraftSession {
  private draft: Draft | null = null;

  /** Does a patch on the base. Throws RemedyError, and the draft stays as it was. */
  put(base: Character, brief: Brief, patch: Patch, gesture: number): DraftState {
    if (this.draft?.base !== base) this.draft = new Draft(base, brief);
    this.draft.put(patch, gesture);
    return this.state();
  }

  /** Does again on the base what was done on it before, each patch a change of its own. Throws RemedyError. */
  restore(base: Character, brief: Brief, bundle: Uint8Array): DraftState {
    const draft = new Draft(base, brief);
    // Gestures of the hand count from 0 up.
    unpackPatches(bundle).forEach((patch, i) => draft.put(patch, -1 - i));
    this.draft = draft;
    return this.state();
  }

  undo(): DraftState {
    this.draft?.undo();
    return this.state();
  }

  redo(): DraftState {
    this.draft?.redo();
    return this.state();
  }

  /** Lets go of all that was done. */
  drop(): void {
    this.draft = null;
  }

  /** All that was done as one bundle; null where nothing was. */
  bundle(): Uint8Array | null {
    return this.draft && !this.draft.isEmpty ? packPatches(this.draft.patches()) : null;
  }

  /** The character as it stands with the draft on it; null where there is none. */
  get character(): Character | null {
    return this.draft?.character ?? null;
  }

  private state(): DraftState {
    const { draft } = this;
    if (!draft || draft.isEmpty)
      return {
        steps: 0,
        canRedo: draft?.canRedo ?? false,
        title: '',
        largest: 0,
        pose: null,
        stands: new Map(),
      };
    const { base, character } = draft;
    const moved = movedMeshes(base, character);
    const stands = movedStands(base, character);
    const joints = [...stands].map(([node, { place }]) => distance(place, restPlace(base.nodes, node)));
    return {
      steps: draft.steps,
      canRedo: draft.canRedo,
      title: titleOf(draft.patches()),
      largest: Math.max(0, ...joints, ...moved.map((mesh) => mesh.largest)),
      pose: { meshes: moved, bones: boneFigures(character) },
      stands,
    };
  }
}

function movedMeshes(base: Character, now: Character) {
  const old = new Map(placedMeshes(base).map((placed) => [placed.node, placed.points]));
  return placedMeshes(now).flatMap(({ node, mesh, points }) => {
    const before = old.get(node);
    const largest = before ? largestMove(before, points) : 0;
    if (largest < 1e-7) return [];
    const normals = weldedNormals(points, mesh);
    return [{ node, points: points.slice(), normals, largest }];
  });
}

function largestMove(points: Float32Array, rotation: Float32Array): number {
  let most = 0;
  for (let i = 0; i < points.length; i += 3)
    most = Math.max(
      most,
      Math.hypot(points[i] - rotation[i], points[i + 1] - rotation[i + 1], points[i + 2] - rotation[i + 2]),
    );
  return most;
}

/** Where the nodes stand that a draft touched itself. */
function movedStands(base: Character, now: Character): Map<number, Stand> {
  const out = new Map<number, Stand>();
  const world = restWorld(now.nodes);
  now.nodes.forEach((node, i) => {
    if (node !== base.nodes[i])
      out.set(i, { place: restPlace(now.nodes, i), turn: decompose(world, i * 16).rotation });
  });
  return out;
}
