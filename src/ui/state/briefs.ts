/** The briefs that there are, fetched once and again after every change of them. */
import { useEffect, useMemo } from 'react';
import { create } from 'zustand';
import type { Brief } from '@/core/house/brief';
import { BRIEFS } from '@/core/house/briefs';
import { type BriefEntry, listBriefs } from '@/routes/briefs';
import { call, messageOf } from '../kit/api';

interface Briefs {
  /** Null until they have come. */
  readonly entries: readonly BriefEntry[] | null;
  readonly error: string | null;
}

export const useBriefStore = create<Briefs>(() => ({ entries: null, error: null }));

/** Fetches the briefs anew. */
export async function loadBriefs(): Promise<void> {
  try {
    const { briefs } = await call(listBriefs, {});
    useBriefStore.setState({ entries: briefs, error: null });
  } catch (error) {
    useBriefStore.setState({ error: messageOf(error) });
  }
}

/** All briefs in their newest versions; those of the house until the others have come. */
export function useBriefs(): readonly Brief[] {
  const entries = useBriefStore((briefs) => briefs.entries);
  useEffect(() => {
    if (!useBriefStore.getState().entries) void loadBriefs();
  }, []);
  return useMemo(() => entries?.map((entry) => entry.brief) ?? BRIEFS, [entries]);
}
