import { number, object } from 'yup';
import { type Remedy, NothingToDo, RemedyError } from '../../../contracts/types';
import { inUnit } from '../../../contracts/brief';
import type { Brief } from '../../../contracts/brief';
import { branchOf, localOf } from '../../../character/hierarchy';
import { type Character, replaced } from '../../../character/model';
import { withLocal } from '../../../character/rehang';
import { STILL } from '../../../character/similarity';
import { times } from '../../../geometry/matrix';
import { longSideOf } from '../survey';
import { bakeScale } from './bake-scale';

type Params = { node: number; height?: number; factor?: number };

function factorOf(character: Character, { node, height, factor }: Params): number {
  const n = character.nodes[node];
  if (!n || n.mesh < 0) throw new RemedyError('There is no mesh on that node; run the audit again.');
  if (n.skin >= 0) throw new RemedyError(`“${n.name}” is bound to bones; rescale everything instead.`);
  const now = longSideOf(character, node);
  const f = factor ?? (height ?? Number.NaN) / (now ?? Number.NaN);
  if (!(f > 0) || !Number.isFinite(f))
    throw new RemedyError('Say the length that is wanted of its longest side, or a factor, greater than 0.');
  return f;
}

/** One rigid part larger or smaller about its own origin, which is where it hangs; the size goes into its points. */
export const rescaleProp: Remedy<Params> = {
  id: 'rescale-prop',
  room: 'placement',
  title: 'Rescale this part alone',
  does: 'The part takes the factor about its own origin, the place that it hangs by; nothing else changes.',
  params: object({
    node: number().integer().min(0).required(),
    height: number().positive(),
    factor: number().positive(),
  }),
  preview(character, params, brief) {
    const f = factorOf(character, params);
    const h = longSideOf(character, params.node) ?? 0;
    return [
      { label: 'Factor, new / old', before: 1, after: f, unit: '×' },
      {
        label: `Longest side of ${character.nodes[params.node].name || 'the part'}`,
        before: inUnit(h, brief.unit),
        after: inUnit(h * f, brief.unit),
        unit: brief.unit,
      },
    ];
  },
  apply(character, params) {
    const f = factorOf(character, params);
    if (Math.abs(f - 1) < 1e-6) throw new NothingToDo('The factor is 1: it has that size already.');
    const n = character.nodes[params.node];
    const scaled = withLocal(n, times(localOf(n), [f, 0, 0, 0, 0, f, 0, 0, 0, 0, f, 0, 0, 0, 0, 1]));
    return bakeScale.apply(
      { ...character, nodes: replaced(character.nodes, new Map([[params.node, scaled]])) },
      { node: params.node },
      undefined as unknown as Brief,
    );
  },
  promises(character, { node }) {
    const inside = branchOf(character.nodes, [node]);
    return {
      similarity: STILL,
      meant: new Set(character.nodes.flatMap((n, i) => (inside[i] && n.mesh >= 0 ? [i] : []))),
      holds: 'in every pose',
    };
  },
};
