/** The skeletons that come with the house. */
import type { Skeleton } from '../skeleton';
import { QUAY } from './quay';
import { VRM_HUMANOID } from './vrm';
import { WEBXR_HAND_LEFT, WEBXR_HAND_RIGHT } from './webxr-hand';
import { WINGED } from './winged';

/** The skeletons that come with the house. */
export const SKELETONS: readonly Skeleton[] = [QUAY, VRM_HUMANOID, WEBXR_HAND_LEFT, WEBXR_HAND_RIGHT, WINGED];

/** A skeleton of the house; undefined where there is none of this id. */
export function skeletonById(id: string): Skeleton | undefined {
  return SKELETONS.find((skeleton) => skeleton.id === id);
}
