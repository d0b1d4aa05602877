/** The page's own worker: everything that follows the hand and could take longer than a blink. */
import { expose, transfer } from 'comlink';
import type { Crosswalk } from '@/core/anatomy/crosswalk';
import { type BoneGroup, limbsOf } from '@/core/anatomy/limbs';
import { type BodyKindReading, bodyKindOf } from '@/core/anatomy/body-kind';
import { twinOf } from '@/core/anatomy/twins';
import { type Notice, noticesOf } from '@/core/rooms/crosswalk/notices';
import { type Skeleton, characterOfSkeleton, skeletonOf } from '@/core/anatomy/skeleton';
import { suggest } from '@/core/anatomy/suggest';
import { localsOfWorld, meshNodesOf, restLocals } from '@/core/character/hierarchy';
import type { Character, ElementsOf } from '@/core/character/model';
import type { Finding, RemedyCall } from '@/core/contracts/finding';
import type { Measure } from '@/core/contracts/measure';
import type { Params } from '@/core/contracts/remedy';
import type { RoomId } from '@/core/contracts/rooms';
import { weightsOfJoint } from '@/core/geometry/influences';
import type { SkinningMethod } from '@/core/geometry/skinning';
import { type TriangleBoxes, refitBoxes } from '@/core/geometry/triangle-tree';
import { silentChecks } from '@/core/house/audit';
import type { Brief } from '@/core/house/brief';
import { type Patch, packPatches } from '@/core/house/edit';
import { type TurnTest, turnTestOf } from '@/core/rooms/skeleton/turn-test';
import { whyNotWritten } from '@/core/formats';
import { type OwnTurns, ownPosedWorld, turnsOfLocals } from '@/core/motion/hand-pose';
import { clipLocals, clipMorphs, clipSeconds, clipWorld } from '@/core/motion/pose';
import { type TurnsOverTime, turnsOverTime } from '@/core/motion/turns-over-time';
import { type Adopted, adopt } from '@/core/rooms/crosswalk/adopt';
import { BorrowedMotion } from '@/core/rooms/crosswalk/borrowed';
import type { CrosswalkFile } from '@/core/rooms/crosswalk/file';
import { arrivedAsItIs } from '@/core/house/arrival';
import { trialPoses } from '@/core/rooms/crosswalk/poses';
import { prove } from '@/core/rooms/crosswalk/proof';
import type { Receiver } from '@/core/rooms/docket/receivers';
import { measuresOf } from '@/core/rooms/placement/measures';
import { type SceneGroup, sceneOf } from '@/core/rooms/placement/scene';
import { type ChoiceStep, type ChosenElements, afterChoiceStep } from '@/core/rooms/surface/choosing';
import { asymmetryOf } from '@/core/anatomy/asymmetry';
import { type ClipFigures, clipFigures } from '@/core/rooms/trials/clip-figures';
import { type PoseFigures, poseFigures } from '@/core/rooms/trials/figures';
import { jointSurface } from '@/core/rooms/trials/sweep';
import { waysToNextLoop } from '@/core/rooms/surface/loops';
import {
  type LoopFigures,
  type MergeFigures,
  type PartFigures,
  type SideFigures,
  loopFigures,
  mergeFigures,
  partFigures,
  sideFigures,
} from '@/core/rooms/surface/figures';
import {
  type BindableMesh,
  type Pulls,
  bindableMeshes,
  ownersOf,
  pointsPulled,
  pullsOf,
} from '@/core/rooms/weights/figures';
import type { Touched, WeightBrush } from '@/core/rooms/weights/painting';
import { morphedPositions, morphsAt } from '@/core/character/morphs';
import { jointLoopsOf } from '@/core/anatomy/joint-loops';
import { limbMiddle } from '@/core/anatomy/limb-middle';
import { type Comparison, compareCharacters } from './compare';
import { type ManyPreview, type PreviewAnswer, handedOver, previewOf, previewOfMany } from './preview';
import { type Figure, type Pose, figureOf, poseIn } from './figure';
import { type DraftState, EditSession } from './edit-session';
import { type Chosen, type Kept, keepChosen } from './isolation';
import type { ArrivedThere } from './moving';
import { buildSearch, copyOfBoxes, searchBuffers } from './search';

/** How a figure is to stand: at rest or at a moment of a clip (`from`: of the character that was lent under that name), with bones turned in their own frames. */
export interface Trial {
  readonly turns: OwnTurns;
  readonly moment: { readonly clip: number; readonly time: number; readonly from?: string } | null;
  /** One of many moments that follow each other: nobody picks anything meanwhile. */
  readonly isPlaying?: boolean;
  /** How points are skinned; linearly where it does not say. */
  readonly skinning?: SkinningMethod;
}

/** A pairing as a whole: its limbs, what is to be said of it, and for every bone the one on the other side (−1). */
export interface PairingLook {
  readonly limbs: readonly BoneGroup[];
  readonly notices: readonly Notice[];
  readonly twins: readonly number[];
  readonly targetTwins: readonly number[];
}

/** Which kind of body a character has, and what is not asked of it. */
export interface BodyLook extends Pick<BodyKindReading, 'kind' | 'confidence' | 'reasons' | 'isByHand'> {
  readonly silent: readonly { readonly room: RoomId; readonly title: string }[];
}

let open: { character: Character; figure: Figure } | null = null;

const hand = new EditSession();

/** The searches that were handed over, by node, kept to be fitted to a pose here. */
const searches = new Map<number, TriangleBoxes>();

/** A number at every vertex as a share of the largest of all, by the node that shows its mesh; and that, metres. */
interface PictureOfNumbers {
  readonly values: Map<number, Float32Array>;
  readonly most: number;
}

function sharesOf(numbers: ReadonlyMap<number, Float32Array>): PictureOfNumbers {
  let most = 0;
  for (const own of numbers.values()) for (const x of own) if (x > most) most = x;
  const share = (x: number) => (most > 0 ? x / most : 0);
  return { values: new Map([...numbers].map(([node, own]) => [node, own.map(share)])), most };
}

function need(): Character {
  if (!open) throw new Error('No character is open.');
  return open.character;
}

/** Characters that lend their motion, by name, and their motion on what lies here. */
const lent = new Map<string, Character>();
const borrowed = new Map<string, BorrowedMotion>();

function borrowedFrom(name: string): BorrowedMotion {
  const from = lent.get(name);
  if (!from) throw new Error('That motion is not here any more; choose it again.');
  const known = borrowed.get(name) ?? new BorrowedMotion(from, need());
  borrowed.set(name, known);
  return known;
}

/** The local matrices of all nodes that turns come on, 16 each, and how far the morph targets are on. */
function standBefore(character: Character, moment: Trial['moment']) {
  const atRest = (node: number) => morphsAt(character, node);
  if (moment?.from !== undefined) {
    const world = borrowedFrom(moment.from).worldAt(moment.clip, moment.time);
    return { locals: localsOfWorld(character.nodes, world), morphsOn: atRest };
  }
  const clip = moment ? character.clips[moment.clip] : undefined;
  if (!clip || !moment) return { locals: restLocals(character.nodes), morphsOn: atRest };
  return {
    locals: clipLocals(character, clip, moment.time),
    morphsOn: (node: number) => clipMorphs(character, clip, moment.time, node),
  };
}

/** The worlds of all nodes as a figure is to stand, 16 each, and how far its morph targets are on. */
function standOf(character: Character, { turns, moment }: Trial) {
  const { locals, morphsOn } = standBefore(character, moment);
  return { world: ownPosedWorld(character, turns, locals), morphsOn };
}

function poseOf(character: Character, trial: Trial): Pose {
  const { world, morphsOn } = standOf(character, trial);
  return poseIn(character, world, morphsOn, trial.skinning);
}

/** The same with the boxes of its searches fitted, so that the page need not. */
function withSearches(pose: Pose, { meshes }: Figure): Pose {
  const triangles = new Map(meshes.map((mesh) => [mesh.node, mesh.triangles]));
  return {
    ...pose,
    meshes: pose.meshes.map((mesh) => {
      const boxes = searches.get(mesh.node);
      const of = triangles.get(mesh.node);
      if (!boxes || !of) return mesh;
      refitBoxes(boxes, mesh.points, of);
      return { ...mesh, bounds: boxes.bounds.slice() };
    }),
  };
}

const poseBuffers = (pose: Pose): ArrayBuffer[] =>
  pose.meshes.flatMap(({ points, normals, bounds }) =>
    [points.buffer, normals.buffer, ...(bounds ? [bounds.buffer] : [])].map(
      (buffer) => buffer as ArrayBuffer,
    ),
  );

const clipsOf = ({ clips }: Character) =>
  clips.map((clip, i) => ({ name: clip.name || `clip ${i + 1}`, seconds: clipSeconds(clip) }));

/** Moments that a chart over a clip is drawn of. */
const MOMENTS = 121;

const touchedBuffers = ({ ids, points, normals, weights }: Touched): ArrayBuffer[] =>
  [ids, points, normals, weights].map((array) => array.buffer as ArrayBuffer);

const desk = {
  /** Lays a character on the desk; its figure stays here too, for what is asked later. */
  open(character: Character): Figure {
    hand.drop();
    searches.clear();
    borrowed.clear();
    open = { character, figure: figureOf(character) };
    return open.figure;
  },

  /** Spatial search over one mesh of the figure. */
  search(node: number): TriangleBoxes | null {
    const mesh = open?.figure.meshes.find((mesh) => mesh.node === node);
    if (!mesh || mesh.triangles.length === 0) return null;
    const search = buildSearch(mesh);
    searches.set(node, copyOfBoxes(search));
    return transfer(search, searchBuffers(search));
  },

  /** Weight of a bone at every vertex of every bound mesh; zero where a mesh does not know the bone. */
  weights(node: number): { node: number; weights: Float32Array }[] {
    return meshNodesOf(need()).flatMap((i) => {
      const painted = hand.weightsUnderBrush(i, node);
      if (painted) return [{ node: i, weights: painted }];
      const character = hand.character ?? need();
      const { mesh, skin } = character.nodes[i];
      const { influences, vertexCount } = character.meshes[mesh];
      if (!influences) return [];
      const joint = skin >= 0 ? character.skins[skin].joints.indexOf(node) : -1;
      const weights = joint >= 0 ? weightsOfJoint(influences, joint) : new Float32Array(vertexCount);
      return [{ node: i, weights }];
    });
  },

  /** What a remedy would do, see {@link previewOf}. */
  preview: (remedy: string, params: Params, brief: Brief): PreviewAnswer =>
    handedOver(previewOf(need(), remedy, params, brief)),
  /** What many calls would do as one step, see {@link previewOfMany}. */
  previewForMany: (
    calls: readonly RemedyCall[],
    of: Pick<Finding, 'check' | 'gravity'> | null,
    brief: Brief,
  ): ManyPreview => previewOfMany(need(), calls, of, brief),

  /** For every node the bone on the other side; −1 for none. */
  twins(): number[] {
    const skeleton = skeletonOf(need());
    const out = need().nodes.map(() => -1);
    skeleton.bones.forEach(({ node }, i) => {
      const twin = twinOf(skeleton, i);
      if (twin >= 0) out[node] = skeleton.bones[twin].node;
    });
    return out;
  },

  /** Why the open character cannot be written in a format, as a sentence; null where it can. */
  whyNotWritten: (format: string): string | null => (open ? whyNotWritten(open.character, format) : null),

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

  /** How a bone and its twin turn; null for one without. */
  turnTest: (node: number): TurnTest | null => turnTestOf(need(), node),

  skeleton: (): Skeleton => skeletonOf(need()),
  skeletonOf: (character: Character): Skeleton => skeletonOf(character),
  skeletonFigure: (skeleton: Skeleton): Figure => figureOf(characterOfSkeleton(skeleton)),

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

  /** What a receiver makes of what lies on the desk. */
  arriveAsItIs(receiver: Receiver): ArrivedThere {
    const character = need();
    const { said, compared } = arrivedAsItIs(character, receiver);
    const { max, rms, p95 } = prove(compared, trialPoses(character));
    return { said, max, rms, p95 };
  },

  clips: (): { name: string; seconds: number }[] => clipsOf(need()),

  /** What happens at a joint while the figure stands so; null where nothing bends there. */
  figuresInPose(bone: number, trial: Trial): PoseFigures | null {
    const character = need();
    const surface = jointSurface(character, bone);
    return surface.surfaces.length > 0
      ? poseFigures(surface, standOf(character, trial).world, trial.skinning)
      : null;
  },

  /** Points, normals and twigs under a clip at a time, or with one bone turned about its own axes. */
  pose(trial: Trial): Pose {
    // With what the hand has done and nobody kept yet.
    const pose = poseOf(hand.character ?? need(), trial);
    hand.repose();
    const fitted = trial.isPlaying || !open ? pose : withSearches(pose, open.figure);
    return transfer(fitted, poseBuffers(fitted));
  },

  /** Takes the clips of another character to be played on this one; null where nothing of the two is alike. */
  lend(name: string, from: Character): { name: string; seconds: number }[] | null {
    lent.set(name, from);
    borrowed.delete(name);
    return borrowedFrom(name).isAlike ? clipsOf(from) : null;
  },

  /** How a joint turns over a clip, its own or of a character that was lent under a name; null where there is no such clip. */
  turnsOver(node: number, clip: number, from?: string): TurnsOverTime | null {
    const character = need();
    const named = from === undefined ? character.clips[clip] : lent.get(from)?.clips[clip];
    if (!named || !character.nodes[node]) return null;
    const worldAt = (time: number) =>
      from === undefined ? clipWorld(character, named, time) : borrowedFrom(from).worldAt(clip, time);
    return turnsOverTime(character, node, worldAt, clipSeconds(named), MOMENTS);
  },

  /** How it stands as turns of its bones alone, as a pose is kept. */
  turnsOf(trial: Trial): Map<number, readonly number[]> {
    const character = need();
    return turnsOfLocals(character, localsOfWorld(character.nodes, standOf(character, trial).world));
  },

  /** Begins a stroke of the brush on the mesh of a node, as the figure stands. False where its skin lacks the bone. */
  strokeBegin(node: number, trial: Trial, brush: WeightBrush, gesture: number, brief: Brief): boolean {
    return hand.beginStroke({ base: need(), brief, node, gesture }, brush, (character) => {
      const { mesh, skin } = character.nodes[node];
      if (skin < 0 || !character.meshes[mesh]?.influences) return null;
      const { world, morphsOn } = standOf(character, trial);
      const boxes = searches.get(node);
      return {
        world,
        base: morphedPositions(character.meshes[mesh], morphsOn(node)),
        boxes: boxes ? copyOfBoxes(boxes) : null,
      };
    });
  },

  /** Goes on with it; what it touched is handed over. `samples`: rays with the pressure, see {@link SAMPLE}. */
  strokeOn(samples: Float32Array) {
    const answer = hand.strokeOn(samples);
    return transfer(answer, answer.touched ? touchedBuffers(answer.touched) : []);
  },

  /** One dab on vertices of the mesh that a stroke has begun on. */
  dabOn(vertices: Uint32Array) {
    const touched = hand.dabOn(vertices);
    return transfer({ touched }, touched ? touchedBuffers(touched) : []);
  },

  strokeEnd: (): DraftState => hand.endStroke(),

  draftPut: (patch: Patch, gesture: number, brief: Brief): DraftState =>
    hand.put(need(), brief, patch, gesture),
  draftRestore: (bundle: Uint8Array, brief: Brief): DraftState => hand.restore(need(), brief, bundle),
  /** `bone`: the one whose weights are shown. */
  draftUndo: (bone: number): DraftState => hand.undo(bone),
  draftRedo: (bone: number): DraftState => hand.redo(bone),
  draftDrop: (): void => hand.drop(),
  draftBundle: (): Uint8Array | null => hand.bundle(),

  parts: (): PartFigures[] => partFigures(need()),
  sides: ({ surface }: Brief): SideFigures => sideFigures(need(), surface.twins),
  /** `distance`: metres. */
  merges: (distance: number): MergeFigures[] => mergeFigures(need(), distance),
  clipFigures: ({ clips }: Brief): ClipFigures[] => clipFigures(need(), clips ?? undefined),
  loops: ({ surface }: Brief): LoopFigures[] => loopFigures(need(), surface),
  /** How far every vertex is from its mirror image, 0 … 1 of the farthest that is told of, by the node that shows its mesh; and that, metres. */
  sidesPicture({ surface }: Brief): PictureOfNumbers {
    return sharesOf(asymmetryOf(need(), sideFigures(need(), surface.twins).tolerance).off);
  },
  /** How far it is from the loop of every vertex to the next, in the same way. */
  loopsPicture: (): PictureOfNumbers => sharesOf(waysToNextLoop(need())),
  /** The bones that pull chosen vertices, as the draft has them. */
  pulls: (chosen: readonly ElementsOf[]): Pulls => pullsOf(hand.character ?? need(), chosen),
  pointsPulled: (bone: number, least: number, most: number): ElementsOf[] =>
    pointsPulled(hand.character ?? need(), bone, least, most),
  /** The strongest bone of every vertex: its node plus one, and behind the point how much it has. */
  owners: (): Map<number, Float32Array> => ownersOf(hand.character ?? need()),
  /** A step by hand as it is sent: lists of points as they are, not as words. */
  packed: (patch: Patch): Uint8Array => packPatches([patch]),
  bindable: (): BindableMesh[] => bindableMeshes(need()),
  choiceStep: (chosen: ChosenElements, step: ChoiceStep): ChosenElements | string =>
    afterChoiceStep(need(), chosen, step),
  /** What is left of each mesh without some of its polygons. */
  keepWithout(hidden: ReadonlyMap<number, Uint32Array>): Map<number, Kept> {
    if (!open) return new Map();
    const { character, figure } = open;
    const polygons = new Map(
      [...hidden].map(([node, ids]) => {
        const isHidden = new Set(ids);
        const count = character.meshes[character.nodes[node]?.mesh]?.polygonOffsets.length ?? 1;
        const left = Array.from({ length: count - 1 }, (_, i) => i).filter((i) => !isHidden.has(i));
        return [node, Uint32Array.from(left)] as const;
      }),
    );
    return keepChosen(character, figure, { nodes: [], bones: [], vertices: new Map(), polygons });
  },

  /**
   * The middle of the limb at a joint, as the draft has it; null where the limb has no closed cross-section
   * there.
   */
  limbMiddle: (bone: number): readonly [number, number, number] | null =>
    limbMiddle(hand.character ?? need(), bone),
  loopsMiddle: (bone: number): readonly [number, number, number] | null =>
    jointLoopsOf(hand.character ?? need()).find((joint) => joint.bone === bone)?.pocket.middle ?? null,
};

export type DeskWorker = typeof desk;
expose(desk);
