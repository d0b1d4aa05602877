/**
 * Every joint of a figure in turn, from rest to the end of each of its motions, with the figures of what bends there. Only what a
 * joint bends is skinned, so that a sweep costs about what lies at the joints and not joints × points.
 */
import { parentBone, restPlace } from '../../character/hierarchy';
import type { Character } from '../../character/model';
import { type JointMotion, boneDirections, jointMotionsOf, turnsOfMotion } from '../../anatomy/joint-motions';
import { posedWorld } from '../../motion/pose';
import { type PoseFigures, poseFigures, worseOf } from './figures';
import { type JointSurface, jointSurfaceOf } from './joint-surface';

/** The figures of a motion at so many degrees. */
export interface TrialSample extends PoseFigures {
  readonly degrees: number;
}

/** One motion of one joint, step by step. */
export interface JointTrial {
  readonly motion: JointMotion;
  /** From rest on; the last is its end. */
  readonly samples: readonly TrialSample[];
}

/** How a sweep is made. */
export interface SweepSettings {
  /** So many poses from rest to the end of a motion. */
  readonly steps: number;
  /** How much of its range a joint uses, 0 to 1. */
  readonly reach: number;
}

const surfaces = new WeakMap<Character, Map<number, JointSurface>>();

/** What bends with a joint; gathered once for a character. */
export function jointSurface(character: Character, bone: number): JointSurface {
  const known = surfaces.get(character) ?? new Map<number, JointSurface>();
  surfaces.set(character, known);
  let surface = known.get(bone);
  if (!surface) known.set(bone, (surface = jointSurfaceOf(character, bone, limbAt(character, bone))));
  return surface;
}

function limbAt(character: Character, bone: number) {
  const directions = boneDirections(character);
  const along = directions.get(bone);
  const above = directions.get(parentBone(character.nodes, bone)) ?? along;
  return along && above ? { place: restPlace(character.nodes, bone), along, above } : null;
}

/** One motion with its figures. */
export function trialOf(
  character: Character,
  motion: JointMotion,
  { steps, reach }: SweepSettings,
): JointTrial {
  const samples: TrialSample[] = [];
  for (let step = 1; step <= steps; step++) {
    const degrees = motion.from + ((motion.degrees - motion.from) * reach * step) / steps;
    samples.push({ degrees, ...figuresAt(character, motion, degrees) });
  }
  return { motion, samples };
}

/** The figures of a motion at so many degrees: the worst of the joints that take part. */
export function figuresAt(character: Character, motion: JointMotion, degrees: number): PoseFigures {
  const world = posedWorld(character, turnsOfMotion(motion, degrees));
  return motion.joints.map(({ bone }) => poseFigures(jointSurface(character, bone), world)).reduce(worseOf);
}

/** Whether a motion bends anything: of a rigid thing there is nothing to say. */
export const bendsFlesh = (character: Character, { joints }: JointMotion): boolean =>
  joints.some(({ bone }) => jointSurface(character, bone).surfaces.length > 0);

/** All motions that bend flesh, with their figures. `told` hears how many of how many are done. */
export function sweepOf(
  character: Character,
  settings: SweepSettings,
  told?: (done: number, of: number) => void,
): JointTrial[] {
  const motions = jointMotionsOf(character).filter((motion) => bendsFlesh(character, motion));
  return motions.map((motion, i) => {
    const trial = trialOf(character, motion, settings);
    told?.(i + 1, motions.length);
    return trial;
  });
}
