import { number, object } from 'yup';
import { whyNotTurned, withTurnedAxes } from '../../../character/turn-axes';
import { choiceOf, refsTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { decompose, quatAbout } from '../../../geometry/matrix';
import { restWorld } from '../../../character/hierarchy';

const AXES = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] } as const;

/** Turns the axes of bones about one of them, in place. */
export const turnAxes = defineRemedy({
  id: 'turn-axes',
  room: 'skeleton',
  title: 'Turn their axes',
  does: 'The bones’ own axes turn in place; what hangs on them stays, binds are made anew, and clips are rewritten so that everything moves as it did.',
  params: object({
    bones: refsTo('bone', 'Bones').required(),
    axis: choiceOf<keyof typeof AXES>('About their own', { x: 'x', y: 'y', z: 'z' }).default('x'),
    angle: number().required().default(90).meta({ label: 'By', quantity: 'angle' }),
  }),
  rows(character, { bones }) {
    const world = restWorld(character.nodes);
    return bones.slice(0, 60).flatMap((bone) => {
      if (!character.nodes[bone]) return [];
      const { rotation } = decompose(world, bone * 16);
      return [
        { label: character.nodes[bone].name, value: rotation.map((x) => x.toFixed(3)).join(' '), unit: '' },
      ];
    });
  },
  promises: () => promise(['places', 'binds', 'clips']),
  apply(character, { bones, axis, angle }) {
    if (bones.some((bone) => character.nodes[bone]?.kind !== 'bone'))
      throw new RemedyError('One of these bones is not there any more; choose them again.');
    if (angle % 360 === 0)
      throw new NothingToDo('A whole turn leaves the axes as they are; say another angle.');
    const why = whyNotTurned(character, bones);
    if (why) throw new RemedyError(why);
    const turn = quatAbout(AXES[axis], (angle * Math.PI) / 180);
    return withTurnedAxes(character, new Map(bones.map((bone) => [bone, turn])));
  },
});
