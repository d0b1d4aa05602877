/** Where bones that a body lacks would stand, by those that it has in common with a template. */
import { hasTarget, targetsOf } from '../../anatomy/crosswalk';
import { type ExpectedBones, expectedBonesOf } from '../../anatomy/expected-bones';
import { type Skeleton, type SkeletonBone, bonesAbove } from '../../anatomy/skeleton';
import type { SkeletonTemplate } from '../../anatomy/skeletons/templates';
import { type Vec3, distance, quatBetween, quatRotate, subtract } from '../../geometry/matrix';

/** A bone that is not there: its name in the template, and what it would hang under. */
export interface MissingBone {
  readonly name: string;
  readonly place: Vec3;
  /** A bone that is there, by index in the skeleton, or another missing one, by its name. */
  readonly parent: { readonly bone: number } | { readonly name: string };
  /** Bones of the skeleton that would hang under it from then on, by index. */
  readonly children: readonly number[];
}

/**
 * The bones that are missing, parents first. One between two that are there divides the way as it does in the template;
 * one at an end goes on as it does there, turned and scaled as the bone that it hangs on is.
 */
export function missingBones(skeleton: Skeleton, template: SkeletonTemplate): MissingBone[] {
  const expected = expectedBonesOf(skeleton, template);
  const missing = new Set(expected.missing);
  const { bones } = template.skeleton;
  const own = ownBones(expected);
  const placed = new Map<number, Vec3>();
  const placeOf = (i: number): Vec3 | undefined =>
    placed.get(i) ?? (own.has(i) ? skeleton.bones[own.get(i) as number].place : undefined);
  const out: MissingBone[] = [];
  bones.forEach((bone, i) => {
    if (!missing.has(bone.name)) return;
    const above = bonesAbove(template.skeleton, i).filter((up) => placeOf(up) !== undefined);
    if (above.length === 0) return;
    const below = firstBelow(template.skeleton, i, own);
    const place = below
      ? between(bones, [above[0], i, below], placeOf)
      : goingOn(bones, [above[1], above[0], i], placeOf);
    placed.set(i, place);
    const parent = own.has(above[0]) ? { bone: own.get(above[0]) as number } : { name: bones[above[0]].name };
    const taken = below === null ? [] : childrenBelow(skeleton, template.skeleton, i, own, parent);
    out.push({ name: bone.name, place, parent, children: taken });
  });
  return out;
}

/** For bones of the template those of the skeleton that they answer to, by index. */
function ownBones({ pairs }: ExpectedBones): Map<number, number> {
  const own = new Map<number, number>();
  for (const rule of pairs)
    if (hasTarget(rule))
      for (const target of targetsOf(rule)) if (!own.has(target)) own.set(target, rule.source);
  return own;
}

/** The nearest bone below one that is there; null for none. */
function firstBelow({ bones }: Skeleton, top: number, own: ReadonlyMap<number, number>): number | null {
  const found = bones.findIndex((_, i) => own.has(i) && isBelow(bones, i, top));
  return found < 0 ? null : found;
}

function isBelow(bones: readonly SkeletonBone[], bone: number, top: number): boolean {
  let up = bones[bone].parent;
  while (up >= 0 && up !== top) up = bones[up].parent;
  return up === top;
}

type PlaceOf = (i: number) => Vec3 | undefined;

function between(
  bones: readonly SkeletonBone[],
  [above, bone, below]: readonly [number, number, number],
  placeOf: PlaceOf,
): Vec3 {
  const [from, to] = [placeOf(above) as Vec3, placeOf(below) as Vec3];
  const before = distance(bones[above].place, bones[bone].place);
  const share = before / (before + distance(bones[bone].place, bones[below].place) || 1);
  return [0, 1, 2].map((k) => from[k] + share * (to[k] - from[k])) as unknown as Vec3;
}

function goingOn(
  bones: readonly SkeletonBone[],
  [before, above, bone]: readonly [number | undefined, number, number],
  placeOf: PlaceOf,
): Vec3 {
  const from = placeOf(above) as Vec3;
  const way = subtract(bones[bone].place, bones[above].place);
  const start = before === undefined ? undefined : placeOf(before);
  if (before === undefined || !start) return plus(from, way);
  const [theirs, ours] = [subtract(bones[above].place, bones[before].place), subtract(from, start)];
  const scale = Math.hypot(...ours) / (Math.hypot(...theirs) || 1);
  const turned = quatRotate(quatBetween(theirs, ours), way);
  return plus(from, [turned[0] * scale, turned[1] * scale, turned[2] * scale]);
}

const plus = (a: Vec3, b: Vec3): Vec3 => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];

/** Of the bones that hang on the parent, those that answer to something below the missing one. */
function childrenBelow(
  skeleton: Skeleton,
  template: Skeleton,
  missing: number,
  own: ReadonlyMap<number, number>,
  parent: MissingBone['parent'],
): number[] {
  if (!('bone' in parent)) return [];
  const below = new Set(
    [...own].flatMap(([target, source]) => (isBelow(template.bones, target, missing) ? [source] : [])),
  );
  return skeleton.bones.flatMap((bone, i) => (bone.parent === parent.bone && below.has(i) ? [i] : []));
}
