import { object } from 'yup';
import { type Found, defineCheck } from '../../../contracts/check';
import { boneElements, theNode } from '../../../contracts/finding';
import { bonesOf, parentBone } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';

/** Meshes, cameras and lights that bones hang on: each with the bones that hang right on it. */
function holdersOf(character: Character): Map<number, number[]> {
  const { nodes } = character;
  const out = new Map<number, number[]>();
  for (const bone of bonesOf(character)) {
    const { parent } = nodes[bone];
    // A plain node above a skeleton holds it in its place, as an exporter's group does.
    if (parent < 0 || nodes[parent].kind === 'bone' || nodes[parent].kind === 'empty') continue;
    out.set(parent, [...(out.get(parent) ?? []), bone]);
  }
  return out;
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
    return [...holdersOf(character)].map(([holder, bones]): Found => {
      const names = bones.slice(0, 3).map((bone) => `“${nodes[bone].name}”`);
      const more = bones.length > names.length ? ` and ${bones.length - names.length} more` : '';
      const above = parentBone(nodes, holder);
      return {
        gravity: 'worth',
        subject: theNode(character, holder),
        unit: 'bones',
        count: bones.length,
        message: `${names.join(', ')}${more} ${bones.length === 1 ? 'hangs' : 'hang'} on “${nodes[holder].name}”, which is no bone`,
        measured: bones.length,
        expected: 0,
        elements: [boneElements(bones)],
        evidence: [{ label: 'Bones that hang on it', now: bones.length, brief: 0, unit: 'bones' }],
        remedies: [{ id: 're-hang', params: { bone: bones[0], parent: above } }],
      };
    });
  },
});
