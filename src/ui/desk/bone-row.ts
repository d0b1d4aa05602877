import type { BoneKind } from '@/core/character/bone-kinds';
import type { Gravity } from '@/core/contracts/finding';

/** What the table says of a bone. */
export interface BoneRow {
  readonly node: number;
  readonly name: string;
  readonly parent: string;
  readonly kind: BoneKind;
  /** From its joint to where it points, metres. */
  readonly length: number;
  readonly weight: number;
  readonly side: 'left' | 'right' | 'middle';
  /** Which of its own axes runs along it: +X … −Z. */
  readonly axis: string;
  /** The sets that hold it. */
  readonly sets: string;
  /** How many findings speak of it, and the gravest of them. */
  readonly open: number;
  readonly gravity: Gravity | null;
}
