/** What is handed over, held against what the machine that it is for makes of it. */
import type { Character } from '../character/model';
import type { Compared } from '../rooms/crosswalk/proof';
import { type Received, receive } from '../rooms/docket/receive';
import type { Receiver } from '../rooms/docket/receivers';

/** What arrived, and the same to be proved: from what the motion was taken, to what arrived. */
export interface Arrived extends Received {
  readonly compared: Compared;
}

/** A move as the receiver holds it: source in floats against what arrives. */
export function arrivedFrom(moved: Compared, receiver: Receiver): Arrived {
  const received = receive(moved.character, receiver);
  const partner = received.from.map((n) => moved.partner[n]);
  const now = new Map([...received.from].map((sent, i) => [sent, i]));
  // A node that was dropped is not there to lose anything.
  const trimmed = moved.report.trimmed.flatMap(({ node, vertices }) => {
    const at = now.get(node);
    return at === undefined ? [] : [{ node: at, vertices }];
  });
  return { ...received, compared: { ...moved, character: received.character, partner, report: { trimmed } } };
}

/** A character just as it is, handed over. */
export const arrivedAsItIs = (character: Character, receiver: Receiver): Arrived =>
  arrivedFrom(
    {
      character,
      partner: Int32Array.from(character.nodes, (_, i) => i),
      driver: character,
      model: character,
      report: { trimmed: [] },
    },
    receiver,
  );
