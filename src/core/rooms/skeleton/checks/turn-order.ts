import { number, object } from 'yup';
import type { Character } from '../../../character/model';
import { type Found, type Measured, defineCheck } from '../../../contracts/check';
import { boneElements, theCharacter } from '../../../contracts/finding';
import { choiceOf } from '../../../contracts/params';
import { setting } from '../../../contracts/setting';
import { TURN_ORDER_WORDS, type TurnOrder } from '../../../geometry/turn-order';
import { type OrderOf, bestOrder, bestOrders, farthestTurns, most } from '../turn-orders';

/** Whether the game takes all bones in one order, or each in the one that is said of it. */
const KEPT = { one: 'in that order', own: 'in its own order, where one is said of it' } as const;

/** A game that keeps turns as three angles; null for one that does not. */
const TURNS = object({
  order: choiceOf<TurnOrder>('Turns about', TURN_ORDER_WORDS)
    .required()
    .meta({ bound: 'is', hint: 'The order of the axes; the one in the middle should turn least.' }),
  each: choiceOf<keyof typeof KEPT>('Every bone', KEPT).default('one').meta({
    bound: 'is',
    hint: 'Whether the game takes an order for each bone, as most tools do, or one for all.',
  }),
  most: number()
    .min(0)
    .max(90)
    .required()
    .meta(setting('The middle axis turns at most', 'angle', 'most', 'At 90° the other two axes are one.')),
})
  .nullable()
  .default(null)
  .meta({
    label: 'Turns as three angles',
    hint: 'For games that keep turns so; off where they are kept whole, as glTF keeps them.',
  });

/** Turns that clips bring near to where three angles lock. */
export const turnOrderCheck = defineCheck({
  id: 'turn-order',
  room: 'skeleton',
  title: 'The order of turns',
  why: 'Three angles lock where the middle one reaches 90°: the bone flips over between two keys, and nobody sees why.',
  advice:
    'Turn the bones’ own axes so that the one that turns least comes in the middle, or agree with the game on another order, or on one for each bone.',
  settings: object({ turns: TURNS }),
  reads: ['tree', 'names', 'places', 'clips', 'kind'],
  measures(character): Readonly<Record<string, Measured>> {
    if (character.clips.length === 0) return { 'turns.most': null };
    const { order, angle } = bestOrder(character);
    const orderOf: OrderOf = (node) => character.nodes[node].turnOrder ?? order;
    const asSaid = most(farthestTurns(character, orderOf).values());
    return asSaid < angle
      ? { 'turns.order': order, 'turns.each': 'own', 'turns.most': Math.ceil(asSaid) }
      : { 'turns.order': order, 'turns.each': 'one', 'turns.most': Math.ceil(angle) };
  },
  run(character, { turns }): Found[] {
    if (!turns) return [];
    const orderOf: OrderOf = (node) =>
      turns.each === 'own' ? (character.nodes[node].turnOrder ?? turns.order) : turns.order;
    const farthest = farthestTurns(character, orderOf);
    const far = [...farthest.keys()].filter((node) => (farthest.get(node) ?? 0) > turns.most);
    if (far.length === 0) return [];
    const worst = most(far.map((node) => farthest.get(node) ?? 0));
    const names = far.slice(0, 3).map((node) => `“${character.nodes[node].name}”`);
    const more = far.length > names.length ? ` and ${far.length - names.length} more` : '';
    const which = far.length === 1 ? 'a bone turns' : `${far.length} bones turns`;
    const orders = new Set(far.map(orderOf));
    const told =
      orders.size === 1 ? `in the order ${TURN_ORDER_WORDS[orderOf(far[0])]}` : 'in their own orders';
    return [
      {
        gravity: 'worth',
        subject: theCharacter(character),
        unit: '°',
        count: far.length,
        elements: [boneElements(far)],
        message: `The middle axis of ${which} up to ${worst.toFixed(0)}° from rest in clips, told ${told}: ${names.join(', ')}${more}`,
        measured: Number(worst.toFixed(1)),
        expected: turns.most,
        evidence: [
          {
            label: `Middle axis, ${told}`,
            now: Number(worst.toFixed(1)),
            brief: `≤ ${turns.most}`,
            unit: '°',
          },
          evidenceOfBest(character, turns.each, far),
        ],
        // A game that takes one order for all is not helped by what is said of a bone.
        remedies: turns.each === 'own' ? [{ id: 'turn-order', params: { bones: far, order: 'least' } }] : [],
      },
    ];
  },
});

/** What the best order, or the best ones, would leave. */
function evidenceOfBest(character: Character, each: keyof typeof KEPT, far: readonly number[]) {
  if (each === 'own') {
    const best = bestOrders(character);
    const angle = most(far.map((node) => best.get(node)?.angle ?? 0));
    return {
      label: 'The least, each in its best order',
      now: Number(angle.toFixed(1)),
      brief: '—',
      unit: '°',
    };
  }
  const { order, angle } = bestOrder(character);
  const label = `The least of all orders, ${TURN_ORDER_WORDS[order]}`;
  return { label, now: Number(angle.toFixed(1)), brief: '—', unit: '°' };
}
