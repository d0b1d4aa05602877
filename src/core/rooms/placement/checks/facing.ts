import { object } from 'yup';
import { looksOf } from '../../../anatomy/looks';
import { skeletonOf } from '../../../anatomy/skeleton';
import { exchangedSides } from '../../../anatomy/twins';
import { wrongSided } from '../../../anatomy/wrong-sides';
import type { Character } from '../../../character/model';
import { LANDMARKS } from '../../../contracts/aspect';
import { type RemedyCall, theCharacter } from '../../../contracts/finding';
import { type Found, defineCheck } from '../../../contracts/check';
import { FORWARD } from '../settings';
import { facingOf } from '../survey';

/** Told, so that nobody takes what was not seen for what is right. */
const cannotTell = (character: Character, forward: string): Found => ({
  gravity: 'note',
  subject: theCharacter(character),
  message: 'Where it looks cannot be told: its bones do not say where its head, its feet and its sides are',
  measured: 'not told',
  expected: forward,
  count: 1,
  mark: 'untold',
});

/** Every name of a side given to the bone on the other. */
function exchanging(character: Character): RemedyCall[] {
  const skeleton = skeletonOf(character);
  const { side } = looksOf(skeleton);
  const table = exchangedSides(
    skeleton,
    skeleton.bones.flatMap((_, i) => (side[i] === 0 ? [] : [i])),
  );
  return Object.keys(table).length > 0 ? [{ id: 'rename', params: { table } }] : [];
}

/**
 * Upright along +Y and looking along the brief's forward axis, as the skeleton's head, feet and sides tell.
 */
export const facingCheck = defineCheck({
  id: 'facing',
  room: 'placement',
  title: 'Up and forward',
  why: 'A figure that lies down or looks another way walks sideways in the game; turning it there turns every clip too.',
  kinds: ['two-legged', 'four-legged', 'winged'],
  settings: object({ ...FORWARD }),
  reads: [...LANDMARKS],
  measures: (character) => {
    const axis = facingOf(character)?.forward ?? '';
    return { forward: ['x', '-x', 'z', '-z'].includes(axis) ? axis : null };
  },
  run(character, brief) {
    const facing = facingOf(character);
    if (!facing) return [cannotTell(character, brief.forward)];
    // Where some sides are exchanged and others are not, the check of sides says which.
    const isCrossed = facing.crossed && wrongSided(character).areAll;
    const off = facing.forwardOff(brief.forward);
    const lies = facing.up !== 'y' || !facing.stands;
    if (!lies && off <= facing.within) return isCrossed ? [crossed()] : [];
    const message = lies
      ? `It stands along ${facing.up}${facing.upOff % 90 > 1 && facing.up === 'y' ? `, ${facing.upOff.toFixed(0)}° off` : ''} instead of y ± ${facing.within}°${facing.forward === brief.forward ? '' : `, and looks along ${facing.forward}`}`
      : `It looks along ${facing.forward}, ${off.toFixed(0)}° off; the brief wants ${brief.forward} ± ${facing.within}°`;
    return [
      {
        gravity: 'stops',
        subject: theCharacter(character),
        unit: '°',
        count: 1,
        message,
        measured: lies ? facing.upOff : off,
        expected: 0,
        evidence: [
          { label: 'Off the upright', now: facing.upOff, brief: 0, unit: '°' },
          { label: `Off the way along ${brief.forward}`, now: off, brief: 0, unit: '°' },
        ],
        remedies: [{ id: 'turn-to-axes', params: {} }],
      },
      ...(isCrossed ? [crossed()] : []),
    ];
    function crossed(): Found {
      return {
        gravity: 'stops',
        subject: theCharacter(character),
        message: 'Left and right are exchanged: the bones called left are on the figure’s right',
        measured: 'exchanged',
        expected: 'left on its left',
        count: 1,
        mark: 'crossed',
        remedies: exchanging(character),
      };
    }
  },
});
