/** Changes of briefs that are not saved yet outlive the page. */
import type { Brief } from '@/core/house/brief';

const slot = (id: string) => `brief ${id}`;

/** Keeps a draft in the browser, or forgets it where it is as it was saved. */
export function keepDraft(draft: Brief, isChanged: boolean): void {
  try {
    if (isChanged) localStorage.setItem(slot(draft.id), JSON.stringify(draft));
    else localStorage.removeItem(slot(draft.id));
  } catch {
    /* no room, or not allowed: it lives as long as the page */
  }
}

/** The draft that was kept for a brief, where it was made of this very version; null for none. */
export function keptDraft({ id, version }: Pick<Brief, 'id' | 'version'>): Brief | null {
  try {
    const kept = JSON.parse(localStorage.getItem(slot(id)) ?? 'null') as Brief | null;
    return kept?.version === version ? kept : null;
  } catch {
    return null;
  }
}
