'use client';

import { isTried } from '../../state/document';
import { useEffect } from 'react';
import { Button } from '../../kit/button';
import { UnderWay } from '../../kit/progress';
import { useDesk } from '../../state/store';
import { stopTrying, tryInMotion, useTrying } from '../../state/trials';

/** Moves the figure joint by joint as soon as the room is entered, and after every step; says how far it is. */
export function Trying() {
  const revision = useDesk((state) => state.revision);
  const brief = useDesk((state) => state.brief);
  const isAudited = useDesk((state) => state.audited !== null);
  const done = useDesk(isTried);
  const rows = useDesk((state) => state.tried?.rows.length ?? 0);
  const share = useTrying((state) => state.share);
  const isStopped = useTrying((state) => state.stopped !== null && state.stopped === revision);
  useEffect(() => {
    if (isAudited && !isStopped) void tryInMotion();
  }, [revision, brief, isAudited, isStopped]);
  if (share !== null)
    return (
      <UnderWay
        stage="Every joint is turned, in each of its motions …"
        share={share}
        label="Tried so far"
        onCancel={stopTrying}
        className="mb-2"
      />
    );
  if (!done)
    return (
      <p className="mb-2 flex items-center gap-3 text-[13px] text-soft">
        Not tried in motion yet: nothing is known of how it bends.
        <Button small onClick={() => void tryAgain()}>
          Try every joint
        </Button>
      </p>
    );
  return (
    <p role="status" className="sr-only">
      {rows} motions tried
    </p>
  );
}

function tryAgain(): Promise<void> {
  useTrying.setState({ stopped: null });
  return tryInMotion();
}
