/**
 * Briefs that know of no game: to begin one of one's own with. Values are common practice for the kind that
 * they name.
 */
import { USUAL_CLIPS } from '../contracts/clips';
import { USUAL_LIMITS } from '../contracts/trials';
import { BODY_CARRIERS } from '../contracts/settings';
import type { Brief } from './brief';

/** What copying and mirroring leave in names. */
export const LEFTOVERS = '(copy|mirror(ed)?|duplicate|\\.\\d{3}$|_\\d{3}$)';

const FREE_NAMES = {
  pattern: '^[A-Za-z][A-Za-z0-9]*(_[A-Za-z0-9]+)*$',
  words: 'letters and numbers, parts joined by _',
  longest: 64,
  leftovers: LEFTOVERS,
  allowed: [],
  forbidden: [],
  sides: null,
};

/** Names as WebXR Hand Input has them. */
export const WEBXR_NAMES = {
  pattern: '^[a-z]+(-[a-z]+)*$',
  words: 'WebXR joint names: small letters joined by hyphens',
  longest: 48,
  leftovers: '(copy|mirror|duplicate|\\d{3}$)',
  allowed: [],
  forbidden: [],
  sides: null,
};

/** A figure for handsets. */
export const PLAIN_FIGURE: Brief = {
  id: 'plain-handset',
  version: 1,
  title: 'A figure, handset',
  about: 'Any figure for a small machine: four bones a point, 75 bones, grown-up size.',
  unit: 'm',
  height: { target: 1.75, tolerance: 0.25 },
  skeletonShare: { least: 0.8, most: 1.05 },
  groundTolerance: 0.01,
  forward: 'z',
  middleTolerance: 0.01,
  stance: { arms: 0, tolerance: 10, bend: 20, leastBend: 0, legs: 15 },
  overlap: { share: 0.9, outside: 0.03 },
  restTolerance: 0.0005,
  props: [],
  scaleTolerance: 1e-4,
  root: { count: 1, originTolerance: 0.001 },
  naming: FREE_NAMES,
  carriers: BODY_CARRIERS,
  chainEnds: 'free',
  tree: 'vrm',
  template: { of: 'by-kind', surplus: 'free' },
  mirror: { angle: 5, place: 0.01 },
  axes: null,
  fleshBeyond: 3,
  turns: null,
  jointPlaces: { off: 0.8, knuckles: 0, elbows: 0, knees: 0 },
  jointLoops: 0.8,
  trials: USUAL_LIMITS,
  clips: USUAL_CLIPS,
  skeleton: 'vrm',
  receiver: null,
  ownSkeleton: null,
  limits: { influences: 4, bones: 75, depth: 32 },
  weights: { sumTolerance: 1e-4, dust: 0.002 },
  surface: {
    coincident: 1e-4,
    quadShare: 0.8,
    nearJointShare: 0.75,
    twins: 0.001,
    sliverWidth: 0.01,
    loopsAtLimbs: 3,
    loopsAtKnuckles: 2,
  },
  proofTolerance: 0.002,
  skins: 'whole',
};

/** What goes with machines and props: nothing of limbs. */
const NO_BODY = {
  jointPlaces: null,
  jointLoops: null,
  trials: null,
  fleshBeyond: null,
  skeletonShare: null,
  stance: null,
  overlap: null,
  middleTolerance: null,
};

const OFF = 'off' as const;

/** All of them. */
export const PLAIN_BRIEFS: readonly Brief[] = [
  PLAIN_FIGURE,
  {
    ...PLAIN_FIGURE,
    id: 'plain-desk',
    title: 'A figure, desk',
    about: 'Any figure for a large machine: eight bones a point, 256 bones.',
    limits: { influences: 8, bones: 256, depth: null },
    proofTolerance: 0.001,
  },
  {
    ...PLAIN_FIGURE,
    ...NO_BODY,
    id: 'plain-hands',
    title: 'Hands, headset',
    about: 'A hand by itself that a headset drives, joints as WebXR Hand Input names and hangs them.',
    unit: 'mm',
    height: null,
    groundTolerance: null,
    root: null,
    restTolerance: 0.001,
    scaleTolerance: 1e-3,
    naming: WEBXR_NAMES,
    carriers: { ...BODY_CARRIERS, ends: 'free' },
    tree: 'webxr-hand',
    template: { of: 'webxr-hand', surplus: 'free' },
    mirror: null,
    skeleton: 'webxr-hand-left',
    ownSkeleton: null,
    limits: { influences: 4, bones: 25, depth: null },
    surface: {
      coincident: 1e-6,
      quadShare: 0,
      nearJointShare: 0.75,
      twins: null,
      sliverWidth: 0.01,
      loopsAtLimbs: 0,
      loopsAtKnuckles: 0,
    },
    proofTolerance: 1e-5,
  },
  {
    ...PLAIN_FIGURE,
    ...NO_BODY,
    id: 'plain-machine',
    template: null,
    title: 'A machine of rigid parts',
    about: 'Parts on bones, one bone a point; no limbs, no stance, any size.',
    height: null,
    limits: { influences: 1, bones: 64, depth: null },
    surface: {
      coincident: 1e-4,
      quadShare: 0,
      nearJointShare: 0.75,
      twins: null,
      sliverWidth: 0.01,
      loopsAtLimbs: 0,
      loopsAtKnuckles: 0,
    },
  },
  {
    ...PLAIN_FIGURE,
    ...NO_BODY,
    id: 'gltf',
    title: 'Only what glTF 2.0 demands',
    about: 'Metres, +Y up, +Z ahead, weights that sum to one, binds that are there; nothing of any game.',
    height: null,
    groundTolerance: null,
    root: null,
    template: null,
    naming: { ...FREE_NAMES, pattern: '^.+$', words: 'any name', longest: 10_000, leftovers: '^$' },
    carriers: { ...BODY_CARRIERS, ends: 'free', controls: 'free' },
    limits: { influences: 64, bones: 65_535, depth: null },
    surface: {
      coincident: 0,
      quadShare: 0,
      nearJointShare: 0.75,
      twins: null,
      sliverWidth: 0.01,
      loopsAtLimbs: 0,
      loopsAtKnuckles: 0,
    },
    checks: {
      'inherited-scale': OFF,
      'node-scale': OFF,
      'mesh-rotation': OFF,
      'not-at-rest': OFF,
      'inverse-binds': OFF,
      'morphs-on': OFF,
      strays: OFF,
      'no-skeleton': 'note',
      parents: OFF,
      'bone-names': OFF,
      'idle-bones': OFF,
      'weight-on-ends': OFF,
      coincident: OFF,
    },
  },
];
