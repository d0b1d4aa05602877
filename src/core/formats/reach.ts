import { restWorld } from '../character/hierarchy';
import type { Character } from '../character/model';
import { ReadError, printable } from './errors';

/** Metres, or a factor, beyond which single precision and products of matrices say nothing any more. */
const FARTHEST = 1e9;

/** Index of the first number that is none or too large to compute with, −1 where there is none. */
function beyond(list: ArrayLike<number>): number {
  for (let i = 0; i < list.length; i++) if (!(Math.abs(list[i]) <= FARTHEST)) return i;
  return -1;
}

/**
 * Refuses numbers that are finite by themselves and no longer so once they are multiplied. Throws {@link
 * ReadError}.
 */
export function withinReach(character: Character, file: string): Character {
  const fail = (what: string): never => {
    throw new ReadError(
      file,
      `${what}, more than ${FARTHEST.toExponential(0)} m or times`,
      'Check the units it was exported in.',
    );
  };
  const at = beyond(restWorld(character.nodes));
  if (at >= 0)
    fail(
      `node ${Math.floor(at / 16)} “${printable(character.nodes[Math.floor(at / 16)].name)}” stands or is scaled beyond all bounds`,
    );
  character.meshes.forEach((mesh, i) => {
    const vertex = beyond(mesh.attributes.POSITION.data);
    if (vertex >= 0)
      fail(`vertex ${Math.floor(vertex / 3)} of mesh ${i} “${printable(mesh.name)}” lies beyond all bounds`);
    if (beyond(mesh.morphWeights ?? []) >= 0)
      fail(`a morph weight of mesh ${i} “${printable(mesh.name)}” goes beyond all bounds`);
    mesh.morphs.forEach((morph, k) => {
      if (morph.attributes.POSITION && beyond(morph.attributes.POSITION.data) >= 0)
        fail(`target ${k} of mesh ${i} “${printable(mesh.name)}” goes beyond all bounds`);
    });
  });
  character.nodes.forEach((node, i) => {
    if (beyond(node.morphWeights ?? []) >= 0)
      fail(`a morph weight of node ${i} “${printable(node.name)}” goes beyond all bounds`);
  });
  character.skins.forEach((skin, i) => {
    const j = beyond(skin.inverseBinds);
    if (j >= 0) fail(`the inverse bind of joint ${Math.floor(j / 16)} in skin ${i} goes beyond all bounds`);
  });
  character.clips.forEach((clip, i) =>
    clip.channels.forEach((ch) => {
      if (beyond(ch.values) >= 0 || beyond(ch.times) >= 0)
        fail(
          `clip ${i} “${printable(clip.name)}” moves “${printable(character.nodes[ch.node].name)}” beyond all bounds`,
        );
    }),
  );
  return character;
}
