'use client';

import clsx from 'clsx';
import { type RowChange, isWorse } from '@/core/rooms/trials/rows';
import { Button } from '../kit/button';
import { UnderWay } from '../kit/progress';
import { ChangeCells } from '../parts/motion-change';
import { compareInMotion, showBothIn, stopComparingInMotion } from '../state/compare';
import { useDesk } from '../state/store';

/** Changes that are listed. */
const LISTED = 24;

/** What bends otherwise in the second of two revisions: the largest first, each shown on both. */
export function CompareInMotion() {
  const inMotion = useDesk((state) => state.compared?.inMotion ?? null);
  const stands = useDesk((state) => state.compared?.stands ?? null);
  if (!inMotion)
    return (
      <section aria-label="Both in motion" className="mt-4">
        <Button small onClick={() => void compareInMotion()}>
          Turn every joint of both
        </Button>
      </section>
    );
  if ('share' in inMotion)
    return (
      <section aria-label="Both in motion" className="mt-4">
        <UnderWay
          stage="Every joint of both is turned …"
          share={inMotion.share}
          label="Turned so far"
          onCancel={stopComparingInMotion}
        />
      </section>
    );
  const { changes, count } = inMotion;
  const worse = changes.filter(isWorse).length;
  return (
    <section aria-label="Both in motion" className="mt-4 text-[13px]">
      <p>
        {changes.length === 0 ? (
          <>All {count} motions bend in the second as in the first.</>
        ) : (
          <>
            {changes.length} of {count} motions bend otherwise, <b>{worse} of them worse</b>. Press one to see
            both in it.
          </>
        )}
      </p>
      {stands && (
        <p className="mt-1 flex items-center gap-2">
          <span>
            Both stand in <span className="mono">{stands.bone}</span>, {stands.words}
          </span>
          <Button small onClick={() => void showBothIn(null)}>
            At rest
          </Button>
        </p>
      )}
      {changes.length > 0 && (
        <table className="mt-1 w-full text-[12.5px]">
          <thead>
            <tr className="text-left text-soft">
              <th scope="col" className="py-1 font-normal">
                joint, motion
              </th>
              <th scope="col" className="py-1 text-right font-normal">
                volume
              </th>
              <th scope="col" className="py-1 text-right font-normal">
                stretch
              </th>
            </tr>
          </thead>
          <tbody>
            {changes.slice(0, LISTED).map((change) => (
              <ChangeRow key={`${change.after.node} ${change.after.motion}`} change={change} />
            ))}
          </tbody>
        </table>
      )}
      {changes.length > LISTED && <p className="text-soft">and {changes.length - LISTED} smaller ones</p>}
    </section>
  );
}

function ChangeRow({ change }: { change: RowChange }) {
  const { after } = change;
  const isShown = useDesk(({ compared }) => compared?.stands === after);
  return (
    <tr className={clsx('border-t border-rule', isShown && 'bg-damson-wash')}>
      <th scope="row" className="py-0.5 text-left font-normal [overflow-wrap:anywhere]">
        <button
          type="button"
          aria-pressed={isShown}
          onClick={() => void showBothIn(after)}
          className="text-left hover:underline"
        >
          <span className="mono">{after.bone}</span> in {after.words}
        </button>
      </th>
      <ChangeCells change={change} />
    </tr>
  );
}
