import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { theNode } from '../../../contracts/finding';
import { inUnit, lengthText, unitSign } from '../../../contracts/units';
import { defineCheck } from '../../../contracts/check';
import { PROPS, knownProp } from '../../../contracts/props';
import { meshNodesOf, parentBone } from '../../../character/hierarchy';
import { longSideOf } from '../survey';

/**
 * Props whose size the brief knows, by their names: a prop left at the old scale looks right alone and wrong
 * in the hand.
 */
export const propHeightCheck = defineCheck({
  id: 'prop-height',
  room: 'placement',
  title: 'Size of known props',
  why: 'A prop that was left at the old scale when its character was rescaled no longer fits the hand, nor the same prop in the hands of others.',
  settings: object({ ...PROPS }),
  reads: [...SHAPE_AT_REST, 'names'],
  measures(character) {
    const props = meshNodesOf(character).flatMap((i) => {
      const { name, skin } = character.nodes[i];
      const height = longSideOf(character, i);
      if (skin >= 0 || !name || !height || parentBone(character.nodes, i) < 0) return [];
      const pattern = `^${name.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')}$`;
      return [{ pattern, title: name, height, tolerance: Math.max(0.001, height * 0.02) }];
    });
    // Of a machine all is such a part, and none of them a prop.
    return { props: character.nodes.some((node) => node.skin >= 0) ? props : [] };
  },
  run(character, brief) {
    return meshNodesOf(character).flatMap((i) => {
      const known = character.nodes[i].skin < 0 ? knownProp(character, i, brief) : null;
      const height = longSideOf(character, i);
      if (!known || height === null || Math.abs(height - known.height) <= known.tolerance) return [];
      return [
        {
          gravity: 'stops',
          subject: theNode(character, i),
          unit: unitSign(brief.unit),
          count: 1,
          message: `“${character.nodes[i].name}” is ${lengthText(height, brief.unit)} long; a ${known.title} has ${lengthText(known.height, brief.unit)} ± ${lengthText(known.tolerance, brief.unit)}`,
          measured: inUnit(height, brief.unit),
          expected: inUnit(known.height, brief.unit),
          evidence: [
            {
              label: `Longest side of the ${known.title}`,
              now: inUnit(height, brief.unit),
              brief: inUnit(known.height, brief.unit),
              unit: unitSign(brief.unit),
            },
            { label: 'Factor to get there', now: known.height / height, brief: 1, unit: '×' },
          ],
          elements: [{ kind: 'node', node: i, ids: Uint32Array.of(i) }],
          remedies: [{ id: 'rescale-prop', params: { node: i, height: known.height } }],
        },
      ];
    });
  },
});
