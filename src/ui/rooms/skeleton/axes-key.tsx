import { stageViewOf } from '../../state/stage-view-of';
import { useDesk } from '../../state/store';

/** Says which of the axes that are drawn is which; nothing where no bone is chosen. */
export function AxesKey() {
  const isDrawn = useDesk((state) => state.twigs && stageViewOf(state).chosenBones.size > 0);
  if (!isDrawn) return null;
  return (
    <p className="pointer-events-none absolute bottom-3 right-3 rounded-md border border-rule bg-sheet/90 px-2 py-0.5 text-[12px] text-soft">
      Own axes: <span className="mono">x</span> one notch, <span className="mono">y</span> two,{' '}
      <span className="mono">z</span> three
    </p>
  );
}
