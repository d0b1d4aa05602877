import { mixed, object } from 'yup';
import type { Character } from '../../../character/model';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { type Found, defineCheck } from '../../../contracts/check';
import { LIMITS } from '../../../contracts/settings';
import { type SumsBrief, WEIGHT_SUMS } from '../../../contracts/weight-sums';
import { inUnit, smallLengthText, fineUnit, unitSign } from '../../../contracts/units';
import { deviationsOnArrival } from '../deviation';
import { RECEIVERS, type Receiver, receiverById } from '../receivers';

/** The machine that a brief is for, by its id; null where nobody says. */
const RECEIVER = {
  receiver: mixed<string>()
    .oneOf(RECEIVERS.map((receiver) => receiver.id))
    .nullable()
    .default(null)
    .meta({
      label: 'The machine',
      bound: 'is',
      hint: 'What a kind of machine does to a file on arrival is held against what was sent; off where that is open.',
      choices: Object.fromEntries(RECEIVERS.map((receiver) => [receiver.id, receiver.title])),
    }),
};

/** What the machine that it is for makes of it: every mesh that it holds farther off than the brief allows. */
export const onArrivalCheck = defineCheck({
  id: 'on-arrival',
  room: 'docket',
  title: 'Held as it was sent',
  why: 'The file can be right and still be shown wrongly: machines forget transforms, drop nodes and keep fewer weights, each by its own rule.',
  advice:
    'What the machine does stands in Docket, On arrival. Mend what it names in the room that it belongs to, or choose the machine that it is really for in the brief.',
  waiverReasons: ['The machine is not the one that it is for.', 'The game places it itself.'],
  settings: object({ ...RECEIVER, ...LIMITS, ...WEIGHT_SUMS }),
  reads: [...SHAPE_AT_REST, 'names', 'clips', 'polygons', 'shading', 'carried', 'sets', 'source'],
  run(character, brief) {
    const receiver = brief.receiver ? receiverById(brief.receiver) : undefined;
    return receiver ? arrivalFindings(character, receiver, brief) : [];
  },
});

/** A brief as far as arrivals are judged by it. */
type ArrivalBrief = SumsBrief & { readonly limits: { readonly influences: number } };

/** One finding for every mesh that a receiver holds farther off than a move may. */
export function arrivalFindings(character: Character, receiver: Receiver, brief: ArrivalBrief): Found[] {
  const told = { sumTolerance: brief.weights.sumTolerance, influences: brief.limits.influences };
  return deviationsOnArrival(character, receiver, told)
    .filter((mesh) => mesh.max > brief.proofTolerance)
    .map(({ node, max }): Found => {
      const { name: own, mesh, skin } = character.nodes[node];
      const name = own || character.meshes[mesh].name || `mesh ${mesh}`;
      const small = fineUnit(brief.unit);
      const isRigid = skin < 0 && receiver.meshNodes === 'ignored';
      const why = isRigid ? ': it forgets where mesh nodes stand' : '';
      return {
        gravity: 'stops',
        subject: { kind: 'mesh', index: mesh, name },
        unit: unitSign(small),
        count: 1,
        message: `“${receiver.title}” holds “${name}” up to ${smallLengthText(max, brief.unit)} from where it was sent${why}; the brief allows ${smallLengthText(brief.proofTolerance, brief.unit)}`,
        measured: inUnit(max, small),
        expected: inUnit(brief.proofTolerance, small),
        elements: [{ kind: 'node', node, ids: Uint32Array.of(node) }],
        evidence: [
          {
            label: 'Farthest point, on arrival',
            now: inUnit(max, small),
            brief: `≤ ${inUnit(brief.proofTolerance, small)}`,
            unit: unitSign(small),
          },
        ],
        remedies: isRigid ? [{ id: 'settle-on-bone', params: { node } }] : [],
        mark: receiver.id,
      };
    });
}
