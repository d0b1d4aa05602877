import { useCallback, useEffect, useRef, useState } from 'react';
import { type ProgressLine, importPath } from '@/routes/arrivals';
import { Cancelled, messageOf, sendFiles, surveyFiles } from '../kit/api';
import type { UnitAnswer } from '../kit/ask-units';
import type { Arrival } from './arrival';

let counter = 0;

const beginning = (files: readonly File[]): Arrival => ({
  key: ++counter,
  names: files.map((file) => file.name).join(', '),
  files,
  line: { stage: 'looking into it', share: 0.01 },
  cancel: new AbortController(),
});

/** What was taken in before it could be cancelled stands on the shelf. */
const cancelledText = (error: unknown) =>
  error instanceof Cancelled && error.isTooLate
    ? 'It was taken in before it could be cancelled; it stands on the shelf.'
    : 'Cancelled; nothing was saved.';

/** Files on their way into the house. `onDone` is called whenever some have come. */
export function useArrivals(brief: string, onDone: () => Promise<void>) {
  const [arrivals, setArrivals] = useState<readonly Arrival[]>([]);
  const isAlive = useRef(true);
  useEffect(() => {
    isAlive.current = true;
    return () => {
      isAlive.current = false;
    };
  }, []);

  const change = useCallback((key: number, to: Partial<Arrival>) => {
    if (isAlive.current)
      setArrivals((all) => all.map((arrival) => (arrival.key === key ? { ...arrival, ...to } : arrival)));
  }, []);

  const refuse = useCallback(
    async ({ key, cancel }: Arrival, error: unknown) => {
      const isCancelled = cancel.signal.aborted;
      if (isCancelled) await onDone();
      const message = isCancelled ? cancelledText(error) : messageOf(error);
      change(key, { survey: undefined, line: { stage: 'refused', share: 1, message } });
    },
    [change, onDone],
  );

  const send = useCallback(
    async (arrival: Arrival, answer: UnitAnswer) => {
      const tell = (line: ProgressLine) => change(arrival.key, { line });
      change(arrival.key, { survey: undefined, line: { stage: 'sending', share: 0.02 } });
      try {
        await sendFiles(importPath, arrival.files, { brief, ...answer }, tell, arrival.cancel.signal);
        await onDone();
      } catch (error) {
        await refuse(arrival, error);
      }
    },
    [brief, change, onDone, refuse],
  );

  const take = useCallback(
    async (files: readonly File[]) => {
      if (files.length === 0) return;
      const arrival = beginning(files);
      setArrivals((all) => [...all, arrival]);
      try {
        const survey = await surveyFiles(files, arrival.cancel.signal);
        if (survey) change(arrival.key, { survey, line: { stage: 'waiting for your answer', share: 0.01 } });
        else await send(arrival, { unit: '', up: '' });
      } catch (error) {
        await refuse(arrival, error);
      }
    },
    [change, refuse, send],
  );

  const putAway = useCallback((gone: readonly Arrival[]) => {
    const keys = new Set(gone.map((arrival) => arrival.key));
    setArrivals((all) => all.filter((arrival) => !keys.has(arrival.key)));
  }, []);

  return { arrivals, take, send, putAway };
}
