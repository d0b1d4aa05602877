/** The skeletons that come with the house. */
import type { Skeleton } from '../skeleton';
import { FINNED } from './finned';
import { FOUR_LEGGED } from './four-legged';
import { H_ANIM } from './h-anim';
import { QUAY } from './quay';
import { VRM_HUMANOID } from './vrm';
import { WEBXR_HAND_LEFT, WEBXR_HAND_RIGHT } from './webxr-hand';
import { WINGED } from './winged';

/** The skeletons that come with the house. */
export const SKELETONS: readonly Skeleton[] = [
  QUAY,
  VRM_HUMANOID,
  H_ANIM,
  WEBXR_HAND_LEFT,
  WEBXR_HAND_RIGHT,
  FOUR_LEGGED,
  WINGED,
  FINNED,
];

/** A skeleton of the house; undefined where there is none of this id. */
export function skeletonById(id: string): Skeleton | undefined {
  return SKELETONS.find((skeleton) => skeleton.id === id);
}
