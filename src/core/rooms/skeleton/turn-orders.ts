/** How far clips turn bones about the middle one of three axes, for every order in which a game may take them. */
import type { Character } from '../../character/model';
import { type Quat, quatConjugate, quatMultiply } from '../../geometry/matrix';
import { TURN_ORDERS, type TurnOrder, middleAngle } from '../../geometry/turn-order';

/** The order in which a bone is taken. */
export type OrderOf = (node: number) => TurnOrder;

/**
 * The farthest that each bone's middle axis turns from rest at the keys of all clips, degrees: how the bone lies at rest is
 * the skeleton's own affair. Bones that no clip turns are left out.
 */
export function farthestTurns({ nodes, clips }: Character, orderOf: OrderOf): Map<number, number> {
  const out = new Map<number, number>();
  for (const { channels } of clips)
    for (const { node, path, values, interpolation } of channels) {
      if (path !== 'rotation' || nodes[node].kind !== 'bone') continue;
      const order = orderOf(node);
      const fromRest = quatConjugate(nodes[node].rotation);
      // Of a cubic key the value stands between its two tangents.
      const [first, step] = interpolation === 'CUBICSPLINE' ? [4, 12] : [0, 4];
      for (let i = first; i + 3 < values.length; i += step) {
        const key: Quat = [values[i], values[i + 1], values[i + 2], values[i + 3]];
        const angle = Math.abs(middleAngle(quatMultiply(fromRest, key), order));
        out.set(node, Math.max(out.get(node) ?? 0, angle));
      }
    }
  return out;
}

export const most = (angles: Iterable<number>): number => Math.max(0, ...angles);

/** An order with the farthest that a middle axis then turns, degrees. */
export interface OrderAngle {
  readonly order: TurnOrder;
  readonly angle: number;
}

const least = (angles: readonly OrderAngle[]): OrderAngle =>
  angles.reduce((best, other) => (other.angle < best.angle - 1e-9 ? other : best));

/** The one order whose middle axis turns least, over all bones or over some. */
export const bestOrder = (character: Character, bones?: ReadonlySet<number>): OrderAngle =>
  least(
    TURN_ORDERS.map((order) => {
      const angles = [...farthestTurns(character, () => order)];
      return {
        order,
        angle: most(angles.flatMap(([node, angle]) => (bones?.has(node) === false ? [] : [angle]))),
      };
    }),
  );

/** For every bone that a clip turns the order whose middle axis turns least. */
export function bestOrders(character: Character): Map<number, OrderAngle> {
  const found = TURN_ORDERS.map((order) => ({ order, angles: farthestTurns(character, () => order) }));
  return new Map(
    [...found[0].angles.keys()].map((node) => [
      node,
      least(found.map(({ order, angles }) => ({ order, angle: angles.get(node) ?? 0 }))),
    ]),
  );
}
