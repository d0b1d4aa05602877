import type { Character } from '../character/model';
import { NothingToDo, RemedyError } from '../contracts/remedy';
import type { WeightDelta } from '../rooms/weights/painting';
import { paramsOfStroke } from '../rooms/weights/remedies/brush-weights';
import type { Brief } from './brief';
import { type Patch, checkPatch } from './edit';

/** One thing that the hand did. */
export interface DraftEntry {
  readonly patch: Patch;
  /** Which movement of the hand made it. */
  readonly gesture: number;
  /** What a stroke changed; null for a remedy, which is done again as a whole. */
  readonly delta: WeightDelta | null;
}

interface Done extends DraftEntry {
  /** The character after it; of a stroke made when somebody asks for it. */
  after: Character | null;
}

/**
 * What the hand does before it is kept: patches on a base revision, with one undo for all of them. A remedy's patches of
 * one gesture on one thing replace each other, so that a drag is one change however many moves it took; a stroke is the
 * rows that it changed, and costs no other copy of the character.
 */
export class Draft {
  private done: Done[] = [];
  private undone: Done[] = [];

  constructor(
    readonly base: Character,
    private readonly brief: Brief,
  ) {}

  /** The character as it stands with everything that was done. */
  get character(): Character {
    return this.after(this.done.length);
  }

  /** The character after so many of what was done. Strokes are put on the last character that there is. */
  private after(count: number): Character {
    let known = count;
    while (known > 0 && !this.done[known - 1].after) known--;
    let character = known > 0 ? (this.done[known - 1].after as Character) : this.base;
    for (let i = known; i < count; i++) {
      const { remedy, params } = checkPatch(this.done[i].patch);
      character = remedy.apply(character, params, this.brief);
      this.done[i].after = character;
    }
    return character;
  }

  get isEmpty(): boolean {
    return this.done.length === 0;
  }

  get canRedo(): boolean {
    return this.undone.length > 0;
  }

  /** How many changes there are to take back. */
  get steps(): number {
    return new Set(this.done.map((done) => done.gesture)).size;
  }

  /** The gesture that the next undo takes back is a stroke. */
  get endsInStroke(): boolean {
    return this.done[this.done.length - 1]?.delta != null;
  }

  /** Does a patch. Throws RemedyError where it cannot be done; the draft then stays as it was. */
  put(patch: Patch, gesture: number): void {
    const { remedy, params } = checkPatch(patch);
    const last = this.done[this.done.length - 1];
    const isGoingOn = last?.gesture === gesture && isSameTarget(last.patch, patch);
    const kept = isGoingOn ? this.done.slice(0, -1) : this.done;
    const below = this.after(kept.length);
    const after = this.applied(() => remedy.apply(below, params, this.brief));
    this.done = after ? [...kept, { patch, gesture, delta: null, after }] : kept;
    this.undone = [];
  }

  /** Takes in what a stroke has changed. */
  putStroke(delta: WeightDelta, gesture: number): void {
    const patch = { remedy: 'brush-weights', params: paramsOfStroke(this.base, delta) };
    this.done.push({ patch, gesture, delta, after: null });
    this.undone = [];
  }

  /** What a patch makes; null where it changes nothing, as when a drag comes back to where it began. */
  private applied(work: () => Character): Character | null {
    try {
      return work();
    } catch (error) {
      if (error instanceof NothingToDo) return null;
      throw error;
    }
  }

  /** Takes back the last gesture; gives what was taken back, the last of it first. */
  undo(): readonly DraftEntry[] {
    const last = this.done[this.done.length - 1];
    if (!last) throw new RemedyError('There is nothing in the draft to take back.');
    const from = this.done.findIndex((done) => done.gesture === last.gesture);
    const back = this.done.splice(from).reverse();
    this.undone.push(...back);
    return back;
  }

  /** Does the gesture again that was taken back last; gives what was done again, in its order. */
  redo(): readonly DraftEntry[] {
    const next = this.undone[this.undone.length - 1];
    if (!next) throw new RemedyError('There is nothing in the draft to do again.');
    const again: Done[] = [];
    while (this.undone[this.undone.length - 1]?.gesture === next.gesture)
      again.push(this.undone.pop() as Done);
    this.done.push(...again);
    return again;
  }

  /** What it takes to do it again: the last patch for every thing, in the order in which they were made. */
  patches(): Patch[] {
    return this.done.map((done) => done.patch);
  }
}

function isSameTarget(a: Patch, b: Patch): boolean {
  return a.remedy === b.remedy && a.params.bone === b.params.bone && a.params.node === b.params.node;
}
