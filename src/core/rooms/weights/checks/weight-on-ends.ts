import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { boneElements, theCharacter, theNode } from '../../../contracts/finding';
import { type Found, defineCheck } from '../../../contracts/check';
import { WEIGHT_CARRIERS } from '../../../contracts/settings';
import { bonesOf, weightOfNodes } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { shownMeshes } from '../../../character/measure';
import { setNamed, unweightedBones } from '../kinds';

const NOUNS = {
  end: 'The end bone',
  control: 'The control bone',
  'left out': 'A bone that the brief leaves out,',
};

/** Weight on bones that should carry none: ends, controls, and those that the brief leaves out. */
export const weightOnEndsCheck = defineCheck({
  id: 'weight-on-ends',
  room: 'weights',
  title: 'Weight on bones that must carry none',
  why: 'Engines drop ends and controls on the way in, and the weight they carried goes with them.',
  settings: object({ ...WEIGHT_CARRIERS }),
  reads: [...SHAPE_AT_REST, 'names', 'kind', 'sets'],
  run(character, brief) {
    const whyNot = unweightedBones(character, brief);
    const weight = weightOfNodes(character);
    const out: Found[] = missingSet(character, brief.carriers.set);
    for (const bone of bonesOf(character)) {
      if (!(weight[bone] > 0)) continue;
      const name = character.nodes[bone].name;
      const reason = whyNot(bone);
      if (!reason) continue;
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
        message: `${NOUNS[reason]} “${name}” carries weight at ${points} points`,
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

/** A set that the brief names and the file does not have: what deforms is not known then. */
function missingSet(character: Character, name: string | null): Found[] {
  if (name === null || setNamed(character, name)) return [];
  return [
    {
      gravity: 'worth',
      subject: theCharacter(character),
      message: `The brief lets only bones of the set “${name}” carry weight, and no set of that name is there`,
      measured: 'no such set',
      expected: name,
      elements: [],
      evidence: [],
    },
  ];
}
