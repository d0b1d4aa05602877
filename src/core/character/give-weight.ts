/** Weight that goes from some bones to others, point by point. */
import { type Influences, remapInfluences } from '../geometry/influences';
import { inverseOr, times } from '../geometry/matrix';
import { restWorld } from './hierarchy';
import type { Character, Skin } from './model';

/**
 * The character with all weight of some bones given to others. Where both moved a point, one entry with the sum is left.
 * Skins list the heirs, bound as they stand at rest: nothing moves there.
 * @param heirs for each bone that gives, the node that its weight goes to; no heir gives itself
 */
export function withWeightGiven(character: Character, heirs: ReadonlyMap<number, number>): Character {
  const world = restWorld(character.nodes);
  const meshes = [...character.meshes];
  const skins = character.skins.map((skin, index): Skin => {
    if (!skin.joints.some((joint) => heirs.has(joint))) return skin;
    const { skin: after, jointOf } = withHeirs(skin, heirs, world);
    for (const { mesh, skin: worn } of character.nodes) {
      const influences = mesh >= 0 && worn === index ? character.meshes[mesh].influences : null;
      if (influences && meshes[mesh] === character.meshes[mesh])
        meshes[mesh] = {
          ...meshes[mesh],
          influences: remapInfluences(influences, jointOf, after.joints.length),
        };
    }
    return after;
  });
  return { ...character, skins, meshes };
}

/** A skin that lists the heirs of its joints as well, and for each of its joints the one that takes its weight. */
function withHeirs(
  skin: Skin,
  heirs: ReadonlyMap<number, number>,
  world: Float64Array,
): { readonly skin: Skin; readonly jointOf: number[] } {
  const joints = [...skin.joints];
  const binds: Float64Array[] = [Float64Array.from(skin.inverseBinds)];
  const jointOf = skin.joints.map((joint, from) => {
    const heir = heirs.get(joint);
    if (heir === undefined) return from;
    const at = joints.indexOf(heir);
    if (at >= 0) return at;
    const own = world.subarray(joint * 16, joint * 16 + 16);
    binds.push(times(inverseOr(world, heir * 16), times(own, skin.inverseBinds, 0, from * 16)));
    return joints.push(heir) - 1;
  });
  const inverseBinds = new Float64Array(joints.length * 16);
  binds.reduce((offset, list) => {
    inverseBinds.set(list, offset);
    return offset + list.length;
  }, 0);
  return { skin: { ...skin, joints, inverseBinds }, jointOf };
}

/** The character whose skins no longer list some bones; these carry nothing any more. */
export function withoutJoints(character: Character, gone: ReadonlySet<number>): Character {
  const meshes = [...character.meshes];
  const skins = character.skins.map((skin, index): Skin => {
    if (!skin.joints.some((joint) => gone.has(joint))) return skin;
    const kept = skin.joints.flatMap((joint, at) => (gone.has(joint) ? [] : [at]));
    const jointOf = skin.joints.map((_, at) => kept.indexOf(at));
    for (const { mesh, skin: worn } of character.nodes) {
      const influences = mesh >= 0 && worn === index ? character.meshes[mesh].influences : null;
      if (influences && meshes[mesh] === character.meshes[mesh])
        meshes[mesh] = { ...meshes[mesh], influences: renumbered(influences, jointOf) };
    }
    const inverseBinds = new Float64Array(kept.length * 16);
    kept.forEach((at, k) => inverseBinds.set(skin.inverseBinds.subarray(at * 16, at * 16 + 16), k * 16));
    return { ...skin, joints: kept.map((at) => skin.joints[at]), inverseBinds };
  });
  return { ...character, skins, meshes };
}

const renumbered = (influences: Influences, jointOf: readonly number[]): Influences => ({
  ...influences,
  // An entry of weight 0 may still name a joint that goes.
  joint: influences.joint.map((joint) => Math.max(0, jointOf[joint])),
});
