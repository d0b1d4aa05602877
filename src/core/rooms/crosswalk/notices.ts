/** What there is to say of two skeletons as a whole, before their bones are looked at one by one. */
import { type Crosswalk, leadsToTarget } from '../../anatomy/crosswalk';
import { handednessOf, limbFor, matchSkeletons, saysNothing } from '../../anatomy/match';
import type { Skeleton } from '../../anatomy/skeleton';
import { twinOf } from '../../anatomy/twins';

/** A sentence, and what may be meant instead. */
export interface Notice {
  readonly text: string;
  /** Another reading: a pair that, once set, leads all others to it. */
  readonly other?: { readonly label: string; readonly source: number; readonly target: number };
}

const word = (side: number) => (side > 0 ? 'left' : 'right');

/** A left hand that goes onto a right one, and a hand by itself that goes onto a body. */
export function noticesOf(source: Skeleton, target: Skeleton, crosswalk: Crosswalk): Notice[] {
  if (saysNothing(source, target))
    return [
      {
        text: 'All joints of one of the two hang side by side, and no names say which is which: nothing was paired. Name the bones, or pair them by pointing.',
      },
    ];
  const [mine, theirs] = [handednessOf(source), handednessOf(target)];
  if (mine * theirs < 0)
    return [
      {
        text: `This is a ${word(mine)} hand, and ${target.title} is a ${word(theirs)} one: each finger goes to its like, but the motion of the one is the mirrored motion of the other.`,
      },
    ];
  const held = new Map(
    crosswalk.flatMap((rule) =>
      rule.locked && leadsToTarget(rule) ? [[rule.source, rule.target] as const] : [],
    ),
  );
  const limb = limbFor(source, target, held);
  if (!limb) return untoldSides(source, target, held);
  const is =
    limb.lone === 'source' ? `This ${limb.word} by itself` : `${target.title}, a ${limb.word} by itself,`;
  const known = {
    name: 'by its name',
    shape: 'by its shape',
    person: 'as you have set it',
    guess: 'which nothing tells: please look',
  }[limb.from];
  return [
    {
      text: `${is} is taken for the ${word(limb.side)} one of the body, ${known}.`,
      ...otherSide(limb.side, source, target, crosswalk, limb.lone),
    },
  ];
}

/** Below this nothing tells which side of a figure is which. */
const TOLD = 0.1;

/** Sided pairs from which on sides are worth a word. */
const SIDED = 4;

/** Where neither names nor the figure tell left from right. */
function untoldSides(source: Skeleton, target: Skeleton, held: ReadonlyMap<number, number>): Notice[] {
  const sided = matchSkeletons(source, target, held).filter((pair) => pair.facts && pair.facts.isSided > 0);
  if (sided.length < SIDED || sided.some((pair) => (pair.facts?.facing ?? 1) >= TOLD)) return [];
  const first = sided.find((pair) => twinOf(target, pair.target) >= 0);
  return [
    {
      text: 'Neither the names nor the figure tell which side is left: look at one arm.',
      ...(first && {
        other: {
          label: 'It is the other way round',
          source: first.source,
          target: twinOf(target, first.target),
        },
      }),
    },
  ];
}

/** The same limb on the other side of the body, by the first pair of this one. */
function otherSide(
  side: 1 | -1,
  source: Skeleton,
  target: Skeleton,
  crosswalk: Crosswalk,
  lone: 'source' | 'target',
): Pick<Notice, 'other'> {
  for (const rule of crosswalk) {
    if (!leadsToTarget(rule)) continue;
    const pair =
      lone === 'source'
        ? { source: rule.source, target: twinOf(target, rule.target) }
        : { source: twinOf(source, rule.source), target: rule.target };
    if (pair.source >= 0 && pair.target >= 0)
      return { other: { label: `It is the ${word(-side)} one`, ...pair } };
  }
  return {};
}
