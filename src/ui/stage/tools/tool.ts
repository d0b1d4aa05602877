import type { Stage } from '../stage';
import type { Drawing } from '../overlay';

/** Where the pointer is: pixels of the canvas. */
export interface PointerAt {
  readonly x: number;
  readonly y: number;
  readonly shift: boolean;
  readonly alt: boolean;
  /** Of a pen; 1 of anything else. */
  readonly pressure: number;
}

/** What is in the hand. A tool that takes the pointer stops the camera. */
export interface Tool {
  readonly id: string;
  readonly cursor: string;
  /** True where the tool takes the pointer until it is let go. */
  down(at: PointerAt): boolean;
  /** `isHeld`: the tool has the pointer. */
  move(at: PointerAt, isHeld: boolean): void;
  /** Every sample of the pointer while the tool has it, in order, none left out. */
  samples?(ats: readonly PointerAt[]): void;
  up(at: PointerAt): void;
  /** A press that did not become a drag, where the tool did not take the pointer. */
  click?(at: PointerAt): void;
  /** The pointer has left. */
  leave?(): void;
  /** Lets go of what is begun. */
  cancel(): void;
  /** What it draws over the picture. */
  overlay?(): Drawing;
}

export type MakeTool = (stage: Stage) => Tool;
