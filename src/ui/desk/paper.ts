/**
 * Day or night at once: colours that glided there one by one would for a moment be neither, and hard to read.
 */
export function togglePaper(): void {
  const root = document.documentElement;
  const night = root.dataset.sheet !== 'night';
  root.dataset.turning = '';
  requestAnimationFrame(() =>
    requestAnimationFrame(() => {
      delete root.dataset.turning;
    }),
  );
  if (night) root.dataset.sheet = 'night';
  else delete root.dataset.sheet;
  try {
    localStorage.setItem('sheet', night ? 'night' : 'day');
  } catch {
    /* a private window keeps it for this page only */
  }
}
