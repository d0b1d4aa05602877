/** A helper bone at a joint: it turns half as far as the joint, and keeps flesh that two bones would fold in on itself. */
import { branchOf, childrenOf, parentBone, restPlace, restWorld } from '../character/hierarchy';
import { freeName } from '../character/free-name';
import { bodyMeshes, placedMeshes } from '../character/measure';
import { type Channel, type Character, type Mesh, type Skin, node, replaceAt } from '../character/model';
import { placedPoints } from '../character/deform';
import { pointsOf } from '../character/points';
import { cutByPlane } from '../geometry/cross-section';
import { InfluenceRows } from '../geometry/influence-rows';
import {
  type Vec3,
  cross,
  decompose,
  distance,
  dot,
  inverseOr,
  length,
  normalise,
  quatAbout,
  quatConjugate,
  quatMultiply,
  quatRotate,
  quatSlerp,
  subtract,
  times,
} from '../geometry/matrix';
import { clipLocals, posedWorld } from './pose';
import { usualRateOf } from './clips/frame-grid';

/** A helper cannot be made there; the message says why. */
export class HelperError extends Error {}

/** Half of a turn, the short way. */
const halfOf = (turn: ArrayLike<number>): [number, number, number, number] =>
  quatSlerp([0, 0, 0, 1], Array.from(turn), 0.5);

/** The way of the limb through a joint, unit length: half from the joint above, half to the first below. */
function wayThrough(character: Character, bone: number): { above: Vec3; below: Vec3 } {
  const { nodes } = character;
  const parent = parentBone(nodes, bone);
  if (parent < 0)
    throw new HelperError(
      `“${nodes[bone].name}” has no bone above it, and bends nothing; choose a joint inside a limb.`,
    );
  const next = childrenOf(nodes)[bone].find((child) => nodes[child].kind === 'bone');
  const here = restPlace(nodes, bone);
  const above = subtract(here, restPlace(nodes, parent));
  const below = next === undefined ? above : subtract(restPlace(nodes, next), here);
  if (length(above) < 1e-6 || length(below) < 1e-6)
    throw new HelperError(
      `“${nodes[bone].name}” stands in one place with the bone beside it, and bends nothing; choose a joint inside a limb.`,
    );
  return { above: normalise(above), below: normalise(below) };
}

/** What the joint bends about as it stands; any direction across the limb where it is straight. World space. */
function hingeAt({ above, below }: { above: Vec3; below: Vec3 }): Vec3 {
  const axis = cross(above, below);
  if (length(axis) > 0.02) return normalise(axis);
  const across: Vec3 = Math.abs(above[1]) < 0.9 ? [0, 1, 0] : [0, 0, 1];
  return normalise(cross(above, across));
}

/**
 * The character with a helper bone beside a joint: it hangs under the bone above, stands at the joint with its axes, and
 * turns half as far as the joint does. It takes weight where the two bones share it, the more the nearer to the joint: all
 * that is shared in equal parts at the joint itself, nothing at `reach` along the limb. Clips get its motion, key by key.
 * At rest nothing moves. Throws {@link HelperError}.
 * @param reach how far along the limb it takes weight, metres
 */
export function withHelper(character: Character, bone: number, reach: number, name: string): Character {
  const { nodes } = character;
  const way = wayThrough(character, bone);
  const parent = parentBone(nodes, bone);
  const world = restWorld(nodes);
  const local = decompose(times(inverseOr(world, parent * 16), world.subarray(bone * 16, bone * 16 + 16)));
  const helper = nodes.length;
  const { source } = nodes[bone];
  const made = {
    ...node({ name: freeName(character, name), kind: 'bone' as const, parent }),
    translation: local.translation,
    rotation: local.rotation,
    scale: local.scale,
    // It stands where the joint stands, on purpose.
    boneKind: 'helper' as const,
    ...(source === undefined ? {} : { source }),
  };
  const along = normalise([0, 1, 2].map((axis) => way.above[axis] + way.below[axis]));
  const shared = withShared(character, { bone, helper, along, reach });
  if (!shared)
    throw new HelperError(
      `No point within ${(reach * 100).toFixed(1)} cm of “${nodes[bone].name}” is moved by it and by the bone above at once; reach farther, or choose another joint.`,
    );
  const clips = character.clips.map((clip) => {
    const channels = halfChannels({ ...character, nodes }, clip, bone, helper);
    return channels.length > 0 ? { ...clip, channels: [...clip.channels, ...channels] } : clip;
  });
  return { ...shared, nodes: [...nodes, made], clips };
}

interface Share {
  readonly bone: number;
  readonly helper: number;
  readonly along: Vec3;
  readonly reach: number;
}

/** Weight shared at the joint given to the helper; null where none is shared. */
function withShared(character: Character, share: Share): Character | null {
  const inside = branchOf(character.nodes, [share.bone]);
  const at = restPlace(character.nodes, share.bone);
  const skins = new Map<number, Skin>();
  const meshes = new Map<number, Mesh>();
  for (const { node: shown, mesh, points } of placedMeshes(character)) {
    const { skin: index, mesh: meshIndex } = character.nodes[shown];
    if (index < 0 || !mesh.influences || meshes.has(meshIndex)) continue;
    const skin = character.skins[index];
    const bind = skin.joints.indexOf(share.bone);
    if (bind < 0) continue;
    const rows = new InfluenceRows(mesh.influences);
    let touched = false;
    for (let vertex = 0; vertex < mesh.vertexCount; vertex++) {
      const place = points.subarray(vertex * 3, vertex * 3 + 3);
      const off = Math.abs(dot(subtract(place, at), share.along)) / share.reach;
      if (off >= 1) continue;
      touched =
        giveShared(
          rows,
          vertex,
          (joint) => inside[skin.joints[joint]],
          skin.joints.length,
          (1 - off * off) ** 2,
        ) || touched;
    }
    if (!touched) continue;
    meshes.set(meshIndex, { ...mesh, influences: rows.toInfluences() });
    skins.set(index, withJoint(skin, bind, share.helper));
  }
  if (meshes.size === 0) return null;
  return {
    ...character,
    meshes: replaceAt(character.meshes, meshes),
    skins: replaceAt(character.skins, skins),
  };
}

/** A bone that has less of a point does nothing there that anybody sees, and takes up a place. */
const DUST = 0.002;

/** Gives of what both sides of a joint share in a row; false where only one side moves the point. */
function giveShared(
  rows: InfluenceRows,
  vertex: number,
  isBelow: (joint: number) => boolean,
  helper: number,
  most: number,
): boolean {
  const { joint, weight } = rows.rowOf(vertex);
  let [below, above] = [0, 0];
  joint.forEach((one, k) => {
    if (isBelow(one)) below += weight[k];
    else above += weight[k];
  });
  const half = most * Math.min(below, above);
  if (2 * half < DUST) return false;
  const kept = Array.from(joint, (one, k) => ({
    one,
    rest: weight[k] * (1 - half / (isBelow(one) ? below : above)),
  })).filter(({ rest }) => rest >= DUST);
  // What is too little to be kept goes to the helper: the sum stays.
  const left = kept.reduce((sum, { rest }) => sum + rest, 0);
  rows.set(vertex, {
    joint: [...kept.map(({ one }) => one), helper],
    weight: [...kept.map(({ rest }) => rest), below + above - left],
  });
  return true;
}

/** The skin with one more joint, bound as another one is. */
function withJoint(skin: Skin, like: number, joint: number): Skin {
  const inverseBinds = new Float64Array((skin.joints.length + 1) * 16);
  inverseBinds.set(skin.inverseBinds);
  inverseBinds.set(skin.inverseBinds.subarray(like * 16, like * 16 + 16), skin.joints.length * 16);
  return { ...skin, joints: [...skin.joints, joint], inverseBinds };
}

/** Turns so far apart between two keys are halved in more than one step. */
const BETWEEN = 4;

/** Keys with times between them; on frames where the clip has all of its keys on such, so many a second. */
function timesBetween(keys: readonly number[], rate: number | null): number[] {
  return keys.flatMap((key, i) => {
    const next = keys[i + 1];
    if (next === undefined) return [key];
    const between = Array.from({ length: BETWEEN - 1 }, (_, k) => key + ((next - key) * (k + 1)) / BETWEEN);
    if (rate === null) return [key, ...between];
    const frames = new Set(between.map((time) => Math.round(time * rate)));
    return [key, ...[...frames].map((frame) => frame / rate).filter((time) => time > key && time < next)];
  });
}

/** The helper's rotation in a clip: half of what the joint turns away from rest. */
function halfChannels(
  character: Character,
  clip: Character['clips'][number],
  bone: number,
  helper: number,
): Channel[] {
  const own = clip.channels.find((channel) => channel.node === bone && channel.path === 'rotation');
  if (!own || own.times.length === 0) return [];
  const rest = character.nodes[bone].rotation;
  const isStep = own.interpolation === 'STEP';
  const keys = [...own.times];
  const times = Float32Array.from(isStep ? keys : timesBetween(keys, usualRateOf(clip)));
  const values = [...times].flatMap((time) => {
    const { rotation } = decompose(clipLocals(character, clip, time), bone * 16);
    return [...quatMultiply(rest, halfOf(quatMultiply(quatConjugate(rest), rotation)))];
  });
  return [
    {
      node: helper,
      path: 'rotation',
      interpolation: isStep ? 'STEP' : 'LINEAR',
      times,
      values: Float32Array.from(values),
    },
  ];
}

/**
 * The limb's cross-section at a joint that is bent, as a share of what it is at rest: where it falls far below one the
 * flesh folds in on itself. Null where no closed loop is cut.
 * @param degrees how far the joint is bent about its hinge
 * @param helper a bone that turns half as far; −1 for none
 */
export function sectionWhenBent(
  character: Character,
  bone: number,
  degrees: number,
  helper = -1,
): number | null {
  const way = wayThrough(character, bone);
  const hinge = hingeAt(way);
  const radians = (degrees * Math.PI) / 180;
  const turn = quatAbout(hinge, radians);
  const turns = new Map<number, readonly number[]>([[bone, turn]]);
  if (helper >= 0) turns.set(helper, quatAbout(hinge, radians / 2));
  const at = restPlace(character.nodes, bone);
  const bent = quatRotate(turn, way.below);
  const rest = areaAt(
    character,
    restWorld(character.nodes),
    at,
    normalise([0, 1, 2].map((k) => way.above[k] + way.below[k])),
  );
  const now = areaAt(
    character,
    posedWorld(character, turns),
    at,
    normalise([0, 1, 2].map((k) => way.above[k] + bent[k])),
  );
  return rest === null || now === null || rest <= 0 ? null : now / rest;
}

/** Area of the loop that a plane through a joint cuts out of the body round it, square metres. */
function areaAt(character: Character, world: Float64Array, at: Vec3, normal: Vec3): number | null {
  const loops = bodyMeshes(character).flatMap(({ mesh, skin, node: shown }) =>
    cutByPlane(
      placedPoints(mesh, skin, shown, world),
      mesh.polygonOffsets,
      mesh.corners,
      pointsOf(mesh).pointOfVertex,
      at,
      normal,
    ),
  );
  const near = loops.filter(({ middle, area }) => distance(middle, at) < 2.5 * Math.sqrt(area / Math.PI));
  if (near.length === 0) return null;
  return near.reduce((best, loop) => (distance(loop.middle, at) < distance(best.middle, at) ? loop : best))
    .area;
}
