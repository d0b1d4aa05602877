import { cross, dot, normalise, quatOfRotation, subtract } from '../geometry/matrix';
import type { Skeleton, SkeletonBone } from './skeleton';

type Place = readonly [number, number, number];
/** `tip`: where a bone without children points to. */
export type TemplateRow = readonly [name: string, parent: string | null, place: Place, tip?: Place];

/** How a template orients its bones: which local axis runs along the bone, and which is the hinge. */
export interface Axes {
  readonly along: '+x' | '+y' | '+z' | '-z';
  readonly hinge: 'x' | 'y' | 'z';
}

/**
 * A skeleton from rows of name, parent and place. With `axes`, every bone points at the mean of its children
 * (one without any at its tip, or on like its parent) and its hinge axis lies as near as can be to `hingeNear(name)`; without,
 * all bones stand square to the world.
 */
export function skeletonFrom(
  id: string,
  title: string,
  rows: readonly TemplateRow[],
  axes: Axes | null,
  hingeNear: (name: string) => Place = () => [1, 0, 0],
): Skeleton {
  const at = new Map(rows.map(([name], i) => [name, i]));
  const parents = rows.map(([, parent]) => (parent === null ? -1 : (at.get(parent) ?? -1)));
  const directions: Place[] = [];
  const bones = rows.map(([name, , place, tip], i): SkeletonBone => {
    const children = rows.filter((_, k) => parents[k] === i);
    const mean =
      children.length > 0
        ? [0, 1, 2].map((k) => children.reduce((sum, child) => sum + child[2][k], 0) / children.length)
        : (tip ?? null);
    const toward = mean ? subtract(mean, place) : [0, 0, 0];
    const above: Place = parents[i] >= 0 ? directions[parents[i]] : [0, 1, 0];
    directions[i] = Math.hypot(...toward) > 1e-6 ? normalise(toward) : above;
    return {
      name,
      parent: parents[i],
      place,
      rotation: axes ? orientation(directions[i], hingeNear(name), axes) : [0, 0, 0, 1],
      weight: 0,
      holds: false,
      node: -1,
    };
  });
  return { id, title, bones };
}

function orientation(direction: Place, near: Place, axes: Axes): [number, number, number, number] {
  const sign = axes.along.startsWith('-') ? -1 : 1;
  const a = direction.map((x) => x * sign) as [number, number, number];
  let hinge = subtract(
    near,
    a.map((x) => x * dot(near, a)),
  );
  if (Math.hypot(...hinge) < 1e-4)
    hinge = subtract(
      [0, 0, 1],
      a.map((x) => x * a[2]),
    );
  const side = normalise(hinge);
  const index = { x: 0, y: 1, z: 2 };
  const along = index[axes.along.slice(-1) as 'x'];
  const bend = index[axes.hinge];
  const third = 3 - along - bend;
  const columns: Place[] = [];
  columns[along] = a;
  columns[bend] = side;
  columns[third] = (third + 1) % 3 === along ? cross(a, side) : cross(side, a);
  return quatOfRotation([...columns[0], 0, ...columns[1], 0, ...columns[2], 0, 0, 0, 0, 1]);
}

/** Rows for the other side: x mirrored, the side in the names exchanged. */
export function mirroredRows(rows: readonly TemplateRow[], rename: (name: string) => string): TemplateRow[] {
  const across = ([x, y, z]: Place): Place => [-x, y, z];
  return rows.map(([name, parent, place, tip]) => [
    rename(name),
    parent === null ? null : rename(parent),
    across(place),
    tip && across(tip),
  ]);
}
