/**
 * How a figure stands when a person turns its bones: every bone by a rotation in its own frame, after its parents, so that
 * a hand keeps its turn when the arm is turned too. Angles are told about the bone's axes at rest.
 */
import { restLocals, restWorld, topDown } from '../character/hierarchy';
import type { Character } from '../character/model';
import { decompose, multiply, quatAbout, quatConjugate, quatMultiply, quatRotate } from '../geometry/matrix';

/** Turns by node: unit quaternions (x y z w) in the frame that the bone has at rest. */
export type OwnTurns = ReadonlyMap<number, readonly number[]>;

/** About which axes degrees are told: those of the bone at rest, or those of the world. */
export type TurnAxes = 'own' | 'world';

const AXES = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
] as const;

/**
 * World matrices (16 per node) of a character whose bones are turned in their own frames, from how they stand by
 * `locals` (16 per node): at rest where nothing is said.
 */
export function ownPosedWorld(
  character: Character,
  turns: OwnTurns,
  locals: Float64Array = restLocals(character.nodes),
): Float64Array {
  const world = new Float64Array(locals.length);
  const turned = new Float64Array(16);
  for (const i of topDown(character.nodes)) {
    const local = locals.subarray(i * 16, i * 16 + 16);
    const turn = turns.get(i);
    turned.set(local);
    if (turn)
      for (let column = 0; column < 3; column++) {
        // The columns of the product are those of the local matrix, mixed as the rotation's columns say.
        const axis = quatRotate(turn, AXES[column]);
        for (let row = 0; row < 3; row++)
          turned[column * 4 + row] =
            local[row] * axis[0] + local[4 + row] * axis[1] + local[8 + row] * axis[2];
      }
    const { parent } = character.nodes[i];
    if (parent < 0) world.set(turned, i * 16);
    else multiply(world, i * 16, world, parent * 16, turned, 0);
  }
  return world;
}

/** The turns, by node, that bring bones from rest to how they stand by local matrices (16 per node). */
export function turnsOfLocals(character: Character, locals: Float64Array): Map<number, readonly number[]> {
  const rest = restLocals(character.nodes);
  const turns = new Map<number, readonly number[]>();
  character.nodes.forEach(({ kind }, i) => {
    if (kind !== 'bone') return;
    const turn = quatMultiply(
      quatConjugate(decompose(rest, i * 16).rotation),
      decompose(locals, i * 16).rotation,
    );
    if (Math.hypot(turn[0], turn[1], turn[2]) > NO_TURN) turns.set(i, turn);
  });
  return turns;
}

/** Sine of half an angle that nobody sees. */
const NO_TURN = 1e-6;

/** The rotation of a node in the world, at rest. */
export const restRotation = (character: Character, node: number): readonly number[] =>
  decompose(restWorld(character.nodes), node * 16).rotation;

/** A turn of so many degrees about x, then y, then z, as a rotation in the bone's own frame. */
export function turnOfDegrees(
  degrees: readonly number[],
  axes: TurnAxes,
  restRotationOfBone: readonly number[],
): readonly number[] {
  const turn = degrees.reduce<readonly number[]>(
    (made, angle, axis) => quatMultiply(quatAbout(AXES[axis], (angle * Math.PI) / 180), made),
    [0, 0, 0, 1],
  );
  return axes === 'own' ? turn : inOwnFrame(turn, restRotationOfBone);
}

/** A rotation about axes of the world as one in the frame that a bone has at rest. */
export const inOwnFrame = (turn: readonly number[], rest: readonly number[]): readonly number[] =>
  quatMultiply(quatMultiply(quatConjugate(rest), turn), rest);

/** Degrees about x, then y, then z that make a rotation; where y is at ±90° the whole of the rest is told about x. */
export function degreesOfTurn(
  turn: readonly number[],
  axes: TurnAxes,
  rest: readonly number[],
): [number, number, number] {
  const [x, y, z, w] = axes === 'own' ? turn : quatMultiply(quatMultiply(rest, turn), quatConjugate(rest));
  const sine = Math.max(-1, Math.min(1, 2 * (w * y - x * z)));
  const about = (radians: number) => (radians * 180) / Math.PI;
  if (Math.abs(sine) > 1 - 1e-9) return [about(2 * Math.atan2(x, w)), 90 * Math.sign(sine), 0];
  return [
    about(Math.atan2(2 * (w * x + y * z), 1 - 2 * (x * x + y * y))),
    about(Math.asin(sine)),
    about(Math.atan2(2 * (w * z + x * y), 1 - 2 * (y * y + z * z))),
  ];
}

/**
 * The turn of the bone on the other side that is the mirror image of one, across the plane x = 0 of the world; both as
 * rotations in their own frames at rest.
 */
export function mirroredTurn(
  turn: readonly number[],
  rest: readonly number[],
  restOfTwin: readonly number[],
): readonly number[] {
  const [x, y, z, w] = quatMultiply(quatMultiply(rest, turn), quatConjugate(rest));
  return inOwnFrame([x, -y, -z, w], restOfTwin);
}

/**
 * The turn that a bone has after it was turned about an axis of the world from how it stands in a pose.
 * `world`: matrices of that pose; `locals`: those that its turns came on; 16 per node.
 */
export function turnedFurther(
  character: Character,
  { world, locals }: { readonly world: Float64Array; readonly locals: Float64Array },
  node: number,
  axis: readonly number[],
  radians: number,
): readonly number[] {
  const { parent } = character.nodes[node];
  const local = decompose(locals, node * 16).rotation;
  const above = parent < 0 ? [0, 0, 0, 1] : decompose(world, parent * 16).rotation;
  const now = decompose(world, node * 16).rotation;
  const wanted = quatMultiply(quatAbout(axis, radians), now);
  return quatMultiply(quatConjugate(quatMultiply(above, local)), wanted);
}
