import { useEffect, useState } from 'react';
import type { Brief } from '@/core/house/brief';
import { messageOf } from '../kit/api';
import { setDesk, useDesk } from '../state/store';

/** What the worker tells of the character on the desk under its brief; null until it is there. `ask` must stay the same function. */
export function useFigures<T>(ask: (brief: Brief) => Promise<T>): T | null {
  const revision = useDesk((state) => state.revision);
  const brief = useDesk((state) => state.brief);
  const [told, setTold] = useState<{ readonly of: string | null; readonly figures: T } | null>(null);
  useEffect(() => {
    let isOpen = true;
    ask(brief)
      .then((figures) => isOpen && setTold({ of: revision, figures }))
      .catch((error: unknown) => isOpen && setDesk({ error: messageOf(error) }));
    return () => {
      isOpen = false;
    };
  }, [ask, revision, brief]);
  // Those of another revision count otherwise.
  return told && told.of === revision ? told.figures : null;
}
