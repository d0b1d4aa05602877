import { object } from 'yup';
import { factorOf, lengthOf, refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit } from '../../../contracts/units';
import { branchOf, localOf } from '../../../character/hierarchy';
import { type Character, replaceAt } from '../../../character/model';
import { withLocal } from '../../../character/rehang';
import { times } from '../../../geometry/matrix';
import { longSideOf } from '../survey';
import { BAKED_ASPECTS, bakedOrSay } from './bake-scale';

type Params = { node: number; height?: number; factor?: number };

function factorFor(character: Character, { node, height, factor }: Params): number {
  const sceneNode = character.nodes[node];
  if (!sceneNode || sceneNode.mesh < 0)
    throw new RemedyError('There is no mesh on that node; run the audit again.');
  if (sceneNode.skin >= 0)
    throw new RemedyError(`“${sceneNode.name}” is bound to bones; rescale everything instead.`);
  const now = longSideOf(character, node);
  const byFactor = factor ?? (height ?? Number.NaN) / (now ?? Number.NaN);
  if (!(byFactor > 0) || !Number.isFinite(byFactor))
    throw new RemedyError('Say the length that is wanted of its longest side, or a factor, greater than 0.');
  return byFactor;
}

/**
 * One rigid part larger or smaller about its own origin, which is where it hangs; the size goes into its
 * points.
 */
export const rescaleProp = defineRemedy({
  id: 'rescale-prop',
  room: 'placement',
  title: 'Rescale this part alone',
  does: 'The part takes the factor about its own origin, the place that it hangs by; nothing else changes.',
  params: object({
    node: refTo('mesh', 'Part'),
    height: lengthOf('Longest side wanted'),
    factor: factorOf('Factor, new / old').meta({ given: true }),
  }),
  rows(character, params, { unit }) {
    const long = longSideOf(character, params.node) ?? 0;
    const name = character.nodes[params.node].name || 'the part';
    return [{ label: `Longest side of ${name}`, value: inUnit(long, unit), unit }];
  },
  apply(character, params) {
    const factor = factorFor(character, params);
    if (Math.abs(factor - 1) < 1e-6) throw new NothingToDo('The factor is 1: it has that size already.');
    const node = character.nodes[params.node];
    const scaled = withLocal(
      node,
      times(localOf(node), [factor, 0, 0, 0, 0, factor, 0, 0, 0, 0, factor, 0, 0, 0, 0, 1]),
    );
    const nodes = replaceAt(character.nodes, new Map([[params.node, scaled]]));
    return bakedOrSay({ ...character, nodes }, params.node);
  },
  promises(character, { node }) {
    const inside = branchOf(character.nodes, [node]);
    return promise(BAKED_ASPECTS, {
      meant: character.nodes.flatMap((node, i) => (inside[i] && node.mesh >= 0 ? [i] : [])),
    });
  },
});
