import { looksOf } from '../../../anatomy/looks';
import { boneKindsOf } from '../../../anatomy/bone-kinds';
import type { BoneRole } from '../../../anatomy/reading/read';
import { type Skeleton, skeletonOf } from '../../../anatomy/skeleton';
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

const known = new WeakMap<Skeleton, readonly TreeBone[]>();

/** The bones of a character with what its names and its shape say of them. */
export function treeBonesOf(character: Character): readonly TreeBone[] {
  const kinds = boneKindsOf(character);
  return treeBonesOfSkeleton(skeletonOf(character)).map((bone) => {
    const { kind, why } = kinds.get(bone.node) ?? bone;
    return { ...bone, kind, why };
  });
}

/** The same of a skeleton by itself, whose bones go by their index. */
export function treeBonesOfSkeleton(skeleton: Skeleton): readonly TreeBone[] {
  let bones = known.get(skeleton);
  if (!bones) known.set(skeleton, (bones = read(skeleton)));
  return bones;
}

/** What a bone without a body is for, by what its name says. */
const KIND_OF_ROLE: Readonly<Record<BoneRole, BoneKind>> = {
  bone: 'deforming',
  twist: 'deforming',
  cloth: 'cloth',
  end: 'end',
  control: 'control',
  helper: 'helper',
  attach: 'helper',
};

function read(skeleton: Skeleton): TreeBone[] {
  const { readings, side, shape, hasNamedSides } = looksOf(skeleton);
  const twins = hasNamedSides
    ? pairedByName(
        readings.map(({ stem }) => stem),
        side,
      )
    : [...shape.twin];
  const idOf = (i: number) => (i < 0 || skeleton.bones[i].node < 0 ? i : skeleton.bones[i].node);
  return skeleton.bones.map(({ name, parent, weight, place }, i) => ({
    node: idOf(i),
    name,
    parent: idOf(parent),
    side: Math.sign(side[i]) as -1 | 0 | 1,
    isSideNamed: hasNamedSides,
    twin: idOf(twins[i]),
    role: readings[i].kind,
    kind: KIND_OF_ROLE[readings[i].kind],
    why: 'its name says so',
    weight,
    height: place[1],
    word: readings[i].words[0] ?? '',
  }));
}

/** Left and right of the same name, one to one in the order of the tree: a second one of a name stands alone. */
function pairedByName(stems: readonly string[], side: Int8Array): number[] {
  const twins = stems.map(() => -1);
  const waiting = new Map<string, number[]>();
  stems.forEach((stem, i) => {
    if (side[i] === 0) return;
    const other = waiting.get(`${-side[i]}/${stem}`)?.shift();
    if (other === undefined) {
      const key = `${side[i]}/${stem}`;
      const list = waiting.get(key);
      if (list) list.push(i);
      else waiting.set(key, [i]);
    } else {
      twins[i] = other;
      twins[other] = i;
    }
  });
  return twins;
}
