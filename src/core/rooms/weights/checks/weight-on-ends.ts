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
  reads: [...SHAPE_AT_REST, 'names'],
  run(character, brief) {
    const kindOf = kindsOfBones(character, brief);
    const weight = weightOfNodes(character);
    const out: Found[] = [];
    for (const b of bonesOf(character)) {
      if (!(weight[b] > 0)) continue;
      const name = character.nodes[b].name;
      const kind = kindOf(b);
      if (kind === 'plain') continue;
      const elements = shownMeshes(character).flatMap((p) => {
        const f = p.mesh.influences;
        const joint = p.skin?.joints.indexOf(b) ?? -1;
        if (!f || joint < 0) return [];
        const ids: number[] = [];
        for (let v = 0; v < p.mesh.vertexCount; v++)
          for (let k = f.offsets[v]; k < f.offsets[v + 1]; k++)
            if (f.joint[k] === joint && f.weight[k] > 0) ids.push(v);
        return ids.length > 0 ? [{ kind: 'vertex' as const, node: p.node, ids: Uint32Array.from(ids) }] : [];
      });
      const points = elements.reduce((n, e) => n + e.ids.length, 0);
      out.push({
        gravity: 'worth',
        subject: theNode(character, b),
        unit: 'pts',
        elements: [...elements, boneElements([b])],
        count: points,
        message: `The ${kind} bone “${name}” carries weight at ${points} points`,
        measured: points,
        expected: 0,
        evidence: [
          { label: 'Points it carries', now: points, brief: 0, unit: 'pts' },
          { label: 'Weight in all', now: weight[b], brief: 0, unit: '' },
        ],
        remedies: [{ id: 'give-to-parent', params: { bone: b } }],
      });
    }
    return out;
  },
});
