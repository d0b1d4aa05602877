import type { Character, Influences } from '@/core/character/model';
import { stiffParts } from '@/core/rooms/trials/rigid';

/** The character with weights of a mesh given to other bones: `change` says the bone that takes each over, by who has it. */
export function withJoints(
  character: Character,
  mesh: string,
  change: (bone: number, vertex: number) => number,
): Character {
  const at = character.nodes.findIndex(({ name }) => name === mesh);
  const { joints } = character.skins[character.nodes[at].skin];
  const meshes = character.meshes.map((one, i) => {
    if (i !== character.nodes[at].mesh || !one.influences) return one;
    const { offsets, joint, weight } = one.influences;
    const changed = joint.slice();
    for (let vertex = 0; vertex + 1 < offsets.length; vertex++)
      for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++) {
        const to = joints.indexOf(change(joints[joint[k]], vertex));
        if (to >= 0) changed[k] = to;
      }
    return { ...one, influences: { offsets, joint: changed, weight } satisfies Influences };
  });
  return { ...character, meshes };
}

/** The character with every other vertex of its first rigid part given to another bone. */
export function withBentPart(character: Character): Character {
  const [part] = stiffParts(character);
  const { mesh, skin } = character.nodes[part.node];
  const { polygonOffsets, corners } = character.meshes[mesh];
  const own = new Set(
    [...part.polygons].flatMap((polygon) => [
      ...corners.subarray(polygonOffsets[polygon], polygonOffsets[polygon + 1]),
    ]),
  );
  const other = character.skins[skin].joints.find(
    (bone) =>
      character.nodes[part.drivers[0].node].parent === bone ||
      character.nodes[bone].parent === part.drivers[0].node,
  )!;
  return withJoints(character, character.nodes[part.node].name, (bone, vertex) =>
    own.has(vertex) && vertex % 2 === 0 ? other : bone,
  );
}
