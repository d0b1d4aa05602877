import { namePattern } from '../../../contracts/pattern';
import { type InferType, number, object, string } from 'yup';
import { theCharacter, boneElements, type Gravity, type RemedyCall } from '../../../contracts/finding';
import { type Found, type Measured, defineCheck } from '../../../contracts/check';
import { names, pattern, setting } from '../../../contracts/setting';
import { commonEnd, namingOf, patternOf, wordsOf } from '../naming';
import { halfMirrored } from '../mirror-branch';
import { proposeNames } from '../propose-names';
import { bonesOf, parentBone, weightOfNodes } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { looksOf } from '../../../anatomy/looks';
import { readName } from '../../../anatomy/names';
import { skeletonOf } from '../../../anatomy/skeleton';
import { twinOf } from '../../../anatomy/twins';

/**
 * The naming convention: a pattern over the whole name and the same in words, the longest name, and what
 * copying leaves behind.
 */
const NAMING = object({
  pattern: pattern('Names match', 'A pattern over the whole name of a bone.').required(),
  words: string()
    .required()
    .meta({ label: 'The same in words', bound: 'is', hint: 'Findings say it to whoever mends the names.' }),
  longest: number()
    .integer()
    .positive()
    .required()
    .meta(setting('Longest name', 'count', 'most', 'So many letters at most.')),
  leftovers: pattern('Left over by copying', 'What a name must not hold.').required(),
  /** Names that are fine although they do not match, and names that no bone may have. */
  allowed: names('Allowed all the same', 'Names that need not match, one by one.'),
  forbidden: names('Forbidden', 'Names that no bone may have, one by one.'),
  /** What a name of the left and of the right side ends with; null where that is free. */
  sides: object({
    left: string().required().meta({ label: 'Left ends with', bound: 'is' }),
    right: string().required().meta({ label: 'Right ends with', bound: 'is' }),
  })
    .nullable()
    .default(null)
    .meta({ label: 'Sides', hint: 'What a name of either side ends with; off where that is free.' }),
})
  .required()
  .meta({ label: 'Naming of bones' });

/** What a brief says of names. */
export type Naming = InferType<typeof NAMING>;

/** Bones whose names a brief does not take: doubled, forbidden, left over by copying, against the convention, too long. */
export function wronglyNamed(character: Character, naming: Naming): number[] {
  const all = new Names(character, naming);
  const groups = [findDoubled, findAlike, findForbidden, findLeftovers, findUnconventional, findTooLong];
  return [...new Set(groups.flatMap((find) => find(all).bones))];
}

/** Bone names: the brief's convention, duplicates, leftovers of copying, and a left for every right. */
export const boneNamesCheck = defineCheck({
  id: 'bone-names',
  room: 'skeleton',
  title: 'Bone names',
  why: 'Clips, retargeting and mirroring find bones by name: a name that is not what the game expects is a bone that does not move.',
  settings: object({ naming: NAMING }),
  reads: ['tree', 'names', 'shows', 'joints', 'weights', 'places'],
  measures(character): Readonly<Record<string, Measured>> {
    const all = bonesOf(character).map((bone) => character.nodes[bone].name);
    if (all.length === 0) return {};
    const parts = namingOf(all);
    return {
      'naming.pattern': parts ? patternOf(parts) : '^.+$',
      'naming.words': parts ? wordsOf(parts) : 'any name',
      'naming.longest': Math.max(...all.map((name) => name.length)),
      'naming.sides': sidesOf(character),
    };
  },
  run(character, { naming }) {
    const all = new Names(character, naming);
    return [
      findDoubled(all),
      findAlike(all),
      findForbidden(all),
      findLeftovers(all),
      findOneSided(all),
      findUnconventional(all),
      findTooLong(all),
    ].flatMap((group) => (group.bones.length > 0 ? [foundOf(character, group)] : []));
  },
});

/** What all names of a side end with; null where they do not end alike. */
function sidesOf(character: Character): { left: string; right: string } | null {
  const skeleton = skeletonOf(character);
  const { side } = looksOf(skeleton);
  const endOf = (sign: number) => {
    const names = skeleton.bones.flatMap((bone, i) => (side[i] === sign ? [bone.name] : []));
    return names.length > 0 ? commonEnd(names) : '';
  };
  const [left, right] = [endOf(1), endOf(-1)];
  return left && right && left !== right ? { left, right } : null;
}

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

const SIGNS = { left: 1, right: -1, middle: 0 } as const;

/** The bones of a character and what the brief says of their names. */
class Names {
  readonly bones: readonly number[];
  readonly leftovers: readonly number[];
  /** What the names say of sides, in any language: 1 left, −1 right, 0 middle. */
  private readonly sides = new Map<number, { side: number; words: string; twin: number }>();

  constructor(
    readonly character: Character,
    readonly naming: Naming,
  ) {
    this.bones = bonesOf(character);
    const pattern = namePattern(naming.leftovers, true);
    const found = this.bones.filter((bone) => pattern.test(this.of(bone)) && !this.isAllowed(bone));
    // Numbers are what a copy leaves, and what a skeleton without other names has throughout.
    const numbered = new Set(found.filter((b) => /^\W*_?\d+$/.test(pattern.exec(this.of(b))?.[0] ?? '')));
    const isNumbered = numbered.size > this.bones.length / 2;
    // Neither is what numbers the bones of one chain.
    const ofChains = this.bonesOfChains();
    const isOfSkeleton = (b: number) => numbered.has(b) && (isNumbered || ofChains.has(b));
    this.leftovers = found.filter((b) => !isOfSkeleton(b));
    const skeleton = skeletonOf(character);
    const { readings, side, hasNamedSides } = looksOf(skeleton);
    skeleton.bones.forEach(({ node }, i) => {
      if (hasNamedSides)
        this.sides.set(node, {
          side: side[i],
          words: readings[i].words.join(' '),
          twin: twinOf(skeleton, i),
        });
    });
  }

  /**
   * The same for leftovers: in a skeleton that has other names throughout a name is only freed of what copying left, and
   * of the brackets that stay empty, so that its twin still goes with it.
   */
  withoutLeftoversFor(bones: readonly number[]): readonly RemedyCall[] {
    const convention = namePattern(this.naming.pattern);
    const following = this.bones.filter((bone) => convention.test(this.of(bone))).length;
    if (following > this.bones.length / 2) return this.proposalsFor(bones);
    const taken = new Set(this.bones.map((bone) => this.of(bone)));
    const plain = bones.map((bone) => ({
      b: bone,
      to: this.withoutLeftovers(bone)
        .replace(/\s*(\(\s*\)|\[\s*\]|\{\s*\})/g, '')
        .trim(),
    }));
    const isFine =
      plain.every(({ to }) => to !== '' && !taken.has(to)) &&
      new Set(plain.map((plan) => plan.to)).size === plain.length;
    if (!isFine) return this.proposalsFor(bones);
    const table = Object.fromEntries(plain.map(({ b, to }) => [this.of(b), to]));
    return [{ id: 'rename', params: { table } }];
  }

  /** Names that the convention takes, for some bones: what the button does. */
  proposalsFor(bones: readonly number[]): readonly RemedyCall[] {
    return [{ id: 'rename', params: { table: proposeNames(this.character, bones, this.naming) } }];
  }

  /**
   * Bones that hang under one of the same name but for its number, and those that they hang under, where the skeleton
   * numbers its chains so: one by itself may as well be a copy.
   */
  private bonesOfChains(): Set<number> {
    const out = new Set<number>();
    let isStyle = false;
    for (const bone of this.bones) {
      const above = parentBone(this.character.nodes, bone);
      if (above < 0 || this.withoutLeftovers(above) !== this.withoutLeftovers(bone)) continue;
      isStyle ||= out.has(above);
      out.add(bone).add(above);
    }
    return isStyle ? out : new Set();
  }

  /** True where a name says a side and does not end as the brief wants that side to end. */
  isSidedOtherwise(bone: number): boolean {
    const { sides } = this.naming;
    if (!sides) return false;
    const name = this.of(bone);
    // Where nothing stands on the other side, the name by itself says.
    const side = this.sides.get(bone)?.side ?? SIGNS[readName(name).side];
    if (side === 0) return false;
    return !name.endsWith(side > 0 ? sides.left : sides.right);
  }

  /** Whether a bone of one side has none on the other, not even one by a name that copying left. */
  lacksOtherSide(bone: number): boolean {
    const own = this.sides.get(bone);
    if (!own || own.side === 0 || own.twin >= 0) return false;
    return !this.leftovers.some((leftover) => {
      const other = this.sides.get(leftover);
      return other?.side === -own.side && other.words === own.words;
    });
  }

  /** True where the brief takes the name as it is. */
  isAllowed(bone: number): boolean {
    return this.naming.allowed.includes(this.of(bone));
  }

  of(bone: number): string {
    return this.character.nodes[bone].name;
  }

  /** The name without what copying or mirroring left on it. */
  withoutLeftovers(bone: number): string {
    return namePattern(`[_.\\- ]?(?:${this.naming.leftovers})`, true).removeFrom(this.of(bone));
  }

  /** The first few of some bones, in words. */
  few(bones: readonly number[]): string {
    const names = [...new Set(bones.map((bone) => this.of(bone)))];
    const shown = names.slice(0, 3).map((name) => `“${name}”`);
    return `${shown.join(', ')}${names.length > 3 ? ` and ${names.length - 3} more` : ''}`;
  }
}

/** Bones that share what is read of their names, group by group. */
function sharing(names: Names, read: (name: string) => string): number[][] {
  const seen = new Map<string, number[]>();
  for (const bone of names.bones) {
    const key = read(names.of(bone));
    const list = seen.get(key);
    if (list) list.push(bone);
    else seen.set(key, [bone]);
  }
  return [...seen.values()].filter((list) => list.length > 1);
}

/** A name as games keep it that know no capitals, and nothing but letters, numbers and one sign between them. */
const folded = (name: string): string => name.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, '_');

function findAlike(names: Names): Group {
  const differ = (list: readonly number[]) => new Set(list.map((bone) => names.of(bone))).size > 1;
  const bones = sharing(names, folded).filter(differ).flat();
  return {
    mark: 'alike',
    gravity: 'worth',
    bones,
    message: `${bones.length} bones have names that differ in nothing but capitals or signs: ${names.few(bones)}`,
    expected: 'names that stay apart without capitals and signs',
    remedies: names.proposalsFor(bones),
  };
}

function findDoubled(names: Names): Group {
  const bones = sharing(names, (name) => name).flat();
  return {
    mark: 'doubled',
    gravity: 'stops',
    bones,
    message: `${bones.length} bones share a name: ${names.few(bones)}`,
    expected: 'every name once',
    remedies: names.proposalsFor(bones),
  };
}

function findForbidden(names: Names): Group {
  const forbidden = new Set(names.naming.forbidden);
  const bones = names.bones.filter((bone) => forbidden.has(names.of(bone)));
  return {
    mark: 'forbidden',
    gravity: 'stops',
    bones,
    message: `${bones.length === 1 ? 'A bone has a name' : `${bones.length} bones have names`} that the brief forbids: ${names.few(bones)}`,
    expected: 'another name',
    remedies: names.proposalsFor(bones),
  };
}

function findLeftovers(names: Names): Group {
  const bones = names.leftovers;
  return {
    mark: 'leftover',
    gravity: 'worth',
    bones,
    message: `${bones.length === 1 ? 'A name has' : `${bones.length} names have`} a leftover of copying or mirroring: ${names.few(bones)}`,
    expected: 'no leftovers',
    remedies: [...halfMirrored(names.character, bones), ...names.withoutLeftoversFor(bones)],
  };
}

function findOneSided(names: Names): Group {
  const weight = weightOfNodes(names.character);
  const bones = names.bones.filter(
    (bone) => weight[bone] > 0 && !names.leftovers.includes(bone) && names.lacksOtherSide(bone),
  );
  return {
    mark: 'one-sided',
    gravity: 'worth',
    bones,
    message: `${bones.length === 1 ? 'A bone lacks' : `${bones.length} bones lack`} the other side: ${names.few(bones)}`,
    expected: 'a left for every right',
    remedies: halfMirrored(names.character, names.leftovers),
  };
}

function findUnconventional(names: Names): Group {
  const { pattern, words } = names.naming;
  const convention = namePattern(pattern);
  const bones = names.bones.filter(
    (bone) => !names.isAllowed(bone) && (!convention.test(names.of(bone)) || names.isSidedOtherwise(bone)),
  );
  return {
    mark: 'convention',
    gravity: 'worth',
    bones,
    message: `${bones.length} of ${names.bones.length} names do not follow the convention: ${names.few(bones)}`,
    expected: words,
    remedies: names.proposalsFor(bones),
  };
}

function findTooLong(names: Names): Group {
  const { longest } = names.naming;
  const bones = names.bones.filter((bone) => names.of(bone).length > longest && !names.isAllowed(bone));
  return {
    mark: 'long',
    gravity: 'worth',
    bones,
    message: `${bones.length} names are longer than ${longest} characters: ${names.few(bones)}`,
    expected: `${longest} characters`,
    remedies: names.proposalsFor(bones),
  };
}
