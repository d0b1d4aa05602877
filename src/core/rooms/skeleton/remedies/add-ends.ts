import { object, string } from 'yup';
import { sideEnd } from '../../../anatomy/side-in-name';
import { freeName } from '../../../character/free-name';
import { childrenOf, restPlace, restWorld } from '../../../character/hierarchy';
import { type Character, type SceneNode, node } from '../../../character/model';
import { NEW_NODES } from '../../../contracts/aspect';
import { refsTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit, unitSign } from '../../../contracts/units';
import { distance, inverseOr, pointThrough } from '../../../geometry/matrix';
import { chainEndsOf, tipOf } from '../chain-ends';

/** Bones are listed up to so many. */
const LISTED = 60;

/** Puts a bone that marks the end behind the last bones of chains. */
export const addEnds = defineRemedy({
  id: 'add-ends',
  room: 'skeleton',
  title: 'Mark the ends of chains',
  does: 'Behind each of these bones comes one that carries nothing, as far on as its flesh reaches, with its axes; its name has “end” before the side, or at its end. Nothing moves.',
  params: object({
    bones: refsTo('bone', 'Last bones').default([]),
    word: string().trim().min(1).max(40).default('_end').meta({ label: 'Behind their name' }),
  }),
  rows(character, { bones }, { unit }) {
    return lastOf(character, bones)
      .slice(0, LISTED)
      .map((bone) => {
        const tip = tipOf(character, bone);
        const to = tip ? inUnit(distance(restPlace(character.nodes, bone), tip), unit) : '—';
        return { label: `Behind ${character.nodes[bone].name}`, value: to, unit: tip ? unitSign(unit) : '' };
      });
  },
  promises: () => promise(NEW_NODES),
  apply(character, { bones, word }): Character {
    if (bones.some((bone) => character.nodes[bone]?.kind !== 'bone'))
      throw new RemedyError('One of these bones is not there any more; choose them again.');
    const last = lastOf(character, bones);
    if (last.length === 0)
      throw new NothingToDo('All of these chains end with a bone behind the last one that deforms already.');
    const nodes: SceneNode[] = [...character.nodes];
    const world = restWorld(character.nodes);
    for (const bone of last) {
      const tip = tipOf(character, bone);
      if (!tip) continue;
      const { name, source } = nodes[bone];
      nodes.push({
        ...node({ name: freeName({ nodes }, endName(name, word)), kind: 'bone', parent: bone }),
        translation: pointThrough(inverseOr(world, bone * 16), tip),
        ...(source === undefined ? {} : { source }),
      });
    }
    if (nodes.length === character.nodes.length)
      throw new RemedyError(
        'None of these bones has a bone above it that would tell which way it goes; add ends by hand.',
      );
    return { ...character, nodes };
  },
});

/** Of the named bones, or of all, those that deform and have none behind them. */
function lastOf(character: Character, bones: readonly number[]): readonly number[] {
  const below = childrenOf(character.nodes);
  if (bones.length === 0) return chainEndsOf(character).open;
  return bones.filter((bone) => below[bone]?.every((child) => character.nodes[child].kind !== 'bone'));
}

/** The word before the side that a name ends with, else behind it. */
function endName(name: string, word: string): string {
  const side = sideEnd(name);
  return side ? `${name.slice(0, name.length - side.length)}${word}${side}` : `${name}${word}`;
}
