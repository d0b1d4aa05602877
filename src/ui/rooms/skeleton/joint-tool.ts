import { restPlace } from '@/core/character/hierarchy';
import { inUnit, unitSign } from '@/core/contracts/units';
import type { DragWay } from '@/core/geometry/drag';
import type { Vec3 } from '@/core/geometry/matrix';
import { jointAxes } from '@/core/rooms/skeleton/joint-axes';
import type { Stage } from '../../stage/stage';
import { dragTool } from '../../stage/tools/drag';
import type { Tool } from '../../stage/tools/tool';
import { chooseBone } from '../../state/choose';
import { beginGesture, putPatch } from '../../state/draft';
import { restForPlaces } from '../../state/pose';
import { desk } from '../../state/store';
import { deskWorker } from '../../state/worker';
import { DRAG_WAYS, useJointSettings } from './joint-settings';

/** Where a joint stands now, with what the hand has done. World space, metres. */
export function placeOfJoint(bone: number): readonly number[] | null {
  const { character, draft } = desk();
  if (!character || character.nodes[bone]?.kind !== 'bone') return null;
  return draft?.stands.get(bone)?.place ?? restPlace(character.nodes, bone);
}

/** Puts a joint at a world place, metres, as the panel says: with what hangs below it, or alone. */
export const putJoint = (bone: number, place: readonly number[]): Promise<void> =>
  putPatch({
    remedy: 'move-joint',
    params: { bone, place: [...place], alone: !useJointSettings.getState().withChildren },
  });

/** Puts a joint into the middle of its limb. False where the limb has no closed cross-section there. */
export async function snapToLimb(bone: number): Promise<boolean> {
  const middle = await deskWorker().limbMiddle(bone);
  if (!middle) return false;
  await putJoint(bone, middle);
  return true;
}

/** Puts a joint to the middle of the loops that were modelled for it. False where its limb has none. */
export async function snapToLoops(bone: number): Promise<boolean> {
  const middle = await deskWorker().loopsMiddle(bone);
  if (!middle) return false;
  await putJoint(bone, middle);
  return true;
}

/** The axes that the settings name, of a joint as it stands now; null for none. */
function axesOfJoint(bone: number): readonly [Vec3, Vec3, Vec3] | null {
  const { character } = desk();
  if (character?.nodes[bone]?.kind !== 'bone') return null;
  return jointAxes(character, bone, useJointSettings.getState().axes, (node) => placeOfJoint(node) as Vec3);
}

/** Moves a joint by one step along one of its axes (0 x, 1 y, 2 z), forwards or back. */
export function stepJoint(bone: number, axis: number, sign: 1 | -1): void {
  const place = placeOfJoint(bone);
  const axes = axesOfJoint(bone);
  if (!place || !axes) return;
  const by = sign * useJointSettings.getState().step;
  beginGesture();
  void putJoint(
    bone,
    place.map((x, k) => x + by * axes[axis][k]),
  );
}

/** Where a joint may be dragged from a place; null for anywhere in the plane of the picture. */
function wayOfJoint(bone: number, place: readonly number[]): DragWay | null {
  const { kind, axis } = DRAG_WAYS[useJointSettings.getState().way];
  const axes = axesOfJoint(bone);
  if (!kind || !axes) return null;
  return { kind, through: [place[0], place[1], place[2]], direction: axes[axis] };
}

function wayInWords(metres: number): string {
  const { unit } = desk().brief;
  return `${Number(inUnit(metres, unit).toPrecision(3))} ${unitSign(unit)}`;
}

/** Moves joints by dragging them in the plane of the picture, or along their axes. */
export function makeJointTool(stage: Stage): Tool {
  restForPlaces();
  return dragTool(stage, {
    id: 'joint',
    find: (x, y) => {
      const bone = stage.jointNear(x, y);
      return bone && { node: bone.node, place: bone.from };
    },
    begin: (node) => {
      beginGesture();
      chooseBone(node);
    },
    wayOf: wayOfJoint,
    say: wayInWords,
    drag: (node, place) => void putJoint(node, place),
    drop: (node) => {
      if (useJointSettings.getState().snapsToLimb) void snapToLimb(node);
    },
  });
}
