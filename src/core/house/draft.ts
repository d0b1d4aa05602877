import type { Character } from '../character/model';
import { NothingToDo, RemedyError } from '../contracts/remedy';
import type { Brief } from './brief';
import { type Patch, checkPatch } from './edit';

interface Done {
  readonly patch: Patch;
  /** Which movement of the hand made it. */
  readonly gesture: number;
  readonly after: Character;
}

/**
 * What the hand does before it is kept: patches on a base revision, with an undo of their own. Patches of one
 * gesture on one thing that follow each other replace each other, so that a drag is one change however many
 * moves it took.
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
    return this.done[this.done.length - 1]?.after ?? this.base;
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

  /** Does a patch. Throws RemedyError where it cannot be done; the draft then stays as it was. */
  put(patch: Patch, gesture: number): void {
    const { remedy, params } = checkPatch(patch);
    const last = this.done[this.done.length - 1];
    const isGoingOn = last?.gesture === gesture && isSameTarget(last.patch, patch);
    const kept = isGoingOn ? this.done.slice(0, -1) : this.done;
    const below = kept[kept.length - 1]?.after ?? this.base;
    const after = this.applied(() => remedy.apply(below, params, this.brief));
    this.done = after ? [...kept, { patch, gesture, after }] : kept;
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

  /** Takes back the last gesture. */
  undo(): void {
    const last = this.done[this.done.length - 1];
    if (!last) throw new RemedyError('There is nothing in the draft to take back.');
    const from = this.done.findIndex((done) => done.gesture === last.gesture);
    this.undone.push(...this.done.splice(from).reverse());
  }

  /** Does the gesture again that was taken back last. */
  redo(): void {
    const next = this.undone[this.undone.length - 1];
    if (!next) throw new RemedyError('There is nothing in the draft to do again.');
    while (this.undone[this.undone.length - 1]?.gesture === next.gesture)
      this.done.push(this.undone.pop() as Done);
  }

  /** What it takes to do it again: the last patch for every thing, in the order in which they were made. */
  patches(): Patch[] {
    return this.done.map((done) => done.patch);
  }
}

function isSameTarget(a: Patch, b: Patch): boolean {
  return a.remedy === b.remedy && a.params.bone === b.params.bone && a.params.node === b.params.node;
}
