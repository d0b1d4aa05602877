import { object } from 'yup';
import { parentBone } from '../../../character/hierarchy';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { type Found, defineCheck } from '../../../contracts/check';
import { lengthText } from '../../../contracts/units';
import { ringsOffJoints } from '../joint-rings';

/** The width of a band that is proposed, as a share of the limb's thickness. */
const BAND = 0.8;

/** The weights of a limb change where its joint is. */
export const jointRingsCheck = defineCheck({
  id: 'joint-rings',
  room: 'weights',
  title: 'Half and half at the joints',
  why: 'A limb bends where its weights change from one bone to the next; where that lies beside the joint, the limb folds there and the joint pokes out of it.',
  waiverReasons: ['It is meant to bend there.', 'It never bends.'],
  settings: object({}),
  reads: [...SHAPE_AT_REST, 'names', 'polygons', 'kind'],
  run(character, brief) {
    return ringsOffJoints(character).map(({ bone, ring, share, halfAt, radius }): Found => {
      const { name } = character.nodes[bone];
      const above = parentBone(character.nodes, bone);
      const ids = [...new Set(ring.vertices)];
      const way = halfAt > 0 ? 'below it' : 'above it, towards the root';
      const off = lengthText(Math.abs(halfAt), brief.unit);
      return {
        gravity: 'worth',
        subject: { kind: 'bone', index: bone, name },
        message: `At “${name}” the ring of the joint goes ${Math.round(share * 100)} % with the bone; half and half lies ${off} ${way}`,
        measured: Math.round(share * 100),
        expected: 50,
        unit: '%',
        count: 1,
        elements: [
          { kind: 'bone', node: bone, ids: Uint32Array.of(bone) },
          { kind: 'vertex', node: ring.node, ids: Uint32Array.from(ids) },
        ],
        evidence: [
          { label: 'With the bone, on the ring', now: Math.round(share * 100), brief: 50, unit: '%' },
          { label: 'Half and half, from the joint', now: off, brief: '—', unit: '' },
        ],
        remedies: [
          { id: 'set-band', params: { bone, width: Number((BAND * 2 * radius).toFixed(3)) } },
          ...(above >= 0
            ? [
                {
                  id: 'split-between',
                  params: { vertices: [{ node: ring.node, ids }], bone, other: above, share: 0.5 },
                },
              ]
            : []),
        ],
      };
    });
  },
});
