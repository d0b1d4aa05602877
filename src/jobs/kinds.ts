/** Every kind of job. A new kind is one file and one line here. */
import type { JobKind } from './job';
import { deliver, goOn, takeIn } from './kinds/arrive';
import { handOverOne, handOverSeveral, print } from './kinds/hand-over';
import { audit, tryBrief } from './kinds/look';
import { move } from './kinds/move';
import { add, edit, remap, remedy } from './kinds/steps';

export const KINDS = [
  takeIn,
  deliver,
  goOn,
  audit,
  remedy,
  edit,
  remap,
  add,
  move,
  handOverOne,
  handOverSeveral,
  print,
  tryBrief,
] as const;

export type KindName = (typeof KINDS)[number]['kind'];

/** All kinds, whatever they ask for. */
export const ALL_KINDS = KINDS as readonly unknown[] as readonly JobKind[];

/** The newest version of a kind; undefined where there is no such kind. */
export const kindNamed = (kind: string): JobKind | undefined =>
  ALL_KINDS.find((otherKind) => otherKind.kind === kind);
