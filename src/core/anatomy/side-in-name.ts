/** The side that a name says, as a piece of it: taken out, or changed into the other. */

/** Signs that stand between the words of a name. */
export const SIGN = '[_.\\-: ]';

/** Left and right as names write them; each stands for the other. */
const PAIRS: readonly (readonly [string, string])[] = [
  ['left', 'right'],
  ['lft', 'rgt'],
  ['lt', 'rt'],
  ['l', 'r'],
];

const SIDES = PAIRS.flat().join('|');

/** Where names say a side: between signs, or by a capital that begins or ends a word. */
const SIDE_IN_NAME = [
  new RegExp(`(?<sign>^|${SIGN})(?<side>${SIDES})(?=$|${SIGN}|\\d)`, 'i'),
  /^(?<sign>)(?<side>Left|Right|left|right|[LR])(?=[A-Z])/,
  /(?<=[a-z0-9])(?<sign>)(?<side>Left|Right|[LR])$/,
  /(?<=[a-z0-9])(?<sign>)(?<side>Left|Right)(?=[A-Z0-9])/,
];

const sideIn = (name: string): RegExp | undefined => SIDE_IN_NAME.find((side) => side.test(name));

/** A name without its side; `twin`: what the bone on the other side is called, where there is one. */
export function withoutSide(name: string, twin = ''): string {
  const side = sideIn(name);
  if (side) return trimmed(name.replace(side, '$<sign>')) || name;
  // In another language: what the two do not share.
  if (!twin) return name;
  const [words, others] = [name, twin].map((whole) => whole.split(new RegExp(`(${SIGN})`)));
  const shared = words.filter((word, i) => word === others[i]);
  if (words.length === others.length && shared.length === words.length - 1)
    return trimmed(shared.join('')) || name;
  let head = 0;
  while (head < name.length && name[head] === twin[head]) head++;
  let tail = 0;
  while (tail < Math.min(name.length, twin.length) - head && name.at(-1 - tail) === twin.at(-1 - tail))
    tail++;
  return trimmed(name.slice(0, head) + name.slice(name.length - tail)) || name;
}

/** What a name ends with that says its side, with the sign before it; '' for nothing. */
export const sideEnd = (name: string): string =>
  new RegExp(`${SIGN}(?:${SIDES})$`, 'i').exec(name)?.[0] ??
  /(?<=[a-z0-9])(?:Left|Right|[LR])$/.exec(name)?.[0] ??
  '';

const trimmed = (name: string) =>
  name
    .replace(new RegExp(`(${SIGN})${SIGN}+`, 'g'), '$1')
    .replace(new RegExp(`^${SIGN}+|${SIGN}+$`, 'g'), '');

/** A name with the other side in it, written as this one is; null where it says none in a way that is known. */
export function withOtherSide(name: string): string | null {
  const side = sideIn(name);
  if (!side) return null;
  return name.replace(side, (...found) => {
    const { sign, side: word } = found.at(-1) as { sign: string; side: string };
    return sign + written(otherOf(word.toLowerCase()), word);
  });
}

function otherOf(side: string): string {
  for (const [left, right] of PAIRS) {
    if (side === left) return right;
    if (side === right) return left;
  }
  return side;
}

/** A word in the capitals of another. */
function written(word: string, as: string): string {
  if (as === as.toUpperCase()) return word.toUpperCase();
  return as[0] === as[0].toUpperCase() ? word[0].toUpperCase() + word.slice(1) : word;
}
