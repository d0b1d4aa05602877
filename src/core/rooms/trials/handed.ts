/** What bends worse than when it was handed over last. */
import type { Character } from '../../character/model';
import type { HandedMotion, HandedRow } from '../../contracts/handed-motion';
import type { TrialLimits } from '../../contracts/trials';
import { worseOf } from './figures';
import { trialsOf } from './findings';
import type { MotionWishes } from './motions';
import type { JointTrial, TrialSample } from './sweep';

/** Figures are kept to this many of one: finer differences are nobody's. */
const KEPT_TO = 10_000;

/** Motions that end so near each other end at the same place, degrees. */
const SAME_END = 0.01;

const kept = (value: number): number => Math.round(value * KEPT_TO) / KEPT_TO;

const endOf = ({ samples }: JointTrial): number => kept(samples[samples.length - 1].degrees);

const worstOf = ({ samples }: JointTrial) =>
  [...samples].reduce<Omit<TrialSample, 'degrees'>>(worseOf, samples[0]);

/** How a character bends, as it is kept when it is handed over. */
export const handedMotionOf = (character: Character, wishes: MotionWishes): HandedMotion => ({
  skinning: wishes.skinning,
  rows: trialsOf(character, wishes).map((trial): HandedRow => {
    const { volume, stretch } = worstOf(trial);
    return {
      bone: character.nodes[trial.motion.bone].name,
      motion: trial.motion.motion,
      to: endOf(trial),
      volume: volume === null ? null : kept(volume),
      stretch: kept(stretch),
    };
  }),
});

/** A motion that bends worse than it did. */
export interface WorseMotion {
  readonly trial: JointTrial;
  /** Where it is worst now. */
  readonly sample: TrialSample;
  readonly before: HandedRow;
  /** What of it got worse: less volume is kept, or skin is stretched further. */
  readonly figure: 'volume' | 'stretch';
  /** By how much, in parts of what is allowed: 1 is just so much. */
  readonly by: number;
}

/** From here on somebody sees it: a twentieth of the volume that a joint has at rest, or a quarter more stretch. */
export const SEEN_VOLUME = 0.05;
export const SEEN_STRETCH = 0.25;

/** A character held against how it bent when it was handed over. */
export interface HeldAgainst {
  /** The motions that bend worse, by joint, the worst of each first. */
  readonly worse: WorseMotion[][];
  /**
   * Motions of then that nothing could be held against: they are skinned otherwise now, or end elsewhere, or their bone is gone
   * or shares its name.
   */
  readonly unheld: number;
}

/** Holds a character against how it bent when it was handed over. */
export function heldAgainst(character: Character, limits: TrialLimits, handed: HandedMotion): HeldAgainst {
  if (handed.skinning !== limits.skinning) return { worse: [], unheld: handed.rows.length };
  const before = new Map<string, HandedRow | null>();
  for (const row of handed.rows) {
    const key = `${row.motion} ${row.bone}`;
    before.set(key, before.has(key) ? null : row);
  }
  const byBone = new Map<number, WorseMotion[]>();
  const held = new Set<HandedRow>();
  for (const trial of trialsOf(character, limits)) {
    const { bone, motion } = trial.motion;
    const earlier = before.get(`${motion} ${character.nodes[bone].name}`);
    if (!earlier || Math.abs(earlier.to - endOf(trial)) > SAME_END) continue;
    held.add(earlier);
    const worse = worseThan(trial, earlier);
    if (worse) byBone.set(bone, [...(byBone.get(bone) ?? []), worse]);
  }
  return {
    worse: [...byBone.values()].map((list) => [...list].sort((a, b) => b.by - a.by)),
    unheld: handed.rows.length - held.size,
  };
}

function worseThan(trial: JointTrial, before: HandedRow): WorseMotion | null {
  const now = worstOf(trial);
  const lost = before.volume === null || now.volume === null ? 0 : (before.volume - now.volume) / SEEN_VOLUME;
  const drawn = (now.stretch - before.stretch) / SEEN_STRETCH;
  const figure = lost >= drawn ? 'volume' : 'stretch';
  const by = Math.max(lost, drawn);
  if (by <= 1) return null;
  const sample = trial.samples.find((one) => one[figure] === now[figure])!;
  return { trial, sample, before, figure, by };
}
