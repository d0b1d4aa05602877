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
    binds = character.skins.map((_, s) => bindOf(character, s, tolerance));
    known.set(tolerance, binds);
  }
  return binds;
}

function bindOf(character: Character, s: number, tolerance: number): SkinBind {
  const skin = character.skins[s];
  const world = restWorld(character.nodes);
  const reach = characterHeight(character) * 0.1;
  const n = skin.joints.length;
  const through = skin.joints.map((j, k) => times(world, skin.inverseBinds, j * 16, k * 16));
  const probes = skin.joints.map((_, k) => {
    const m = inverseOr(skin.inverseBinds, k * 16);
    const p = [m[12], m[13], m[14]];
    return [p, ...[0, 1, 2].map((a) => p.map((x, i) => x + (i === a ? reach : 0)))];
  });
  const apart = (k: number, common: Float64Array): number => {
    let worst = 0;
    for (const [x, y, z] of probes[k]) {
      let d = 0;
      for (let r = 0; r < 3; r++)
        d +=
          ((through[k][r] - common[r]) * x +
            (through[k][4 + r] - common[4 + r]) * y +
            (through[k][8 + r] - common[8 + r]) * z +
            through[k][12 + r] -
            common[12 + r]) **
          2;
      worst = Math.max(worst, d);
    }
    return Math.sqrt(worst);
  };
  // The matrix with which most joints agree; of large skins every few joints are asked.
  let common = through[0];
  let most = -1;
  const stride = Math.max(1, Math.floor(n / 48));
  for (let k = 0; k < n; k += stride) {
    let agree = 0;
    for (let j = 0; j < n; j++) if (apart(j, through[k]) <= tolerance) agree++;
    if (agree > most) {
      most = agree;
      common = through[k];
    }
    if (agree === n) break;
  }
  const joints = skin.joints.map((node, slot): JointBind => ({
    node,
    slot,
    apart: apart(slot, common),
    bindWorld: times(common, inverseOr(skin.inverseBinds, slot * 16)),
  }));
  const at = new Map(joints.map((j) => [j.node, j]));
  const height = characterHeight(character);
  const posed = joints.every((j) => {
    if (j.apart <= tolerance) return true;
    const rest = decompose(world, j.node * 16);
    const bind = decompose(j.bindWorld);
    if (rest.scale.some((x, i) => Math.abs(x - bind.scale[i]) > 1e-3)) return false;
    const parent = at.get(parentBone(character.nodes, j.node));
    if (!parent) return true;
    const inRest = times(inverseOr(world, parent.node * 16), world, 0, j.node * 16);
    const inBind = times(inverseOr(parent.bindWorld), j.bindWorld);
    return (
      Math.hypot(inRest[12] - inBind[12], inRest[13] - inBind[13], inRest[14] - inBind[14]) < height * 0.005
    );
  });
  return { skin: s, common, joints, posed };
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
    skins: character.skins.map((s, i) => (i === skin ? { ...s, inverseBinds } : s)),
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
  character.nodes.forEach((n, i) => {
    if (n.skin !== skin || n.mesh < 0 || !character.meshes[n.mesh].influences) return;
    let at = done.get(n.mesh);
    if (at === undefined) {
      const mesh = remake(character.meshes[n.mesh], i);
      const isAlone = character.nodes.every((m) => m.mesh !== n.mesh || m.skin === skin);
      at = isAlone ? n.mesh : meshes.push(mesh) - 1;
      meshes[at] = mesh;
      done.set(n.mesh, at);
    }
    if (at !== n.mesh) changed.set(i, { ...n, mesh: at });
  });
  return {
    ...character,
    meshes,
    nodes: changed.size > 0 ? replaceAt(character.nodes, changed) : character.nodes,
  };
}
