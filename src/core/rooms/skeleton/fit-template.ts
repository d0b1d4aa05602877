/**
 * A skeleton of a template put into a body that has none. It is brought to the body's size, its arms go to where the hands
 * are and its legs to where the feet are, each turned and stretched as a whole; then elbows, wrists, knees and ankles go to
 * the middle of the limb's cut there, one side as the mirror image of the other where the body is symmetric. A beginning for
 * the hand, told with how far each joint lies from the middle of its limb.
 */
import { looksOf } from '../../anatomy/looks';
import { type Skeleton, type SkeletonBone, bonesAbove, characterOfSkeleton } from '../../anatomy/skeleton';
import type { SkeletonTemplate } from '../../anatomy/skeletons/templates';
import { joinCharacters } from '../../character/join';
import { bodyMeshes } from '../../character/measure';
import type { Character } from '../../character/model';
import { type Vec3, distance, quatBetween, quatMultiply, quatRotate, subtract } from '../../geometry/matrix';
import { limbMiddle } from '../../anatomy/limb-middle';

/** Why a template cannot be put into a body, as a sentence. */
export class FitError extends Error {}

/** Everything of a body that the fit looks at: places of its points, 3 each, world space, metres. */
interface BodyPoints {
  readonly points: Float32Array;
  readonly min: Vec3;
  readonly max: Vec3;
  readonly height: number;
}

function bodyPointsOf(character: Character): BodyPoints {
  const lists = bodyMeshes(character).map(({ points }) => points);
  const points = new Float32Array(lists.reduce((sum, list) => sum + list.length, 0));
  let at = 0;
  for (const list of lists) {
    points.set(list, at);
    at += list.length;
  }
  if (points.length === 0) throw new FitError('There is no mesh that a skeleton could be put into.');
  const [min, max] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  for (let i = 0; i < points.length; i++) {
    min[i % 3] = Math.min(min[i % 3], points[i]);
    max[i % 3] = Math.max(max[i % 3], points[i]);
  }
  const height = max[1] - min[1];
  if (!(height > 0)) throw new FitError('The mesh is flat; a skeleton needs a body with a height.');
  return { points, min: min as unknown as Vec3, max: max as unknown as Vec3, height };
}

type Places = Map<string, Vec3>;

/**
 * The template's bones where they belong in a body, with the axes that the template gives them.
 * @param without bones that are left out; what hangs on them hangs under the one above
 * @throws FitError where there is no body to fit it to
 */
export function fittedSkeleton(
  character: Character,
  { skeleton, bounds }: SkeletonTemplate,
  without: ReadonlySet<string> = new Set(),
): Skeleton {
  const body = bodyPointsOf(character);
  const places = broughtToSize(skeleton, bounds, body);
  const looks = looksOf(skeleton);
  const limb = (part: string, side: number): string | undefined =>
    skeleton.bones.find(
      (_, i) =>
        looks.readings[i].part === part && looks.side[i] === side && looks.readings[i].kind === 'bone',
    )?.name;
  const isUpright = limb('upperarm', 1) !== undefined;
  if (isUpright)
    for (const side of [1, -1]) {
      reachFor(skeleton, places, limb('upperarm', side), fingertip(body, side));
      standOn(skeleton, places, limb('upperleg', side), limb('foot', side), sole(body, side));
    }
  const fitted = withPlaces(skeleton, places, without);
  if (!isUpright) return fitted;
  const joints = ['lowerarm', 'hand', 'lowerleg', 'foot'].flatMap((part) =>
    [1, -1].flatMap((side) => limb(part, side) ?? []),
  );
  return centred(character, fitted, joints, isSymmetric(body));
}

/** Joints of the template in the box of the body: as high, and as far apart as that makes them. */
function broughtToSize(skeleton: Skeleton, bounds: SkeletonTemplate['bounds'], body: BodyPoints): Places {
  const [low, high] = bounds;
  const isLong = high[2] - low[2] > high[1] - low[1];
  // Upright bodies are measured by their height, beasts by their box.
  const even = body.height / (high[1] - low[1]);
  const scale = [0, 1, 2].map((k) => (isLong ? (body.max[k] - body.min[k]) / (high[k] - low[k] || 1) : even));
  const middle = [(body.min[0] + body.max[0]) / 2, body.min[1], isLong ? body.min[2] : trunkDepth(body)];
  const from = [0, low[1], isLong ? low[2] : 0];
  return new Map(
    skeleton.bones.map(({ name, place, parent }) => [
      name,
      // A root that carries nothing stays at the origin.
      parent < 0 && Math.hypot(...place) < 1e-9
        ? place
        : ([0, 1, 2].map((k) => middle[k] + (place[k] - from[k]) * scale[k]) as unknown as Vec3),
    ]),
  );
}

/** Where the middle of the trunk lies from front to back: of the points at the height of the hips. */
function trunkDepth({ points, min, height }: BodyPoints): number {
  let [sum, count] = [0, 0];
  for (let i = 0; i < points.length; i += 3) {
    const share = (points[i + 1] - min[1]) / height;
    if (share < 0.5 || share > 0.62) continue;
    sum += points[i + 2];
    count++;
  }
  return count > 0 ? sum / count : 0;
}

/** Hands end farthest to a side, between the knees and the top of the head. */
function fingertip({ points, min, height }: BodyPoints, side: number): Vec3 | null {
  let best = -1;
  for (let i = 0; i < points.length; i += 3) {
    const share = (points[i + 1] - min[1]) / height;
    if (share < 0.3 || share > 0.95) continue;
    if (best < 0 || points[i] * side > points[best] * side) best = i;
  }
  return best < 0 ? null : [points[best], points[best + 1], points[best + 2]];
}

/** The middle of what stands on the ground on one side. */
function sole({ points, min, height }: BodyPoints, side: number): Vec3 | null {
  const sum = [0, 0, 0];
  let count = 0;
  for (let i = 0; i < points.length; i += 3) {
    if (points[i + 1] > min[1] + 0.03 * height || points[i] * side <= 0) continue;
    for (let k = 0; k < 3; k++) sum[k] += points[i + k];
    count++;
  }
  return count > 0 ? (sum.map((x) => x / count) as unknown as Vec3) : null;
}

const below = (skeleton: Skeleton, top: string): string[] => {
  const at = skeleton.bones.findIndex(({ name }) => name === top);
  return skeleton.bones.flatMap((bone, i) =>
    i === at || bonesAbove(skeleton, i).includes(at) ? [bone.name] : [],
  );
};

/** How far beyond the last joint of a finger its flesh goes on, as a share of the arm. */
const BEYOND_FINGER = 0.035;

/** Turns and stretches an arm about its shoulder so that its farthest joint comes to where the hand ends. */
function reachFor(skeleton: Skeleton, places: Places, shoulder: string | undefined, tip: Vec3 | null): void {
  if (shoulder === undefined || !tip) return;
  const from = places.get(shoulder) as Vec3;
  const arm = below(skeleton, shoulder);
  const away = (name: string) => distance(from, places.get(name) as Vec3);
  const last = arm.reduce((a, b) => (away(b) > away(a) ? b : a));
  const way = subtract(places.get(last) as Vec3, from);
  const wanted = subtract(tip, from);
  turnAndStretch(
    places,
    arm,
    from,
    way,
    wanted,
    (1 - BEYOND_FINGER) * (Math.hypot(...wanted) / Math.hypot(...way)),
  );
}

/** Turns and stretches a leg about its hip so that its ankle stands over the sole. */
function standOn(
  skeleton: Skeleton,
  places: Places,
  hip: string | undefined,
  ankle: string | undefined,
  ground: Vec3 | null,
): void {
  if (hip === undefined || ankle === undefined || !ground) return;
  const from = places.get(hip) as Vec3;
  const now = places.get(ankle) as Vec3;
  const wanted = subtract([ground[0], now[1], now[2]], from);
  const way = subtract(now, from);
  turnAndStretch(places, below(skeleton, hip), from, way, wanted, Math.hypot(...wanted) / Math.hypot(...way));
}

function turnAndStretch(
  places: Places,
  names: readonly string[],
  from: Vec3,
  way: Vec3,
  wanted: Vec3,
  scale: number,
): void {
  const turn = quatBetween(way, wanted);
  for (const name of names) {
    const turned = quatRotate(turn, subtract(places.get(name) as Vec3, from));
    places.set(name, [0, 1, 2].map((k) => from[k] + scale * turned[k]) as unknown as Vec3);
  }
}

/** The template's bones at other places, each turned as the way to what hangs on it has turned. */
function withPlaces(skeleton: Skeleton, places: Places, without: ReadonlySet<string>): Skeleton {
  const { bones } = skeleton;
  const kept = bones.flatMap(({ name }, i) => (without.has(name) ? [] : [i]));
  const at = new Map(kept.map((i, k) => [i, k]));
  const wayOf = (i: number, placeOf: (bone: SkeletonBone) => Vec3): Vec3 | null => {
    const children = bones.filter(({ parent }) => parent === i);
    if (children.length === 0) return null;
    const here = placeOf(bones[i]);
    const mean = [0, 1, 2].map(
      (k) => children.reduce((sum, child) => sum + placeOf(child)[k], 0) / children.length,
    );
    const way = subtract(mean as unknown as Vec3, here);
    return Math.hypot(...way) > 1e-9 ? way : null;
  };
  const turns: Map<number, readonly [number, number, number, number]> = new Map();
  const placed = bones.map((bone, i): SkeletonBone => {
    const [before, after] = [
      wayOf(i, ({ place }) => place),
      wayOf(i, ({ name }) => places.get(name) as Vec3),
    ];
    const turn = before && after ? quatBetween(before, after) : turns.get(bone.parent);
    if (turn) turns.set(i, turn);
    const up = bonesAbove(skeleton, i).find((b) => at.has(b));
    return {
      ...bone,
      place: places.get(bone.name) as Vec3,
      rotation: turn ? quatMultiply(turn, bone.rotation) : bone.rotation,
      parent: up === undefined ? -1 : (at.get(up) as number),
    };
  });
  return { ...skeleton, bones: kept.map((i) => placed[i]) };
}

/** So many times are joints brought to the middle: each changes the cut of its neighbours. */
const ROUNDS = 2;

/** A middle farther away than this share of the way to the bone above is another limb's. */
const OWN_LIMB = 0.5;

function centred(
  character: Character,
  skeleton: Skeleton,
  joints: readonly string[],
  isMirrored: boolean,
): Skeleton {
  let out = skeleton;
  for (let round = 0; round < ROUNDS; round++)
    for (const name of joints) {
      const i = out.bones.findIndex((bone) => bone.name === name);
      if (i < 0) continue;
      const standing = withSkeleton(character, out);
      const middle = limbMiddle(standing, character.nodes.length + i);
      const { place, parent } = out.bones[i];
      if (!middle || distance(middle, place) > OWN_LIMB * distance(place, out.bones[parent].place)) continue;
      out = movedBone(out, i, middle);
    }
  return isMirrored ? evened(out) : out;
}

/** A bone at another place with what hangs on it, axes turned along the new ways. */
function movedBone(skeleton: Skeleton, bone: number, to: Vec3): Skeleton {
  const by = subtract(to, skeleton.bones[bone].place);
  const places: Places = new Map(
    skeleton.bones.map(({ name, place }, i) => {
      const goes = i === bone || bonesAbove(skeleton, i).includes(bone);
      return [name, goes ? ([0, 1, 2].map((k) => place[k] + by[k]) as unknown as Vec3) : place];
    }),
  );
  return withPlaces(skeleton, places, new Set());
}

const across = ([x, y, z]: Vec3): Vec3 => [-x, y, z];

/** Both sides at the mean of each other's mirror images, and what has no side in the middle. */
function evened(skeleton: Skeleton): Skeleton {
  const { side } = looksOf(skeleton);
  const places: Places = new Map(
    skeleton.bones.map(({ name, place }, i): [string, Vec3] => {
      if (side[i] === 0) return [name, [0, place[1], place[2]]];
      const twins = skeleton.bones.filter((_, k) => side[k] === -side[i]).map((twin) => across(twin.place));
      const apart = (other: Vec3) => distance(other, place);
      if (twins.length === 0) return [name, place];
      const twin = twins.reduce((best, other) => (apart(other) < apart(best) ? other : best));
      return [name, [0, 1, 2].map((k) => (place[k] + twin[k]) / 2) as unknown as Vec3];
    }),
  );
  return withPlaces(skeleton, places, new Set());
}

/** A body whose box reaches as far to either side. */
const isSymmetric = ({ min, max, height }: BodyPoints): boolean => Math.abs(min[0] + max[0]) < 0.02 * height;

/** A character with a skeleton beside its meshes; its bones come after its own nodes. */
export function withSkeleton(character: Character, skeleton: Skeleton): Character {
  return joinCharacters(character, characterOfSkeleton(skeleton), { shareBones: false });
}
