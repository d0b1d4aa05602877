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
export function withinReach(c: Character, file: string): Character {
  const fail = (what: string): never => {
    throw new ReadError(
      file,
      `${what}, more than ${FARTHEST.toExponential(0)} m or times`,
      'Check the units it was exported in.',
    );
  };
  const at = beyond(restWorld(c.nodes));
  if (at >= 0)
    fail(
      `node ${Math.floor(at / 16)} “${printable(c.nodes[Math.floor(at / 16)].name)}” stands or is scaled beyond all bounds`,
    );
  c.meshes.forEach((m, i) => {
    const v = beyond(m.attributes.POSITION.data);
    if (v >= 0)
      fail(`vertex ${Math.floor(v / 3)} of mesh ${i} “${printable(m.name)}” lies beyond all bounds`);
    if (beyond(m.morphWeights ?? []) >= 0)
      fail(`a morph weight of mesh ${i} “${printable(m.name)}” goes beyond all bounds`);
    m.morphs.forEach((t, k) => {
      if (t.attributes.POSITION && beyond(t.attributes.POSITION.data) >= 0)
        fail(`target ${k} of mesh ${i} “${printable(m.name)}” goes beyond all bounds`);
    });
  });
  c.nodes.forEach((n, i) => {
    if (beyond(n.morphWeights ?? []) >= 0)
      fail(`a morph weight of node ${i} “${printable(n.name)}” goes beyond all bounds`);
  });
  c.skins.forEach((s, i) => {
    const j = beyond(s.inverseBinds);
    if (j >= 0) fail(`the inverse bind of joint ${Math.floor(j / 16)} in skin ${i} goes beyond all bounds`);
  });
  c.clips.forEach((clip, i) =>
    clip.channels.forEach((ch) => {
      if (beyond(ch.values) >= 0 || beyond(ch.times) >= 0)
        fail(
          `clip ${i} “${printable(clip.name)}” moves “${printable(c.nodes[ch.node].name)}” beyond all bounds`,
        );
    }),
  );
  return c;
}
