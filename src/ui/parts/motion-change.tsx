import clsx from 'clsx';
import { type RowChange, losesVolume, stretchesFurther } from '@/core/rooms/trials/rows';
import { percentText } from '../kit/format';

/** Volume and stretch of a motion before and after. */
export function ChangeCells({ change }: { change: RowChange }) {
  const { before, after } = change;
  return (
    <>
      <td className={clsx('mono whitespace-nowrap pl-2 text-right', losesVolume(change) && 'text-stops')}>
        {percentText(before.volume)} → {percentText(after.volume)}
      </td>
      <td
        className={clsx('mono whitespace-nowrap pl-2 text-right', stretchesFurther(change) && 'text-stops')}
      >
        {before.stretch.toFixed(1)} → {after.stretch.toFixed(1)} ×
      </td>
    </>
  );
}
