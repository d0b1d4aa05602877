/**
 * Every joint of a figure in turn, from rest to the end of each of its motions, with the figures of what bends there. Only what a
 * joint bends is skinned, so that a sweep costs about what lies at the joints and not joints × points.
 */
import { parentBone, restPlace } from '../../character/hierarchy';
import type { Character } from '../../character/model';
import { type JointMotion, boneDirections, turnsOfMotion } from '../../anatomy/joint-motions';
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

/** So many poses from rest to the end of every motion. */
export const STEPS = 4;

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
export function trialOf(character: Character, motion: JointMotion): JointTrial {
  const samples: TrialSample[] = [];
  for (let step = 1; step <= STEPS; step++) {
    const degrees = motion.from + ((motion.degrees - motion.from) * step) / STEPS;
    samples.push({ degrees, ...figuresAt(character, motion, degrees) });
  }
  return { motion, samples };
}

/** The joints at which the figures of a motion are told. */
export const toldAt = ({ at, joints }: JointMotion): readonly number[] =>
  at ?? joints.map(({ bone }) => bone);

/** The figures of a motion at so many degrees: the worst of the joints that they are told at. */
export function figuresAt(character: Character, motion: JointMotion, degrees: number): PoseFigures {
  const world = posedWorld(character, turnsOfMotion(motion, degrees));
  return toldAt(motion)
    .map((bone) => poseFigures(jointSurface(character, bone), world, motion.skinning))
    .reduce(worseOf);
}

/** Whether a motion bends anything: of a rigid thing there is nothing to say. */
export const bendsFlesh = (character: Character, motion: JointMotion): boolean =>
  toldAt(motion).some((bone) => jointSurface(character, bone).surfaces.length > 0);

/** Those motions that bend flesh, with their figures. */
export const sweepOf = (character: Character, motions: readonly JointMotion[]): JointTrial[] =>
  motions.filter((motion) => bendsFlesh(character, motion)).map((motion) => trialOf(character, motion));
