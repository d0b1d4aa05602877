import { object } from 'yup';
import type { Character, SceneNode } from '../../../character/model';
import { choiceOf, refsTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { TURN_ORDERS, TURN_ORDER_WORDS, type TurnOrder } from '../../../geometry/turn-order';
import { type OrderAngle, bestOrder, bestOrders, farthestTurns } from '../turn-orders';

const CHOICES = {
  least: 'the axis that turns least in the middle',
  ...TURN_ORDER_WORDS,
  unsaid: 'not said',
} as const;

/** Bones are listed before and after up to so many. */
const LISTED = 200;

/** Says in which order bones take their three axes, so that the one that turns least comes in the middle. */
export const turnOrder = defineRemedy({
  id: 'turn-order',
  room: 'skeleton',
  title: 'Set the order of turns',
  does: 'Tools that keep turns as three angles take these bones’ axes in this order; it goes out with the file. Nothing moves, at rest or in clips.',
  params: object({
    bones: refsTo('bone', 'Bones').required(),
    order: choiceOf<TurnOrder | 'least' | 'unsaid'>('In the order', CHOICES).default('least'),
  }),
  rows(character, { bones }) {
    const { nodes } = character;
    const farthest = farthestTurns(character, (node) => nodes[node].turnOrder ?? TURN_ORDERS[0]);
    return bones.slice(0, LISTED).flatMap((bone) => {
      const node = nodes[bone];
      return node ? [{ label: node.name, value: orderText(node, farthest.get(bone)), unit: '' }] : [];
    });
  },
  promises: () => promise(['kind']),
  apply(character, { bones, order }): Character {
    const { nodes } = character;
    if (bones.some((bone) => nodes[bone]?.kind !== 'bone'))
      throw new RemedyError('One of these bones is not there any more; choose them again.');
    const wanted = order === 'least' ? leastFor(character, bones) : allThe(order, bones);
    if (wanted.size === 0)
      throw new NothingToDo(
        'No clip turns any of these bones, so that none of their axes turns least; choose an order by name.',
      );
    if ([...wanted].every(([bone, to]) => nodes[bone].turnOrder === to))
      throw new NothingToDo('That is what is said of them already; choose another order.');
    return {
      ...character,
      nodes: nodes.map((node, i) => (wanted.has(i) ? withOrder(node, wanted.get(i)) : node)),
    };
  },
});

const allThe = (order: TurnOrder | 'unsaid', bones: readonly number[]): Map<number, TurnOrder | undefined> =>
  new Map(bones.map((bone) => [bone, order === 'unsaid' ? undefined : order]));

/** An order that is no more than so many degrees worse than the best is as good: one order for many bones is worth more. */
const AS_GOOD = 1;

/** The order that is best for all of them together, and for those that another one suits better, that one. */
function leastFor(character: Character, bones: readonly number[]): Map<number, TurnOrder | undefined> {
  const best = bestOrders(character);
  const turned = bones.filter((bone) => best.has(bone));
  const common = bestOrder(character, new Set(turned)).order;
  const inCommon = farthestTurns(character, () => common);
  return new Map(
    turned.map((bone) => {
      const own = best.get(bone) as OrderAngle;
      const isAsGood = (inCommon.get(bone) ?? 0) <= own.angle + AS_GOOD;
      return [bone, isAsGood ? common : own.order] as const;
    }),
  );
}

function orderText({ turnOrder: order }: SceneNode, angle: number | undefined): string {
  if (!order) return 'not said';
  const words = TURN_ORDER_WORDS[order];
  return angle === undefined ? words : `${words}: the middle one ${angle.toFixed(0)}° at most`;
}

function withOrder({ turnOrder: _before, ...node }: SceneNode, order: TurnOrder | undefined): SceneNode {
  return order ? { ...node, turnOrder: order } : node;
}
