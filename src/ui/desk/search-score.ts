/** How well something answers: every word must stand in it; in its own words it answers better than in others. */
export function scoreOf(value: string, search: string, keywords: string[] = []): number {
  const own = value.toLowerCase();
  const all = `${own} ${keywords.join(' ').toLowerCase()}`;
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  if (!words.every((word) => all.includes(word))) return 0;
  return words.every((word) => own.includes(word)) ? 1 : 0.5;
}
