import { distance, type Vec3 } from '../geometry/matrix';
import type { Skeleton } from './skeleton';
import { MEANINGS, type Meaning } from './reading/words';
import { wordsOf } from './reading/tokens';

/** A tree of which more than this share hangs at one place, or nowhere, is none. */
const FLAT = 0.7;

/** Fewer bones than this are no body; of more the way from each to each is not looked for. */
const FEWEST = 8;
const MOST = 2000;

/**
 * The parents of a skeleton whose joints all hang under one node, found from where they lie: the way from the pelvis
 * or the wrist to every joint whose steps, squared, sum to the least (Dijkstra 1959): many short steps along a limb
 * before one that leaps to the next. Null where the tree is one to go by, or where no name says where it begins.
 */
export function parentsFromPlaces(skeleton: Skeleton): Int32Array | null {
  const { bones } = skeleton;
  if (bones.length < FEWEST || bones.length > MOST) return null;
  const holder = holderOf(skeleton);
  const root = beginning(skeleton);
  if (holder === null || root < 0 || root === holder) return null;
  const places = bones.map((bone) => bone.place as Vec3);
  const fingers = bones.map((bone) => fingerOf(bone.name));
  const out = Int32Array.from(bones, (bone) => bone.parent);
  const cost = new Float64Array(bones.length).fill(Infinity);
  const open = new Set(bones.keys());
  open.delete(holder);
  cost[root] = 0;
  out[root] = holder;
  while (open.size > 0) {
    let at = -1;
    for (const i of open) if (at < 0 || cost[i] < cost[at]) at = i;
    open.delete(at);
    for (const i of open) {
      const isOther = fingers[i] && fingers[at] && fingers[i] !== fingers[at];
      const through = cost[at] + (isOther ? OTHER_FINGER : 1) * distance(places[i], places[at]) ** 2;
      if (through >= cost[i]) continue;
      cost[i] = through;
      out[i] = at;
    }
  }
  return out;
}

/** The bone that nearly all others hang under, −1 where they hang under none; null where they hang in a tree. */
function holderOf({ bones }: Skeleton): number | null {
  const under = new Map<number, number>();
  for (const bone of bones) under.set(bone.parent, (under.get(bone.parent) ?? 0) + 1);
  const [holder, most] = [...under].reduce((a, b) => (b[1] > a[1] ? b : a));
  return bones.length >= FEWEST && most >= FLAT * bones.length ? holder : null;
}

/** Whether the joints of a skeleton hang side by side, so that the tree says nothing of what they are. */
export const isFlat = (skeleton: Skeleton): boolean =>
  skeleton.bones.length > 0 && holderOf(skeleton) !== null;

/** No chain leaps from a finger to the next while there is another way. */
const OTHER_FINGER = 100;

const FINGERS: ReadonlySet<string> = new Set<Meaning>([
  'thumb',
  'index',
  'long',
  'middle',
  'ring',
  'little',
  'small',
]);

/** The finger that a name says; undefined where it says none. */
const fingerOf = (name: string) =>
  wordsOf(name)
    .map((word) => MEANINGS.get(word))
    .find((meaning) => meaning !== undefined && FINGERS.has(meaning));

/** The bone that a body or a hand begins with, by its name; −1 where none says so. */
function beginning({ bones }: Skeleton): number {
  for (const meaning of ['pelvis', 'wrist', 'hand'] as const) {
    const named = bones.findIndex((bone) =>
      wordsOf(bone.name).some((word) => MEANINGS.get(word) === meaning),
    );
    if (named >= 0) return named;
  }
  return -1;
}
