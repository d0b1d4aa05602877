/**
 * “Patrol loop”: a round on deck as a capture leaves it. It is keyed at 60 frames a second, walks off over the ground, does
 * not end where it begins, has the left hand elsewhere for two frames, where its marker was lost, has a thumb whose tip was
 * stretched to reach its marker, and still carries the track of a control.
 */
import { restWorld } from '../core/character/hierarchy';
import type { Channel, Character, Clip } from '../core/character/model';
import { type Vec3, inverseOr, pointThrough } from '../core/geometry/matrix';
import { turningTrack } from './turning';

const RATE = 60;
const SECONDS = 2;
const STRIDES = 2;

/** Metres a second over the ground. */
const PACE = 0.7;

/** Frames at which the marker of the hand was lost, and how far the hand is off there, degrees. */
const LOST = [71, 72];
const LOST_TURN = 120;

/** How far the hips and the trunk have turned by the end, degrees a second. */
const DRIFT = 5;

export function patrol(character: Character, called: (quay: string) => string, control: string): Clip {
  const times = Float32Array.from({ length: RATE * SECONDS + 1 }, (_, frame) => frame / RATE);
  const at = (name: string) => character.nodes.findIndex((node) => node.name === name);
  const turn = (quay: string, axis: Vec3, degreesAt: (seconds: number) => number): Channel =>
    turningTrack(
      character,
      at(called(quay)),
      times,
      axis,
      (seconds) => degreesAt(seconds) + tremor(quay, seconds),
    );
  const swing = (seconds: number) => Math.sin((seconds / SECONDS) * STRIDES * 2 * Math.PI);
  const isLost = (seconds: number) => LOST.includes(Math.round(seconds * RATE));
  const sides = [
    ['lt', 1],
    ['rt', -1],
  ] as const;
  return {
    name: 'patrol loop',
    channels: [
      ...sides.flatMap(([side, sign]) => [
        turn(`leg_upper_${side}`, [1, 0, 0], (seconds) => -24 * sign * swing(seconds)),
        turn(`leg_lower_${side}`, [1, 0, 0], (seconds) => 22 + 18 * sign * swing(seconds + 0.2)),
        turn(`arm_upper_${side}`, [0, 0, 1], () => -64 * sign),
        turn(`arm_lower_${side}`, [0, 1, 0], (seconds) => sign * (-14 - 8 * sign * swing(seconds))),
      ]),
      turn('hand_lt', [1, 0, 0], (seconds) => 6 * swing(seconds) + (isLost(seconds) ? LOST_TURN : 0)),
      turn('spine_3', [0, 1, 0], (seconds) => 5 * swing(seconds) + DRIFT * seconds),
      turn('head', [0, 1, 0], (seconds) => -4 * swing(seconds)),
      walk(character, at(called('pelvis')), times),
      stretched(character, at(called('thumb_3_rt')), times),
      turningTrack(character, at(control), times, [0, 1, 0], (seconds) => 30 * seconds),
    ],
  };
}

/** What a capture trembles by, degrees: the same at every run, another for every bone. */
function tremor(name: string, seconds: number): number {
  const phase = [...name].reduce((sum, letter) => sum + letter.charCodeAt(0), 0);
  return 0.3 * Math.sin(seconds * 97 + phase) * Math.sin(seconds * 31 + 2 * phase);
}

function walk({ nodes }: Character, node: number, times: Float32Array): Channel {
  const world = restWorld(nodes);
  const [x, y, z] = world.subarray(node * 16 + 12, node * 16 + 15);
  const inParent = inverseOr(world, nodes[node].parent * 16);
  const placeAt = (seconds: number): Vec3 => [
    x,
    y - 0.02 * (1 - Math.cos((seconds / SECONDS) * STRIDES * 4 * Math.PI)),
    z + PACE * seconds,
  ];
  return {
    node,
    path: 'translation',
    interpolation: 'LINEAR',
    times,
    values: Float32Array.from([...times].flatMap((seconds) => [...pointThrough(inParent, placeAt(seconds))])),
  };
}

function stretched({ nodes }: Character, node: number, times: Float32Array): Channel {
  const longer = (seconds: number) => 1 + 0.015 * (1 - Math.cos((seconds / SECONDS) * 2 * Math.PI));
  return {
    node,
    path: 'scale',
    interpolation: 'LINEAR',
    times,
    values: Float32Array.from(
      [...times].flatMap((seconds) => nodes[node].scale.map((own) => own * longer(seconds))),
    ),
  };
}
