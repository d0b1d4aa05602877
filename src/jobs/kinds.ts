/** Every kind of job. A new kind is one file and one line here. */
import type { JobKind } from './job';
import { move } from './kinds/move';

export const KINDS = [move] as const;

export type KindName = (typeof KINDS)[number]['kind'];

/** The newest version of a kind; undefined where there is no such kind. */
export const kindNamed = (kind: string): JobKind | undefined =>
  (KINDS as readonly unknown[] as readonly JobKind[]).find((k) => k.kind === kind);
