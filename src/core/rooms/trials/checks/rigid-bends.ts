import { object } from 'yup';
import { type Found, defineCheck } from '../../../contracts/check';
import { lengthText } from '../../../contracts/units';
import { TRIALS } from '../../../contracts/trials';
import { inWords, poseOf } from '../findings';
import { triedMotions } from '../motions';
import { bentParts } from '../rigid';
import { READS } from './at-joints';

/** Rigid parts stay rigid, however the joints turn. */
export const rigidBendsCheck = defineCheck({
  id: 'rigid-bends',
  room: 'trials',
  title: 'Rigid parts that bend in motion',
  why: 'A buckle, a tooth or a hat that bends with the skin gives away that it is painted on.',
  waiverReasons: ['It is meant to bend.'],
  isInMotion: true,
  settings: object({ trials: TRIALS }),
  reads: [...READS, 'shading', 'sets', 'carried'],
  run(character, { trials, unit }) {
    if (!trials) return [];
    return bentParts(character, triedMotions(character, trials))
      .filter(({ most }) => most > trials.bends)
      .map(({ part, motion, degrees, most }): Found => {
        const bone = part.drivers[0].node;
        return {
          gravity: part.isRigid ? 'stops' : 'worth',
          subject: {
            kind: 'mesh',
            index: character.nodes[part.node].mesh,
            name: character.nodes[part.node].name,
          },
          message: `“${part.name}” should not bend, and does by ${lengthText(most, unit)} when “${character.nodes[motion.bone].name}” moves (${inWords(motion, degrees)})`,
          measured: lengthText(most, unit),
          expected: lengthText(trials.bends, unit),
          count: 1,
          mark: `${part.island}`,
          elements: [{ kind: 'polygon', node: part.node, ids: part.polygons }],
          evidence: [
            {
              label: 'Farthest from moving as one',
              now: lengthText(most, unit),
              brief: lengthText(trials.bends, unit),
              unit: '',
            },
            { label: 'Bones that pull it', now: part.drivers.length, brief: 1, unit: 'bones' },
          ],
          remedies: [
            {
              id: 'make-rigid',
              params: { polygons: [{ node: part.node, ids: [part.polygons[0]] }], bone },
            },
          ],
          pose: poseOf(character, motion, degrees),
        };
      });
  },
});
