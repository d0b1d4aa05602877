import { restPlace } from '@/core/character/hierarchy';
import type { Stage } from '../../stage/stage';
import { dragTool } from '../../stage/tools/drag';
import type { Tool } from '../../stage/tools/tool';
import { chooseBone } from '../../state/choose';
import { beginGesture, putPatch } from '../../state/draft';
import { restForPlaces } from '../../state/pose';
import { desk } from '../../state/store';
import { deskWorker } from '../../state/worker';
import { useJointSettings } from './joint-settings';

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

/** Moves joints by dragging them in the plane of the picture. */
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
    drag: (node, place) => void putJoint(node, place),
    drop: (node) => {
      if (useJointSettings.getState().snapsToLimb) void snapToLimb(node);
    },
  });
}
