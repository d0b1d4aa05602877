/** Turns told as three angles about a bone's own axes, one after the other, and where they lock. */
import type { Quat } from './matrix';

/** The orders in which the three axes may follow: the last named is turned about first, in the bone's own frame. */
export const TURN_ORDERS = ['xyz', 'xzy', 'yxz', 'yzx', 'zxy', 'zyx'] as const;

export type TurnOrder = (typeof TURN_ORDERS)[number];

/** The order in words: its axes one after the other. */
export const TURN_ORDER_WORDS = Object.fromEntries(
  TURN_ORDERS.map((order) => [order, order.toUpperCase().split('').join(', ')]),
) as Readonly<Record<TurnOrder, string>>;

/** The order of three axes as they multiply; undefined unless each is there once. */
export function turnOrderOf(axes: readonly string[]): TurnOrder | undefined {
  const order = axes.join('');
  return TURN_ORDERS.find((candidate) => candidate === order);
}

const EVEN: ReadonlySet<TurnOrder> = new Set(['xyz', 'yzx', 'zxy']);

/**
 * The angle about the axis in the middle, degrees, −90 to 90: where it reaches either end the other two axes are one, and the
 * turn can be told in endless ways (gimbal lock). For R = R_i R_j R_k it is asin(±R_ik), + where i j k is an even permutation.
 * @param turn a unit quaternion x y z w
 */
export function middleAngle([x, y, z, w]: Quat, order: TurnOrder): number {
  const rows = [
    [1 - 2 * (y * y + z * z), 2 * (x * y - w * z), 2 * (x * z + w * y)],
    [2 * (x * y + w * z), 1 - 2 * (x * x + z * z), 2 * (y * z - w * x)],
    [2 * (x * z - w * y), 2 * (y * z + w * x), 1 - 2 * (x * x + y * y)],
  ];
  const [first, last] = ['xyz'.indexOf(order[0]), 'xyz'.indexOf(order[2])];
  const sine = (EVEN.has(order) ? 1 : -1) * rows[first][last];
  return (Math.asin(Math.max(-1, Math.min(1, sine))) * 180) / Math.PI;
}
