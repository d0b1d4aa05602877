import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { theNode, boneElements } from '../../../contracts/finding';
import { type Found, defineCheck } from '../../../contracts/check';
import { KINDS_OF_BONES } from '../../../contracts/settings';
import { bonesOf, weightOfNodes } from '../../../character/hierarchy';
import { shownMeshes } from '../../../character/measure';
import { kindsOfBones } from '../kinds';

/**
 * Weight on bones that should carry none: ends (tips with no bone and no flesh beyond) and controls, by the
 * brief's patterns.
 */
export const weightOnEndsCheck = defineCheck({
  id: 'weight-on-ends',
  room: 'weights',
  title: 'Weight on end and control bones',
  why: 'Engines drop ends and controls on the way in, and the weight they carried goes with them.',
  settings: object({ ...KINDS_OF_BONES }),
  reads: [...SHAPE_AT_REST, 'names', 'kind'],
  run(character, brief) {
    const kindOf = kindsOfBones(character, brief);
    const weight = weightOfNodes(character);
    const out: Found[] = [];
    for (const bone of bonesOf(character)) {
      if (!(weight[bone] > 0)) continue;
      const name = character.nodes[bone].name;
      const kind = kindOf(bone);
      if (kind === 'plain') continue;
      const elements = shownMeshes(character).flatMap((shown) => {
        const influences = shown.mesh.influences;
        const joint = shown.skin?.joints.indexOf(bone) ?? -1;
        if (!influences || joint < 0) return [];
        const ids: number[] = [];
        for (let vertex = 0; vertex < shown.mesh.vertexCount; vertex++)
          for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++)
            if (influences.joint[k] === joint && influences.weight[k] > 0) ids.push(vertex);
        return ids.length > 0
          ? [{ kind: 'vertex' as const, node: shown.node, ids: Uint32Array.from(ids) }]
          : [];
      });
      const points = elements.reduce((sum, element) => sum + element.ids.length, 0);
      out.push({
        gravity: 'worth',
        subject: theNode(character, bone),
        unit: 'pts',
        elements: [...elements, boneElements([bone])],
        count: points,
        message: `The ${kind} bone “${name}” carries weight at ${points} points`,
        measured: points,
        expected: 0,
        evidence: [
          { label: 'Points it carries', now: points, brief: 0, unit: 'pts' },
          { label: 'Weight in all', now: weight[bone], brief: 0, unit: '' },
        ],
        remedies: [{ id: 'give-to-parent', params: { bone } }],
      });
    }
    return out;
  },
});
