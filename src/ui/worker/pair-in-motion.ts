/** Two revisions turned joint by joint: what bends otherwise, and both in one and the same pose. */
import type { Character } from '@/core/character/model';
import { turnsOfMotion } from '@/core/anatomy/joint-motions';
import { USUAL_LIMITS } from '@/core/contracts/trials';
import type { Brief } from '@/core/house/brief';
import { nodesAfter } from '@/core/house/effects';
import { boundInPose } from '@/core/motion/bound-in-pose';
import { type Listener, tryInPieces } from '@/core/rooms/trials/in-pieces';
import { triedMotions } from '@/core/rooms/trials/motions';
import { type RowChange, rowChanges, seenChanges, trialRows } from '@/core/rooms/trials/rows';
import { type Comparison, compareCharacters } from './compare';

/** What bends otherwise in the second of two revisions, the worst first. */
export interface ChangesInMotion {
  readonly changes: readonly RowChange[];
  /** Motions that both have. */
  readonly count: number;
}

export class PairInMotion {
  /** By node of the second: the same of the first; −1 for none. */
  private readonly nodeBefore: Int32Array;

  constructor(
    readonly first: Character,
    readonly second: Character,
  ) {
    this.nodeBefore = new Int32Array(second.nodes.length).fill(-1);
    nodesAfter(first, second).forEach((to, from) => {
      if (to >= 0) this.nodeBefore[to] = from;
    });
  }

  /** Turns every joint of both; null where it was stopped. */
  async changes({ trials }: Brief, { told, isStopped }: Listener): Promise<ChangesInMotion | null> {
    const limits = trials ?? USUAL_LIMITS;
    const both = [this.first, this.second];
    for (const [i, character] of both.entries()) {
      const listener = { told: (share: number) => told((i + share) / both.length), isStopped };
      if (!(await tryInPieces(character, limits, listener))) return null;
    }
    const [before, after] = both.map((character) => trialRows(character, limits));
    const all = rowChanges(before, after, (node) => this.nodeBefore[node]);
    return { changes: seenChanges(all), count: all.length };
  }

  /** Both in a motion of a joint of the second, laid beside each other; null where one of them does not have it. */
  inMotion(node: number, motion: string, degrees: number, brief: Brief): Comparison | null {
    const posed = [this.first, this.second].map((character, i) => {
      const bone = i === 0 ? this.nodeBefore[node] : node;
      const found = triedMotions(character, brief.trials ?? USUAL_LIMITS).find(
        (one) => one.bone === bone && one.motion === motion,
      );
      return found ? boundInPose(character, turnsOfMotion(found, degrees)) : null;
    });
    const [first, second] = posed;
    return first && second ? compareCharacters(first, second, brief) : null;
  }
}
