import type { Brief } from './brief';
import { BODY_CARRIERS } from '../contracts/settings';
import { USUAL_CLIPS } from '../contracts/clips';
import { USUAL_LIMITS } from '../contracts/trials';
import { LEFTOVERS, PLAIN_BRIEFS, WEBXR_NAMES } from './plain-briefs';

const QUAY_NAMES = {
  pattern: '^[a-z][a-z0-9]*(_[a-z0-9]+)*$',
  words: 'small letters, parts joined by _, side last as _lt or _rt',
  longest: 48,
  leftovers: LEFTOVERS,
  allowed: [],
  forbidden: [],
  sides: { left: '_lt', right: '_rt' },
};

type TogetherPose = NonNullable<Brief['trials']>['poses'][number];

const together = (
  pose: string,
  turns: readonly (readonly [TogetherPose['part'], TogetherPose['motion'], number])[],
): TogetherPose[] =>
  turns.map(([part, motion, degrees]) => ({ pose, part, motion, degrees, side: 'both' as const }));

/** What the crew does all day. */
const CREW_POSES: TogetherPose[] = [
  ...together('crouch', [
    ['upperleg', 'swing forward', 90],
    ['lowerleg', 'bend', 110],
    ['foot', 'up', 15],
  ]),
  ...together('both arms up', [
    ['upperarm', 'raise sideways', 165],
    ['lowerarm', 'bend', 20],
  ]),
  ...together('look down', [
    ['spine', 'bend forward', 30],
    ['neck', 'bend forward', 35],
  ]),
  ...together('fist', [['finger', 'bend', 80]]),
];

/** How every figure of the ferry's crew stands. */
const FIGURE = {
  forward: 'z' as const,
  middleTolerance: 0.01,
  stance: { arms: 0, tolerance: 8, bend: 20, leastBend: 2, legs: 15 },
  overlap: { share: 0.9, outside: 0.02 },
  restTolerance: 0.0005,
  axes: { along: 'x' as const, hinge: 'z' as const, angle: 30 },
  fleshBeyond: 2,
  turns: { order: 'yxz' as const, each: 'own' as const, most: 80 },
  jointPlaces: { off: 0.6, knuckles: 0, elbows: 0, knees: 0 },
  jointLoops: 0.5,
  trials: { ...USUAL_LIMITS, poses: CREW_POSES },
  clips: { ...USUAL_CLIPS, rate: 24, travel: 0.1 },
  props: [{ pattern: 'lantern|lamp', title: 'hand lamp', height: 0.32, tolerance: 0.03 }],
};

/** The game for handsets. Limits are common practice for such machines. */
const HANDSET: Brief = {
  id: 'handset',
  version: 1,
  title: 'Night Ferry, handset',
  about: 'A game for handsets: few bones, four influences a point.',
  unit: 'm',
  height: { target: 1.76, tolerance: 0.05 },
  skeletonShare: { least: 0.8, most: 1.03 },
  groundTolerance: 0.01,
  ...FIGURE,
  scaleTolerance: 1e-4,
  root: { count: 1, originTolerance: 0.001 },
  naming: QUAY_NAMES,
  carriers: BODY_CARRIERS,
  chainEnds: 'free',
  tree: 'vrm',
  template: { of: 'wanted', surplus: 'free' },
  mirror: { angle: 5, place: 0.01 },
  skeleton: 'quay',
  receiver: 'handset',
  ownSkeleton: null,
  limits: { influences: 4, bones: 75, depth: 32 },
  weights: { sumTolerance: 1e-4, dust: 0.002 },
  surface: {
    coincident: 1e-4,
    quadShare: 0.9,
    nearJointShare: 0.75,
    twins: 0.001,
    sliverWidth: 0.01,
    loopsAtLimbs: 3,
    loopsAtKnuckles: 2,
  },
  proofTolerance: 0.0015,
  skins: 'needed',
};

/** Those of the ferry. Limits are common practice for the kind of machine they name. */
const NIGHT_FERRY: readonly Brief[] = [
  HANDSET,
  {
    id: 'desktop',
    version: 1,
    title: 'Night Ferry, desktop',
    about: 'The same game on desks: eight influences, a byte of bones.',
    unit: 'm',
    height: { target: 1.76, tolerance: 0.05 },
    skeletonShare: { least: 0.8, most: 1.03 },
    groundTolerance: 0.01,
    ...FIGURE,
    scaleTolerance: 1e-4,
    root: { count: 1, originTolerance: 0.001 },
    naming: QUAY_NAMES,
    carriers: BODY_CARRIERS,
    chainEnds: 'free',
    tree: 'vrm',
    template: { of: 'wanted', surplus: 'free' },
    mirror: { angle: 5, place: 0.01 },
    skeleton: 'quay',
    receiver: 'desk',
    ownSkeleton: null,
    limits: { influences: 8, bones: 256, depth: null },
    weights: { sumTolerance: 1e-4, dust: 0.002 },
    surface: {
      coincident: 1e-4,
      quadShare: 0.9,
      nearJointShare: 0.75,
      twins: 0.001,
      sliverWidth: 0.01,
      loopsAtLimbs: 3,
      loopsAtKnuckles: 2,
    },
    proofTolerance: 0.001,
    skins: 'whole',
  },
  {
    id: 'deck-gear',
    version: 1,
    title: 'Night Ferry, deck gear',
    about: 'Machines of rigid parts on bones: no stance, no limbs, one bone a point.',
    unit: 'm',
    height: { target: 1.03, tolerance: 0.05 },
    skeletonShare: null,
    groundTolerance: 0.01,
    ...FIGURE,
    stance: null,
    overlap: null,
    props: [],
    scaleTolerance: 1e-4,
    root: { count: 1, originTolerance: 0.001 },
    naming: QUAY_NAMES,
    carriers: BODY_CARRIERS,
    chainEnds: 'free',
    tree: 'vrm',
    template: null,
    mirror: { angle: 5, place: 0.01 },
    skeleton: 'quay',
    receiver: 'handset',
    ownSkeleton: null,
    limits: { influences: 1, bones: 64, depth: null },
    weights: { sumTolerance: 1e-4, dust: 0.002 },
    surface: {
      coincident: 1e-4,
      quadShare: 0.9,
      nearJointShare: 0.75,
      twins: 0.001,
      sliverWidth: 0.01,
      loopsAtLimbs: 3,
      loopsAtKnuckles: 2,
    },
    proofTolerance: 0.0005,
    skins: 'needed',
  },
  {
    ...HANDSET,
    id: 'winged',
    title: 'Night Ferry, winged crew',
    about: 'Birds that stand upright, on handsets: wings for arms, no stance, any number of feathers.',
    height: { target: 1.5, tolerance: 0.05 },
    stance: null,
    // No bird crouches as people do.
    trials: USUAL_LIMITS,
    props: [],
    template: { of: 'winged', surplus: 'free' },
    skeleton: 'winged',
  },
  {
    id: 'headset',
    version: 1,
    title: 'Night Ferry, headset hands',
    about: 'A pair of hands tracked by a headset, joints as WebXR Hand Input names them.',
    unit: 'mm',
    height: null,
    skeletonShare: null,
    groundTolerance: null,
    forward: 'z',
    middleTolerance: null,
    stance: null,
    overlap: null,
    props: [],
    restTolerance: 0.001,
    scaleTolerance: 1e-3,
    root: null,
    naming: WEBXR_NAMES,
    carriers: { ...BODY_CARRIERS, ends: 'free' },
    chainEnds: 'free',
    tree: 'webxr-hand',
    template: { of: 'webxr-hand', surplus: 'none' },
    mirror: null,
    axes: null,
    jointPlaces: null,
    jointLoops: null,
    trials: null,
    clips: USUAL_CLIPS,
    turns: null,
    fleshBeyond: null,
    skeleton: 'webxr-hand-left',
    receiver: null,
    ownSkeleton: null,
    limits: { influences: 4, bones: 25, depth: null },
    weights: { sumTolerance: 1e-4, dust: 0.002 },
    surface: {
      coincident: 1e-6,
      quadShare: 0,
      nearJointShare: 0.75,
      twins: null,
      sliverWidth: 0,
      loopsAtLimbs: 0,
      loopsAtKnuckles: 0,
    },
    proofTolerance: 1e-5,
    skins: 'whole',
  },
];

/** The briefs that come with the house. */
export const BRIEFS: readonly Brief[] = [...NIGHT_FERRY, ...PLAIN_BRIEFS];

/** A brief of the house; undefined where there is none of this id. */
export function briefById(id: string): Brief | undefined {
  return BRIEFS.find((brief) => brief.id === id);
}
