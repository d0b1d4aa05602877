import { object } from 'yup';
import { type Found, defineCheck } from '../../../contracts/check';
import { boneElements, theNode } from '../../../contracts/finding';
import { bonesOf, parentBone } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';

/**
 * What a bone hangs on that is no bone: a mesh, a camera, a light, or a plain node with a bone above it; −1 for none. A plain
 * node above a whole skeleton holds it in its place, as an exporter's group does.
 */
function holderOf({ nodes }: Character, bone: number): number {
  const { parent } = nodes[bone];
  if (parent < 0 || nodes[parent].kind === 'bone') return -1;
  return nodes[parent].kind === 'empty' && parentBone(nodes, parent) < 0 ? -1 : parent;
}

/** Bones hang on bones: what is seen hangs on a skeleton, and never the other way round. */
export const betweenBonesCheck = defineCheck({
  id: 'between-bones',
  room: 'skeleton',
  title: 'Nothing but bones between bones',
  why: 'A mesh that bones hang on goes with it: hidden, taken out or exchanged on arrival, it takes their branch along, and many games keep bones and meshes apart.',
  settings: object({}),
  reads: ['tree', 'names'],
  run(character): Found[] {
    const { nodes } = character;
    return bonesOf(character).flatMap((bone): Found[] => {
      const holder = holderOf(character, bone);
      if (holder < 0) return [];
      const name = nodes[holder].name || 'a node without a name';
      return [
        {
          gravity: 'worth',
          subject: theNode(character, bone),
          unit: '',
          message: `“${nodes[bone].name}” hangs on “${name}”, which is no bone`,
          measured: nodes[holder].kind,
          expected: 'bone',
          elements: [boneElements([bone])],
          evidence: [{ label: 'Hangs on', now: name, brief: 'a bone', unit: '' }],
          remedies: [{ id: 're-hang', params: { bone, parent: parentBone(nodes, bone) } }],
        },
      ];
    });
  },
});
