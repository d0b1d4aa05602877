/** The formats that are written, fetched once. */
import { useEffect } from 'react';
import { create } from 'zustand';
import { type WrittenFormatEntry, listFormats } from '@/routes/formats';
import { call } from '../kit/api';

const useFormatStore = create<{ readonly formats: readonly WrittenFormatEntry[] }>(() => ({ formats: [] }));

let asked: Promise<void> | null = null;

async function load(): Promise<void> {
  const { formats } = await call(listFormats, {});
  useFormatStore.setState({ formats });
}

/** All formats that are written; none until they have come. What could not be fetched is asked for again by the next. */
export function useFormats(): readonly WrittenFormatEntry[] {
  useEffect(() => {
    asked ??= load().catch(() => {
      asked = null;
    });
  }, []);
  return useFormatStore((store) => store.formats);
}
