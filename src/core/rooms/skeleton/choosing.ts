/** Choosing bones by what is chosen already: along the tree, on the other side, all others; and by name. */
import { BONE_KINDS, type BoneKind } from '../../character/bone-kinds';
import { wildcardPattern } from '../../contracts/pattern';
import type { TreeBone } from './tree/bones';

/** Bones by node. */
export type BoneChoice = ReadonlySet<number>;

type Widen = (bones: readonly TreeBone[], chosen: BoneChoice) => Set<number>;

/** The chosen bones and all that hang on them. */
export const withBelow: Widen = (bones, chosen) => {
  const out = new Set(chosen);
  // Parents come first.
  for (const { node, parent } of bones) if (out.has(parent)) out.add(node);
  return out;
};

/** The chosen bones and all that they hang on. */
export const withAbove: Widen = (bones, chosen) => {
  const out = new Set(chosen);
  for (const { node, parent } of bones.toReversed()) if (out.has(node) && parent >= 0) out.add(parent);
  return out;
};

/** The chains that the chosen bones stand in: up and down to where the tree forks, the bone that they leave it at left out. */
export const wholeChains: Widen = (bones, chosen) => {
  const children = new Map<number, number[]>();
  for (const { node, parent } of bones) {
    const list = children.get(parent);
    if (list) list.push(node);
    else children.set(parent, [node]);
  }
  const parentOf = new Map(bones.map(({ node, parent }) => [node, parent]));
  const isOnly = (node: number) => children.get(parentOf.get(node) ?? -1)?.length === 1;
  const out = new Set<number>();
  for (const node of chosen) {
    let first = node;
    for (let up = parentOf.get(first) ?? -1; up >= 0 && isOnly(first); up = parentOf.get(first) ?? -1)
      first = up;
    out.add(first);
    for (let below = children.get(first); below?.length === 1; below = children.get(below[0]))
      out.add(below[0]);
  }
  return out;
};

/** The twins of the chosen bones; one that has none stays out. */
export const otherSide: Widen = (bones, chosen) =>
  new Set(bones.filter(({ node, twin }) => chosen.has(node) && twin >= 0).map(({ twin }) => twin));

/** All that is not chosen. */
export const inverted: Widen = (bones, chosen) =>
  new Set(bones.filter(({ node }) => !chosen.has(node)).map(({ node }) => node));

/** Tells names that hold the words, in any case; with “*” for any letters and “?” for one, the whole name. */
export function nameFinder(words: string): (name: string) => boolean {
  const wanted = words.trim().toLowerCase();
  if (!/[*?]/.test(wanted)) return (name) => name.toLowerCase().includes(wanted);
  const pattern = wildcardPattern(wanted, { '*': '.*', '?': '.' });
  return (name) => pattern.test(name.toLowerCase());
}

/** The bones that are looked for by words; none where there are no words. */
export function bonesNamed(bones: readonly TreeBone[], words: string): TreeBone[] {
  const isFound = nameFinder(words);
  return words.trim() === '' ? [] : bones.filter(({ name }) => isFound(name));
}

/** A kind of bones that can be shown by itself. */
export interface BoneFilter {
  readonly id: string;
  readonly title: string;
  readonly nodes: BoneChoice;
}

const KIND_GROUPS: Readonly<Record<BoneKind, string>> = {
  deforming: 'that deform',
  cloth: 'of cloth and hair',
  control: 'that are controls',
  helper: 'that help others',
  end: 'that are ends',
};

/** The groups that a skeleton has something in, by what its bones carry and are called. */
export function boneGroups(bones: readonly TreeBone[]): BoneFilter[] {
  const group = (id: string, title: string, isIn: (bone: TreeBone) => boolean) => ({
    id,
    title,
    nodes: new Set(bones.filter(isIn).map(({ node }) => node)),
  });
  return [
    group('weight', 'that carry weight', ({ weight }) => weight > 0),
    group('none', 'that carry none', ({ weight }) => !(weight > 0)),
    ...BONE_KINDS.map((kind) => group(kind, KIND_GROUPS[kind], (bone) => bone.kind === kind)),
    group('left', 'on the left', ({ side, isSideNamed }) => isSideNamed && side === 1),
    group('right', 'on the right', ({ side, isSideNamed }) => isSideNamed && side === -1),
    group('middle', 'in the middle', ({ side, isSideNamed }) => isSideNamed && side === 0),
  ].filter(({ nodes }) => nodes.size > 0 && nodes.size < bones.length);
}
