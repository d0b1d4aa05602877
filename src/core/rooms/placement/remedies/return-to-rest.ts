import { object } from 'yup';
import { type Remedy, NothingToDo, RemedyError } from '../../../contracts/types';
import { inUnit } from '../../../contracts/brief';
import { branchOf, restLocals, restWorld, topDown } from '../../../character/hierarchy';
import type { Character, SceneNode } from '../../../character/model';
import { withLocal } from '../../../character/rehang';
import { STILL } from '../../../character/similarity';
import { distance, inverseOr, multiply, times } from '../../../geometry/matrix';
import { bindsOf } from '../bind';

const worst = (c: Character) => Math.max(0, ...bindsOf(c).flatMap((b) => b.joints.map((j) => j.apart)));

/** Puts every joint back where it was when the skin was bound. Clips keep their keys; what they do not move is at rest again. */
export const returnToRest: Remedy = {
  id: 'return-to-rest',
  room: 'placement',
  title: 'Return to the bind pose',
  does: 'Every joint goes back to where it stood when the mesh was bound; points, weights, binds and clips stay as they are.',
  params: object({}),
  preview(character, params, brief) {
    const after = returnToRest.apply(character, params, brief);
    const a = restWorld(character.nodes);
    const b = restWorld(after.nodes);
    const moved = Math.max(
      0,
      ...character.skins.flatMap((s) =>
        s.joints.map((j) =>
          distance(a.subarray(j * 16 + 12, j * 16 + 15), b.subarray(j * 16 + 12, j * 16 + 15)),
        ),
      ),
    );
    return [
      {
        label: 'Rest and bind apart, at most',
        before: inUnit(worst(character), brief.unit),
        after: inUnit(worst(after), brief.unit),
        unit: brief.unit,
      },
      { label: 'Farthest move of a joint', before: 0, after: inUnit(moved, brief.unit), unit: brief.unit },
    ];
  },
  apply(character) {
    const wanted = new Map<number, Float64Array>();
    for (const b of bindsOf(character))
      for (const j of b.joints) if (!wanted.has(j.node)) wanted.set(j.node, j.bindWorld);
    if (wanted.size === 0) throw new RemedyError('Nothing is bound; there is no bind pose to return to.');
    if (worst(character) < 1e-7) throw new NothingToDo('Every joint stands where it was bound already.');
    const locals = restLocals(character.nodes);
    const world = new Float64Array(locals.length);
    const nodes: SceneNode[] = [...character.nodes];
    for (const i of topDown(character.nodes)) {
      const p = character.nodes[i].parent;
      const want = wanted.get(i);
      if (want) {
        const local = p < 0 ? want : times(inverseOr(world, p * 16), want);
        let off = 0;
        for (let k = 0; k < 16; k++) off = Math.max(off, Math.abs(local[k] - locals[i * 16 + k]));
        world.set(want, i * 16);
        if (off > 1e-9) nodes[i] = withLocal(character.nodes[i], local);
      } else if (p < 0) {
        world.set(locals.subarray(i * 16, i * 16 + 16), i * 16);
      } else {
        multiply(world, i * 16, world, p * 16, locals, i * 16);
      }
    }
    return { ...character, nodes };
  },
  promises(character) {
    const joints = new Set(character.skins.flatMap((s) => s.joints));
    const below = branchOf(character.nodes, joints);
    return {
      similarity: STILL,
      meant: new Set(
        character.nodes.flatMap((n, i) => (n.mesh >= 0 && (n.skin >= 0 || below[i]) ? [i] : [])),
      ),
      holds: 'in every pose',
    };
  },
};
