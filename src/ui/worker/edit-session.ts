/**
 * What the hand does before it is kept: the draft of the page, and what it looks like. A remedy is done again whole on
 * every move; a stroke is appended dab by dab to a mesh under the brush, and only what it touched is told.
 */
import { restPlace, restWorld } from '@/core/character/hierarchy';
import { placedMeshes } from '@/core/character/measure';
import type { Character } from '@/core/character/model';
import { decompose, distance } from '@/core/geometry/matrix';
import type { TriangleBoxes } from '@/core/geometry/triangle-tree';
import { Draft, type DraftEntry } from '@/core/house/draft';
import { PaintedMesh, type Touched, type WeightBrush } from '@/core/rooms/weights/painting';
import { type Patch, packPatches, titleOf, unpackPatches } from '@/core/house/edit';
import type { RowsParam } from '@/core/contracts/params';
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
  /** Points that were painted; with any, the figure stands as the draft says at rest too. */
  readonly painted: number;
  /** All that the last gesture changed, where that was a stroke; null where the figure is to be posed anew. */
  readonly touched: readonly Touched[] | null;
}

/** A stroke that begins: on what, and which movement of the hand it is. */
export interface BeginningStroke {
  readonly base: Character;
  readonly brief: Brief;
  /** The node that shows the mesh. */
  readonly node: number;
  readonly gesture: number;
}

/** How a mesh stands under the brush, and the search over its triangles. */
export interface StrokeOn {
  /** 16 per node, column-major. */
  readonly world: Float64Array;
  /** 3 per vertex, the mesh's own space, with the morph targets of the pose. */
  readonly base: Float32Array;
  readonly boxes: TriangleBoxes | null;
}

/** What a stroke did with the samples that it was given. */
export interface StrokeAnswer {
  readonly touched: Touched | null;
  /** Where the last of them met the surface; null beside it. */
  readonly place: readonly number[] | null;
  /** The brush has reached what faces away. */
  readonly isBehind: boolean;
}

/** Numbers of one sample of the pointer: a ray's origin and direction, world space, and the pressure, 0 … 1. */
export const SAMPLE = 7;

export interface Stand {
  readonly place: readonly [number, number, number];
  readonly turn: readonly number[];
}

/** The draft that lies on the desk; none until the hand does something. */
export class EditSession {
  private draft: Draft | null = null;
  /** Meshes under the brush, in the pose in which they were taken; gone when the pose or the character changes. */
  private painted = new Map<number, PaintedMesh>();
  private stroke: {
    readonly mesh: PaintedMesh;
    readonly brush: WeightBrush;
    readonly gesture: number;
  } | null = null;
  /** What remedies made of the figure, told again while strokes come on top. */
  private moved: Pick<DraftState, 'largest' | 'pose' | 'stands'> = NOTHING_MOVED;

  /** Does a patch on the base. Throws RemedyError, and the draft stays as it was. */
  put(base: Character, brief: Brief, patch: Patch, gesture: number): DraftState {
    this.draftOn(base, brief).put(patch, gesture);
    return this.remade();
  }

  private draftOn(base: Character, brief: Brief): Draft {
    if (this.draft?.base !== base) this.draft = new Draft(base, brief);
    return this.draft as Draft;
  }

  /** Does again on the base what was done on it before, each patch a change of its own. Throws RemedyError. */
  restore(base: Character, brief: Brief, bundle: Uint8Array): DraftState {
    const draft = new Draft(base, brief);
    // Gestures of the hand count from 0 up.
    unpackPatches(bundle).forEach((patch, i) => draft.put(patch, -1 - i));
    this.stroke = null;
    this.draft = draft;
    return this.remade();
  }

  /**
   * Begins a stroke on the mesh of a node. False where the mesh does not know the bone, so that nothing can be painted.
   * @param stand how it stands; asked only where the mesh is not under the brush already
   */
  beginStroke(
    { base, brief, node, gesture }: BeginningStroke,
    brush: WeightBrush,
    stand: (character: Character) => StrokeOn | null,
  ): boolean {
    if (this.stroke) this.endStroke();
    this.draftOn(base, brief);
    const mesh = this.painted.get(node) ?? this.takeUp(this.character ?? base, node, stand);
    this.stroke = mesh?.begin(brush.bone, brush) ? { mesh, brush, gesture } : null;
    return this.stroke !== null;
  }

  private takeUp(
    character: Character,
    node: number,
    stand: (character: Character) => StrokeOn | null,
  ): PaintedMesh | null {
    const on = stand(character);
    if (!on) return null;
    const mesh = new PaintedMesh(character, node, on.world, { base: on.base, boxes: on.boxes });
    this.painted.set(node, mesh);
    return mesh;
  }

  /**
   * Goes on with the stroke: every sample in its order, none left out.
   * @param samples {@link SAMPLE} numbers each
   */
  strokeOn(samples: Float32Array): StrokeAnswer {
    const { stroke } = this;
    if (!stroke) return { touched: null, place: null, isBehind: false };
    const { mesh, brush } = stroke;
    let place: readonly number[] | null = null;
    for (let i = 0; i + SAMPLE <= samples.length; i += SAMPLE) {
      const hit = mesh.hit(samples.subarray(i, i + 3), samples.subarray(i + 3, i + 6));
      if (!hit) {
        mesh.lift();
        continue;
      }
      place = hit.point;
      mesh.strokeTo(hit.point, brush, samples[i + 6], {
        triangle: hit.triangle,
        way: [...samples.subarray(i + 3, i + 6)],
      });
    }
    return { touched: mesh.takeTouched(brush.bone), place, isBehind: mesh.reachedBehind };
  }

  /** One dab with all of the brush's strength on some vertices of the mesh, within the stroke that has begun. */
  dabOn(vertices: Uint32Array): Touched | null {
    const { stroke } = this;
    stroke?.mesh.dabOn(vertices, stroke.brush);
    return stroke?.mesh.takeTouched(stroke.brush.bone) ?? null;
  }

  /** Ends the stroke; it is one change that can be taken back. */
  endStroke(): DraftState {
    const { stroke, draft } = this;
    this.stroke = null;
    const delta = stroke?.mesh.end();
    if (delta && stroke && draft) draft.putStroke(delta, stroke.gesture);
    return this.state([]);
  }

  /** @param bone whose weights are shown */
  undo(bone: number): DraftState {
    return this.shown(this.draft?.undo() ?? [], 'before', bone);
  }

  redo(bone: number): DraftState {
    return this.shown(this.draft?.redo() ?? [], 'after', bone);
  }

  /** Strokes that were taken back or done again are put in place; anything else makes the figure anew. */
  private shown(entries: readonly DraftEntry[], side: 'before' | 'after', bone: number): DraftState {
    const touched: Touched[] = [];
    for (const { delta } of entries) {
      const mesh = delta && this.painted.get(delta.node);
      if (!delta || !mesh) return this.remade();
      mesh.put(delta.vertices, delta[side]);
      const some = mesh.takeTouched(bone);
      if (some) touched.push(some);
    }
    return this.state(touched);
  }

  /** The figure stands otherwise: what was under the brush is taken up anew when it is painted again. */
  repose(): void {
    if (this.stroke) this.endStroke();
    this.painted.clear();
  }

  /** Lets go of all that was done. */
  drop(): void {
    this.stroke = null;
    this.draft = null;
    this.moved = NOTHING_MOVED;
    this.repose();
  }

  /** All that was done as one bundle; null where nothing was. */
  bundle(): Uint8Array | null {
    return this.draft && !this.draft.isEmpty ? packPatches(this.draft.patches()) : null;
  }

  /** The character as it stands with the draft on it; null where there is none. */
  get character(): Character | null {
    return this.draft?.character ?? null;
  }

  /** What was done is told anew, from the whole character. */
  private remade(): DraftState {
    const { draft } = this;
    this.repose();
    this.moved = draft && !draft.isEmpty ? movedBy(draft) : NOTHING_MOVED;
    return this.state(null);
  }

  /** A bone's weights at every vertex of a mesh under the brush; null where it is not under it. */
  weightsUnderBrush(node: number, bone: number): Float32Array | null {
    return this.painted.get(node)?.weightsOf(bone) ?? null;
  }

  private state(touched: readonly Touched[] | null): DraftState {
    const { draft } = this;
    const patches = draft?.patches() ?? [];
    return {
      steps: draft?.steps ?? 0,
      canRedo: draft?.canRedo ?? false,
      title: titleOf(patches),
      ...this.moved,
      painted: pointsPainted(patches),
      touched,
    };
  }
}

/** How many points some patches paint, each once. */
function pointsPainted(patches: readonly Patch[]): number {
  const painted = new Map<number, Set<number>>();
  for (const { remedy, params } of patches) {
    if (remedy !== 'brush-weights') continue;
    for (const { node, ids } of params.points as readonly RowsParam[]) {
      const known = painted.get(node) ?? new Set();
      painted.set(node, known);
      for (const id of ids) known.add(id);
    }
  }
  return [...painted.values()].reduce((sum, { size }) => sum + size, 0);
}

const NOTHING_MOVED = { largest: 0, pose: null, stands: new Map<number, Stand>() };

function movedBy({ base, character }: Draft): Pick<DraftState, 'largest' | 'pose' | 'stands'> {
  const moved = movedMeshes(base, character);
  const stands = movedStands(base, character);
  const joints = [...stands].map(([node, { place }]) => distance(place, restPlace(base.nodes, node)));
  return {
    largest: Math.max(0, ...joints, ...moved.map((mesh) => mesh.largest)),
    pose: { meshes: moved, bones: boneFigures(character) },
    stands,
  };
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
