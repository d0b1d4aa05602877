import { object } from 'yup';
import { theNode } from '../../../contracts/finding';
import { defineCheck } from '../../../contracts/check';
import { ancestorsOf, meshNodesOf, restWorld } from '../../../character/hierarchy';
import { decompose } from '../../../geometry/matrix';

/**
 * Rotation left on the nodes of meshes. A prop on a bone counts only for the world: it may undo the bone's
 * own axes.
 */
export const meshRotationCheck = defineCheck({
  id: 'mesh-rotation',
  room: 'placement',
  title: 'Rotation left on meshes',
  why: 'Programs that do not ignore the node of a bound mesh turn it twice, and a turned node makes every number that a person reads off it say something else.',
  settings: object({}),
  reads: ['tree', 'names', 'places', 'shows'],
  run(character) {
    const world = restWorld(character.nodes);
    return meshNodesOf(character).flatMap((i) => {
      const node = character.nodes[i];
      const bound = node.skin >= 0;
      if (
        !bound &&
        ancestorsOf(character.nodes, i).some((ancestor) => character.nodes[ancestor].kind === 'bone')
      )
        return [];
      const turned = (rotation: readonly number[]) =>
        (2 * Math.acos(Math.min(1, Math.abs(rotation[3]))) * 180) / Math.PI;
      const degrees = turned(node.matrix ? decompose(node.matrix).rotation : node.rotation);
      if (degrees < 0.1) return [];
      return [
        {
          gravity: 'worth',
          subject: theNode(character, i),
          unit: '°',
          count: 1,
          message: `“${node.name || `node ${i}`}” is turned by ${degrees.toFixed(degrees < 2 ? 1 : 0)}° on its node${bound ? ', which its bones overrule' : ''}`,
          measured: degrees,
          expected: 0,
          evidence: [
            { label: 'Rotation of its own', now: degrees, brief: 0, unit: '°' },
            {
              label: 'Rotation in the world',
              now: turned(decompose(world, i * 16).rotation),
              brief: 0,
              unit: '°',
            },
          ],
          elements: [{ kind: 'node', node: i, ids: Uint32Array.of(i) }],
          remedies: [{ id: 'bake-transform', params: { node: i } }],
        },
      ];
    });
  },
});
