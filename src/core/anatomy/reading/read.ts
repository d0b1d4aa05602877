/**
 * What the names of a whole skeleton say. A name alone leaves much open: what all names share says nothing, a
 * letter stands for a side only where its other is there, “leg” is the shin where there is a thigh as well.
 */
import type { SkeletonShape } from '../shape';
import type { Skeleton } from '../skeleton';
import { closesChain } from './closing';
import { wordsOf } from './tokens';
import { FRONT_WORDS, HIND_WORDS, MEANINGS, type Meaning, SIDE_LETTERS } from './words';

export type BodySide = 'left' | 'right' | 'middle';

/** `attach`: carries no flesh and is there for things to be held by the figure. */
export type BoneRole = 'bone' | 'twist' | 'end' | 'control' | 'helper' | 'cloth' | 'attach';

/** What the name of a bone says, seen with all the others. */
export interface BoneReading {
  /** Part of the body; '' where the name does not say. */
  readonly part: string;
  /** '' where no name tells sides at all. */
  readonly side: BodySide | '';
  readonly kind: BoneRole;
  /** Words that say something and are no side and no number. */
  readonly words: readonly string[];
  /** The words with their numbers, without the side: the same for both sides. */
  readonly stem: string;
  /** Numbers of the name, in order. */
  readonly numbers: readonly number[];
}

const isSideWord = (word: string) => MEANINGS.get(word) === 'left' || MEANINGS.get(word) === 'right';
const isNumber = (word: string) => /^\p{Nd}+$/u.test(word);
const numberOf = (word: string) => Number(word);

/** Words that more than this share of the bones have say nothing about one of them. */
const SHARED = 0.6;

/** The same for a word: a hand by itself is nearly all fingers, and of a body with one hand most bones are of one side. */
function shareOf(word: string, all: ReadonlyMap<string, number>): number {
  if (MEANINGS.get(word) === 'finger' || otherSideOf(word).some((other) => all.has(other))) return 1;
  return isNumber(word) ? 0.9 : SHARED;
}

/** The words and letters for the other side than a word says; none for one that says no side. */
function otherSideOf(word: string): readonly string[] {
  const letters = SIDE_LETTERS.flatMap(([left, right]) => {
    if (word === left) return [right];
    return word === right ? [left] : [];
  });
  if (!isSideWord(word)) return letters;
  const other = MEANINGS.get(word) === 'left' ? 'right' : 'left';
  return [...letters, ...[...MEANINGS].flatMap(([text, meaning]) => (meaning === other ? [text] : []))];
}

/** Reads all names of a skeleton together. */
export function readSkeleton(skeleton: Skeleton, shape: SkeletonShape): BoneReading[] {
  const written = skeleton.bones.map((bone) => wordsOf(bone.name));
  const words = withoutShared(withoutGluedSide(written));
  const { sides, rest } = findSides(words, shape);
  const meanings = rest.map((list) => withoutEnds(list).map((end) => MEANINGS.get(end)));
  const kinds = meanings.map(kindOf);
  markAttachPoints(skeleton, meanings, shape, kinds);
  markClosing(skeleton, written, kinds);
  const parts = partsOf(rest, meanings, kinds, sides, shape);
  const tellsSides = sides.some((side) => side === 'left' || side === 'right');
  rest.forEach((list, i) => {
    // A French hand has a side; what is called main in the middle of it all is the root.
    const isMiddle = tellsSides && sides[i] === 'middle' && shape.size[i] > 0.5 * shape.count;
    if (parts[i] === 'hand' && list.includes('main') && isMiddle) parts[i] = 'root';
  });
  return rest.map((list, i) => ({
    part: parts[i],
    side: sides[i],
    kind: kinds[i],
    words: list.filter((word, k) => !isNumber(word) && !EMPTY.has(meanings[i][k] as Meaning)),
    stem: list.join(' '),
    numbers: list.filter(isNumber).map(numberOf),
  }));
}

/** Meanings of words for what legs and arms are made of. */
const OF_LIMBS: ReadonlySet<Meaning> = new Set<Meaning>([
  'upperarm',
  'lowerarm',
  'hand',
  'upperleg',
  'lowerleg',
  'foot',
  'toe',
  'leg',
  'hip',
  'shoulder',
  'elbow',
  'wrist',
  'knee',
  'ankle',
  'ball',
  'collar',
]);

/** “back” and “fore” say which leg of a beast it is, where the name is that of a leg; no part of a back, and none lower. */
function withoutEnds(words: readonly string[]): readonly string[] {
  const ofLimb = words.some((word) => OF_LIMBS.has(MEANINGS.get(word) as Meaning));
  return ofLimb ? words.map((word) => (word === 'back' || word === 'fore' ? '' : word)) : words;
}

/** Meanings that tell nothing about which bone it is. */
const EMPTY: ReadonlySet<Meaning> = new Set<Meaning>(['joint', 'centre']);

/** The letter of a side that is glued to every name of a limb by itself (“lindex”); '' for none. */
export function gluedSide(words: readonly (readonly string[])[]): '' | 'l' | 'r' {
  const firsts = words.map((word) => word[0] ?? '');
  const count = (of: (word: string) => boolean) => firsts.filter(of).length / Math.max(1, firsts.length);
  const isGlued = (letter: string) =>
    count((word) => word.startsWith(letter)) === 1 &&
    count((word) => MEANINGS.has(word.slice(1))) > 0.5 &&
    count((word) => MEANINGS.has(word)) < 0.2;
  return (['l', 'r'] as const).find(isGlued) ?? '';
}

const withoutGluedSide = (words: readonly (readonly string[])[]): readonly (readonly string[])[] =>
  gluedSide(words) ? words.map(([first, ...rest]) => [first.slice(1), ...rest]) : words;

function withoutShared(words: readonly (readonly string[])[]): string[][] {
  if (words.length < 6) return words.map((word) => [...word]);
  const count = new Map<string, number>();
  for (const list of words) for (const word of new Set(list)) count.set(word, (count.get(word) ?? 0) + 1);
  const shared = new Set(
    [...count].filter(([word, times]) => times > shareOf(word, count) * words.length).map(([word]) => word),
  );
  if (shared.size === 0) return words.map((word) => [...word]);
  // What is shared is taken off once a name, so that “hand_hand” keeps a hand.
  return words.map((list) => {
    const gone = new Set<string>();
    return list.filter((word) => {
      if (!shared.has(word) || gone.has(word)) return true;
      gone.add(word);
      return false;
    });
  });
}

/** A way to tell sides: words or letters that stand for the two. */
interface Token {
  readonly left: string;
  readonly right: string;
  /** Whether it is known which of the two is left. */
  readonly known: boolean;
}

/** Sides by the words that say them, then by letters and words whose exchange gives another name. */
function findSides(
  words: readonly string[][],
  shape: SkeletonShape,
): { sides: (BodySide | '')[]; rest: string[][] } {
  const sides: (BodySide | '')[] = words.map(() => '');
  const rest = words.map((list, i) => {
    const at = list.findIndex(isSideWord);
    if (at < 0) return [...list];
    sides[i] = MEANINGS.get(list[at]) as BodySide;
    return list.filter((_, k) => k !== at);
  });
  // “sol” or “sin” may be anything where the other side is nowhere said; “left” is left.
  const isPlain = words.some((list) => list.some((word) => word.length > 3 && isSideWord(word)));
  const both = isPlain || (sides.includes('left') && sides.includes('right'));
  if (!both)
    words.forEach((list, i) => {
      sides[i] = '';
      rest[i] = [...list];
    });
  // Some write both: “LeftArm”, “LThumb”. Beside words only letters that are known to be sides count.
  const open = rest.map((list, i) => (sides[i] === '' ? list : []));
  for (const token of tokensOfSides(open, shape)) {
    if (both && !token.known) continue;
    if (takeToken(open, sides, token) === 0) continue;
    open.forEach((list, i) => {
      if (list.length > 0) rest[i] = list;
    });
    break;
  }
  const any = sides.some((side) => side !== '');
  return { sides: sides.map((side) => (side === '' && any ? 'middle' : side)), rest };
}

/** Front and hind are exchanged as sides are, and are none. */
const isOfEnd = (word: string) => FRONT_WORDS.includes(word) || HIND_WORDS.includes(word);

/** Tokens whose exchange turns names into other names, most names first. */
function tokensOfSides(words: readonly string[][], shape: SkeletonShape): Token[] {
  const votes = new Map<string, { n: number; twins: number; a: string; b: string }>();
  const seen = new Map<string, { word: string; bone: number }[]>();
  words.forEach((list, bone) =>
    list.forEach((word, k) => {
      if (isNumber(word)) return;
      const put = (mask: string, part: string) => {
        const key = [...list.slice(0, k), mask, ...list.slice(k + 1)].join(' ');
        const others = seen.get(key) ?? [];
        for (const other of others) {
          if (other.word === part) continue;
          const [a, b] = [other.word, part].sort();
          const vote = votes.get(`${a} ${b}`) ?? { n: 0, twins: 0, a, b };
          vote.n++;
          if (shape.twin[bone] === other.bone) vote.twins++;
          votes.set(`${a} ${b}`, vote);
        }
        others.push({ word: part, bone });
        seen.set(key, others);
      };
      put('*', word);
      if (word.length > 2) {
        put(`^${word.slice(1)}`, `^${word[0]}`);
        put(`${word.slice(0, -1)}$`, `${word.at(-1)}$`);
      }
    }),
  );
  const bare = (text: string) => text.replace(/[\^$]/g, '');
  return [...votes.values()]
    .filter(
      (vote) =>
        vote.n >= 3 && (vote.twins >= 0.4 * vote.n || orderOfLetters(bare(vote.a), bare(vote.b)) !== 0),
    )
    .filter(
      (vote) => !(MEANINGS.has(vote.a) && MEANINGS.has(vote.b)) && !(isOfEnd(vote.a) && isOfEnd(vote.b)),
    )
    .sort((x, y) => y.twins + 0.5 * y.n - (x.twins + 0.5 * x.n))
    .map((vote) => {
      const order = orderOfLetters(bare(vote.a), bare(vote.b));
      return order < 0
        ? { left: vote.b, right: vote.a, known: true }
        : { left: vote.a, right: vote.b, known: order > 0 };
    });
}

/** 1 where the first of two tokens is known to be left of the second, −1 the other way round, 0 unknown. */
function orderOfLetters(a: string, b: string): number {
  if (SIDE_LETTERS.some(([line, role]) => line === a && role === b)) return 1;
  return SIDE_LETTERS.some(([line, role]) => line === b && role === a) ? -1 : 0;
}

/** Takes the token off the names that have it; gives how many there were. Unknown ones only tell twins. */
function takeToken(rest: string[][], sides: (BodySide | '')[], token: Token): number {
  const counterpart = new Set(rest.map((words) => words.join(' ')));
  let hits = 0;
  const result = rest.map((list): { list: string[]; side: BodySide } | null => {
    for (let k = 0; k < list.length; k++)
      for (const [side, mine, other] of [
        ['left', token.left, token.right],
        ['right', token.right, token.left],
      ] as const) {
        const without = takeOff(list[k], mine);
        if (without === null) continue;
        const swapped = [...list.slice(0, k), putOn(without, other), ...list.slice(k + 1)].join(' ');
        if (!counterpart.has(swapped)) continue;
        hits++;
        return { list: [...list.slice(0, k), ...(without ? [without] : []), ...list.slice(k + 1)], side };
      }
    return null;
  });
  result.forEach((known, i) => {
    const row = known ?? (hits >= MANY ? loneToken(rest[i], token) : null);
    if (!row) return;
    rest[i] = row.list.flatMap((name) => (MEANINGS.has(name) || isNumber(name) ? [name] : wordsOf(name)));
    if (token.known) sides[i] = row.side;
  });
  return hits;
}

/** So many names that tell sides by a token make sure that it does in a name whose other is not there. */
const MANY = 6;

/** A token that stands as a word of its own in a name without a counterpart. */
function loneToken(list: readonly string[], token: Token): { list: string[]; side: BodySide } | null {
  for (const side of ['left', 'right'] as const) {
    const at = list.indexOf(token[side]);
    if (at >= 0) return { list: list.filter((_, k) => k !== at), side };
  }
  return null;
}

function takeOff(word: string, token: string): string | null {
  if (token.startsWith('^')) return word.length > 2 && word.startsWith(token.slice(1)) ? word.slice(1) : null;
  if (token.endsWith('$')) return word.length > 2 && word.endsWith(token[0]) ? word.slice(0, -1) : null;
  return word === token ? '' : null;
}

const takenFrom = (token: string) => token.replace(/[\^$]/g, '');

function putOn(without: string, token: string): string {
  if (token.startsWith('^')) return takenFrom(token) + without;
  if (token.endsWith('$')) return without + takenFrom(token);
  return token;
}

function kindOf(meanings: readonly (Meaning | undefined)[]): BoneRole {
  for (const kind of ['control', 'twist', 'helper', 'cloth', 'end'] as const)
    if (meanings.includes(kind)) return kind;
  return 'bone';
}

/**
 * Bones that things are held by: called after what is held, without flesh of their own, and with nothing below but
 * their like. “shield_arm” is no arm.
 */
function markAttachPoints(
  { bones }: Skeleton,
  meanings: readonly Said[],
  { children }: SkeletonShape,
  kinds: BoneRole[],
): void {
  const isFree = (i: number) => !(bones[i].weight > 0) && meanings[i].includes('attach');
  const isAttach = (i: number): boolean => isFree(i) && children[i].every(isAttach);
  bones.forEach((_, i) => {
    if (isAttach(i)) kinds[i] = 'attach';
  });
}

/** Bones without flesh that close their chains by a word of the skeleton’s own. */
function markClosing({ bones }: Skeleton, words: readonly (readonly string[])[], kinds: BoneRole[]): void {
  const parents = bones.map((bone) => bone.parent);
  closesChain(words, parents).forEach((closes, i) => {
    if (closes && kinds[i] === 'bone' && !(bones[i].weight > 0)) kinds[i] = 'end';
  });
}

const WHOLE: ReadonlySet<Meaning> = new Set<Meaning>([
  'root',
  'pelvis',
  'spine',
  'chest',
  'neck',
  'head',
  'jaw',
  'eye',
  'ear',
  'collar',
  'upperarm',
  'lowerarm',
  'hand',
  'upperleg',
  'lowerleg',
  'foot',
  'toe',
  'tail',
  'wing',
]);
const FINGERS: ReadonlySet<Meaning> = new Set<Meaning>(['thumb', 'index', 'long', 'ring', 'little']);

const isAmbiguous = (meaning: Meaning | undefined) => meaning === 'ring' || meaning === 'long';

type Said = readonly (Meaning | undefined)[];

/** Parts by what the words mean together, and by what the other bones are called. */
function partsOf(
  rest: readonly string[][],
  meanings: readonly Said[],
  kinds: readonly BoneRole[],
  sides: readonly (BodySide | '')[],
  shape: SkeletonShape,
): string[] {
  const isBone = (i: number) => kinds[i] === 'bone' || kinds[i] === 'twist' || kinds[i] === 'end';
  // “ring” and the like are fingers where no strange word stands beside them (a lantern’s ring).
  const isStray = (i: number) =>
    meanings[i].some(isAmbiguous) && rest[i].some((word) => !isNumber(word) && !MEANINGS.has(word));
  const first = meanings.map((meaning, i) => (isBone(i) && !isStray(i) ? plainPart(meaning) : ''));
  const out = resolveLimbs(first, kinds, sides, shape);
  resolveFingers(out, rest, meanings, sides, shape);
  resolveTrunk(out, kinds, shape);
  return out;
}

/** What one name's words say together; ambiguous words stay as they are, with a question mark. */
function plainPart(reading: Said): string {
  // A weapon that carries flesh is still no arm.
  if (reading.includes('attach')) return '';
  const has = (...meanings: Meaning[]) => meanings.some((meaning) => reading.includes(meaning));
  const finger = reading.find((meaning) => meaning && FINGERS.has(meaning));
  if (has('toe') || (has('foot') && finger)) return 'toe';
  // “hand middle” names a finger by the hand that it is of.
  if (has('hand') && has('ring')) return 'ring';
  if (has('hand') && has('middle')) return 'long';
  if (has('hand') && has('small')) return 'little';
  if (finger)
    return has('arm', 'leg', 'wing', 'tail', 'spine') ? '' : `${finger}${has('metacarpal') ? ' 0' : ''}`;
  if (has('finger') || has('metacarpal')) return 'finger?';
  // “leg_foot” is the foot of a leg.
  if (has('leg') && has('foot')) return 'foot';
  if (has('arm') && has('hand')) return 'hand';
  if (has('arm')) {
    if (has('lower') || has('elbow')) return 'lowerarm';
    return has('upper', 'shoulder') ? 'upperarm' : 'arm?';
  }
  if (has('leg')) {
    if (has('lower') || has('knee')) return 'lowerleg';
    return has('upper', 'hip') ? 'upperleg' : 'leg?';
  }
  for (const x of ['elbow', 'wrist', 'knee', 'ankle', 'ball', 'shoulder', 'hip'] as const)
    if (has(x) && !reading.some((meaning) => meaning && WHOLE.has(meaning))) return `${x}?`;
  const whole = reading.find((meaning) => meaning && WHOLE.has(meaning));
  return whole ?? '';
}

/** Limbs named by their joints or by their lengths, told apart as a whole. */
function resolveLimbs(
  first: readonly string[],
  kinds: readonly BoneRole[],
  sides: readonly (BodySide | '')[],
  shape: SkeletonShape,
): string[] {
  // A twist or a tip is called after its limb and is none itself.
  const limbs = first.map((part, i) => (kinds[i] === 'bone' ? part : ''));
  const all = new Set(limbs);
  const has = (...x: string[]) => x.some((y) => all.has(y));
  const ancestors = function* (i: number) {
    for (let parent = shape.parents[i]; parent >= 0; parent = shape.parents[parent]) yield parent;
  };
  const above = (i: number, ...x: string[]) =>
    [...ancestors(i)].some((ancestor) => x.includes(limbs[ancestor]));
  const knowsLowerArm = has('lowerarm', 'elbow?');
  const knowsUpperLeg = has('upperleg');
  const knowsLowerLeg = has('lowerleg', 'knee?');
  return first.map((part, i) => {
    switch (part) {
      case 'arm?':
        if (knowsLowerArm) return has('upperarm') ? 'collar' : 'upperarm';
        return has('upperarm') || above(i, 'arm?') ? 'lowerarm' : 'upperarm';
      case 'leg?':
        if (knowsUpperLeg) return knowsLowerLeg ? '' : 'lowerleg';
        return !knowsLowerLeg && above(i, 'leg?') ? 'lowerleg' : 'upperleg';
      case 'shoulder?':
        if (above(i, 'shoulder?')) return 'upperarm';
        if (has('collar')) return has('upperarm', 'arm?') ? '' : 'upperarm';
        if (has('upperarm', 'arm?')) return 'collar';
        return !knowsLowerArm || hasBelow(limbs, shape, i, 'shoulder?') ? 'collar' : 'upperarm';
      case 'hip?':
        if (hasBelow(limbs, shape, i, 'hip?')) return 'stub';
        if (sides[i] !== 'left' && sides[i] !== 'right' && shape.side[i] === 0) return 'pelvis';
        return has('upperleg', 'leg?') ? 'stub' : 'upperleg';
      case 'elbow?':
        return has('lowerarm') ? '' : 'lowerarm';
      case 'knee?':
        return has('lowerleg') || (has('leg?') && knowsUpperLeg) ? '' : 'lowerleg';
      case 'wrist?':
        if (!has('hand')) return 'hand';
        return !above(i, 'hand') && hasBelow(limbs, shape, i, 'hand') ? 'hand' : '';
      case 'hand':
        return above(i, 'wrist?') ? '' : 'hand';
      case 'ankle?':
        return 'foot';
      case 'foot':
        if (!above(i, 'ankle?')) return 'foot';
        return has('toe', 'ball?') ? '' : 'toe';
      case 'ball?':
        return 'toe';
      case 'toe':
        return above(i, 'ball?') ? '' : 'toe';
      default:
        return part === 'chest' ? 'chest' : part;
    }
  });
}

function hasBelow(parts: readonly string[], shape: SkeletonShape, i: number, part: string): boolean {
  const stack = [...shape.children[i]];
  while (stack.length > 0) {
    const child = stack.pop() as number;
    if (parts[child] === part) return true;
    stack.push(...shape.children[child]);
  }
  return false;
}

const BY_NUMBER = ['thumb', 'index', 'long', 'ring', 'little'];

/**
 * Fingers: words such as “middle” count where other fingers are named too; fingers that are only numbered are
 * those five in the order of their numbers, where there are five.
 */
function resolveFingers(
  parts: string[],
  rest: readonly string[][],
  meanings: readonly Said[],
  sides: readonly (BodySide | '')[],
  shape: SkeletonShape,
): void {
  // “middle” and “small” beside a finger’s name, or under a hand.
  const knowsFingers = parts.some((part) => /^(thumb|index|ring|little)/.test(part));
  const isUnderHand = (i: number): boolean => {
    const above = shape.parents[i];
    if (above < 0) return false;
    // A finger of several bones is under its hand from its first bone on.
    return parts[above] === 'hand' || (['', 'long', 'little'].includes(parts[above]) && isUnderHand(above));
  };
  parts.forEach((part, i) => {
    if (part !== '' && part !== 'finger?') return;
    const meaning = meanings[i];
    let word = meaning.includes('small') ? 'little' : '';
    if (meaning.includes('middle')) word = 'long';
    const isFinger = meaning.includes('finger') || (knowsFingers && shape.fan[i] >= 0) || isUnderHand(i);
    if (word && isFinger) parts[i] = word;
  });
  const groups = new Map<string, number[]>();
  const fingers = parts.filter(
    (part, i) => part === 'finger?' && parts[shape.parents[i]] !== 'finger?',
  ).length;
  parts.forEach((part, i) => {
    if (part !== 'finger?') return;
    // Five in all are the fingers of one hand, whatever of them looks like a twin of what.
    const key = fingers <= BY_NUMBER.length ? '' : `${sides[i]}/${shape.side[i]}`;
    groups.set(key, [...(groups.get(key) ?? []), i]);
  });
  for (const group of groups.values()) {
    const inGroup = new Set(group);
    const bases = group.filter((i) => !inGroup.has(shape.parents[i]));
    const key = (i: number) => rest[i].filter(isNumber).join('.');
    const sorted = bases.sort((a, b) => key(a).localeCompare(key(b), 'en', { numeric: true }));
    const chainName = (base: number, name: string) => {
      const stack = [base];
      while (stack.length > 0) {
        const child = stack.pop() as number;
        if (!inGroup.has(child)) continue;
        parts[child] = name;
        stack.push(...shape.children[child]);
      }
    };
    const numbered = sorted.every((i) => rest[i].some(isNumber));
    sorted.forEach((base, k) => {
      if (sorted.length === 5 && numbered) chainName(base, BY_NUMBER[k]);
      else chainName(base, '');
    });
  }
  parts.forEach((part, i) => {
    if (part.endsWith(' 0') || part === 'finger?') parts[i] = part.replace(' 0', '').replace('finger?', '');
  });
}

/**
 * One name numbered from the pelvis to the head says nothing about where the spine ends: where it goes on above
 * the last fork of the trunk and nothing else is called neck or head, shape decides.
 */
function resolveTrunk(parts: string[], kinds: readonly BoneRole[], shape: SkeletonShape): void {
  // An end is called after the head that it closes.
  const has = (part: string) => parts.some((path, i) => path === part && kinds[i] === 'bone');
  if (has('head') && has('neck')) return trunkWords(parts);
  const isAboveFork = forksAbove(shape);
  const isNothingSaid = !has('head') && !has('neck');
  const above: number[] = [];
  parts.forEach((part, i) => {
    if (part !== 'spine' && part !== 'chest') return;
    const isTop = shape.children[i].length === 0 || shape.leaves[i] <= 3;
    if (isTop && shape.side[i] === 0 && shape.size[i] < 0.2 * shape.count && isAboveFork(i)) above.push(i);
  });
  // What goes on above the arms is a neck with a head at its end, where neither is called so.
  above
    .sort((a, b) => shape.way[a] - shape.way[b])
    .forEach((i, k) => {
      const last = k === above.length - 1 ? 'head' : 'neck';
      parts[i] = isNothingSaid ? last : '';
    });
  if (!has('pelvis')) namePelvis(parts, kinds, shape);
  trunkWords(parts);
}

/** The bone of a spine that all legs hang on is the pelvis, where none is called so. */
function namePelvis(parts: string[], kinds: readonly BoneRole[], shape: SkeletonShape): void {
  const above = parts.flatMap((part, i) => {
    if (part !== 'upperleg' || kinds[i] !== 'bone') return [];
    const list: number[] = [];
    for (let ancestor = shape.parents[i]; ancestor >= 0; ancestor = shape.parents[ancestor])
      list.push(ancestor);
    return [list];
  });
  if (above.length < 2) return;
  const hips = above[0].find((b) => above.every((list) => list.includes(b)));
  if (hips !== undefined && (parts[hips] === 'spine' || parts[hips] === 'chest')) parts[hips] = 'pelvis';
}

/** Tells of a bone whether the trunk forks above it, other than at the core: long limbs begin there. */
function forksAbove(shape: SkeletonShape): (bone: number) => boolean {
  const known = new Map<number, boolean>();
  const isFork = (word: number): boolean => {
    let forks = known.get(word);
    if (forks === undefined) {
      forks = shape.children[word].some(
        (child) => shape.side[child] !== 0 && shape.below[child] > 0.25 * shape.reach,
      );
      known.set(word, forks);
    }
    return forks;
  };
  return (bone) => {
    for (let parent = shape.parents[bone]; parent >= 0; parent = shape.parents[parent])
      if (isFork(parent)) return parent !== shape.core;
    return false;
  };
}

/** The chest is the upper spine: the tree says which of them it is. */
function trunkWords(parts: string[]): void {
  parts.forEach((part, i) => {
    if (part === 'chest') parts[i] = 'spine';
  });
}
