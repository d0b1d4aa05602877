/**
 * Figures to match: of a kind, a build and a stance, turned and scaled, with bones left out and added, named
 * by a habit.
 */
import { quatAbout, quatMultiply } from '../../core/geometry/matrix';
import type { Skeleton, SkeletonBone } from '../../core/anatomy/skeleton';
import { makeRandom } from '../../core/geometry/random';
import type { Habit, Named, Random } from './habits';
import { type FigureKind, KINDS, type RoleBone } from './roles';

type Place = [number, number, number];
type Quat = readonly [number, number, number, number];

export const STANCES = ['T', 'A', 'relaxed', 'striding', 'seated', 'arms crossed'] as const;
export type Stance = (typeof STANCES)[number];

export const BUILDS = ['adult', 'child', 'heavy', 'long-armed'] as const;
export type Build = (typeof BUILDS)[number];

/** A figure with what each of its bones is. */
export interface Figure {
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
  readonly named: Named;
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
): Figure {
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
  const stance = given.stance ?? pick(STANCES);
  const build = given.build ?? pick(BUILDS);
  let bones = bonesOfKind(kind);
  grow(bones, build, random);
  pose(bones, kind, stance, random);
  if (!given.steady) shake(bones, random);
  const out = given.plain ? [] : leaveOut(kind, random);
  const left = given.toes ? out.filter((x) => !x.test('toe 1 left')) : out;
  bones = bones.filter((b) => !left.some((x) => x.test(b.role ?? '')));
  for (const b of bones) while (b.parent && !bones.includes(b.parent)) b.parent = b.parent.parent;
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
  const longer = new Set(bones.filter((b) => !b.role && !b.named.kind).map((b) => `${b.named.part} middle`));
  return { ...finish(bones, habit, random, given.steady ?? false), habit, stance, kind, longer, told };
}

function bonesOfKind(kind: FigureKind): Bone[] {
  const out: Bone[] = [];
  const chains = new Map<string, number>();
  const key = (b: RoleBone) => `${b.part} ${b.side}`;
  for (const b of KINDS[kind]) chains.set(key(b), (chains.get(key(b)) ?? 0) + 1);
  for (const b of KINDS[kind])
    out.push({
      role: b.role,
      named: { part: b.part, side: b.side, number: b.number, of: chains.get(key(b)) as number },
      parent: b.parent < 0 ? null : out[b.parent],
      place: [...b.place],
    });
  return out;
}

/** Chains that lost or gained bones are numbered anew. */
function renumber(bones: Bone[]): void {
  const groups = new Map<string, Bone[]>();
  for (const b of bones) {
    const key = `${b.named.part} ${b.named.side}`;
    groups.set(key, [...(groups.get(key) ?? []), b]);
  }
  for (const group of groups.values())
    group.forEach((b, k) => Object.assign(b, { named: { ...b.named, number: k + 1, of: group.length } }));
}

function childish(part: string): number {
  if (/lowerleg|foot/.test(part)) return 0.78;
  return part === 'head' ? 1.25 : 0.9;
}

/** Longer and shorter spans, the same on both sides. */
function grow(bones: Bone[], build: Build, random: Random): void {
  const factors = new Map<string, number>();
  const factorOf = (b: Bone): number => {
    const { part, number } = b.named;
    const key = `${part} ${number}`;
    let f = factors.get(key);
    if (f === undefined) {
      f = 1 + (random() - 0.5) * 0.14;
      if (build === 'long-armed' && /lowerarm|hand/.test(part)) f *= 1.35;
      if (build === 'child') f *= childish(part);
      if (build === 'heavy') f *= /upperarm|collar|upperleg/.test(part) ? 1.35 : 1;
      factors.set(key, f);
    }
    return f;
  };
  const before = new Map(bones.map((b) => [b, [...b.place] as Place]));
  for (const b of bones) {
    if (!b.parent) continue;
    const from = before.get(b.parent) as Place;
    const was = before.get(b) as Place;
    const f = factorOf(b);
    b.place = [0, 1, 2].map((k) => (b.parent as Bone).place[k] + (was[k] - from[k]) * f) as Place;
  }
}

function turn([x, y, z]: Place, q: Quat): Place {
  const v = quatMultiply(quatMultiply(q, [x, y, z, 0] as never), [-q[0], -q[1], -q[2], q[3]] as never);
  return [v[0], v[1], v[2]];
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
  for (const b of bones) {
    if (b.named.part !== part) continue;
    if (typeof only === 'string' && b.named.side !== only) continue;
    if (typeof only === 'number' && b.named.number !== only) continue;
    const sign = b.named.side === 'right' && axis !== 'x' ? -1 : 1;
    const q = quatAbout([...AXES[axis]] as Place, (sign * degrees * Math.PI) / 180);
    for (const c of bones) {
      if (c === b || !hangsOn(c, b)) continue;
      const moved = turn([0, 1, 2].map((k) => c.place[k] - b.place[k]) as Place, q);
      c.place = [0, 1, 2].map((k) => b.place[k] + moved[k]) as Place;
    }
  }
}

function hangsOn(c: Bone, b: Bone): boolean {
  for (let p = c.parent; p; p = p.parent) if (p === b) return true;
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
    for (const f of ['thumb', 'index', 'long', 'ring', 'little'])
      for (const k of [3, 2, 1])
        bend(bones, f, f === 'thumb' ? 'y' : 'z', about(f === 'thumb' ? -8 : -22), k);
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

function poseBeast(bones: Bone[], kind: FigureKind, stance: Stance, about: (d: number) => number): void {
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
  const nearest = (b: Bone) =>
    Math.min(...bones.filter((c) => c.parent === b || b.parent === c).map((c) => apart(b.place, c.place)));
  const far = bones.map((b) => Math.min(0.02, 0.25 * nearest(b)));
  bones.forEach((b, i) => {
    const v = [0, 1, 2].map(() => random() * 2 - 1);
    const l = Math.hypot(...v) || 1;
    b.place = b.place.map((x, k) => x + (v[k] / l) * far[i] * random()) as Place;
  });
}

const apart = (a: Place, b: Place) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

function leaveOut(kind: FigureKind, random: Random): RegExp[] {
  const out: RegExp[] = [];
  const maybe = (p: number, x: RegExp) => {
    if (random() < p) out.push(x);
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
  const maybe = (p: number) => random() < p;
  const body = [...bones];
  const height = Math.max(...body.map((b) => b.place[1])) - Math.min(...body.map((b) => b.place[1]));
  const add = (parent: Bone | null, place: Place, named: Named): Bone => {
    const b: Bone = { role: null, parent, place, named };
    bones.push(b);
    return b;
  };
  const childrenOf = (b: Bone) => body.filter((c) => c.parent === b);
  const named = (part: string, side: RoleBone['side'], kind: Named['kind'], number = 1, of = 1): Named => ({
    part,
    side,
    number,
    of,
    kind,
  });
  if (maybe(0.3))
    for (const b of body.filter((x) => /^(upperarm|lowerarm|upperleg)$/.test(x.named.part))) {
      const [next] = childrenOf(b);
      if (next) add(b, mix(b.place, next.place, 0.5), { ...b.named, kind: 'twist' });
    }
  if (maybe(0.35))
    for (const b of body.filter((x) => childrenOf(x).length === 0 && x.parent)) {
      const p = (b.parent as Bone).place;
      add(b, b.place.map((x, k) => x + (x - p[k]) * 0.7) as Place, { ...b.named, kind: 'end' });
    }
  const pelvis = body.find((b) => b.named.part === 'pelvis') ?? body[0];
  if (maybe(0.25))
    for (let k = 0; k < 6; k++) {
      const a = (k / 6) * 2 * Math.PI + 0.3;
      let parent = pelvis;
      for (let n = 1; n <= 3; n++)
        parent = add(
          parent,
          [
            pelvis.place[0] + Math.cos(a) * 0.16,
            pelvis.place[1] - 0.05 - n * 0.1 * height,
            pelvis.place[2] + Math.sin(a) * 0.14,
          ],
          named('cloth', 'middle', 'cloth', k * 3 + n, 18),
        );
    }
  if (maybe(0.25))
    for (const b of body.filter((x) => /^(upperleg)$/.test(x.named.part))) {
      const stub = add(b.parent, mix((b.parent as Bone).place, b.place, 0.45), { ...b.named, kind: 'stub' });
      b.parent = stub;
    }
  if (maybe(0.2)) insertAbove(bones, body, 'spine');
  if (maybe(0.15)) insertAbove(bones, body, 'neck');
  renumber(bones.filter((b) => !b.named.kind));
  if (maybe(0.4)) {
    const ground: Place = [pelvis.place[0], Math.min(...body.map((b) => b.place[1])), pelvis.place[2]];
    const root = add(null, ground, named('root', 'middle', 'root'));
    bones.filter((b) => !b.parent && b !== root).forEach((b) => (b.parent = root));
    if (maybe(0.35))
      for (const b of body.filter((x) => /^(hand|foot|lowerleg)$/.test(x.named.part)))
        add(root, [...b.place], { ...b.named, kind: 'control' });
  }
}

const mix = (a: Place, b: Place, t: number): Place => [0, 1, 2].map((k) => a[k] + (b[k] - a[k]) * t) as Place;

/** One more bone of the trunk, halfway below the second of its kind, or the first. */
function insertAbove(bones: Bone[], body: readonly Bone[], part: string): void {
  const at = body.filter((b) => b.named.part === part && b.role);
  const b = at[1] ?? at[0];
  if (!b?.parent) return;
  const extra: Bone = {
    role: null,
    parent: b.parent,
    place: mix(b.parent.place, b.place, 0.5),
    named: { ...b.named, number: 0 },
  };
  bones.splice(bones.indexOf(b), 0, extra);
  b.parent = extra;
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
  for (const b of [...bones])
    for (const [word, part] of HELD)
      if (b.named.part === part && b.role && b.named.number === 1)
        bones.push({
          role: null,
          parent: b,
          place: [b.place[0], b.place[1] - 0.03, b.place[2] + 0.05],
          named: { ...b.named, part: word, of: 1, kind: 'attach' },
        });
}

/** Turned, scaled, shuffled and named. */
function finish(
  bones: Bone[],
  habit: Habit,
  random: Random,
  isSteady: boolean,
): Pick<Figure, 'skeleton' | 'roles' | 'isFlesh'> {
  const placed = isSteady ? (b: Bone) => b.place : placer(random);
  const order: Bone[] = [];
  const shuffled = bones
    .map((b) => ({ b, key: random() }))
    .sort((x, y) => x.key - y.key)
    .map((x) => x.b);
  const visit = (b: Bone) => {
    order.push(b);
    for (const c of shuffled) if (c.parent === b) visit(c);
  };
  for (const b of shuffled) if (!b.parent) visit(b);
  const name = habit.make(random);
  const used = new Map<string, number>();
  const list = order.map((b, i): SkeletonBone => {
    const plain = name(b.named, i);
    const n = used.get(plain) ?? 0;
    used.set(plain, n + 1);
    return {
      name: n === 0 ? plain : `${plain}.${n}`,
      parent: b.parent ? order.indexOf(b.parent) : -1,
      place: placed(b),
      rotation: [0, 0, 0, 1],
      weight: 0,
      holds: false,
      node: i,
    };
  });
  const isFlesh = order.map((b) => !b.named.kind || b.named.kind === 'twist' || b.named.kind === 'cloth');
  return {
    skeleton: { id: 'figure', title: 'figure', bones: list },
    roles: order.map((b) => b.role),
    isFlesh,
  };
}

/** Turned about, laid down or not, in one of some units. */
function placer(random: Random): (b: Bone) => Place {
  const yaw = quatAbout([0, 1, 0], random() * 2 * Math.PI);
  const tip = [
    [0, 0, 0, 1] as Quat,
    quatAbout([1, 0, 0], Math.PI / 2) as Quat,
    quatAbout([0, 0, 1], Math.PI / 2) as Quat,
  ][Math.floor(random() * 3)];
  const unit = [1, 1, 100, 39.37, 0.01][Math.floor(random() * 5)];
  return (b) => turn(turn(b.place, yaw as never), tip).map((x) => x * unit) as Place;
}
