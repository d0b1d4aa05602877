import { type InferType, number, object, string } from 'yup';
import { theCharacter, boneElements, type Gravity, type RemedyCall } from '../../../contracts/finding';
import { type Found, defineCheck } from '../../../contracts/check';
import { bonesOf, weightOfNodes } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { otherSideName, readName } from '../../../anatomy/names';

/**
 * The naming convention: a pattern over the whole name and the same in words, the longest name, and what
 * copying leaves behind.
 */
const NAMING = object({
  pattern: string().required(),
  words: string().required(),
  longest: number().integer().positive().required(),
  leftovers: string().required(),
  /** What a name of the left and of the right side ends with; null where that is free. */
  sides: object({ left: string().required(), right: string().required() }).nullable().default(null),
}).required();

/** Bone names: the brief's convention, duplicates, leftovers of copying, and a left for every right. */
export const boneNamesCheck = defineCheck({
  id: 'bone-names',
  room: 'skeleton',
  title: 'Bone names',
  why: 'Clips, retargeting and mirroring find bones by name: a name that is not what the game expects is a bone that does not move.',
  settings: object({ naming: NAMING }),
  reads: ['tree', 'names', 'shows', 'joints', 'weights'],
  run(character, { naming }) {
    const names = new Names(character, naming);
    return [
      findDoubled(names),
      findLeftovers(names),
      findOneSided(names),
      findUnconventional(names),
      findTooLong(names),
    ].flatMap((group) => (group.bones.length > 0 ? [foundOf(character, group)] : []));
  },
});

/** Bones that share a fault of their names, and what is said of it. */
interface Group {
  readonly mark: string;
  readonly gravity: Gravity;
  readonly bones: readonly number[];
  readonly message: string;
  readonly expected: string;
  readonly remedies?: readonly RemedyCall[];
}

function foundOf(character: Character, { bones, ...group }: Group): Found {
  const count = bones.length;
  return {
    ...group,
    subject: theCharacter(character),
    unit: 'bones',
    measured: count,
    evidence: [{ label: 'Bones concerned', now: count, brief: 0, unit: 'bones' }],
    elements: [boneElements(bones)],
  };
}

/** The bones of a character and what the brief says of their names. */
class Names {
  readonly bones: readonly number[];
  readonly leftovers: readonly number[];

  constructor(
    readonly character: Character,
    readonly naming: InferType<typeof NAMING>,
  ) {
    this.bones = bonesOf(character);
    const pattern = new RegExp(naming.leftovers, 'i');
    const found = this.bones.filter((b) => pattern.test(this.of(b)));
    // Numbers are what a copy leaves, and what a skeleton without other names has throughout.
    const numbered = found.filter((b) => /^\W*_?\d+$/.test(pattern.exec(this.of(b))?.[0] ?? ''));
    const isNumbered = numbered.length > this.bones.length / 2;
    this.leftovers = isNumbered ? found.filter((b) => !numbered.includes(b)) : found;
  }

  /** True where a name says a side and does not end as the brief wants that side to end. */
  isSidedOtherwise(bone: number): boolean {
    const { sides } = this.naming;
    if (!sides) return false;
    const name = this.of(bone);
    const { side } = readName(name);
    if (side !== 'middle') return !name.endsWith(sides[side]);
    return false;
  }

  of(bone: number): string {
    return this.character.nodes[bone].name;
  }

  /** The name without what copying or mirroring left on it. */
  withoutLeftovers(bone: number): string {
    return this.of(bone).replace(new RegExp(`[_.\\- ]?${this.naming.leftovers}`, 'ig'), '');
  }

  /** The first few of some bones, in words. */
  few(bones: readonly number[]): string {
    const names = [...new Set(bones.map((b) => this.of(b)))];
    const shown = names.slice(0, 3).map((n) => `“${n}”`);
    return `${shown.join(', ')}${names.length > 3 ? ` and ${names.length - 3} more` : ''}`;
  }
}

function findDoubled(names: Names): Group {
  const seen = new Map<string, number[]>();
  for (const b of names.bones) seen.set(names.of(b), [...(seen.get(names.of(b)) ?? []), b]);
  const bones = [...seen.values()].filter((l) => l.length > 1).flat();
  return {
    mark: 'doubled',
    gravity: 'stops',
    bones,
    message: `${bones.length} bones share a name: ${names.few(bones)}`,
    expected: 'every name once',
    remedies: [{ id: 'rename', params: {} }],
  };
}

function findLeftovers(names: Names): Group {
  const bones = names.leftovers;
  const table = Object.fromEntries(bones.map((b) => [names.of(b), names.withoutLeftovers(b)]));
  return {
    mark: 'leftover',
    gravity: 'worth',
    bones,
    message: `${bones.length === 1 ? 'A name has' : `${bones.length} names have`} a leftover of copying or mirroring: ${names.few(bones)}`,
    expected: 'no leftovers',
    remedies: [{ id: 'rename', params: { table } }],
  };
}

function findOneSided(names: Names): Group {
  const all = new Set(names.bones.map((b) => names.of(b)));
  const weight = weightOfNodes(names.character);
  const bones = names.bones.filter((b) => {
    const other = otherSideName(names.of(b));
    if (weight[b] === 0 || other === null || all.has(other)) return false;
    if (names.withoutLeftovers(b) !== names.of(b)) return false;
    // A side whose partner only has a copy's name is told once, by its leftover.
    return !names.leftovers.some((l) => names.of(l).startsWith(other));
  });
  return {
    mark: 'one-sided',
    gravity: 'worth',
    bones,
    message: `${bones.length === 1 ? 'A bone lacks' : `${bones.length} bones lack`} the other side: ${names.few(bones)}`,
    expected: 'a left for every right',
  };
}

function findUnconventional(names: Names): Group {
  const { pattern, words } = names.naming;
  const convention = new RegExp(pattern);
  const bones = names.bones.filter((b) => !convention.test(names.of(b)) || names.isSidedOtherwise(b));
  return {
    mark: 'convention',
    gravity: 'worth',
    bones,
    message: `${bones.length} of ${names.bones.length} names do not follow the convention: ${names.few(bones)}`,
    expected: words,
    remedies: [{ id: 'rename', params: {} }],
  };
}

function findTooLong(names: Names): Group {
  const { longest } = names.naming;
  const bones = names.bones.filter((b) => names.of(b).length > longest);
  return {
    mark: 'long',
    gravity: 'worth',
    bones,
    message: `${bones.length} names are longer than ${longest} characters: ${names.few(bones)}`,
    expected: `${longest} characters`,
  };
}
