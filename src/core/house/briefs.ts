import type { Brief } from './brief';
import { KINDS_BY_NAME, LEFTOVERS, PLAIN_BRIEFS, WEBXR_NAMES } from './plain-briefs';

const QUAY_NAMES = {
  pattern: '^[a-z][a-z0-9]*(_[a-z0-9]+)*$',
  words: 'small letters, parts joined by _, side last as _lt or _rt',
  longest: 48,
  leftovers: LEFTOVERS,
  sides: { left: '_lt', right: '_rt' },
};

/** How every figure of the ferry's crew stands. */
const FIGURE = {
  forward: 'z' as const,
  middleTolerance: 0.01,
  stance: { arms: 0, tolerance: 8, bend: 20, legs: 15 },
  overlap: { share: 0.9, outside: 0.02 },
  restTolerance: 0.0005,
  props: [{ pattern: 'lantern|lamp', title: 'hand lamp', height: 0.32, tolerance: 0.03 }],
};

/** Those of the ferry. Limits are common practice for the kind of machine they name. */
const NIGHT_FERRY: readonly Brief[] = [
  {
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
    ...KINDS_BY_NAME,
    tree: 'vrm',
    skeleton: 'quay',
    limits: { influences: 4, bones: 75 },
    weights: { sumTolerance: 1e-4 },
    surface: { coincident: 1e-4, quadShare: 0.9, nearJoint: 0.08 },
    proofTolerance: 0.0015,
    skins: 'needed',
  },
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
    ...KINDS_BY_NAME,
    tree: 'vrm',
    skeleton: 'quay',
    limits: { influences: 8, bones: 256 },
    weights: { sumTolerance: 1e-4 },
    surface: { coincident: 1e-4, quadShare: 0.9, nearJoint: 0.08 },
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
    ...KINDS_BY_NAME,
    tree: 'vrm',
    skeleton: 'quay',
    limits: { influences: 1, bones: 64 },
    weights: { sumTolerance: 1e-4 },
    surface: { coincident: 1e-4, quadShare: 0.9, nearJoint: 0.08 },
    proofTolerance: 0.0005,
    skins: 'needed',
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
    endPattern: null,
    controlPattern: '(^|[_.\\- ])(ctrl|control|ik|pole)([_.\\- ]|\\d|$)',
    tree: 'webxr-hand',
    skeleton: 'webxr-hand-left',
    limits: { influences: 4, bones: 25 },
    weights: { sumTolerance: 1e-4 },
    surface: { coincident: 1e-6, quadShare: 0, nearJoint: 0.01 },
    proofTolerance: 1e-5,
    skins: 'whole',
  },
];

/** The briefs that come with the house. */
export const BRIEFS: readonly Brief[] = [...NIGHT_FERRY, ...PLAIN_BRIEFS];

/** A brief of the house; undefined where there is none of this id. */
export function briefById(id: string): Brief | undefined {
  return BRIEFS.find((b) => b.id === id);
}
