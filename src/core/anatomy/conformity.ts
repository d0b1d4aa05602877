/** Whether a character stands on the skeleton that was asked for, bone by bone. */
import { quatConjugate, quatMultiply } from '../geometry/matrix';
import type { Character } from '../character/model';
import { type Skeleton, type SkeletonBone, skeletonOf } from './skeleton';

/** A bone that is otherwise than it was asked for. */
export interface OtherBone {
  readonly bone: string;
  readonly is: string;
  readonly wanted: string;
}

/** What of a skeleton arrived. Bones that no skin lists are not there for a game, and count as missing. */
export interface Conformity {
  readonly wanted: number;
  readonly missing: readonly string[];
  /** Bones that skins list and nobody asked for. */
  readonly surplus: readonly string[];
  /** Missing by their names, and there under another: at the same place under the same bone. */
  readonly renamed: readonly OtherBone[];
  readonly otherParent: readonly OtherBone[];
  /** Bones that a skin lists before one that was asked for before them. */
  readonly otherOrder: readonly string[];
  /** Rest rotation within the parent, degrees apart. */
  readonly otherRotation: readonly { readonly bone: string; readonly degrees: number }[];
  /** Distance from the parent, metres. */
  readonly otherLength: readonly { readonly bone: string; readonly is: number; readonly wanted: number }[];
  /** Of all these, the bones that an animation shared with the skeleton would show. */
  readonly noticed: readonly string[];
}

/** What differs by less than this is the same: degrees, and metres. */
const DEGREES = 0.1;
const METRES = 1e-4;

/** Holds what arrived against what was asked for. Bones are told by their names. */
export function conformityOf(character: Character, target: Skeleton): Conformity {
  const arrived = skeletonOf(character);
  const listed = new Set(character.skins.flatMap((skin) => skin.joints));
  const isThere = (bone: SkeletonBone) => listed.size === 0 || listed.has(bone.node);
  const there = arrived.bones.filter(isThere);
  const byName = new Map(there.map((bone) => [bone.name, bone]));
  const wanted = new Set(target.bones.map((bone) => bone.name));
  const parentIn = (skeleton: Skeleton, bone: SkeletonBone) =>
    bone.parent < 0 ? null : skeleton.bones[bone.parent];
  const surplus = there.filter((bone) => !wanted.has(bone.name));
  const gone = target.bones.filter((bone) => !byName.has(bone.name));
  const renamed = gone.flatMap((bone): OtherBone[] => {
    const other = surplus.find(
      (candidate) =>
        parentIn(arrived, candidate)?.name === parentIn(target, bone)?.name &&
        distance(candidate.place, bone.place) < METRES,
    );
    return other ? [{ bone: bone.name, is: other.name, wanted: bone.name }] : [];
  });
  const isRenamed = new Set(renamed.flatMap((bone) => [bone.is, bone.wanted]));
  const otherParent: OtherBone[] = [];
  const otherRotation: { bone: string; degrees: number }[] = [];
  const otherLength: { bone: string; is: number; wanted: number }[] = [];
  for (const bone of target.bones) {
    const own = byName.get(bone.name);
    if (!own) continue;
    const [has, wants] = [parentIn(arrived, own), parentIn(target, bone)];
    // What holds the whole skeleton is the file's own affair.
    if (wants && has?.name !== wants.name)
      otherParent.push({ bone: bone.name, is: has?.name ?? 'nothing', wanted: wants.name });
    if (!wants || !has) continue;
    const degrees = apart(localRotation(has, own), localRotation(wants, bone));
    if (degrees > DEGREES) otherRotation.push({ bone: bone.name, degrees });
    const [is, length] = [distance(has.place, own.place), distance(wants.place, bone.place)];
    if (Math.abs(is - length) > METRES) otherLength.push({ bone: bone.name, is, wanted: length });
  }
  const missing = gone.map((bone) => bone.name).filter((name) => !isRenamed.has(name));
  return {
    wanted: target.bones.length,
    missing,
    surplus: surplus.map((bone) => bone.name).filter((name) => !isRenamed.has(name)),
    renamed,
    otherParent,
    otherOrder: outOfOrder(character, target),
    otherRotation,
    otherLength,
    noticed: [
      ...new Set([
        ...missing,
        ...renamed.map((bone) => bone.wanted),
        ...otherParent.map((bone) => bone.bone),
        ...otherRotation.map((deviation) => deviation.bone),
      ]),
    ],
  };
}

/** The first bone of every skin that stands before one that was asked for before it. */
function outOfOrder(character: Character, target: Skeleton): string[] {
  const place = new Map(target.bones.map((bone, i) => [bone.name, i]));
  const out = new Set<string>();
  for (const { joints } of character.skins) {
    const names = joints.map((j) => character.nodes[j].name).filter((name) => place.has(name));
    const at = names.map((name) => place.get(name) as number);
    const k = at.findIndex((place, i) => i > 0 && place < at[i - 1]);
    if (k > 0) out.add(names[k - 1]);
  }
  return [...out];
}

const distance = (a: readonly number[], b: readonly number[]) => Math.hypot(...a.map((x, k) => x - b[k]));

const localRotation = (parent: SkeletonBone, bone: SkeletonBone) =>
  quatMultiply(quatConjugate(parent.rotation), bone.rotation);

/** Angle between two rotations, degrees. */
function apart(a: readonly number[], b: readonly number[]): number {
  const [x, y, z, w0] = quatMultiply(quatConjugate(a), b);
  return (2 * Math.atan2(Math.hypot(x, y, z), Math.abs(w0)) * 180) / Math.PI;
}

/** The same in one sentence a kind, longest lists cut. */
export function conformityText(conformity: Conformity): string[] {
  const few = (names: readonly string[]) =>
    `${names.slice(0, 4).join(', ')}${names.length > 4 ? ` and ${names.length - 4} more` : ''}`;
  const line = (count: number, one: string, many: string, names: readonly string[]) =>
    count === 0 ? [] : [`${count} ${count === 1 ? one : many}: ${few(names)}.`];
  const there = conformity.wanted - conformity.missing.length - conformity.renamed.length;
  return [
    `${there} of ${conformity.wanted} bones of the skeleton are there under their names.`,
    ...line(conformity.missing.length, 'bone is in no skin', 'bones are in no skin', conformity.missing),
    ...line(
      conformity.surplus.length,
      'bone was not asked for',
      'bones were not asked for',
      conformity.surplus,
    ),
    ...line(
      conformity.renamed.length,
      'has another name',
      'have other names',
      conformity.renamed.map((bone) => `${bone.wanted} is ${bone.is}`),
    ),
    ...line(
      conformity.otherParent.length,
      'hangs otherwise',
      'hang otherwise',
      conformity.otherParent.map((bone) => `${bone.bone} under ${bone.is} instead of ${bone.wanted}`),
    ),
    ...line(
      conformity.otherOrder.length,
      'stands in another order',
      'stand in another order',
      conformity.otherOrder,
    ),
    ...line(
      conformity.otherRotation.length,
      'rests turned',
      'rest turned',
      conformity.otherRotation.map((deviation) => `${deviation.bone} by ${deviation.degrees.toFixed(1)}°`),
    ),
    ...line(
      conformity.otherLength.length,
      'has another length',
      'have other lengths',
      conformity.otherLength.map((deviation) => deviation.bone),
    ),
    conformity.noticed.length === 0
      ? 'An animation shared with the skeleton shows no difference.'
      : `An animation shared with the skeleton shows ${conformity.noticed.length} of these.`,
  ];
}
