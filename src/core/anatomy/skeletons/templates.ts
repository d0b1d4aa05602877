/**
 * Templates: skeletons whose bones a character is expected to have, by what they are and not by what they are called, with
 * those that may be left out.
 */
import type { BodyKind } from '../../character/body-kinds';
import type { Vec3 } from '../../geometry/matrix';
import type { Skeleton } from '../skeleton';
import { FINNED } from './finned';
import { FOUR_LEGGED } from './four-legged';
import { H_ANIM } from './h-anim';
import { QUAY } from './quay';
import { VRM_HUMANOID } from './vrm';
import { type SkeletonWanted, skeletonWanted } from './wanted';
import { WEBXR_HAND_LEFT } from './webxr-hand';
import { WINGED } from './winged';

/** A skeleton that says what a body should have. */
export interface SkeletonTemplate {
  readonly skeleton: Skeleton;
  /** Bones that a character may be without. */
  readonly optional: ReadonlySet<string>;
  /** Whether limbs have as many bones as here; those of beasts may have fewer, so that one within a limb is not missed. */
  readonly isExact: boolean;
  /** The kinds of body that it speaks of; none for any. */
  readonly kinds: readonly BodyKind[];
  /** The box of the body that it is made for: its lowest and highest corner, metres. */
  readonly bounds: readonly [Vec3, Vec3];
}

/** The bones that VRM 1.0 requires: VRMRequiredHumanBoneName of @pixiv/three-vrm-core (held by a test). */
const VRM_REQUIRED = new Set(
  `hips spine head
  leftUpperLeg leftLowerLeg leftFoot rightUpperLeg rightLowerLeg rightFoot
  leftUpperArm leftLowerArm leftHand rightUpperArm rightLowerArm rightHand`.split(/\s+/),
);

const namesOf = ({ bones }: Skeleton) => bones.map(({ name }) => name);
const allBut = (skeleton: Skeleton, needed: ReadonlySet<string>) =>
  new Set(namesOf(skeleton).filter((name) => !needed.has(name)));
const thoseLike = (skeleton: Skeleton, pattern: RegExp) =>
  new Set(namesOf(skeleton).filter((name) => pattern.test(name)));

/** Of an upright body of some height, arms out. */
const standing = (height: number): readonly [Vec3, Vec3] => [
  [-height / 2, 0, -0.12],
  [height / 2, height, 0.2],
];

/** The box of its own joints, for a skeleton of which no body is known. */
function ownBounds({ bones }: Skeleton): readonly [Vec3, Vec3] {
  const side = (k: number, pick: (...all: number[]) => number) => pick(...bones.map(({ place }) => place[k]));
  return [
    [side(0, Math.min), side(1, Math.min), side(2, Math.min)],
    [side(0, Math.max), side(1, Math.max), side(2, Math.max)],
  ];
}

/** Those of the house, by the ids that briefs choose them by. */
export const TEMPLATES: Readonly<Record<string, SkeletonTemplate>> = {
  vrm: {
    skeleton: VRM_HUMANOID,
    optional: allBut(VRM_HUMANOID, VRM_REQUIRED),
    bounds: standing(1.7),
    isExact: true,
    kinds: ['two-legged'],
  },
  'h-anim': {
    skeleton: H_ANIM,
    optional: thoseLike(H_ANIM, /^HumanoidRoot$|^vl5$|midtarsal/),
    bounds: standing(1.7),
    isExact: true,
    kinds: ['two-legged'],
  },
  'webxr-hand': {
    skeleton: WEBXR_HAND_LEFT,
    optional: thoseLike(WEBXR_HAND_LEFT, /tip$/),
    bounds: ownBounds(WEBXR_HAND_LEFT),
    isExact: true,
    kinds: ['hand'],
  },
  quay: {
    skeleton: QUAY,
    // Twists are a matter of taste, and a spine may have fewer bones.
    optional: thoseLike(QUAY, /twist|^root$|^neck_2$|^spine_[245]$/),
    bounds: standing(1.76),
    isExact: true,
    kinds: ['two-legged'],
  },
  'four-legged': {
    skeleton: FOUR_LEGGED,
    optional: thoseLike(
      FOUR_LEGGED,
      /^(root|pelvis|jaw|ear|spine_[23]|neck_2|tail|front_collar|.*foot|.*toe)/,
    ),
    bounds: [
      [-0.19, 0, -0.76],
      [0.19, 1.18, 0.84],
    ],
    isExact: false,
    kinds: ['four-legged'],
  },
  winged: {
    skeleton: WINGED,
    optional: thoseLike(WINGED, /^(root|jaw|tail|collar|feather|spine_2|neck_[23]|wing_end|toe)/),
    bounds: standing(1.48),
    isExact: false,
    kinds: ['winged'],
  },
  finned: {
    skeleton: FINNED,
    optional: thoseLike(FINNED, /^(root|pelvis|jaw|back_fin|fin_2|fluke|spine|tail)/),
    bounds: [
      [-0.36, 0.05, -0.8],
      [0.36, 0.62, 0.78],
    ],
    isExact: false,
    kinds: ['finned'],
  },
};

/** What a brief can ask for. */
export const TEMPLATE_CHOICES = {
  'by-kind': 'a body of its kind has',
  wanted: 'the skeleton that is wanted',
  vrm: 'VRM 1.0 humanoid, those that it requires',
  'h-anim': 'H-Anim, level one',
  'webxr-hand': 'WebXR hand',
  quay: 'the Quay skeleton',
  'four-legged': 'our four-legged skeleton',
  winged: 'our winged skeleton',
  finned: 'our finned skeleton',
} as const;

export type TemplateChoice = keyof typeof TEMPLATE_CHOICES;

/**
 * The template that a brief asks for: one of the house's, that for the kind of body, or the skeleton that the brief wants,
 * whole where it is none of the house's. Undefined where there is none.
 */
export function templateOf(
  choice: TemplateChoice,
  wanted: SkeletonWanted,
  kind: BodyKind,
): SkeletonTemplate | undefined {
  if (choice === 'by-kind') return Object.values(TEMPLATES).find(({ kinds }) => kinds.includes(kind));
  if (choice !== 'wanted') return TEMPLATES[choice];
  const skeleton = skeletonWanted(wanted);
  const ofHouse = Object.values(TEMPLATES).find((template) => template.skeleton === skeleton);
  return ofHouse ?? (skeleton && ownTemplate(skeleton));
}

/** What a template of the house is chosen by, whichever way it was found; undefined for one of a brief's own. */
export const templateIdOf = (template: SkeletonTemplate): TemplateChoice | undefined =>
  Object.keys(TEMPLATES).find((id) => TEMPLATES[id] === template) as TemplateChoice | undefined;

const known = new WeakMap<Skeleton, SkeletonTemplate>();

function ownTemplate(skeleton: Skeleton): SkeletonTemplate {
  let template = known.get(skeleton);
  if (!template)
    known.set(
      skeleton,
      (template = { skeleton, optional: new Set(), isExact: true, kinds: [], bounds: ownBounds(skeleton) }),
    );
  return template;
}
