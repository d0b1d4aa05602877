/** How a figure bends, in a row for every joint. */
import type { Character } from '../../character/model';
import type { BentJoint, Bending } from '../../contracts/bending';
import type { TrialLimits } from '../../contracts/trials';
import { inWords, trialsOf } from './findings';
import type { JointTrial } from './sweep';

/** All joints that a brief asks for, the one that keeps least of its volume first. */
export function bendingOf(character: Character, limits: TrialLimits): Bending {
  const trials = trialsOf(character, limits);
  const byBone = new Map<number, JointTrial[]>();
  for (const trial of trials)
    byBone.set(trial.motion.bone, [...(byBone.get(trial.motion.bone) ?? []), trial]);
  const joints = [...byBone].map(([bone, own]) => bentJoint(character.nodes[bone].name, own));
  const kept = ({ volume }: BentJoint) => volume?.value ?? Infinity;
  return {
    skinning: limits.skinning,
    motions: trials.length,
    joints: joints.sort((a, b) => kept(a) - kept(b) || b.stretch.value - a.stretch.value),
    limits: { volume: limits.volume, stretch: limits.stretch },
  };
}

function bentJoint(bone: string, trials: readonly JointTrial[]): BentJoint {
  let volume: BentJoint['volume'] = null;
  let stretch: BentJoint['stretch'] = { value: 1, words: '' };
  for (const { motion, samples } of trials)
    for (const sample of samples) {
      const words = () => inWords(motion, sample.degrees);
      if (sample.volume !== null && sample.volume < (volume?.value ?? Infinity))
        volume = { value: sample.volume, words: words() };
      if (sample.stretch > stretch.value) stretch = { value: sample.stretch, words: words() };
    }
  return { bone, volume, stretch };
}
