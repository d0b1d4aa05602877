/** The bones of a skeleton gathered by limb and side, as a person would look through them. */
import type { Crosswalk } from './crosswalk';
import { looksTogether } from './beast-looks';
import type { SkeletonReading } from './looks';
import { type Skeleton, bonesAbove, childrenOfBones } from './skeleton';

/** A limb, or what hangs on one. */
export interface BoneGroup {
  readonly id: string;
  readonly title: string;
  /** 1 left, −1 right, 0 middle. */
  readonly side: -1 | 0 | 1;
  /** Indices of the source's bones, chain by chain, parents first. */
  readonly bones: readonly number[];
}

type Region = 'trunk' | 'head' | 'arm' | 'hand' | 'front' | 'hind' | 'leg' | 'wing' | 'tail' | 'chain';

/** Regions in the order in which they are looked through. */
const REGIONS: readonly Region[] = [
  'trunk',
  'head',
  'arm',
  'hand',
  'front',
  'hind',
  'leg',
  'wing',
  'tail',
  'chain',
];

const TITLES: Readonly<Record<Region, string>> = {
  trunk: 'trunk',
  head: 'neck and head',
  arm: 'arm',
  hand: 'hand',
  front: 'front leg',
  hind: 'hind leg',
  leg: 'leg',
  wing: 'wing',
  tail: 'tail',
  chain: 'chain',
};

const REGION_OF: ReadonlyMap<string, Region> = new Map(
  Object.entries({
    trunk: ['root', 'pelvis', 'spine', 'chest'],
    head: ['neck', 'head', 'jaw', 'eye', 'ear'],
    arm: ['collar', 'upperarm', 'lowerarm', 'arm', 'shoulder', 'elbow'],
    hand: ['hand', 'wrist', 'thumb', 'index', 'long', 'ring', 'little', 'finger', 'metacarpal'],
    front: ['foreleg'],
    hind: ['hindleg'],
    leg: ['upperleg', 'lowerleg', 'foot', 'toe', 'leg', 'hip', 'knee', 'ankle', 'ball'],
    wing: ['wing'],
    tail: ['tail'],
  } satisfies Partial<Record<Region, readonly string[]>>).flatMap(([region, parts]) =>
    parts.map((part) => [part, region as Region] as const),
  ),
);

/** Where a bone belongs. `chain`: the bone that its chain begins with, where no name says what it is. */
interface Home {
  readonly region: Region;
  readonly side: -1 | 0 | 1;
  readonly chain: number;
  readonly hangs: boolean;
}

const SIDES = { '-1': 'Right ', '0': '', '1': 'Left ' } as const;

const sideOf = (x: number) => Math.sign(x) as -1 | 0 | 1;

const capital = (text: string) => text[0].toUpperCase() + text.slice(1);

/**
 * All bones of the source by limb: by what their own names say, else by the counterpart's, else with the bone above.
 * What comes along without a counterpart is gathered by the limb that it hangs on.
 */
export function limbsOf(source: Skeleton, target: Skeleton, crosswalk: Crosswalk): BoneGroup[] {
  const homes = homesOf(source, target, crosswalk);
  const groups = new Map<string, { home: Home; bones: number[] }>();
  for (const i of chainByChain(source)) {
    const home = homes[i];
    const id = [home.hangs ? 'on' : 'of', home.region, home.side, home.chain].join(' ');
    const group = groups.get(id) ?? { home, bones: [] };
    group.bones.push(i);
    groups.set(id, group);
  }
  const placeOf = ({ hangs, region, side, chain }: Home) => [
    Number(hangs),
    REGIONS.indexOf(region) - (region === 'hand' && side !== 0 ? 1 : 0),
    -side,
    REGIONS.indexOf(region),
    chain,
  ];
  return [...groups]
    .sort(([, a], [, b]) => compare(placeOf(a.home), placeOf(b.home)))
    .map(([id, { home, bones }]) => ({ id, title: titleOf(source, home), side: home.side, bones }));
}

/** All bones, each followed by what hangs under it. */
function chainByChain(skeleton: Skeleton): number[] {
  const children = childrenOfBones(skeleton);
  const out: number[] = [];
  const stack = skeleton.bones.flatMap((bone, i) => (bone.parent < 0 ? [i] : [])).reverse();
  for (let at = stack.pop(); at !== undefined; at = stack.pop()) {
    out.push(at);
    stack.push(...[...children[at]].reverse());
  }
  return out;
}

function compare(a: readonly number[], b: readonly number[]): number {
  const k = a.findIndex((x, i) => x !== b[i]);
  return k < 0 ? 0 : a[k] - b[k];
}

function titleOf(source: Skeleton, { region, side, chain, hangs }: Home): string {
  if (region === 'chain')
    return chain < 0
      ? 'Unplaced'
      : `${SIDES[side]}${side === 0 ? 'Chain' : 'chain'} from ${source.bones[chain].name}`;
  const limb = `${SIDES[side]}${TITLES[region]}`;
  return hangs ? `Comes along on the ${limb.toLowerCase()}` : capital(limb);
}

function homesOf(source: Skeleton, target: Skeleton, crosswalk: Crosswalk): Home[] {
  const [mine, theirs] = looksTogether(source, target);
  const homes: Home[] = [];
  for (let i = 0; i < source.bones.length; i++) {
    const rule = crosswalk[i];
    const own = REGION_OF.get(mine.readings[i].part);
    const met = rule.target < 0 ? undefined : REGION_OF.get(theirs.readings[rule.target].part);
    const [above] = bonesAbove(source, i);
    const upper = above === undefined ? undefined : homes[above];
    const isLoose = rule.kind === 'keep' || mine.readings[i].kind === 'cloth';
    if (own && !isLoose) homes.push({ region: own, side: sideOf(mine.side[i]), chain: -1, hangs: false });
    else if (met)
      homes.push({ region: met, side: sideOf(theirs.side[rule.target]), chain: -1, hangs: false });
    else if (upper && (upper.region !== 'chain' || mine.shape.limb[i] !== i))
      homes.push({ ...upper, hangs: upper.region !== 'chain' && (upper.hangs || isLoose) });
    else homes.push(chainOf(mine, i));
  }
  return homes;
}

/** A bone that no name places: with all of its limb, or with what stands in the middle. */
const chainOf = ({ shape }: SkeletonReading, i: number): Home => ({
  region: 'chain',
  side: sideOf(shape.side[i]),
  chain: shape.side[i] === 0 ? shape.core : shape.limb[i],
  hangs: false,
});
