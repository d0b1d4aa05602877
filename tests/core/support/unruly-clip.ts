/** A clip with everything in it that a clip should not have, on any character that has a skin. */
import { ancestorsOf } from '@/core/character/hierarchy';
import type { Channel, Character } from '@/core/character/model';
import { quatAbout, quatMultiply } from '@/core/geometry/matrix';

const RATE = 24;
const FRAMES = 48;
const times = Float32Array.from({ length: FRAMES + 1 }, (_, frame) => frame / RATE);

/** The uppermost node that a joint of the first skin hangs on, or the joint itself. */
function carrierOf({ nodes, skins }: Character): number {
  const joint = skins[0].joints[0];
  return ancestorsOf(nodes, joint).at(-1) ?? joint;
}

/**
 * The character with one clip, “idle loop”: keyed at 24 frames a second, with a key astray, an end that is not its
 * beginning, a way over the ground, a bone that is scaled, and a track on a node that carries nothing.
 */
export function withUnrulyClip(character: Character, astray = 20): Character {
  const joint = character.skins[0].joints.at(-1)!;
  const carrier = carrierOf(character);
  const empty = character.nodes.length;
  const { rotation, scale } = character.nodes[joint];
  const { translation } = character.nodes[carrier];
  const channel = (
    node: number,
    path: Channel['path'],
    valueAt: (frame: number) => readonly number[],
  ): Channel => ({
    node,
    path,
    interpolation: 'LINEAR',
    times,
    values: Float32Array.from([...times.keys()].flatMap((frame) => [...valueAt(frame)])),
  });
  const turnAt = (frame: number) =>
    quatMultiply(
      rotation,
      quatAbout([0, 0, 1], 0.2 * Math.sin(frame / 5) + 0.01 * frame + (frame === astray ? 2 : 0)),
    );
  return {
    ...character,
    nodes: [
      ...character.nodes,
      { ...character.nodes[carrier], name: 'goal of nothing', kind: 'empty', parent: -1, mesh: -1, skin: -1 },
    ],
    clips: [
      {
        name: 'idle loop',
        channels: [
          channel(joint, 'rotation', turnAt),
          channel(carrier, 'translation', (frame) => [
            translation[0] + 0.02 * frame,
            translation[1] + 0.01 * frame,
            translation[2] + 0.03 * frame,
          ]),
          channel(joint, 'scale', (frame) => scale.map((number) => number * (1 + 0.2 * Math.sin(frame / 9)))),
          channel(empty, 'rotation', (frame) => quatAbout([1, 0, 0], frame / 10)),
        ],
      },
    ],
  };
}
