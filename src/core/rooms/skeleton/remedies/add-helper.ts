import { object } from 'yup';
import { sideEnd } from '../../../anatomy/side-in-name';
import { parentBone, restPlace } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { NEW_NODES } from '../../../contracts/aspect';
import { lengthOf, refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { distance } from '../../../geometry/matrix';
import { HelperError, sectionWhenBent, withHelper } from '../../../motion/helper-bone';

/** How far joints are bent to see what they lose, degrees. */
const BENDS = [60, 90, 120] as const;

/** Where nothing is said, so far along the limb as this share of the bone above. */
const REACH = 0.3;

/** Puts a bone at a joint that turns half as far, takes shared weight, and moves in every clip. */
export const addHelper = defineRemedy({
  id: 'add-helper',
  room: 'skeleton',
  title: 'Add a helper bone at a joint',
  does: 'A bone that turns half as far as this joint keeps the flesh from folding in on itself. It takes what both sides share, the more the nearer to the joint; clips get its motion, and a rig that drives the joint has to drive it too. At rest nothing moves.',
  params: object({
    bone: refTo('bone', 'Joint that bends'),
    reach: lengthOf('Along the limb, so far').optional(),
  }),
  rows(character, { bone }) {
    const helper = helperOf(character, bone);
    const share = (degrees: number) => {
      try {
        return sectionWhenBent(character, bone, degrees, helper);
      } catch (error) {
        if (error instanceof HelperError) return null;
        throw error;
      }
    };
    return BENDS.map((degrees) => {
      const left = share(degrees);
      return {
        label: `Section of the limb, bent by ${degrees}°`,
        value: left === null ? 'not closed' : Math.round(left * 100),
        unit: left === null ? '' : '% of rest',
      };
    });
  },
  promises: (character, { bone }) =>
    promise([...NEW_NODES, 'weights', 'joints', 'binds', 'clips'], {
      meant: character.nodes.flatMap(({ mesh, skin }, i) =>
        mesh >= 0 && skin >= 0 && character.skins[skin].joints.includes(bone) ? [i] : [],
      ),
      holds: 'at rest',
    }),
  apply(character, { bone, reach }): Character {
    if (character.nodes[bone]?.kind !== 'bone')
      throw new RemedyError('The joint is not there any more; choose another, or run the audit again.');
    if (helperOf(character, bone) >= 0)
      throw new NothingToDo(
        `“${character.nodes[bone].name}” has its helper already; fold that one away first to make another.`,
      );
    try {
      return withHelper(character, bone, reach ?? usualReach(character, bone), helperName(character, bone));
    } catch (error) {
      if (error instanceof HelperError) throw new RemedyError(error.message);
      throw error;
    }
  },
});

function usualReach({ nodes }: Character, bone: number): number {
  const above = parentBone(nodes, bone);
  return above < 0
    ? 0.05
    : Math.max(0.005, REACH * distance(restPlace(nodes, above), restPlace(nodes, bone)));
}

function helperName({ nodes }: Character, bone: number): string {
  const { name } = nodes[bone];
  const side = sideEnd(name);
  return `${name.slice(0, name.length - side.length)}_half${side}`;
}

/** The helper of a joint, by where it hangs and what it is called; −1 for none. */
function helperOf(character: Character, bone: number): number {
  const wanted = helperName(character, bone);
  const above = parentBone(character.nodes, bone);
  return character.nodes.findIndex(({ name, parent }) => name === wanted && parent === above && above >= 0);
}
