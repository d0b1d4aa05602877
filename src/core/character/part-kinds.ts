/** What a connected piece of a mesh is of a figure: binding and trials treat the kinds differently. */

export const PART_KINDS = ['skin', 'cloth', 'hair', 'eye', 'tooth', 'tongue', 'hat', 'buckle'] as const;

export type PartKind = (typeof PART_KINDS)[number];

/** What a kind is called. */
export const PART_KIND_WORDS: Readonly<Record<PartKind, string>> = {
  skin: 'skin',
  cloth: 'cloth',
  hair: 'hair',
  eye: 'eye',
  tooth: 'teeth',
  tongue: 'tongue',
  hat: 'hat',
  buckle: 'buckle, or another hard thing',
};

/** Kinds that do not bend: all of such a part goes with one bone. Common practice. */
export const RIGID_KINDS: ReadonlySet<PartKind> = new Set(['eye', 'tooth', 'hat', 'buckle']);
