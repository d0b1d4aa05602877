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
  const listed = new Set(character.skins.flatMap((s) => s.joints));
  const isThere = (b: SkeletonBone) => listed.size === 0 || listed.has(b.node);
  const there = arrived.bones.filter(isThere);
  const byName = new Map(there.map((b) => [b.name, b]));
  const wanted = new Set(target.bones.map((b) => b.name));
  const parentIn = (k: Skeleton, b: SkeletonBone) => (b.parent < 0 ? null : k.bones[b.parent]);
  const surplus = there.filter((b) => !wanted.has(b.name));
  const gone = target.bones.filter((b) => !byName.has(b.name));
  const renamed = gone.flatMap((b): OtherBone[] => {
    const other = surplus.find(
      (s) => parentIn(arrived, s)?.name === parentIn(target, b)?.name && distance(s.place, b.place) < METRES,
    );
    return other ? [{ bone: b.name, is: other.name, wanted: b.name }] : [];
  });
  const isRenamed = new Set(renamed.flatMap((r) => [r.is, r.wanted]));
  const otherParent: OtherBone[] = [];
  const otherRotation: { bone: string; degrees: number }[] = [];
  const otherLength: { bone: string; is: number; wanted: number }[] = [];
  for (const b of target.bones) {
    const own = byName.get(b.name);
    if (!own) continue;
    const [has, wants] = [parentIn(arrived, own), parentIn(target, b)];
    // What holds the whole skeleton is the file's own affair.
    if (wants && has?.name !== wants.name)
      otherParent.push({ bone: b.name, is: has?.name ?? 'nothing', wanted: wants.name });
    if (!wants || !has) continue;
    const degrees = apart(localRotation(has, own), localRotation(wants, b));
    if (degrees > DEGREES) otherRotation.push({ bone: b.name, degrees });
    const [is, length] = [distance(has.place, own.place), distance(wants.place, b.place)];
    if (Math.abs(is - length) > METRES) otherLength.push({ bone: b.name, is, wanted: length });
  }
  const missing = gone.map((b) => b.name).filter((n) => !isRenamed.has(n));
  return {
    wanted: target.bones.length,
    missing,
    surplus: surplus.map((b) => b.name).filter((n) => !isRenamed.has(n)),
    renamed,
    otherParent,
    otherOrder: outOfOrder(character, target),
    otherRotation,
    otherLength,
    noticed: [
      ...new Set([
        ...missing,
        ...renamed.map((r) => r.wanted),
        ...otherParent.map((o) => o.bone),
        ...otherRotation.map((o) => o.bone),
      ]),
    ],
  };
}

/** The first bone of every skin that stands before one that was asked for before it. */
function outOfOrder(character: Character, target: Skeleton): string[] {
  const place = new Map(target.bones.map((b, i) => [b.name, i]));
  const out = new Set<string>();
  for (const { joints } of character.skins) {
    const names = joints.map((j) => character.nodes[j].name).filter((n) => place.has(n));
    const at = names.map((n) => place.get(n) as number);
    const k = at.findIndex((p, i) => i > 0 && p < at[i - 1]);
    if (k > 0) out.add(names[k - 1]);
  }
  return [...out];
}

const distance = (a: readonly number[], b: readonly number[]) => Math.hypot(...a.map((x, k) => x - b[k]));

const localRotation = (parent: SkeletonBone, bone: SkeletonBone) =>
  quatMultiply(quatConjugate(parent.rotation), bone.rotation);

/** Angle between two rotations, degrees. */
function apart(a: readonly number[], b: readonly number[]): number {
  const [x, y, z, w] = quatMultiply(quatConjugate(a), b);
  return (2 * Math.atan2(Math.hypot(x, y, z), Math.abs(w)) * 180) / Math.PI;
}

/** The same in one sentence a kind, longest lists cut. */
export function conformityText(c: Conformity): string[] {
  const few = (names: readonly string[]) =>
    `${names.slice(0, 4).join(', ')}${names.length > 4 ? ` and ${names.length - 4} more` : ''}`;
  const line = (count: number, one: string, many: string, names: readonly string[]) =>
    count === 0 ? [] : [`${count} ${count === 1 ? one : many}: ${few(names)}.`];
  const there = c.wanted - c.missing.length - c.renamed.length;
  return [
    `${there} of ${c.wanted} bones of the skeleton are there under their names.`,
    ...line(c.missing.length, 'bone is in no skin', 'bones are in no skin', c.missing),
    ...line(c.surplus.length, 'bone was not asked for', 'bones were not asked for', c.surplus),
    ...line(
      c.renamed.length,
      'has another name',
      'have other names',
      c.renamed.map((r) => `${r.wanted} is ${r.is}`),
    ),
    ...line(
      c.otherParent.length,
      'hangs otherwise',
      'hang otherwise',
      c.otherParent.map((o) => `${o.bone} under ${o.is} instead of ${o.wanted}`),
    ),
    ...line(c.otherOrder.length, 'stands in another order', 'stand in another order', c.otherOrder),
    ...line(
      c.otherRotation.length,
      'rests turned',
      'rest turned',
      c.otherRotation.map((o) => `${o.bone} by ${o.degrees.toFixed(1)}°`),
    ),
    ...line(
      c.otherLength.length,
      'has another length',
      'have other lengths',
      c.otherLength.map((o) => o.bone),
    ),
    c.noticed.length === 0
      ? 'An animation shared with the skeleton shows no difference.'
      : `An animation shared with the skeleton shows ${c.noticed.length} of these.`,
  ];
}
