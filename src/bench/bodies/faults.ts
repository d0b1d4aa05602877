/** Faults that are put into a body that has none, each with the check that must find it. */
import { isBodyBone, meaningOf } from '../../core/anatomy/bones';
import { bonesOf } from '../../core/character/hierarchy';
import { type Character, replaceAt } from '../../core/character/model';
import { hungUnder } from '../../core/character/rehang';
import { STILL, underSimilarity } from '../../core/character/similarity';
import { type Quat, quatAbout } from '../../core/geometry/matrix';

export interface Fault {
  readonly check: string;
  /** Null where a body has nothing that it could be done to. */
  put(character: Character): Character | null;
}

const turned = (character: Character, rotation: Quat) => underSimilarity(character, { ...STILL, rotation });

/** The last bone of a limb and the same on the other side. */
function ends(character: Character): [number, number] | null {
  const bones = bonesOf(character).filter((b) => isBodyBone(meaningOf(character, b)));
  for (const part of ['foot', 'hand', 'lowerleg', 'wing']) {
    const of = (side: string) =>
      bones.find((b) => meaningOf(character, b).part === part && meaningOf(character, b).side === side);
    const [left, right] = [of('left'), of('right')];
    if (left !== undefined && right !== undefined) return [left, right];
  }
  return null;
}

export const FAULTS: readonly Fault[] = [
  { check: 'facing', put: (c) => turned(c, quatAbout([0, 1, 0], Math.PI) as Quat) },
  { check: 'facing', put: (c) => turned(c, quatAbout([1, 0, 0], -Math.PI / 2) as Quat) },
  { check: 'ground', put: (c) => underSimilarity(c, { ...STILL, translation: [0, 0.4, 0] }) },
  {
    check: 'parents',
    put(c) {
      const pair = ends(c);
      if (!pair) return null;
      const hung = hungUnder(c, pair[0], c.nodes[pair[1]].parent);
      return { ...c, nodes: replaceAt(c.nodes, new Map([[pair[0], hung]])) };
    },
  },
  {
    check: 'no-weight',
    put(c) {
      const f = c.meshes[0].influences;
      if (!f) return null;
      const weight = f.weight.slice().fill(0, f.offsets[0], f.offsets[8]);
      const meshes = replaceAt(c.meshes, new Map([[0, { ...c.meshes[0], influences: { ...f, weight } }]]));
      return { ...c, meshes };
    },
  },
];
