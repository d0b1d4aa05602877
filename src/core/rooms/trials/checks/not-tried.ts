import { object } from 'yup';
import { hangsSideBySide, jointMotionsOf } from '../../../anatomy/joint-motions';
import type { Character } from '../../../character/model';
import { type Found, defineCheck } from '../../../contracts/check';
import { theCharacter } from '../../../contracts/finding';
import { TRIALS } from '../../../contracts/trials';
import { bendsFlesh } from '../sweep';
import { READS } from './at-joints';

/** Says of a figure of which nothing could be tried that nothing is known of it in motion. */
export const notTriedCheck = defineCheck({
  id: 'not-tried',
  room: 'trials',
  title: 'What could not be tried',
  why: 'That nothing else stands here says nothing of how it bends: nothing of it was moved.',
  isInMotion: true,
  settings: object({ trials: TRIALS }),
  reads: READS,
  run(character, { trials }): Found[] {
    if (!trials) return [];
    const reason = whyNot(character);
    if (reason === null) return [];
    return [
      {
        gravity: 'note',
        subject: theCharacter(character),
        message: `Nothing of it was tried in motion: ${reason}`,
        measured: 'not tried',
        expected: 'joints that turn',
        count: 1,
      },
    ];
  },
});

function whyNot(character: Character): string | null {
  if (!character.nodes.some(({ mesh, skin }) => mesh >= 0 && skin >= 0)) return 'no mesh is bound to bones';
  if (hangsSideBySide(character))
    return 'its bones all hang side by side, so that none takes the next one along';
  const bends = jointMotionsOf(character).some((motion) => bendsFlesh(character, motion));
  return bends ? null : 'no joint bends any of its meshes';
}
