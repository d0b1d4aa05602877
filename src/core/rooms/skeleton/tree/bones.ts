import { looksOf } from '../../../anatomy/looks';
import { type BoneKindReading, boneKindsOf } from '../../../anatomy/bone-kinds';
import type { BoneRole } from '../../../anatomy/reading/read';
import { skeletonOf } from '../../../anatomy/skeleton';
import { twinsOf } from '../../../anatomy/twins';
import type { BoneKind } from '../../../character/bone-kinds';
import type { Character } from '../../../character/model';

/** A bone as the picture of the tree needs it. Parents come before children. */
export interface TreeBone {
  readonly node: number;
  readonly name: string;
  /** Node of the bone that it hangs under; −1 for a root. */
  readonly parent: number;
  /** 1 left, −1 right, 0 middle: from the names where they tell, else from the shape. */
  readonly side: -1 | 0 | 1;
  /** Its skeleton’s names tell sides; else which of the two is left is not known. */
  readonly isSideNamed: boolean;
  /** Node of the bone on the other side; −1 for none. */
  readonly twin: number;
  readonly role: BoneRole;
  /** What it is for, and why. */
  readonly kind: BoneKind;
  readonly why: string;
  /** Sum of its weights over all meshes. */
  readonly weight: number;
  /** How high its joint stands at rest, metres. */
  readonly height: number;
  /** The first word of its name that is no side, small. */
  readonly word: string;
}

const known = new WeakMap<Character, readonly TreeBone[]>();

/** The bones of a character with what its names and its shape say of them; made once. */
export function treeBonesOf(character: Character): readonly TreeBone[] {
  let bones = known.get(character);
  if (!bones) known.set(character, (bones = read(character)));
  return bones;
}

function read(character: Character): TreeBone[] {
  const skeleton = skeletonOf(character);
  const kinds = boneKindsOf(character);
  const twins = twinsOf(skeleton);
  const { readings, side, hasNamedSides } = looksOf(skeleton);
  const { bones } = skeleton;
  const nodeOf = (i: number) => (i < 0 ? -1 : bones[i].node);
  return bones.map(({ name, parent, weight, place, node }, i): TreeBone => {
    const { kind, why } = kinds.get(node) as BoneKindReading;
    return {
      node,
      name,
      parent: nodeOf(parent),
      side: Math.sign(side[i]) as -1 | 0 | 1,
      isSideNamed: hasNamedSides,
      twin: nodeOf(twins[i]),
      role: readings[i].kind,
      kind,
      why,
      weight,
      height: place[1],
      word: readings[i].words[0] ?? '',
    };
  });
}
