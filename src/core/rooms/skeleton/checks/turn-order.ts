import { number, object } from 'yup';
import type { Character } from '../../../character/model';
import { type Found, type Measured, defineCheck } from '../../../contracts/check';
import { boneElements, theCharacter } from '../../../contracts/finding';
import { choiceOf } from '../../../contracts/params';
import { setting } from '../../../contracts/setting';
import { type Quat, quatConjugate, quatMultiply } from '../../../geometry/matrix';
import { TURN_ORDERS, type TurnOrder, middleAngle } from '../../../geometry/turn-order';

const WORDS = Object.fromEntries(
  TURN_ORDERS.map((order) => [order, order.toUpperCase().split('').join(', ')]),
) as Record<TurnOrder, string>;

/** A game that keeps turns as three angles; null for one that does not. */
const TURNS = object({
  order: choiceOf<TurnOrder>('Turns about', WORDS)
    .required()
    .meta({ bound: 'is', hint: 'The order of the axes; the one in the middle should turn least.' }),
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

/**
 * The farthest that each bone's middle axis turns from rest at the keys of all clips, degrees, for one order: how the bone
 * lies at rest is the skeleton's own affair.
 */
function farthestTurns({ nodes, clips }: Character, order: TurnOrder): Map<number, number> {
  const out = new Map<number, number>();
  const add = (node: number, turn: Quat) =>
    out.set(node, Math.max(out.get(node) ?? 0, Math.abs(middleAngle(turn, order))));
  for (const { channels } of clips)
    for (const { node, path, values, interpolation } of channels) {
      if (path !== 'rotation' || nodes[node].kind !== 'bone') continue;
      const fromRest = quatConjugate(nodes[node].rotation);
      // Of a cubic key the value stands between its two tangents.
      const [first, step] = interpolation === 'CUBICSPLINE' ? [4, 12] : [0, 4];
      for (let i = first; i + 3 < values.length; i += step)
        add(node, quatMultiply(fromRest, [values[i], values[i + 1], values[i + 2], values[i + 3]]));
    }
  return out;
}

const most = (angles: Iterable<number>) => Math.max(0, ...angles);

/** The order whose middle axis turns least over all bones. */
function bestOrder(character: Character): { order: TurnOrder; angle: number } {
  const angles = TURN_ORDERS.map((order) => ({
    order,
    angle: most(farthestTurns(character, order).values()),
  }));
  return angles.reduce((best, other) => (other.angle < best.angle - 1e-9 ? other : best));
}

/** Turns that clips bring near to where three angles lock. */
export const turnOrderCheck = defineCheck({
  id: 'turn-order',
  room: 'skeleton',
  title: 'The order of turns',
  why: 'Three angles lock where the middle one reaches 90°: the bone flips over between two keys, and nobody sees why.',
  advice:
    'Turn the bones’ own axes so that the one that turns least comes in the middle, or agree on another order with the game.',
  settings: object({ turns: TURNS }),
  reads: ['tree', 'names', 'places', 'clips'],
  measures(character): Readonly<Record<string, Measured>> {
    if (character.clips.length === 0) return { 'turns.most': null };
    const { order, angle } = bestOrder(character);
    return { 'turns.order': order, 'turns.most': Math.ceil(angle) };
  },
  run(character, { turns }): Found[] {
    if (!turns) return [];
    const far = [...farthestTurns(character, turns.order)].filter(([, angle]) => angle > turns.most);
    if (far.length === 0) return [];
    const worst = most(far.map(([, angle]) => angle));
    const best = bestOrder(character);
    const names = far.slice(0, 3).map(([node]) => `“${character.nodes[node].name}”`);
    const more = far.length > names.length ? ` and ${far.length - names.length} more` : '';
    return [
      {
        gravity: 'worth',
        subject: theCharacter(character),
        unit: '°',
        count: far.length,
        elements: [boneElements(far.map(([node]) => node))],
        message: `The middle axis of ${far.length === 1 ? 'a bone turns' : `${far.length} bones turns`} up to ${worst.toFixed(0)}° from rest in clips, told in the order ${WORDS[turns.order]}: ${names.join(', ')}${more}`,
        measured: Number(worst.toFixed(1)),
        expected: turns.most,
        evidence: [
          {
            label: `Middle axis, order ${WORDS[turns.order]}`,
            now: Number(worst.toFixed(1)),
            brief: `≤ ${turns.most}`,
            unit: '°',
          },
          {
            label: `The least of all orders, ${WORDS[best.order]}`,
            now: Number(best.angle.toFixed(1)),
            brief: '—',
            unit: '°',
          },
        ],
      },
    ];
  },
});
