/** What is handed over, held against what the machine that it is for makes of it. */
import type { Character } from '../character/model';
import { transferPose } from '../motion/pose';
import { type Compared, carryOf } from '../rooms/crosswalk/proof';
import { type Received, receive } from '../rooms/docket/receive';
import type { Receiver } from '../rooms/docket/receivers';

/** What arrived, and the same to be proved: from what the motion was taken, to what arrived. */
export interface Arrived extends Received {
  readonly compared: Compared;
}

/**
 * A move as the receiver holds it: source in floats against what arrives. What plays there is the motion
 * that was handed over, not one that is fitted to what the receiver has made of the mesh.
 */
export function arrivedFrom(moved: Compared, receiver: Receiver): Arrived {
  const received = receive(moved.character, receiver);
  const { character, from, origins } = received;
  const lost = new Map(moved.report.trimmed.map(({ node, vertices }) => [node, new Set(vertices)]));
  const trimmed = [...from].flatMap((sent, node) => {
    const vertices = lost.get(sent);
    if (!vertices) return [];
    const part = origins.get(node);
    const own = part ? [...part.keys()].filter((vertex) => vertices.has(part[vertex])) : vertices;
    return [{ node, vertices: Uint32Array.from(own) }];
  });
  const carried = carryOf(moved);
  return {
    ...received,
    compared: {
      ...moved,
      character,
      sourceNodeOf: from.map((node) => moved.sourceNodeOf[node]),
      report: { trimmed },
      origins,
      carry: (world) => transferPose(moved.character, carried(world), character, from),
    },
  };
}

/** A character just as it is, handed over. */
export const arrivedAsItIs = (character: Character, receiver: Receiver): Arrived =>
  arrivedFrom(
    {
      character,
      sourceNodeOf: Int32Array.from(character.nodes, (_, i) => i),
      motionSource: character,
      reference: character,
      report: { trimmed: [] },
      carry: (world) => world,
    },
    receiver,
  );
