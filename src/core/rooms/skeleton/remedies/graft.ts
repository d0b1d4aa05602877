import { object } from 'yup';
import { ScaleError } from '../../../character/bake-scale';
import { GraftError, type Meeting, grafted, similarityOf } from '../../../character/graft';
import { branchOf, parentBone } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { refOrNone, refTo, refsTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit, unitSign } from '../../../contracts/units';
import { FoldError, withBonesFolded } from '../../../motion/fold';
import { leftBehind } from '../../../motion/follows';

const PARAMS = object({
  bone: refTo('bone', 'Top of what is hung on'),
  under: refTo('bone', 'Under'),
  joint: refOrNone('bone', 'A joint of it').default(-1),
  onto: refOrNone('bone', '… comes to stand on').default(-1),
  second: refOrNone('bone', 'A second joint of it').default(-1),
  secondOnto: refOrNone('bone', '… comes to stand on').default(-1),
  surplus: refsTo('bone', 'Bones of it that go').default([]),
});

interface GraftParams {
  readonly bone: number;
  readonly under: number;
  readonly joint: number;
  readonly onto: number;
  readonly second: number;
  readonly secondOnto: number;
  readonly surplus: readonly number[];
}

/** Hangs a second skeleton, or any branch, on a bone: to size by two joints, without the bones that it does not need. */
export const graft = defineRemedy({
  id: 'graft',
  room: 'skeleton',
  title: 'Graft a skeleton on a bone',
  does: 'The branch hangs under that bone with all that it shows. One joint that meets another moves it there; two turn and scale it as well. Bones that it does not need go, their weight to the bone above. Its clips do relative to it what they did.',
  params: PARAMS,
  rowsWithout: ['bone'],
  rows(character, { bone, under }, { unit }) {
    const above = bone < 0 ? -1 : parentBone(character.nodes, bone);
    const target = character.nodes[under].name;
    const size = branchOf(character.nodes, [under]).filter(Boolean).length - 1;
    const top = bone < 0 ? under : bone;
    const hangs = above < 0 ? 'none' : character.nodes[above].name;
    return [
      ...(bone < 0 ? [] : [{ label: `Parent of ${character.nodes[bone].name}`, value: hangs, unit: '' }]),
      { label: `Hanging on ${target}`, value: size, unit: 'nodes' },
      {
        label: `Left behind where ${target} turns by 30°, most`,
        value: inUnit(leftBehind(character, top, under), unit),
        unit: unitSign(unit),
      },
    ];
  },
  promises(character, { bone, surplus }) {
    const inside = branchOf(character.nodes, [bone]);
    const shown = character.nodes.flatMap(({ mesh, skin }, i) =>
      mesh >= 0 && (skin < 0 ? inside[i] : character.skins[skin].joints.some((joint) => inside[joint]))
        ? [i]
        : [],
    );
    const gone = ['names', 'shows', 'weights', 'joints', 'sets', 'kind'] as const;
    return promise(
      [
        ...(['tree', 'places', 'points', 'shading', 'morphs', 'binds', 'clips', 'carried'] as const),
        ...(surplus.length > 0 ? gone : []),
      ],
      { meant: shown, holds: 'at rest' },
    );
  },
  apply(character, params): Character {
    const { bone, under, surplus } = params;
    const { nodes } = character;
    const named = [bone, under, ...surplus, params.joint, params.onto, params.second, params.secondOnto];
    if (named.some((i) => i >= 0 && nodes[i]?.kind !== 'bone'))
      throw new RemedyError('One of these bones is not there any more; choose them again.');
    const inside = branchOf(nodes, [bone]);
    const meetings = meetingsOf(character, params, inside);
    const stray = surplus.find((i) => !inside[i]);
    if (stray !== undefined)
      throw new RemedyError(
        `“${nodes[stray].name}” is no bone of the branch under “${nodes[bone].name}”; only bones of it can go with the graft.`,
      );
    if (nodes[bone].parent === under && meetings.length === 0 && surplus.length === 0)
      throw new NothingToDo(`“${nodes[bone].name}” hangs there already; there is nothing to change.`);
    try {
      const hung = grafted(character, bone, under, similarityOf(character, meetings));
      return surplus.length > 0 ? withBonesFolded(hung, new Set(surplus)).character : hung;
    } catch (error) {
      if (error instanceof GraftError || error instanceof FoldError || error instanceof ScaleError)
        throw new RemedyError(error.message);
      throw error;
    }
  },
});

function meetingsOf(
  { nodes }: Character,
  { bone, joint, onto, second, secondOnto }: GraftParams,
  inside: readonly boolean[],
): Meeting[] {
  const pairs = [
    { joint, onto },
    { joint: second, onto: secondOnto },
  ].filter((pair) => pair.joint >= 0 || pair.onto >= 0);
  for (const pair of pairs) {
    if (pair.joint < 0 || pair.onto < 0)
      throw new RemedyError('A joint needs the one that it is to stand on; choose both, or neither.');
    if (!inside[pair.joint])
      throw new RemedyError(
        `“${nodes[pair.joint].name}” is no joint of the branch under “${nodes[bone].name}”; choose one of its own.`,
      );
    if (inside[pair.onto])
      throw new RemedyError(
        `“${nodes[pair.onto].name}” is a joint of the branch itself and moves with it; choose one of the other skeleton.`,
      );
  }
  return pairs;
}
