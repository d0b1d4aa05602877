/** The name of a revision's files without what stands behind the dot: letters, digits and hyphens. */
export const fileStem = (character: string, revision: number): string =>
  `${character.replace(/[^\w-]+/g, '-').toLowerCase()}-r${revision}`;
