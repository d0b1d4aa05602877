/** The kinds of bodies that characters have: which of a brief's questions make sense follows from it. */

export const BODY_KINDS = [
  'two-legged',
  'four-legged',
  'winged',
  'finned',
  'hand',
  'machine',
  'unknown',
] as const;

export type BodyKind = (typeof BODY_KINDS)[number];

/** What a kind is called. */
export const BODY_KIND_WORDS: Readonly<Record<BodyKind, string>> = {
  'two-legged': 'two-legged, with arms',
  'four-legged': 'four-legged',
  winged: 'winged',
  finned: 'finned',
  hand: 'a hand by itself',
  machine: 'a machine of rigid parts',
  unknown: 'of a kind that nothing tells',
};
