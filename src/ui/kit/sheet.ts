import { useSyncExternalStore } from 'react';

function listen(changed: () => void): () => void {
  const watch = new MutationObserver(changed);
  watch.observe(document.documentElement, { attributes: true, attributeFilter: ['data-sheet'] });
  return () => watch.disconnect();
}

/** Which sheet the page is drawn on: what is painted with its colours is painted anew when it changes. */
export const useSheet = (): string =>
  useSyncExternalStore(
    listen,
    () => document.documentElement.dataset.sheet ?? '',
    () => '',
  );
