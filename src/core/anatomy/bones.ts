/** What the bones of a character are, as its names say seen together. */
import type { Character } from '../character/model';
import { looksOf } from './looks';
import type { BoneRole, BodySide } from './reading/read';
import { skeletonOf } from './skeleton';

/** What a bone is. */
export interface BoneMeaning {
  /** Part of the body; '' where the names do not say. */
  readonly part: string;
  readonly side: BodySide;
  readonly kind: BoneRole;
}

const NOTHING: BoneMeaning = { part: '', side: 'middle', kind: 'bone' };

const cache = new WeakMap<Character, ReadonlyMap<number, BoneMeaning>>();

/** What a node of a character is; nothing for one that is no bone. */
export function meaningOf(character: Character, node: number): BoneMeaning {
  let known = cache.get(character);
  if (!known) {
    known = meanings(character);
    cache.set(character, known);
  }
  return known.get(node) ?? NOTHING;
}

function meanings(character: Character): Map<number, BoneMeaning> {
  const skeleton = skeletonOf(character);
  const { readings } = looksOf(skeleton);
  return new Map(
    skeleton.bones.map((bone, i) => {
      const { part, side, kind } = readings[i];
      return [bone.node, { part: part === 'stub' ? '' : part, side: side === '' ? 'middle' : side, kind }];
    }),
  );
}

/** A bone of the body itself: no twist beside it, no tip, nothing that steers or hangs on it. */
export const isBodyBone = ({ part, kind }: BoneMeaning): boolean => part !== '' && kind === 'bone';
