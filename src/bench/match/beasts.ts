/**
 * Beasts on four legs to match: of many builds, with the trees, the chains and the names that people give them. Where the
 * joints lie and what bones are called is common practice; the figures are made up.
 */
import type { Skeleton, SkeletonBone } from '../../core/anatomy/skeleton';
import { quatAbout, quatRotate } from '../../core/geometry/matrix';
import type { Random } from './habits';

type Place = readonly [number, number, number];
type Quat = readonly [number, number, number, number];
type SideWord = 'left' | 'right' | 'middle';

/** A limb, or the part of the trunk, that a bone belongs to. */
export type BeastLimb =
  | 'front leg'
  | 'hind leg'
  | 'neck'
  | 'head'
  | 'tail'
  | 'spine'
  | 'root'
  | 'jaw'
  | 'ear'
  | 'horn'
  | 'nose'
  | 'belly'
  | 'target'
  | 'rein';

/** A beast with what each of its bones belongs to. */
export interface Beast {
  readonly skeleton: Skeleton;
  /** “front leg left”, “neck middle”, by bone. */
  readonly limbs: readonly string[];
  /** Whether a bone carries anything. */
  readonly isFlesh: readonly boolean[];
  /** Whether it only closes its chain, or lies along it. */
  readonly isTip: readonly boolean[];
  readonly told: string;
  readonly speaks: 'front and hind' | 'parts' | 'one word' | 'nothing';
}

/** How a species is built: metres, degrees. */
interface Build {
  readonly species: string;
  /** Of the back over the ground. */
  readonly height: number;
  /** From the hips to the shoulders. */
  readonly length: number;
  readonly width: number;
  readonly neck: readonly [length: number, rise: number];
  readonly head: number;
  readonly tail: readonly [length: number, rise: number];
  /** How far the legs are bent: 1 as a dog's, 0 as a column. */
  readonly bent: number;
  readonly isFlatFooted?: boolean;
  readonly has?: readonly ('horn' | 'nose')[];
}

const BUILDS: readonly Build[] = [
  {
    species: 'bear',
    height: 1.1,
    length: 1.2,
    width: 0.25,
    neck: [0.3, 10],
    head: 0.35,
    tail: [0.1, -40],
    isFlatFooted: true,
    bent: 0.6,
  },
  {
    species: 'cat',
    height: 0.8,
    length: 1.0,
    width: 0.14,
    neck: [0.25, 30],
    head: 0.2,
    tail: [0.8, -20],
    bent: 1,
  },
  {
    species: 'horse',
    height: 1.5,
    length: 1.2,
    width: 0.2,
    neck: [0.8, 50],
    head: 0.5,
    tail: [0.6, -70],
    bent: 0.8,
  },
  {
    species: 'camel',
    height: 1.8,
    length: 1.3,
    width: 0.22,
    neck: [1.2, 45],
    head: 0.4,
    tail: [0.5, -80],
    bent: 0.7,
  },
  {
    species: 'elephant',
    height: 2.6,
    length: 2,
    width: 0.45,
    neck: [0.4, 10],
    head: 0.7,
    tail: [1, -80],
    isFlatFooted: true,
    bent: 0.15,
    has: ['nose'],
  },
  {
    species: 'goat',
    height: 0.75,
    length: 0.7,
    width: 0.12,
    neck: [0.35, 50],
    head: 0.2,
    tail: [0.12, 30],
    bent: 0.9,
    has: ['horn'],
  },
  {
    species: 'fox',
    height: 0.4,
    length: 0.5,
    width: 0.07,
    neck: [0.14, 35],
    head: 0.14,
    tail: [0.4, -10],
    bent: 1,
  },
  {
    species: 'giraffe',
    height: 2.8,
    length: 1.4,
    width: 0.25,
    neck: [2.1, 65],
    head: 0.5,
    tail: [0.9, -75],
    bent: 0.5,
    has: ['horn'],
  },
  {
    species: 'rhino',
    height: 1.6,
    length: 2,
    width: 0.4,
    neck: [0.4, -10],
    head: 0.7,
    tail: [0.5, -80],
    bent: 0.3,
    has: ['horn'],
  },
  {
    species: 'hippo',
    height: 1.2,
    length: 1.9,
    width: 0.4,
    neck: [0.35, 0],
    head: 0.6,
    tail: [0.3, -80],
    isFlatFooted: true,
    bent: 0.2,
  },
  {
    species: 'boar',
    height: 0.8,
    length: 0.9,
    width: 0.17,
    neck: [0.2, -5],
    head: 0.35,
    tail: [0.25, -40],
    bent: 0.7,
  },
  {
    species: 'deer',
    height: 1.1,
    length: 0.95,
    width: 0.13,
    neck: [0.6, 55],
    head: 0.28,
    tail: [0.15, 10],
    bent: 0.9,
    has: ['horn'],
  },
  {
    species: 'dog',
    height: 0.6,
    length: 0.65,
    width: 0.1,
    neck: [0.2, 40],
    head: 0.18,
    tail: [0.35, 20],
    bent: 1,
  },
  {
    species: 'sheep',
    height: 0.7,
    length: 0.75,
    width: 0.16,
    neck: [0.25, 35],
    head: 0.2,
    tail: [0.15, -70],
    bent: 0.7,
  },
  {
    species: 'lizard',
    height: 0.35,
    length: 1.1,
    width: 0.2,
    neck: [0.2, 0],
    head: 0.3,
    tail: [1.2, -5],
    isFlatFooted: true,
    bent: 1.2,
  },
  {
    species: 'cow',
    height: 1.35,
    length: 1.5,
    width: 0.28,
    neck: [0.5, 15],
    head: 0.45,
    tail: [0.9, -75],
    bent: 0.7,
    has: ['horn'],
  },
];

/** A bone as it is made. */
interface Bone {
  readonly limb: BeastLimb;
  readonly side: SideWord;
  /** Joint of a leg by what it is, 0 to 6; place along any other chain, from 0. */
  readonly joint: number;
  /** Place along its chain, from 1, and how many there are. */
  readonly number: number;
  readonly of: number;
  parent: Bone | null;
  place: Place;
  isFlesh: boolean;
  readonly isTwist?: boolean;
  readonly isToe?: boolean;
}

/** Joints of the two kinds of legs from the back down: height as a share of the back's, and how far ahead of where it hangs. */
const FRONT: readonly (readonly [number, number])[] = [
  [0.97, -0.05],
  [0.72, 0.1],
  [0.55, -0.07],
  [0.28, 0.0],
  [0.09, 0.02],
  [0.03, 0.08],
  [0.0, 0.13],
];
const HIND: readonly (readonly [number, number])[] = [
  [0.95, 0.1],
  [0.85, 0.0],
  [0.56, 0.13],
  [0.3, -0.13],
  [0.09, -0.07],
  [0.03, 0.0],
  [0.0, 0.05],
];

/** Which joints a leg of so many bones has. */
const FRONT_CHAINS: Readonly<Record<number, readonly (readonly number[])[]>> = {
  3: [[1, 2, 3]],
  4: [
    [0, 1, 2, 3],
    [1, 2, 3, 4],
  ],
  5: [
    [0, 1, 2, 3, 4],
    [1, 2, 3, 4, 5],
  ],
  6: [
    [0, 1, 2, 3, 4, 5],
    [1, 2, 3, 4, 5, 6],
  ],
  7: [[0, 1, 2, 3, 4, 5, 6]],
};
const HIND_CHAINS: Readonly<Record<number, readonly (readonly number[])[]>> = {
  3: [[1, 2, 3]],
  4: [[1, 2, 3, 4]],
  5: [
    [0, 1, 2, 3, 4],
    [1, 2, 3, 4, 5],
  ],
  6: [
    [0, 1, 2, 3, 4, 5],
    [1, 2, 3, 4, 5, 6],
  ],
  7: [[0, 1, 2, 3, 4, 5, 6]],
};

const LAYOUTS = ['from the hips', 'from the middle', 'body in two', 'one body'] as const;

/** A beast by chance. `steady`: on its own axes, in metres, on all four feet. */
export function makeBeast(random: Random, given: { steady?: boolean } = {}): Beast {
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
  const build = pick(BUILDS);
  const layout = pick(LAYOUTS);
  const naming = pick(NAMINGS);
  const bones = new Growing(build, random).whole(layout);
  swing(bones, given.steady ? 8 : 25, random);
  shake(bones, 0.012 * build.height, random);
  const name = naming.make(build.species, random);
  const order = shuffledDown(bones, random);
  const placed = given.steady ? (place: Place) => place : placer(random);
  const used = new Map<string, number>();
  const list = order.map((bone, i): SkeletonBone => {
    const plain = name(bone, i);
    const count = used.get(plain) ?? 0;
    used.set(plain, count + 1);
    return {
      name: count === 0 ? plain : `${plain}.${String(count).padStart(3, '0')}`,
      parent: bone.parent ? order.indexOf(bone.parent) : -1,
      place: placed(bone.place),
      rotation: [0, 0, 0, 1],
      weight: bone.isFlesh ? 40 : 0,
      holds: false,
      node: i,
    };
  });
  return {
    skeleton: { id: build.species, title: build.species, bones: list },
    limbs: order.map((bone) => `${bone.limb} ${bone.side}`),
    isFlesh: order.map((bone) => bone.isFlesh),
    isTip: order.map(
      (bone) =>
        bone.limb.endsWith('leg') && (bone.joint === 6 || bone.isTwist === true || bone.isToe === true),
    ),
    told: [build.species, layout, naming.id].join(' · '),
    speaks: naming.speaks,
  };
}

type Layout = (typeof LAYOUTS)[number];

type NewBone = Omit<Bone, 'isFlesh' | 'of' | 'number'> & Partial<Bone>;

const SIDES: readonly (readonly [SideWord, number])[] = [
  ['left', 1],
  ['right', -1],
];

/** A beast as it grows, looking along +Z. */
class Growing {
  readonly bones: Bone[] = [];
  private readonly hips: number;
  private readonly shoulders: number;

  constructor(
    private readonly build: Build,
    private readonly random: Random,
  ) {
    const length = build.length * (0.85 + 0.3 * random());
    this.hips = -0.5 * length;
    this.shoulders = 0.5 * length;
  }

  /** All of it, on a trunk of one kind. */
  whole(layout: Layout): Bone[] {
    const { height } = this.build;
    const root = this.maybe(0.6)
      ? this.add({
          limb: 'root',
          side: 'middle',
          joint: 0,
          parent: null,
          place: this.maybe(0.5) ? [0, 0, 0] : [0, height, 0],
          isFlesh: false,
        })
      : null;
    const { front, rear } = this.trunk(layout, root);
    this.legs(front, rear);
    this.head(this.neck(front));
    this.tail(rear);
    if (this.maybe(0.25)) this.chain('belly', 'middle', rear, [[0, 0.6 * height, 0]]);
    if (this.maybe(0.25)) this.targets(root);
    return this.bones;
  }

  private maybe(share: number): boolean {
    return this.random() < share;
  }

  private between(least: number, most: number): number {
    return least + Math.floor(this.random() * (most - least + 1));
  }

  private add(bone: NewBone): Bone {
    const made = { isFlesh: true, number: 1, of: 1, ...bone };
    this.bones.push(made);
    return made;
  }

  private chain(
    limb: BeastLimb,
    side: SideWord,
    parent: Bone | null,
    places: readonly Place[],
    joints: readonly number[] = places.map((_, k) => k),
  ): Bone[] {
    const made: Bone[] = [];
    places.forEach((place, k) => {
      const above = made[k - 1] ?? parent;
      made.push(
        this.add({ limb, side, parent: above, place, joint: joints[k], number: k + 1, of: places.length }),
      );
    });
    return made;
  }

  /** The bones that front legs and neck, and hind legs and tail, hang under. */
  private trunk(layout: Layout, root: Bone | null): { front: Bone; rear: Bone } {
    const { hips, shoulders } = this;
    const back = (z: number): Place => [0, this.build.height * (0.97 + 0.03 * Math.sin(z)), z];
    const spine = (from: number, to: number, bone: number, under: Bone | null, hasFirst: boolean) =>
      this.chain(
        'spine',
        'middle',
        under,
        Array.from({ length: bone }, (_, k) =>
          back(from + ((to - from) * (k + (hasFirst ? 0 : 1))) / Math.max(1, bone - (hasFirst ? 1 : 0))),
        ),
      );
    if (layout === 'from the hips') {
      const list = spine(hips, shoulders - 0.05, this.between(2, 5), root, true);
      return { front: list.at(-1) as Bone, rear: list[0] };
    }
    const middle = this.add({ limb: 'spine', side: 'middle', joint: 0, parent: root, place: back(0) });
    if (layout === 'one body') return { front: middle, rear: middle };
    const count = layout === 'body in two' ? 1 : this.between(1, 3);
    const front = spine(0, shoulders, count, middle, false).at(-1) as Bone;
    const rear = spine(0, hips, this.maybe(0.5) ? count : 1, middle, false).at(-1) as Bone;
    return { front, rear };
  }

  private legs(front: Bone, rear: Bone): void {
    const { height, width, bent, isFlatFooted } = this.build;
    const count = this.between(4, 7);
    // No two people lay joints in the same places.
    const table = (joints: typeof FRONT) =>
      joints.map(([y, ahead]) => [y, ahead + (this.random() - 0.5) * 0.06] as const);
    const tables = [FRONT, HIND].map((joints) => table(isFlatFooted ? flat(joints) : joints));
    const chosen = [FRONT_CHAINS, HIND_CHAINS].map((all) => {
      const chains = all[Math.max(3, Math.min(7, count + this.between(-1, 1)))];
      return chains[this.between(0, chains.length - 1)];
    });
    const toes = this.maybe(0.2) ? this.between(2, 4) : 0;
    const hasTwists = this.maybe(0.15);
    for (const [side, sign] of SIDES)
      for (const [k, limb] of (['front leg', 'hind leg'] as const).entries()) {
        const z = k === 0 ? this.shoulders : this.hips;
        const places = chosen[k].map((j): Place => {
          const [y, ahead] = tables[k][j];
          return [sign * width * (j === 0 ? 0.5 : 1), height * y, z + height * ahead * bent];
        });
        const leg = this.chain(limb, side, k === 0 ? front : rear, places, chosen[k]);
        // What closes a chain carries nothing.
        const last = leg.at(-1) as Bone;
        if (last.joint === 6) last.isFlesh = false;
        this.toes(leg.at(-1) as Bone, toes, sign);
        if (hasTwists) this.twist(leg[1], leg[2]);
      }
  }

  /** Toes side by side, as paws have. */
  private toes(foot: Bone, count: number, sign: number): void {
    const { height } = this.build;
    for (let triangle = 0; triangle < count; triangle++)
      this.add({
        limb: foot.limb,
        side: foot.side,
        joint: 5,
        isToe: true,
        number: triangle + 1,
        of: count + 1,
        parent: foot,
        place: [
          foot.place[0] + sign * 0.03 * height * (triangle - (count - 1) / 2),
          Math.max(0, foot.place[1] - 0.02 * height),
          foot.place[2] + 0.06 * height,
        ],
      });
  }

  /** A bone halfway along another one, with flesh on it. */
  private twist(bone: Bone, next: Bone): void {
    const place = [0, 1, 2].map((k) => (bone.place[k] + next.place[k]) / 2) as unknown as Place;
    this.add({ limb: bone.limb, side: bone.side, joint: bone.joint, parent: bone, place, isTwist: true });
  }

  private along(from: Place, rise: number, far: number, sign = 1): Place {
    const a = (rise * Math.PI) / 180;
    return [from[0], from[1] + Math.sin(a) * far, from[2] + sign * Math.cos(a) * far];
  }

  private neck(front: Bone): Bone {
    const [length, rise] = this.build.neck;
    const base: Place = [0, this.build.height * 0.95, this.shoulders + 0.08 * this.build.height];
    const count = length > 1 ? this.between(3, 6) : this.between(1, 3);
    const places = Array.from({ length: count }, (_, k) => this.along(base, rise, (length * k) / count));
    const neck = this.chain('neck', 'middle', front, places);
    return this.add({
      limb: 'head',
      side: 'middle',
      joint: 0,
      parent: neck.at(-1) as Bone,
      place: this.along(base, rise, length),
    });
  }

  private head(head: Bone): void {
    const { build } = this;
    const [, y, z] = head.place;
    const face = (up: number, ahead: number, x = 0): Place => [
      x * build.head,
      y + up * build.head,
      z + ahead * build.head,
    ];
    if (this.maybe(0.6))
      this.chain('jaw', 'middle', head, [face(-0.2, 0.3), face(-0.25, 0.8)].slice(0, this.between(1, 2)));
    const ears = this.maybe(0.6) ? this.between(1, 3) : 0;
    const hasReins = this.maybe(0.15);
    const hasHorns = build.has?.includes('horn') && this.maybe(0.3);
    for (const [side, sign] of SIDES) {
      const ear = (_: unknown, k: number) => face(0.35 + 0.2 * k, -0.1, sign * (0.25 + 0.08 * k));
      if (ears > 0) this.chain('ear', side, head, Array.from({ length: ears }, ear));
      if (hasHorns) this.chain('horn', side, head, [face(0.4, 0.1, sign * 0.15)]);
      if (hasReins)
        this.chain('rein', side, head, [face(-0.1, 0.5, sign * 0.2), face(0.1, -0.6, sign * 0.2)]);
    }
    if (!build.has?.includes('nose')) return;
    const nose = (_: unknown, k: number): Place => [0, y - 0.13 * build.height * k, z + build.head * 0.9];
    this.chain('nose', 'middle', head, Array.from({ length: this.between(4, 7) }, nose));
  }

  private tail(rear: Bone): void {
    if (!this.maybe(0.8)) return;
    const { height, tail } = this.build;
    const [length, rise] = tail;
    const count = length > 0.3 * height ? this.between(2, 6) : this.between(1, 2);
    const from: Place = [0, height * 0.95, this.hips - 0.12 * height];
    const places = Array.from({ length: count }, (_, k) => this.along(from, rise, (length * k) / count, -1));
    this.chain('tail', 'middle', rear, places);
  }

  /** What solvers reach for, beside the figure or under its root. */
  private targets(root: Bone | null): void {
    const parent = this.maybe(0.5) ? null : root;
    const hasBelow = new Set(this.bones.map((bone) => bone.parent));
    for (const foot of this.bones.filter(
      (bone) => bone.limb.endsWith('leg') && !bone.isTwist && !hasBelow.has(bone),
    ))
      this.add({
        limb: 'target',
        side: foot.side,
        joint: foot.limb === 'front leg' ? 0 : 1,
        parent,
        place: foot.place,
        isFlesh: false,
      });
  }
}

/** The same legs on flat feet: heels near the ground. */
const flat = (joints: typeof FRONT): typeof FRONT =>
  joints.map(([y, ahead], k) => {
    if (k < 3) return [y, ahead];
    return k === 3 ? [0.1, ahead] : [0.03, ahead + 0.12];
  });

/** Legs swung as in a walk, the neck and the tail raised or lowered. */
function swing(bones: readonly Bone[], farthest: number, random: Random): void {
  const most = Math.min(farthest, [2, 8, 25][Math.floor(random() * 3)]);
  const tops = bones.filter((bone) => bone.number === 1 && /leg|neck|tail/.test(bone.limb));
  for (const top of tops) {
    const rotation = quatAbout([1, 0, 0], (((random() * 2 - 1) * most) / 180) * Math.PI) as Quat;
    const at = top.place;
    for (const bone of bones) {
      let parent = bone.parent;
      while (parent && parent !== top) parent = parent.parent;
      if (!parent) continue;
      const moved = quatRotate(
        rotation,
        [0, 1, 2].map((k) => bone.place[k] - at[k]),
      );
      bone.place = [0, 1, 2].map((k) => at[k] + moved[k]) as unknown as Place;
    }
  }
}

function shake(bones: readonly Bone[], far: number, random: Random): void {
  for (const bone of bones)
    bone.place = bone.place.map((x, k) =>
      k === 0 && bone.side === 'middle' ? x : x + (random() * 2 - 1) * far,
    ) as unknown as Place;
}

/** Parents first, brothers in any order. */
function shuffledDown(bones: readonly Bone[], random: Random): Bone[] {
  const shuffled = bones
    .map((bone) => ({ b: bone, key: random() }))
    .sort((x, y) => x.key - y.key)
    .map((x) => x.b);
  const order: Bone[] = [];
  const visit = (bone: Bone) => {
    order.push(bone);
    for (const otherBone of shuffled) if (otherBone.parent === bone) visit(otherBone);
  };
  for (const bone of shuffled) if (!bone.parent) visit(bone);
  return order;
}

/** Looking any way, y or z up, in any unit. */
function placer(random: Random): (place: Place) => Place {
  const yaw = quatAbout(
    [0, 1, 0],
    [0, Math.PI, Math.PI / 2, random() * 6.28][Math.floor(random() * 4)],
  ) as Quat;
  const tip = (random() < 0.3 ? quatAbout([1, 0, 0], Math.PI / 2) : [0, 0, 0, 1]) as Quat;
  const unit = [1, 100, 39.37, 0.01][Math.floor(random() * 4)];
  return (place) => quatRotate(tip, quatRotate(yaw, place)).map((x) => x * unit) as unknown as Place;
}

/** How somebody names the bones of beasts. */
interface Naming {
  readonly id: string;
  readonly speaks: Beast['speaks'];
  make(species: string, random: Random): (bone: Bone, index: number) => string;
}

/** Words for front and hind. */
const ENDS: readonly (readonly [string, string])[] = [
  ['front', 'back'],
  ['front', 'hind'],
  ['front', 'rear'],
  ['fore', 'hind'],
  ['f', 'b'],
  ['f', 'r'],
  ['f', 'h'],
  ['vorne', 'hinten'],
];

/** Words for the joints of all legs alike, from the back down. */
const LEG_WORDS: readonly (readonly string[])[] = [
  ['hip', 'thigh', 'calf', 'foot', 'toe', 'hoof', 'tip'],
  ['leg_root', 'upperleg', 'lowerleg', 'foot', 'toe', 'nail', 'end'],
  ['leg_base', 'leg_top', 'leg_mid', 'leg_low', 'leg_foot', 'leg_toe', 'leg_end'],
  ['shoulder', 'upper_leg', 'knee', 'ankle', 'paw', 'claw', 'claw_end'],
  ['leg', 'leg', 'leg', 'leg', 'leg', 'leg', 'leg'],
];

/** Words for the joints of front and of hind legs, which tell them apart by themselves. */
const PART_WORDS: readonly (readonly [readonly string[], readonly string[]])[] = [
  [
    ['clavicle', 'upperarm', 'forearm', 'hand', 'finger', 'claw', 'tip'],
    ['hip', 'thigh', 'calf', 'foot', 'toe', 'claw', 'tip'],
  ],
  [
    ['scapula', 'humerus', 'radius', 'paw', 'digits', 'hoof', 'tip'],
    ['ilium', 'femur', 'tibia', 'ankle', 'toe', 'hoof', 'tip'],
  ],
  [
    ['shoulder', 'arm', 'forearm', 'wrist', 'fingers', 'hoof', 'tip'],
    ['hip', 'upleg', 'shin', 'ankle', 'ball', 'hoof', 'tip'],
  ],
  [
    ['shoulder', 'upper_arm', 'lower_arm', 'hand', 'knuckle', 'nail', 'end'],
    ['pelvis', 'thigh', 'leg', 'foot', 'toes', 'nail', 'end'],
  ],
];

const TRUNK_WORDS: readonly (readonly [root: string, spine: string, neck: string, head: string])[] = [
  ['root', 'spine', 'neck', 'head'],
  ['main', 'body', 'neck', 'head'],
  ['master', 'back', 'neck', 'skull'],
  ['origin', 'torso', 'throat_neck', 'head'],
];

const SIDE_FORMS: readonly ((text: string, side: SideWord) => string)[] = [
  (text, word) => (word === 'middle' ? text : `${text}_${word[0]}`),
  (text, word) => (word === 'middle' ? text : `${text}.${word[0].toUpperCase()}`),
  (text, word) => (word === 'middle' ? text : `${word[0].toUpperCase()}_${text}`),
  (text, word) => (word === 'middle' ? text : `${text}_${word}`),
  (text, word) => (word === 'middle' ? text : `${word}_${text}`),
  (text, word) => (word === 'middle' ? text : `${text} ${word[0].toUpperCase()}`),
];

/** Names from words for legs, the same words for all else. */
const spoken = (
  id: string,
  speaks: Beast['speaks'],
  legs: (random: Random) => (bone: Bone) => string,
): Naming => ({
  id,
  speaks,
  make: (species, random) => {
    const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
    const [root, spine, neck, head] = pick(TRUNK_WORDS);
    const put = pick(SIDE_FORMS);
    const legOf = legs(random);
    const prefix = random() < 0.35 ? `${pick([species, 'rig', 'def'])}_` : '';
    const style = pick([(text: string) => text, (text: string) => text, capitals]);
    const number = (bone: Bone) => (bone.of > 1 ? `_${bone.number}` : '');
    const text = (bone: Bone): string => {
      if (bone.limb.endsWith('leg')) return `${legOf(bone)}${bone.isTwist ? '_twist' : ''}`;
      if (bone.limb === 'target') return `${pick(['ik', 'target'])}_${bone.joint === 0 ? 'front' : 'back'}`;
      const word = { root, spine, neck, head, nose: 'trunk' }[bone.limb as string] ?? bone.limb;
      return `${word}${number(bone)}`;
    };
    return (bone) => prefix + style(put(text(bone), bone.side));
  },
});

const capitals = (text: string) =>
  text.replace(/(^|_)([a-z])(?=[a-z])/g, (_, gap: string, letter: string) => gap + letter.toUpperCase());

/** Front and hind by a word, before the joint's or after it. */
const withEnds = (words: readonly string[], ends: readonly [string, string]): Naming =>
  spoken(`${ends.join('/')} with ${words[1]}`, 'front and hind', (random) => {
    const isFirst = random() < 0.5;
    const isGlued = words[1] === 'leg' && random() < 0.4;
    return (bone) => {
      const end = ends[bone.limb === 'front leg' ? 0 : 1];
      const word = words[bone.joint];
      const count = words[1] === 'leg' ? `_${bone.number}` : '';
      if (isGlued) return `${end}${word}${count}`;
      return isFirst ? `${end}_${word}${count}` : `${word}_${end}${count}`;
    };
  });

const NAMINGS: readonly Naming[] = [
  ...LEG_WORDS.flatMap((words) => ENDS.map((ends) => withEnds(words, ends))),
  // As many of each kind as of those with front and hind.
  ...Array.from({ length: 7 }, () => PART_WORDS).flatMap((list) =>
    list.map(([front, hind]) =>
      spoken(
        `parts, ${front[1]} and ${hind[1]}`,
        'parts',
        () => (bone) => (bone.limb === 'front leg' ? front : hind)[bone.joint],
      ),
    ),
  ),
  ...Array.from({ length: 4 }, () => LEG_WORDS.slice(0, 4)).flatMap((list) =>
    list.map((words) => spoken(`${words[1]} for all four`, 'one word', () => (bone) => words[bone.joint])),
  ),
  ...Array.from({ length: 12 }, (): Naming => ({
    id: 'counted',
    speaks: 'nothing',
    make: () => (_, i) => `bone_${String(i).padStart(3, '0')}`,
  })),
];
