import { useCallback, useEffect, useState } from 'react';
import { messageOf } from '../kit/api';
import { LatestRequest } from '../state/latest-request';
import { onToldOf } from '../state/events';

/** How long several things that are told at once are waited for before they are asked for, milliseconds. */
const GATHER = 150;

/**
 * What is fetched, and fetched anew whenever something is told of jobs.
 * @param wait how long several things that are told at once are waited for, milliseconds
 * @param every how often it is fetched where nothing is told, milliseconds: pages are not told of what is at hand
 */
export function useTold<T>(
  fetch: () => Promise<T>,
  { wait = GATHER, every }: { readonly wait?: number; readonly every?: number } = {},
): { value: T | null; error: string | null; again: () => void } {
  const [value, setValue] = useState<T | null>(null);
  const [error, setError] = useState<string | null>(null);
  const [asking] = useState(() => new LatestRequest());
  const load = useCallback(async () => {
    // What was asked for first may come last, and be older.
    const isCurrent = asking.begin();
    try {
      const fetched = await fetch();
      if (!isCurrent()) return;
      setValue(fetched);
      setError(null);
    } catch (error) {
      if (isCurrent()) setError(messageOf(error));
    }
  }, [asking, fetch]);
  useEffect(() => {
    void load();
    const forget = onToldOf(
      (news) => news.what === 'job' || news.what === 'anew',
      wait,
      () => void load(),
    );
    const timer = every ? setInterval(() => void load(), every) : undefined;
    return () => {
      forget();
      clearInterval(timer);
    };
  }, [load, wait, every]);
  return { value, error, again: () => void load() };
}
