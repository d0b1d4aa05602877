import { cross, normalise, subtract } from '@/core/geometry/matrix';
import type { Stage } from '../stage';
import type { Hit } from '../view';
import type { PointerAt, Tool } from './tool';

/** Pixels: nearer to the joint the pointer tells no direction. */
const TOO_NEAR = 6;

/** Turns a bone about its joint in the plane of the picture, as the pointer goes round it. */
export function turnBoneTool(
  stage: Stage,
  callbacks: {
    hover(hit: Hit | null): void;
    choose(node: number): void;
    begin(node: number): void;
    /** Turned by so many radians about an axis of the world since the drag began. */
    turn(node: number, axis: readonly number[], radians: number): void;
  },
): Tool {
  let held: {
    node: number;
    joint: readonly number[];
    axis: readonly number[];
    last: number;
    sum: number;
  } | null = null;
  let over: readonly number[] | null = null;
  const boneAt = ({ x, y }: PointerAt) => {
    const hit = stage.pick(x, y);
    const bone = hit?.kind === 'bone' ? stage.openBones.find(({ node }) => node === hit.node) : undefined;
    return bone ?? stage.jointNear(x, y);
  };
  /** Where the pointer stands about a joint, radians, counter-clockwise as it is seen; null right on it. */
  const angleAt = ({ x, y }: PointerAt, joint: readonly number[]): number | null => {
    const [px, py] = stage.rig.project(joint[0], joint[1], joint[2]);
    return Math.hypot(x - px, y - py) < TOO_NEAR ? null : Math.atan2(py - y, x - px);
  };
  /** The axis towards who looks, by the places under two neighbouring pixels. */
  const axisAt = (joint: readonly number[]): readonly number[] => {
    const [px, py] = stage.rig.project(joint[0], joint[1], joint[2]);
    const right = subtract(stage.rig.unproject(px + 20, py, joint), joint);
    const up = subtract(stage.rig.unproject(px, py - 20, joint), joint);
    return normalise(cross(right, up));
  };
  return {
    id: 'turn-bone',
    cursor: 'grab',
    down: (at) => {
      const bone = boneAt(at);
      if (!bone) return false;
      callbacks.choose(bone.node);
      callbacks.begin(bone.node);
      held = {
        node: bone.node,
        joint: bone.from,
        axis: axisAt(bone.from),
        last: angleAt(at, bone.from) ?? NaN,
        sum: 0,
      };
      return true;
    },
    move: (at, isHeld) => {
      if (!isHeld || !held) {
        over = boneAt(at)?.from ?? null;
        callbacks.hover(stage.pick(at.x, at.y));
        stage.draw();
        return;
      }
      const angle = angleAt(at, held.joint);
      if (angle === null) return;
      if (Number.isNaN(held.last)) held.last = angle;
      // The short way round, so that whole turns add up.
      const step = Math.atan2(Math.sin(angle - held.last), Math.cos(angle - held.last));
      held.sum += step;
      held.last = angle;
      callbacks.turn(held.node, held.axis, held.sum);
    },
    up: () => {
      held = null;
      stage.draw();
    },
    leave: () => {
      over = null;
      callbacks.hover(null);
      stage.draw();
    },
    cancel: () => {
      held = null;
      over = null;
    },
    overlay: () => ({ ring: held?.joint ?? over }),
  };
}
