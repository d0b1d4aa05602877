import { parentBone, restWorld } from './hierarchy';
import { characterHeight } from './measure';
import { type Character, type Mesh, type SceneNode, replaceAt } from './model';
import { decompose, inverseOr, times } from '../geometry/matrix';
import { bakedMesh } from './baked';

/** How far a joint stands from where its inverse bind says. */
export interface JointBind {
  /** The joint's node, and its place in the skin. */
  readonly node: number;
  readonly slot: number;
  /**
   * How far the bind and the rest pose disagree here: the largest distance that they carry a point at the
   * joint or within a tenth of the height of it apart, metres.
   */
  readonly apart: number;
  /** World matrix of the joint in the bind. */
  readonly bindWorld: Float64Array;
}

/** The same for all joints of a skin. */
export interface SkinBind {
  readonly skin: number;
  /** What the bind does to the whole mesh at rest: the matrix that most joints agree on. */
  readonly common: Float64Array;
  readonly joints: readonly JointBind[];
  /** True where the joints that disagree differ from their bind by rotations alone, as a pose does. */
  readonly posed: boolean;
}

const cache = new WeakMap<Character, Map<number, SkinBind[]>>();

/**
 * How the inverse binds of every skin stand to the rest pose. At rest each joint's world matrix times its
 * inverse bind is one and the same matrix.
 */
export function bindsOf(character: Character, tolerance = 0.0005): SkinBind[] {
  const known = cache.get(character) ?? new Map<number, SkinBind[]>();
  cache.set(character, known);
  let binds = known.get(tolerance);
  if (!binds) {
    binds = character.skins.map((_, index) => bindOf(character, index, tolerance));
    known.set(tolerance, binds);
  }
  return binds;
}

function bindOf(character: Character, otherSkin: number, tolerance: number): SkinBind {
  const skin = character.skins[otherSkin];
  const world = restWorld(character.nodes);
  const reach = characterHeight(character) * 0.1;
  const count = skin.joints.length;
  const through = skin.joints.map((j, k) => times(world, skin.inverseBinds, j * 16, k * 16));
  const probes = skin.joints.map((_, k) => {
    const matrix = inverseOr(skin.inverseBinds, k * 16);
    const points = [matrix[12], matrix[13], matrix[14]];
    return [points, ...[0, 1, 2].map((a) => points.map((x, i) => x + (i === a ? reach : 0)))];
  });
  const apart = (k: number, common: Float64Array): number => {
    let worst = 0;
    for (const [x, y, z] of probes[k]) {
      let difference = 0;
      for (let row = 0; row < 3; row++)
        difference +=
          ((through[k][row] - common[row]) * x +
            (through[k][4 + row] - common[4 + row]) * y +
            (through[k][8 + row] - common[8 + row]) * z +
            through[k][12 + row] -
            common[12 + row]) **
          2;
      worst = Math.max(worst, difference);
    }
    return Math.sqrt(worst);
  };
  // The matrix with which most joints agree; of large skins every few joints are asked.
  let common = through[0];
  let most = -1;
  const stride = Math.max(1, Math.floor(count / 48));
  for (let k = 0; k < count; k += stride) {
    let agree = 0;
    for (let j = 0; j < count; j++) if (apart(j, through[k]) <= tolerance) agree++;
    if (agree > most) {
      most = agree;
      common = through[k];
    }
    if (agree === count) break;
  }
  const joints = skin.joints.map((node, slot): JointBind => ({
    node,
    slot,
    apart: apart(slot, common),
    bindWorld: times(common, inverseOr(skin.inverseBinds, slot * 16)),
  }));
  const at = new Map(joints.map((joint) => [joint.node, joint]));
  const height = characterHeight(character);
  const posed = joints.every((joint) => {
    if (joint.apart <= tolerance) return true;
    const rest = decompose(world, joint.node * 16);
    const bind = decompose(joint.bindWorld);
    if (rest.scale.some((x, i) => Math.abs(x - bind.scale[i]) > 1e-3)) return false;
    const parent = at.get(parentBone(character.nodes, joint.node));
    if (!parent) return true;
    const inRest = times(inverseOr(world, parent.node * 16), world, 0, joint.node * 16);
    const inBind = times(inverseOr(parent.bindWorld), joint.bindWorld);
    return (
      Math.hypot(inRest[12] - inBind[12], inRest[13] - inBind[13], inRest[14] - inBind[14]) < height * 0.005
    );
  });
  return { skin: otherSkin, common, joints, posed };
}

/**
 * The points of every mesh of a skin through a matrix, and its inverse binds through the inverse: nothing
 * moves, in any pose. A mesh that other nodes show too gets a copy of its own.
 * @param through 16, column-major
 */
export function withPointsThrough(character: Character, skin: number, through: Float64Array): Character {
  const back = inverseOr(through);
  const old = character.skins[skin];
  const inverseBinds = new Float64Array(old.inverseBinds.length);
  old.joints.forEach((_, k) => inverseBinds.set(times(old.inverseBinds, back, k * 16), k * 16));
  return {
    ...withMeshesOf(character, skin, (mesh) => bakedMesh(mesh, through)),
    skins: character.skins.map((otherSkin, i) => (i === skin ? { ...otherSkin, inverseBinds } : otherSkin)),
  };
}

/**
 * The meshes that a skin carries, made anew: `remake` gets each once, with the node that shows it. Copies where another
 * skin uses the mesh too.
 */
export function withMeshesOf(
  character: Character,
  skin: number,
  remake: (mesh: Mesh, node: number) => Mesh,
): Character {
  const meshes = [...character.meshes];
  const changed = new Map<number, SceneNode>();
  const done = new Map<number, number>();
  character.nodes.forEach((node, i) => {
    if (node.skin !== skin || node.mesh < 0 || !character.meshes[node.mesh].influences) return;
    let at = done.get(node.mesh);
    if (at === undefined) {
      const mesh = remake(character.meshes[node.mesh], i);
      const isAlone = character.nodes.every((user) => user.mesh !== node.mesh || user.skin === skin);
      at = isAlone ? node.mesh : meshes.push(mesh) - 1;
      meshes[at] = mesh;
      done.set(node.mesh, at);
    }
    if (at !== node.mesh) changed.set(i, { ...node, mesh: at });
  });
  return {
    ...character,
    meshes,
    nodes: changed.size > 0 ? replaceAt(character.nodes, changed) : character.nodes,
  };
}
