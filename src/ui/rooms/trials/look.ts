import type { MotionFigures } from '@/core/rooms/trials/rows';
import { chooseBone } from '../../state/choose';
import { frameJoint, standInMotion } from '../../state/trials';

/** Stands as a motion is worst, and brings the joint into the picture. */
export function lookAtMotion({ node, motion, degrees }: MotionFigures): void {
  chooseBone(node);
  void standInMotion(node, motion, degrees);
  frameJoint(node);
}
