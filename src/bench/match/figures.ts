/**
 * Figures to match: of a kind, a build and a stance, turned and scaled, with bones left out and added, named
 * by a habit.
 */
import { quatAbout, quatRotate } from '../../core/geometry/matrix';
import type { Skeleton, SkeletonBone } from '../../core/anatomy/skeleton';
import { makeRandom } from '../../core/geometry/random';
import type { Habit, NamedRole, Random } from './habits';
import { type FigureKind, KINDS, type RoleBone } from './roles';

type Place = [number, number, number];
type Quat = readonly [number, number, number, number];

export const STANCES = ['T', 'A', 'relaxed', 'striding', 'seated', 'arms crossed'] as const;
export type Stance = (typeof STANCES)[number];

export const BUILDS = ['adult', 'child', 'heavy', 'long-armed'] as const;
export type Build = (typeof BUILDS)[number];

/** A figure with what each of its bones is. */
export interface MadeFigure {
  readonly skeleton: Skeleton;
  /** What every bone is; null for what others need not have. */
  readonly roles: readonly (string | null)[];
  /** Whether a bone carries anything in a body that is put round it. */
  readonly isFlesh: readonly boolean[];
  readonly habit: Habit;
  readonly stance: Stance;
  readonly kind: FigureKind;
  /** Chains of the trunk that have more bones than their kind has. */
  readonly longer: ReadonlySet<string>;
  readonly told: string;
}

interface Bone {
  readonly role: string | null;
  readonly named: NamedRole;
  parent: Bone | null;
  place: Place;
}

export { makeRandom };

/**
 * A figure by chance; what is given is so. `plain`: no bones left out or added. `steady`: on its own axes, in metres,
 * both sides alike. `holding`: with bones that things are held by. `toes`: with toes at any rate.
 */
export function makeFigure(
  random: Random,
  kind: FigureKind,
  habit: Habit,
  given: {
    stance?: Stance;
    plain?: boolean;
    steady?: boolean;
    holding?: boolean;
    toes?: boolean;
    build?: Build;
  } = {},
): MadeFigure {
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
  const stance = given.stance ?? pick(STANCES);
  const build = given.build ?? pick(BUILDS);
  let bones = bonesOfKind(kind);
  grow(bones, build, random);
  pose(bones, kind, stance, random);
  if (!given.steady) shake(bones, random);
  const out = given.plain ? [] : leaveOut(kind, random);
  const left = given.toes ? out.filter((x) => !x.test('toe 1 left')) : out;
  bones = bones.filter((bone) => !left.some((x) => x.test(bone.role ?? '')));
  for (const bone of bones)
    while (bone.parent && !bones.includes(bone.parent)) bone.parent = bone.parent.parent;
  renumber(bones);
  if (!given.plain) addBones(bones, random);
  if (given.holding) addAttachPoints(bones);
  const told = [
    kind,
    build,
    stance,
    habit.id,
    `without ${left.map((x) => x.source).join(', ') || 'nothing'}`,
  ].join(' · ');
  const longer = new Set(
    bones.filter((bone) => !bone.role && !bone.named.kind).map((bone) => `${bone.named.part} middle`),
  );
  return { ...finish(bones, habit, random, given.steady ?? false), habit, stance, kind, longer, told };
}

function bonesOfKind(kind: FigureKind): Bone[] {
  const out: Bone[] = [];
  const chains = new Map<string, number>();
  const key = (bone: RoleBone) => `${bone.part} ${bone.side}`;
  for (const bone of KINDS[kind]) chains.set(key(bone), (chains.get(key(bone)) ?? 0) + 1);
  for (const bone of KINDS[kind])
    out.push({
      role: bone.role,
      named: { part: bone.part, side: bone.side, number: bone.number, of: chains.get(key(bone)) as number },
      parent: bone.parent < 0 ? null : out[bone.parent],
      place: [...bone.place],
    });
  return out;
}

/** Chains that lost or gained bones are numbered anew. */
function renumber(bones: Bone[]): void {
  const groups = new Map<string, Bone[]>();
  for (const bone of bones) {
    const key = `${bone.named.part} ${bone.named.side}`;
    groups.set(key, [...(groups.get(key) ?? []), bone]);
  }
  for (const group of groups.values())
    group.forEach((bone, k) =>
      Object.assign(bone, { named: { ...bone.named, number: k + 1, of: group.length } }),
    );
}

function childish(part: string): number {
  if (/lowerleg|foot/.test(part)) return 0.78;
  return part === 'head' ? 1.25 : 0.9;
}

/** Longer and shorter spans, the same on both sides. */
function grow(bones: Bone[], build: Build, random: Random): void {
  const factors = new Map<string, number>();
  const factorOf = (bone: Bone): number => {
    const { part, number } = bone.named;
    const key = `${part} ${number}`;
    let factor = factors.get(key);
    if (factor === undefined) {
      factor = 1 + (random() - 0.5) * 0.14;
      if (build === 'long-armed' && /lowerarm|hand/.test(part)) factor *= 1.35;
      if (build === 'child') factor *= childish(part);
      if (build === 'heavy') factor *= /upperarm|collar|upperleg/.test(part) ? 1.35 : 1;
      factors.set(key, factor);
    }
    return factor;
  };
  const before = new Map(bones.map((bone) => [bone, [...bone.place] as Place]));
  for (const bone of bones) {
    if (!bone.parent) continue;
    const from = before.get(bone.parent) as Place;
    const was = before.get(bone) as Place;
    const factor = factorOf(bone);
    bone.place = [0, 1, 2].map((k) => (bone.parent as Bone).place[k] + (was[k] - from[k]) * factor) as Place;
  }
}

const AXES = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] } as const;

/** Turns what hangs on a joint about an axis of the figure; the right side mirrored. Degrees. */
function bend(
  bones: Bone[],
  part: string,
  axis: keyof typeof AXES,
  degrees: number,
  only?: 'left' | 'right' | number,
): void {
  for (const bone of bones) {
    if (bone.named.part !== part) continue;
    if (typeof only === 'string' && bone.named.side !== only) continue;
    if (typeof only === 'number' && bone.named.number !== only) continue;
    const sign = bone.named.side === 'right' && axis !== 'x' ? -1 : 1;
    const rotation = quatAbout([...AXES[axis]] as Place, (sign * degrees * Math.PI) / 180);
    for (const otherBone of bones) {
      if (otherBone === bone || !hangsOn(otherBone, bone)) continue;
      const moved = quatRotate(
        rotation,
        [0, 1, 2].map((k) => otherBone.place[k] - bone.place[k]),
      );
      otherBone.place = [0, 1, 2].map((k) => bone.place[k] + moved[k]) as Place;
    }
  }
}

function hangsOn(bone: Bone, otherBone: Bone): boolean {
  for (let ancestor = bone.parent; ancestor; ancestor = ancestor.parent)
    if (ancestor === otherBone) return true;
  return false;
}

/** Bends from the tips inward, each about the axes of the T-pose. */
function pose(bones: Bone[], kind: FigureKind, stance: Stance, random: Random): void {
  const about = (degrees: number) => degrees + (random() - 0.5) * (stance === 'T' ? 3 : 10);
  const both = (part: string, axis: 'x' | 'y' | 'z', degrees: number) => {
    bend(bones, part, axis, about(degrees), 'left');
    bend(bones, part, axis, about(degrees), 'right');
  };
  if (kind !== 'human') return poseBeast(bones, kind, stance, about);
  const isLoose = stance !== 'T' && stance !== 'A';
  if (isLoose)
    for (const part of ['thumb', 'index', 'long', 'ring', 'little'])
      for (const k of [3, 2, 1])
        bend(bones, part, part === 'thumb' ? 'y' : 'z', about(part === 'thumb' ? -8 : -22), k);
  if (isLoose) both('hand', 'z', -8);
  const legs = (hip: number, knee: number, side: 'left' | 'right') => {
    bend(bones, 'lowerleg', 'x', about(knee), side);
    bend(bones, 'upperleg', 'x', about(hip), side);
  };
  if (stance === 'A') both('upperarm', 'z', -45);
  if (stance === 'relaxed') {
    both('lowerarm', 'y', -18);
    both('upperarm', 'z', -72);
    legs(-3, 6, 'left');
    legs(-3, 6, 'right');
  }
  if (stance === 'striding') {
    both('lowerarm', 'y', -35);
    both('upperarm', 'z', -72);
    bend(bones, 'upperarm', 'x', about(28), 'left');
    bend(bones, 'upperarm', 'x', about(-28), 'right');
    legs(-32, 14, 'left');
    legs(24, 34, 'right');
    bend(bones, 'spine', 'y', about(8), 2);
  }
  if (stance === 'seated') {
    both('lowerarm', 'y', -70);
    both('upperarm', 'z', -66);
    both('upperarm', 'x', -22);
    legs(-86, 84, 'left');
    legs(-86, 84, 'right');
    both('upperleg', 'y', 10);
  }
  if (stance === 'arms crossed') {
    bend(bones, 'lowerarm', 'y', about(-112), 'left');
    bend(bones, 'lowerarm', 'y', about(-100), 'right');
    both('upperarm', 'z', -58);
    both('upperarm', 'y', -30);
    legs(-4, 8, 'left');
    legs(2, 6, 'right');
  }
}

function poseBeast(
  bones: Bone[],
  kind: FigureKind,
  stance: Stance,
  about: (degrees: number) => number,
): void {
  if (stance === 'T') return;
  const swing = stance === 'striding' ? 26 : 6;
  for (const [k, side] of (['left', 'right'] as const).entries()) {
    const sign = k === 0 ? 1 : -1;
    bend(bones, 'upperleg', 'x', about(sign * swing), side);
    if (kind === 'dog') bend(bones, 'upperarm', 'x', about(-sign * swing), side);
    if (kind === 'bird' && (stance === 'seated' || stance === 'relaxed' || stance === 'arms crossed')) {
      bend(bones, 'wing', 'y', about(stance === 'relaxed' ? 40 : 95), 2);
      bend(bones, 'wing', 'y', about(stance === 'relaxed' ? 20 : 60), 1);
    }
  }
  bend(bones, 'neck', 'x', about(stance === 'seated' ? 25 : 0), 1);
  bend(bones, 'tail', 'x', about(stance === 'arms crossed' ? -35 : 10), 1);
}

/** Joints lie up to 2 cm from where they should, in fingers as far as fingers are long. */
function shake(bones: Bone[], random: Random): void {
  const nearest = (bone: Bone) =>
    Math.min(
      ...bones
        .filter((otherBone) => otherBone.parent === bone || bone.parent === otherBone)
        .map((otherBone) => apart(bone.place, otherBone.place)),
    );
  const far = bones.map((bone) => Math.min(0.02, 0.25 * nearest(bone)));
  bones.forEach((bone, i) => {
    const values = [0, 1, 2].map(() => random() * 2 - 1);
    const length = Math.hypot(...values) || 1;
    bone.place = bone.place.map((x, k) => x + (values[k] / length) * far[i] * random()) as Place;
  });
}

const apart = (a: Place, b: Place) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

function leaveOut(kind: FigureKind, random: Random): RegExp[] {
  const out: RegExp[] = [];
  const maybe = (chance: number, x: RegExp) => {
    if (random() < chance) out.push(x);
  };
  if (kind === 'human') maybe(0.25, /^(thumb|index|long|ring|little) /);
  maybe(0.25, /^toe /);
  maybe(0.15, /^collar /);
  maybe(0.2, /^spine 2 /);
  if (kind !== 'human') {
    maybe(0.3, /^jaw /);
    maybe(0.2, /^tail /);
    maybe(0.2, /^ear /);
  }
  return out;
}

/** What only one side has: twists, ends, cloth, controls, roots, stubs, more of the spine and the neck. */
function addBones(bones: Bone[], random: Random): void {
  const maybe = (chance: number) => random() < chance;
  const body = [...bones];
  const height =
    Math.max(...body.map((bone) => bone.place[1])) - Math.min(...body.map((bone) => bone.place[1]));
  const add = (parent: Bone | null, place: Place, named: NamedRole): Bone => {
    const bone: Bone = { role: null, parent, place, named };
    bones.push(bone);
    return bone;
  };
  const childrenOf = (bone: Bone) => body.filter((otherBone) => otherBone.parent === bone);
  const named = (
    part: string,
    side: RoleBone['side'],
    kind: NamedRole['kind'],
    number = 1,
    of = 1,
  ): NamedRole => ({
    part,
    side,
    number,
    of,
    kind,
  });
  if (maybe(0.3))
    for (const bone of body.filter((otherBone) =>
      /^(upperarm|lowerarm|upperleg)$/.test(otherBone.named.part),
    )) {
      const [next] = childrenOf(bone);
      if (next) add(bone, mix(bone.place, next.place, 0.5), { ...bone.named, kind: 'twist' });
    }
  if (maybe(0.35))
    for (const bone of body.filter((otherBone) => childrenOf(otherBone).length === 0 && otherBone.parent)) {
      const place = (bone.parent as Bone).place;
      add(bone, bone.place.map((x, k) => x + (x - place[k]) * 0.7) as Place, { ...bone.named, kind: 'end' });
    }
  const pelvis = body.find((bone) => bone.named.part === 'pelvis') ?? body[0];
  if (maybe(0.25))
    for (let k = 0; k < 6; k++) {
      const a = (k / 6) * 2 * Math.PI + 0.3;
      let parent = pelvis;
      for (let node = 1; node <= 3; node++)
        parent = add(
          parent,
          [
            pelvis.place[0] + Math.cos(a) * 0.16,
            pelvis.place[1] - 0.05 - node * 0.1 * height,
            pelvis.place[2] + Math.sin(a) * 0.14,
          ],
          named('cloth', 'middle', 'cloth', k * 3 + node, 18),
        );
    }
  if (maybe(0.25))
    for (const bone of body.filter((otherBone) => /^(upperleg)$/.test(otherBone.named.part))) {
      const stub = add(bone.parent, mix((bone.parent as Bone).place, bone.place, 0.45), {
        ...bone.named,
        kind: 'stub',
      });
      bone.parent = stub;
    }
  if (maybe(0.2)) insertAbove(bones, body, 'spine');
  if (maybe(0.15)) insertAbove(bones, body, 'neck');
  renumber(bones.filter((bone) => !bone.named.kind));
  if (maybe(0.4)) {
    const ground: Place = [pelvis.place[0], Math.min(...body.map((bone) => bone.place[1])), pelvis.place[2]];
    const root = add(null, ground, named('root', 'middle', 'root'));
    bones.filter((bone) => !bone.parent && bone !== root).forEach((bone) => (bone.parent = root));
    if (maybe(0.35))
      for (const bone of body.filter((otherBone) => /^(hand|foot|lowerleg)$/.test(otherBone.named.part)))
        add(root, [...bone.place], { ...bone.named, kind: 'control' });
  }
}

const mix = (a: Place, b: Place, share: number): Place =>
  [0, 1, 2].map((k) => a[k] + (b[k] - a[k]) * share) as Place;

/** One more bone of the trunk, halfway below the second of its kind, or the first. */
function insertAbove(bones: Bone[], body: readonly Bone[], part: string): void {
  const at = body.filter((bone) => bone.named.part === part && bone.role);
  const otherBone = at[1] ?? at[0];
  if (!otherBone?.parent) return;
  const extra: Bone = {
    role: null,
    parent: otherBone.parent,
    place: mix(otherBone.parent.place, otherBone.place, 0.5),
    named: { ...otherBone.named, number: 0 },
  };
  bones.splice(bones.indexOf(otherBone), 0, extra);
  otherBone.parent = extra;
}

/** What things are held by, and on which part. */
const HELD: readonly (readonly [string, string])[] = [
  ['weapon', 'hand'],
  ['shield', 'hand'],
  ['shield_arm', 'lowerarm'],
  ['quiver', 'upperleg'],
  ['helmet', 'head'],
  ['ammo', 'hand'],
  ['neck_guard', 'neck'],
];

/** Bones that carry nothing and have nothing below, on hands, hips, heads and arms. */
function addAttachPoints(bones: Bone[]): void {
  for (const bone of [...bones])
    for (const [word, part] of HELD)
      if (bone.named.part === part && bone.role && bone.named.number === 1)
        bones.push({
          role: null,
          parent: bone,
          place: [bone.place[0], bone.place[1] - 0.03, bone.place[2] + 0.05],
          named: { ...bone.named, part: word, of: 1, kind: 'attach' },
        });
}

/** Turned, scaled, shuffled and named. */
function finish(
  bones: Bone[],
  habit: Habit,
  random: Random,
  isSteady: boolean,
): Pick<MadeFigure, 'skeleton' | 'roles' | 'isFlesh'> {
  const placed = isSteady ? (bone: Bone) => bone.place : placer(random);
  const order: Bone[] = [];
  const shuffled = bones
    .map((bone) => ({ b: bone, key: random() }))
    .sort((x, y) => x.key - y.key)
    .map((x) => x.b);
  const visit = (bone: Bone) => {
    order.push(bone);
    for (const otherBone of shuffled) if (otherBone.parent === bone) visit(otherBone);
  };
  for (const bone of shuffled) if (!bone.parent) visit(bone);
  const name = habit.make(random);
  const used = new Map<string, number>();
  const list = order.map((bone, i): SkeletonBone => {
    const plain = name(bone.named, i);
    const count = used.get(plain) ?? 0;
    used.set(plain, count + 1);
    return {
      name: count === 0 ? plain : `${plain}.${count}`,
      parent: bone.parent ? order.indexOf(bone.parent) : -1,
      place: placed(bone),
      rotation: [0, 0, 0, 1],
      weight: 0,
      holds: false,
      node: i,
    };
  });
  const isFlesh = order.map(
    (bone) => !bone.named.kind || bone.named.kind === 'twist' || bone.named.kind === 'cloth',
  );
  return {
    skeleton: { id: 'figure', title: 'figure', bones: list },
    roles: order.map((bone) => bone.role),
    isFlesh,
  };
}

/** Turned about, laid down or not, in one of some units. */
function placer(random: Random): (bone: Bone) => Place {
  const yaw = quatAbout([0, 1, 0], random() * 2 * Math.PI);
  const tip = [
    [0, 0, 0, 1] as Quat,
    quatAbout([1, 0, 0], Math.PI / 2) as Quat,
    quatAbout([0, 0, 1], Math.PI / 2) as Quat,
  ][Math.floor(random() * 3)];
  const unit = [1, 1, 100, 39.37, 0.01][Math.floor(random() * 5)];
  return (bone) => quatRotate(tip, quatRotate(yaw, bone.place)).map((x) => x * unit) as Place;
}
