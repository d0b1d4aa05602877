import { withoutSide } from '../../../anatomy/side-in-name';
import type { TreeBone } from './bones';

/** Letters of a label at most; a longer one is cut in the middle. */
const LONGEST = 11;

/**
 * What stands beside each bone in the picture, by node: its name without the side and without what all names begin with,
 * short enough to stand where it belongs.
 */
export function labelsOf(bones: readonly TreeBone[]): ReadonlyMap<number, string> {
  const prefix = sharedPrefix(bones.map(({ name }) => name));
  const byNode = new Map(bones.map((bone) => [bone.node, bone]));
  return new Map(
    bones.map((bone) => {
      const name = bone.name.startsWith(prefix) ? bone.name.slice(prefix.length) : bone.name;
      const twin = byNode.get(bone.twin);
      const plain =
        bone.side === 0 || !bone.isSideNamed ? name : withoutSide(name, twin?.name.slice(prefix.length));
      return [bone.node, cutInTheMiddle(plain || bone.name || '(no name)')];
    }),
  );
}

/** Share of the names that begin so where it is said of all of them. */
const SHARED = 0.8;

/** What nearly all names begin with, up to a sign; '' for nothing. */
function sharedPrefix(names: readonly string[]): string {
  if (names.length < 4) return '';
  const counts = new Map<string, number>();
  for (const name of names) {
    const sign = /^[^_.\-: ]+[_.\-: ]/.exec(name)?.[0];
    if (sign) counts.set(sign, (counts.get(sign) ?? 0) + 1);
  }
  for (const [prefix, count] of counts) if (count >= SHARED * names.length) return prefix;
  return '';
}

function cutInTheMiddle(text: string): string {
  const letters = [...text];
  if (letters.length <= LONGEST) return text;
  const tail = Math.floor((LONGEST - 1) / 2);
  return `${letters.slice(0, LONGEST - 1 - tail).join('')}…${letters.slice(-tail).join('')}`;
}
