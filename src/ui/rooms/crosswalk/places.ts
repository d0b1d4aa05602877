/** A place of the right figure that is looked at. */
import type { WorstPoint } from '@/core/rooms/crosswalk/worst';
import { showPose } from './shown-pose';
import { useWalk } from './walk';

/** Shows both figures in the pose that shows a place worst, the place lit up; the same again: back to rest. */
export async function goToPlace(point: WorstPoint): Promise<void> {
  const { place, pose } = useWalk.getState();
  if (place === point) {
    await showPose(-1);
    return;
  }
  if (pose !== point.pose) await showPose(point.pose);
  useWalk.setState({ place: point });
}
