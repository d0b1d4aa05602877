/** The name of a revision's files without what stands behind the dot: letters, digits and hyphens. */
export const fileStem = (character: string, revision: number): string =>
  `${character.replace(/[^\w-]+/g, '-').toLowerCase()}-r${revision}`;

/** What a header can carry without being refused on its way, characters. */
const HEADER = 6000;

/** Notes as a header; of more than it can carry, as many as fit, and how many there are besides. */
export function notesHeader(notes: readonly string[]): string {
  const packed = (some: readonly string[]) => encodeURIComponent(JSON.stringify(some));
  const all = packed(notes);
  if (all.length <= HEADER) return all;
  const kept: string[] = [];
  const rest = () => `and ${notes.length - kept.length} more notes.`;
  for (const note of notes) {
    if (packed([...kept, note, rest()]).length > HEADER) break;
    kept.push(note);
  }
  return packed([...kept, rest()]);
}
