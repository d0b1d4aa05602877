/** A place of the right figure that is looked at. */
import type { WorstPoint } from '@/core/rooms/crosswalk/worst';
import { showPose } from './shown-pose';
import { useCrosswalkSession } from './session';

/** Shows both figures in the pose that shows a place worst, the place lit up; the same again: back to rest. */
export async function goToPlace(point: WorstPoint): Promise<void> {
  const { place, pose } = useCrosswalkSession.getState();
  if (place === point) {
    await showPose(-1);
    return;
  }
  if (pose !== point.pose) await showPose(point.pose);
  useCrosswalkSession.setState({ place: point });
}
