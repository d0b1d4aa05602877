import { useCallback, useEffect, useState } from 'react';
import { messageOf } from '../kit/api';
import { onToldOf } from '../state/events';

/** How long several things that are told at once are waited for before they are asked for, milliseconds. */
const GATHER = 150;

/** What is fetched, and fetched anew whenever something is told of jobs. */
export function useTold<T>(
  fetch: () => Promise<T>,
  wait = GATHER,
): { value: T | null; error: string | null; again: () => void } {
  const [value, setValue] = useState<T | null>(null);
  const [error, setError] = useState<string | null>(null);
  const load = useCallback(async () => {
    try {
      setValue(await fetch());
      setError(null);
    } catch (e) {
      setError(messageOf(e));
    }
  }, [fetch]);
  useEffect(() => {
    void load();
    return onToldOf(
      (told) => told.what !== 'head',
      wait,
      () => void load(),
    );
  }, [load, wait]);
  return { value, error, again: () => void load() };
}
