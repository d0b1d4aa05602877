/** The page's own worker: everything that follows the hand and could take longer than a blink. */
import { expose, transfer } from 'comlink';
import type { SerializedBVH } from 'three-mesh-bvh';
import type { Crosswalk } from '@/core/anatomy/crosswalk';
import { type Limb, limbsOf } from '@/core/anatomy/limbs';
import { type BodyKindReading, bodyKindOf } from '@/core/anatomy/body-kind';
import { twinOf } from '@/core/anatomy/twins';
import { type Notice, noticesOf } from '@/core/rooms/crosswalk/notices';
import { type Skeleton, characterOfSkeleton, skeletonOf } from '@/core/anatomy/skeleton';
import { suggest } from '@/core/anatomy/suggest';
import { meshNodesOf } from '@/core/character/hierarchy';
import { placedMeshes } from '@/core/character/measure';
import type { Character } from '@/core/character/model';
import { checkedBy } from '@/core/contracts/checked';
import type { ChangeEffects } from '@/core/contracts/effects';
import type { Finding, RemedyCall } from '@/core/contracts/finding';
import type { Measure } from '@/core/contracts/measure';
import type { Params } from '@/core/contracts/remedy';
import type { RoomId } from '@/core/contracts/rooms';
import { weightsOfJoint } from '@/core/geometry/influences';
import { silentChecks } from '@/core/house/audit';
import type { Brief } from '@/core/house/brief';
import { type Patch, packPatches } from '@/core/house/edit';
import { previewForKind } from '@/core/house/of-kind';
import { nodesAfter } from '@/core/house/effects';
import { type PreviewRow, previewRemedy } from '@/core/house/preview';
import { remedyById } from '@/core/house/registry';
import { clipMorphs, clipSeconds, clipWorld, posedWorld } from '@/core/motion/pose';
import { type Adopted, adopt } from '@/core/rooms/crosswalk/adopt';
import type { CrosswalkFile } from '@/core/rooms/crosswalk/file';
import { arrivedAsItIs } from '@/core/house/arrival';
import { trialPoses } from '@/core/rooms/crosswalk/poses';
import type { Cause } from '@/core/rooms/crosswalk/causes';
import { prove } from '@/core/rooms/crosswalk/proof';
import type { Price } from '@/core/rooms/crosswalk/price';
import type { RemapOptions } from '@/core/rooms/crosswalk/remap';
import type { Receiver } from '@/core/rooms/docket/receivers';
import { measuresOf } from '@/core/rooms/placement/measures';
import { type SceneGroup, sceneOf } from '@/core/rooms/placement/scene';
import { limbMiddle } from '@/core/rooms/skeleton/limb-middle';
import { type Comparison, compareCharacters } from './compare';
import { type Figure, type Ghost, type Pose, figureOf, poseIn, trianglesOf, weldedNormals } from './figure';
import { type DraftState, Hand } from './hand';
import { type Chosen, type Kept, keepChosen } from './isolation';
import { type ArrivedThere, type BothPosed, type HandTurn, type Moved, Moving } from './moving';
import { buildSearch, searchBuffers } from './search';

export type Preview =
  | { readonly rows: readonly PreviewRow[]; readonly effects: ChangeEffects; readonly ghost: Ghost[] | null }
  | { readonly refused: string };

/** A preview of one remedy for many findings; `bundle` holds the patches of the step. */
export type KindPreview =
  | (Extract<Preview, { rows: unknown }> & {
      readonly bundle: Uint8Array;
      readonly done: number;
      readonly left: readonly string[];
    })
  | { readonly refused: string };

/** What a trial shows: a moment of a clip, or one bone turned (a quaternion in the world). Null: rest. */
export type Trial =
  | { readonly clip: number; readonly time: number }
  | { readonly bone: number; readonly turn: readonly number[] };

/** A pairing as a whole: its limbs, what is to be said of it, and for every bone the one on the other side (−1). */
export interface PairingLook {
  readonly limbs: readonly Limb[];
  readonly notices: readonly Notice[];
  readonly twins: readonly number[];
  readonly targetTwins: readonly number[];
}

/** Which kind of body a character has, and what is not asked of it. */
export interface BodyLook extends Pick<BodyKindReading, 'kind' | 'confidence' | 'reasons' | 'isByHand'> {
  readonly silent: readonly { readonly room: RoomId; readonly title: string }[];
}

let open: { character: Character; figure: Figure } | null = null;

const moving = new Moving();

const hand = new Hand();

function need(): Character {
  if (!open) throw new Error('No character is open.');
  return open.character;
}

/** The shapes that a step would move: what stays where it is needs no ghost. */
function ghostOf(before: Character, after: Character): Ghost[] | null {
  if (before.nodes === after.nodes && before.meshes === after.meshes && before.skins === after.skins)
    return null;
  const back = new Map<number, number>();
  nodesAfter(before, after).forEach((to, from) => {
    if (to >= 0) back.set(to, from);
  });
  const old = new Map(placedMeshes(before).map((p) => [p.node, p.points]));
  const stays = (p: Float32Array, q: Float32Array | undefined) =>
    !!q && q.length === p.length && p.every((x, i) => Math.abs(x - q[i]) < 1e-5);
  const moved = placedMeshes(after).filter((p) => !stays(p.points, old.get(back.get(p.node) ?? -1)));
  return moved.length > 0
    ? moved.map((p) => ({
        points: p.points.slice(),
        normals: weldedNormals(p.points, p.mesh),
        triangles: trianglesOf(p.mesh),
      }))
    : null;
}

function poseOf(c: Character, trial: Trial): Pose {
  if ('bone' in trial) return poseIn(c, posedWorld(c, new Map([[trial.bone, trial.turn]])));
  const clip = c.clips[trial.clip];
  return poseIn(c, clipWorld(c, clip, trial.time), (node) => clipMorphs(c, clip, trial.time, node));
}

const poseBuffers = (pose: Pose): ArrayBuffer[] =>
  pose.meshes.flatMap((m) => [m.points.buffer as ArrayBuffer, m.normals.buffer as ArrayBuffer]);

const desk = {
  /** Lays a character on the desk; its figure stays here too, for what is asked later. */
  open(character: Character): Figure {
    hand.drop();
    moving.drop();
    open = { character, figure: figureOf(character) };
    return open.figure;
  },

  /** Spatial search over one mesh of the figure. */
  search(node: number): SerializedBVH | null {
    const mesh = open?.figure.meshes.find((m) => m.node === node);
    if (!mesh || mesh.triangles.length === 0) return null;
    const search = buildSearch(mesh);
    return transfer(search, searchBuffers(search));
  },

  /** Weight of a bone at every vertex of every bound mesh; zero where a mesh does not know the bone. */
  weights(node: number): { node: number; weights: Float32Array }[] {
    const c = need();
    return meshNodesOf(c).flatMap((i) => {
      const n = c.nodes[i];
      const f = c.meshes[n.mesh].influences;
      if (!f) return [];
      const joint = n.skin >= 0 ? c.skins[n.skin].joints.indexOf(node) : -1;
      const weights = joint >= 0 ? weightsOfJoint(f, joint) : new Float32Array(c.meshes[n.mesh].vertexCount);
      return [{ node: i, weights }];
    });
  },

  /**
   * Numbers before and after, what else would move, and the shape that would come of it; or the one sentence
   * that says why not.
   */
  preview(remedyId: string, params: Params, brief: Brief): Preview {
    try {
      const c = need();
      const remedy = remedyById(remedyId);
      if (!remedy) throw new Error('The remedy is not known; reload the page.');
      const checked = checkedBy(remedy.params, params) as Params;
      const { rows, effects, after } = previewRemedy(remedy, c, checked, brief);
      const ghost = ghostOf(c, after);
      const buffers = (ghost ?? []).flatMap(
        (g) => [g.points.buffer, g.normals.buffer, g.triangles.buffer] as ArrayBuffer[],
      );
      return transfer({ rows, effects, ghost }, buffers);
    } catch (error) {
      return { refused: error instanceof Error ? error.message : String(error) };
    }
  },

  /** The same for one remedy over many findings, with the patches that make the step and what is left. */
  previewForKind(
    calls: readonly RemedyCall[],
    of: Pick<Finding, 'check' | 'gravity'>,
    brief: Brief,
  ): KindPreview {
    try {
      const c = need();
      const { rows, effects, patches, left, character } = previewForKind(c, calls, of, brief);
      return {
        rows,
        effects,
        ghost: ghostOf(c, character),
        bundle: packPatches(patches),
        done: patches.length,
        left,
      };
    } catch (error) {
      return { refused: error instanceof Error ? error.message : String(error) };
    }
  },

  measures: (brief: Brief): Measure[] => measuresOf(need(), brief),

  /** Which kind of body it has, and the checks of a brief that have nothing to say of it, by room. */
  body(brief: Brief): BodyLook {
    const { kind, confidence, reasons, isByHand } = bodyKindOf(need());
    const silent = silentChecks(kind, brief).map(({ room, title }) => ({ room, title }));
    return { kind, confidence, reasons, isByHand, silent };
  },

  scene(): { of: SceneGroup['of']; strays: [number, string][] } {
    const { of, strays } = sceneOf(need());
    return { of, strays: [...strays] };
  },

  keep: (chosen: Chosen): Map<number, Kept> =>
    open ? keepChosen(open.character, open.figure, chosen) : new Map(),

  compare: (a: Character, b: Character, brief: Brief): Comparison => compareCharacters(a, b, brief),

  skeleton: (): Skeleton => skeletonOf(need()),
  skeletonOf: (c: Character): Skeleton => skeletonOf(c),
  skeletonFigure: (s: Skeleton): Figure => figureOf(characterOfSkeleton(s)),

  suggest: (target: Skeleton, locked: Crosswalk): Crosswalk => suggest(skeletonOf(need()), target, locked),

  /** A crosswalk that was saved for nearly this skeleton. */
  adopt: (target: Skeleton, files: readonly CrosswalkFile[]): Adopted | null =>
    adopt(files, skeletonOf(need()), target),

  /** What there is to say of a pairing before its pairs are looked at one by one. */
  describe(target: Skeleton, crosswalk: Crosswalk): PairingLook {
    const source = skeletonOf(need());
    return {
      limbs: limbsOf(source, target, crosswalk),
      notices: noticesOf(source, target, crosswalk),
      twins: source.bones.map((_, i) => twinOf(source, i)),
      targetTwins: target.bones.map((_, i) => twinOf(target, i)),
    };
  },

  /** The same on a share of the points, for a first answer; null where all can be tried at once. */
  trialOnShare: (target: Skeleton, walk: Crosswalk, options: RemapOptions): Moved | null =>
    moving.tryOnShare(need(), target, walk, options),

  /** The move carried out here by the rules, for its numbers, its picture and its proof; nothing is saved. */
  trial: (target: Skeleton, walk: Crosswalk, options: RemapOptions): Moved =>
    moving.try(need(), target, walk, options),

  /** The same with weights by example; null where something newer was begun meanwhile. */
  solve: (
    target: Skeleton,
    walk: Crosswalk,
    options: RemapOptions,
    onProgress: (share: number) => void,
  ): Promise<Moved | null> => moving.solve(need(), target, walk, options, onProgress),

  /** What the skeleton itself costs in the move that was tried last. */
  price: (onProgress: (share: number) => void): Promise<Price | null> => moving.price(onProgress),

  /** Pairs that are likely to be wrong in it, where points lie farther off than allowed, metres. */
  causes: (allowed: number, onProgress: (share: number) => void): Promise<Cause[] | null> =>
    moving.causes(allowed, onProgress),

  stopSolving: (): void => moving.stop(),

  /** A character whose clips are examples for the weights as well; null for none. Says whether it has any. */
  borrow(motion: Character | null): boolean {
    moving.borrow(motion ? [motion] : []);
    return !motion || motion.clips.length > 0;
  },

  /** What a receiver makes of the move that was tried last. */
  arrive: (receiver: Receiver): ArrivedThere | null => moving.arrive(receiver),

  /** What a receiver makes of what lies on the desk. */
  arriveAsItIs(receiver: Receiver): ArrivedThere {
    const c = need();
    const { said, compared } = arrivedAsItIs(c, receiver);
    const { max, rms, p95 } = prove(compared, trialPoses(c));
    return { said, max, rms, p95 };
  },

  /** A pose of the proof on both figures of the last trial; null where there was none of what lies on the desk. */
  trialPose: (index: number): BothPosed | null => moving.inPose(need(), index),

  /** A moment of a clip on both. */
  trialClip: (clip: number, seconds: number): BothPosed | null => moving.inClip(need(), clip, seconds),

  /** A bone of either turned by hand, on both. */
  trialTurn: (turn: HandTurn): BothPosed | null => moving.turned(need(), turn),

  clips: (): { name: string; seconds: number }[] =>
    need().clips.map((c, i) => ({ name: c.name || `clip ${i + 1}`, seconds: clipSeconds(c) })),

  /** Points, normals and twigs under a clip at a time, or with one bone turned about its own axes. */
  pose(trial: Trial): Pose {
    const pose = poseOf(need(), trial);
    return transfer(pose, poseBuffers(pose));
  },

  draftPut: (patch: Patch, gesture: number, brief: Brief): DraftState =>
    hand.put(need(), brief, patch, gesture),
  draftRestore: (bundle: Uint8Array, brief: Brief): DraftState => hand.restore(need(), brief, bundle),
  draftUndo: (): DraftState => hand.undo(),
  draftRedo: (): DraftState => hand.redo(),
  draftDrop: (): void => hand.drop(),
  draftBundle: (): Uint8Array | null => hand.bundle(),

  /**
   * The middle of the limb at a joint, as the draft has it; null where the limb has no closed cross-section
   * there.
   */
  limbMiddle: (bone: number): readonly [number, number, number] | null =>
    limbMiddle(hand.character ?? need(), bone),
};

export type DeskWorker = typeof desk;
expose(desk);
