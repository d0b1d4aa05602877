/** What bones are for: which may carry weight, and which must not, follows from it. */

export const BONE_KINDS = ['deforming', 'cloth', 'control', 'helper', 'end'] as const;

export type BoneKind = (typeof BONE_KINDS)[number];

/** What a kind is called. */
export const BONE_KIND_WORDS: Readonly<Record<BoneKind, string>> = {
  deforming: 'deforming',
  cloth: 'cloth or hair',
  control: 'control',
  helper: 'helper',
  end: 'end',
};
