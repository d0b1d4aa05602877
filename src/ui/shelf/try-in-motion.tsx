'use client';

import { useCallback, useRef, useState } from 'react';
import { briefKey } from '@/core/house/brief';
import { Cancelled, messageOf, tryInHouse } from '../kit/api';
import { Button } from '../kit/button';
import { UnderWay } from '../kit/progress';
import type { ShelfFigure } from '../state/shelf';

/** Whether a figure's brief asks something of it in motion, and nobody has looked yet. */
export const isUntried = ({ wants, moved, head, counts }: ShelfFigure): boolean =>
  wants !== null && wants.trials !== null && head !== null && counts !== null && !moved;

interface UnderTrial {
  readonly name: string;
  readonly done: number;
  readonly of: number;
  /** Of the one that is tried, 0 … 1. */
  readonly share: number;
}

/** Tries figures of the shelf in motion, one after the other; the house keeps what it finds. */
function useTrials(onFound: () => Promise<void>) {
  const [under, setUnder] = useState<UnderTrial | null>(null);
  const [failure, setFailure] = useState<string | null>(null);
  const cancel = useRef<AbortController | null>(null);
  const tryAll = useCallback(
    async (figures: readonly ShelfFigure[]) => {
      const control = new AbortController();
      cancel.current = control;
      setFailure(null);
      try {
        for (const [done, { name, head, wants }] of figures.entries()) {
          if (!head || !wants) continue;
          const at = (share: number) => setUnder({ name, done, of: figures.length, share });
          at(0);
          await tryInHouse(head, briefKey(wants), (line) => at(line.share ?? 0), control.signal);
          await onFound();
        }
      } catch (error) {
        if (!(error instanceof Cancelled) && !control.signal.aborted) setFailure(messageOf(error));
      } finally {
        setUnder(null);
      }
    },
    [onFound],
  );
  return { under, failure, tryAll, stop: () => cancel.current?.abort() };
}

/** Offers to try those of the shelf in motion that were not, and tells how far that is. Nothing where all were. */
export function TryInMotion({
  entries,
  onFound,
}: {
  entries: readonly ShelfFigure[];
  onFound: () => Promise<void>;
}) {
  const { under, failure, tryAll, stop } = useTrials(onFound);
  const untried = entries.filter(isUntried);
  if (under)
    return (
      <UnderWay
        stage={`Turning every joint of ${under.name}, ${under.done + 1} of ${under.of} …`}
        share={(under.done + under.share) / under.of}
        label="Tried in motion so far"
        onCancel={stop}
        className="mt-4 max-w-[520px]"
      />
    );
  return (
    <>
      {failure && (
        <p role="alert" className="mt-4 text-stops">
          {failure}
        </p>
      )}
      {untried.length > 0 && (
        <p className="mt-4 flex flex-wrap items-center gap-3 text-[13px] text-soft">
          {untried.length === 1
            ? `“${untried[0].name}” was not tried in motion yet: how it bends is not among what is open.`
            : `${untried.length} were not tried in motion yet: how they bend is not among what is open.`}
          <Button small onClick={() => void tryAll(untried)}>
            {untried.length === 1 ? 'Try it in motion' : 'Try them in motion'}
          </Button>
        </p>
      )}
    </>
  );
}
