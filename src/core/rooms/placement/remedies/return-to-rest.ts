import { object } from 'yup';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit } from '../../../contracts/units';
import { branchOf, restLocals, topDown } from '../../../character/hierarchy';
import type { Character, SceneNode } from '../../../character/model';
import { withLocal } from '../../../character/rehang';
import { inverseOr, multiply, times } from '../../../geometry/matrix';
import { bindsOf } from '../../../character/bind';

const worst = (character: Character) =>
  Math.max(0, ...bindsOf(character).flatMap((bind) => bind.joints.map((joint) => joint.apart)));

/**
 * Puts every joint back where it was when the skin was bound. Clips keep their keys; what they do not move is
 * at rest again.
 */
export const returnToRest = defineRemedy({
  id: 'return-to-rest',
  room: 'placement',
  title: 'Return to the bind pose',
  does: 'Every joint goes back to where it stood when the mesh was bound; points, weights, binds and clips stay as they are.',
  params: object({}),
  rows: (character, _params, { unit }) => [
    { label: 'Rest and bind apart, at most', value: inUnit(worst(character), unit), unit },
  ],
  apply(character) {
    const wanted = new Map<number, Float64Array>();
    for (const bind of bindsOf(character))
      for (const joint of bind.joints) if (!wanted.has(joint.node)) wanted.set(joint.node, joint.bindWorld);
    if (wanted.size === 0) throw new RemedyError('Nothing is bound; there is no bind pose to return to.');
    if (worst(character) < 1e-7) throw new NothingToDo('Every joint stands where it was bound already.');
    const locals = restLocals(character.nodes);
    const world = new Float64Array(locals.length);
    const nodes: SceneNode[] = [...character.nodes];
    for (const i of topDown(character.nodes)) {
      const parent = character.nodes[i].parent;
      const want = wanted.get(i);
      if (want) {
        const local = parent < 0 ? want : times(inverseOr(world, parent * 16), want);
        let off = 0;
        for (let k = 0; k < 16; k++) off = Math.max(off, Math.abs(local[k] - locals[i * 16 + k]));
        world.set(want, i * 16);
        if (off > 1e-9) nodes[i] = withLocal(character.nodes[i], local);
      } else if (parent < 0) {
        world.set(locals.subarray(i * 16, i * 16 + 16), i * 16);
      } else {
        multiply(world, i * 16, world, parent * 16, locals, i * 16);
      }
    }
    return { ...character, nodes };
  },
  promises(character) {
    const below = branchOf(character.nodes, new Set(character.skins.flatMap((skin) => skin.joints)));
    return promise(['places'], {
      meant: character.nodes.flatMap((node, i) =>
        node.mesh >= 0 && (node.skin >= 0 || below[i]) ? [i] : [],
      ),
    });
  },
});
