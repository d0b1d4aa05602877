import { wordTable } from '../character/words';
import { bonesOf, restPlace, weightOfNodes } from '../character/hierarchy';
import type { Character } from '../character/model';
import { type Vec3, cross, dot, length, normalise, subtract } from '../geometry/matrix';
import { beastBearing } from './beast-bearing';
import { AXES, type Bearing, degreesBetween, nearestAxis, squareAgainst } from './bearing';
import { bodyKindOf } from './body-kind';
import { skeletonOf } from './skeleton';
import { VRM_HUMANOID } from './skeletons/vrm';
import { suggest } from './suggest';
import { isBodyBone, meaningOf } from './bones';
import type { BodySide } from './reading/read';

export type Part =
  'pelvis' | 'head' | 'neck' | 'upperarm' | 'lowerarm' | 'hand' | 'upperleg' | 'lowerleg' | 'foot' | 'toe';
export type Landmark = `${Part}` | `${Part} left` | `${Part} right`;

/** Nodes of the bones that a figure is measured by. What is missing is not there. */
export type Landmarks = ReadonlyMap<Landmark, number>;

const MIDDLE: readonly Part[] = ['pelvis', 'head', 'neck'];
const SIDED: readonly Part[] = ['upperarm', 'lowerarm', 'hand', 'upperleg', 'lowerleg', 'foot', 'toe'];

const BY_VRM = wordTable<Landmark>({
  hips: 'pelvis',
  neck: 'neck',
  head: 'head',
  ...Object.fromEntries(
    (['left', 'right'] as const).flatMap((side) =>
      (
        [
          ['UpperArm', 'upperarm'],
          ['LowerArm', 'lowerarm'],
          ['Hand', 'hand'],
          ['UpperLeg', 'upperleg'],
          ['LowerLeg', 'lowerleg'],
          ['Foot', 'foot'],
          ['Toes', 'toe'],
        ] as const
      ).map(([b, part]) => [`${side}${b}`, `${part} ${side}`]),
    ),
  ),
});

const cache = new WeakMap<Character, Landmarks>();

/** Finds the landmarks by the bones' names, and by the shape of the skeleton where the names do not say. */
export function landmarksOf(character: Character): Landmarks {
  let found = cache.get(character);
  if (!found) {
    found = find(character);
    cache.set(character, found);
  }
  return found;
}

/** The landmark that a part of the body on a side is; null where it is none. */
function landmarkOf(part: Part, side: BodySide): Landmark | null {
  if (side === 'middle') return MIDDLE.includes(part) ? (part as Landmark) : null;
  return SIDED.includes(part) ? (`${part} ${side}` as Landmark) : null;
}

function find(character: Character): Landmarks {
  const out = new Map<Landmark, number>();
  const bones = bonesOf(character);
  const depth = (i: number) => {
    let difference = 0;
    for (let ancestor = character.nodes[i].parent; ancestor >= 0; ancestor = character.nodes[ancestor].parent)
      difference++;
    return difference;
  };
  const weight = weightOfNodes(character);
  const bound = character.nodes.some((node) => node.skin >= 0);
  for (const bone of bones) {
    const meaning = meaningOf(character, bone);
    if (!isBodyBone(meaning)) continue;
    const part = meaning.part as Part;
    const name = landmarkOf(part, meaning.side);
    if (!name) continue;
    const known = out.get(name);
    // Of several bones of one name the one that carries weight counts, then the one nearest the root.
    if (
      known === undefined ||
      (bound && weight[known] === 0 && weight[bone] > 0) ||
      (depth(bone) < depth(known) && (!bound || weight[bone] > 0 || weight[known] === 0))
    )
      out.set(name, bone);
  }
  // Where names do not say, a person's shape does; that of a beast is none to be found in a person's table.
  if (out.size >= 8 || bones.length < 12 || bodyKindOf(character).kind !== 'two-legged') return out;
  const skeleton = skeletonOf(character);
  for (const rule of suggest(skeleton, VRM_HUMANOID)) {
    const name = rule.target >= 0 ? BY_VRM.get(VRM_HUMANOID.bones[rule.target].name) : undefined;
    if (name && !out.has(name) && rule.confidence > 0.4) out.set(name, skeleton.bones[rule.source].node);
  }
  return out;
}

/**
 * How the figure stands and looks, from its landmarks; null where they do not tell. Unit vectors of the
 * world.
 */
export function bearingOf(character: Character): Bearing | null {
  const marks = landmarksOf(character);
  const reading = bodyKindOf(character);
  if (reading.kind === 'four-legged' || reading.kind === 'winged') {
    const head = marks.get('head');
    return beastBearing(reading, head === undefined ? null : restPlace(character.nodes, head));
  }
  return reading.kind === 'two-legged' ? personBearing(character, marks) : null;
}

function personBearing(character: Character, marks: Landmarks): Bearing | null {
  const at = (landmark: Landmark): Vec3 | null => {
    const i = marks.get(landmark);
    return i === undefined ? null : restPlace(character.nodes, i);
  };
  const mid = (part: Part): Vec3 | null => {
    const a = at(`${part} left`);
    const b = at(`${part} right`);
    return a && b ? [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2] : null;
  };
  const top = at('head') ?? at('neck');
  const bottom = mid('foot') ?? mid('lowerleg') ?? mid('upperleg') ?? at('pelvis');
  const pair = (['upperleg', 'upperarm', 'foot', 'hand'] as const).find(
    (part) => at(`${part} left`) && at(`${part} right`),
  );
  if (!top || !bottom || !pair) return null;
  // Hips and shoulders are level where the head may lean: the upright stands square on their line. It goes
  // from the feet to the head or to the hips, whichever lies nearer to an axis: a figure that is tilted is so
  // in both, one that stoops or crouches in one of them.
  const across = subtract(at(`${pair} left`)!, at(`${pair} right`)!);
  const hips = mid('foot') ? mid('upperleg') : null;
  if (length(across) < 1e-6) return null;
  const byNames = normalise(across);
  const tilt = (vector: Vec3) => degreesBetween(vector, AXES[nearestAxis(vector)]);
  const [up] = (hips ? [top, hips] : [top])
    .map((point) => squareAgainst(subtract(point, bottom), byNames))
    .filter((against) => against !== null)
    .sort((a, b) => tilt(a) - tilt(b));
  if (!up) return null;
  const bySides = cross(byNames, up);
  const foot = mid('foot');
  const toe = mid('toe');
  const byToes = foot && toe ? dot(subtract(toe, foot), bySides) : 0;
  const crossed = byToes < -1e-4;
  return {
    up,
    left: crossed ? [-byNames[0], -byNames[1], -byNames[2]] : byNames,
    forward: crossed ? [-bySides[0], -bySides[1], -bySides[2]] : bySides,
    crossed,
  };
}
