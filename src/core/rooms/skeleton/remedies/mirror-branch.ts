import { object } from 'yup';
import { branchOf } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { NEW_NODES } from '../../../contracts/aspect';
import { refOrNone, refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { inUnit, unitSign } from '../../../contracts/units';
import { turnBetween } from '../../../anatomy/mirrored-pairs';
import { type SkeletonBone, skeletonOf } from '../../../anatomy/skeleton';
import { distance, length } from '../../../geometry/matrix';
import { type MirroredBone, mirroredBranch, withMirroredBranch } from '../mirror-branch';

/** Bones are listed before and after up to so many. */
const LISTED = 60;

/** Makes a branch of the other side the mirror image of one: its names, its tree, its axes and its places in one step. */
export const mirrorBranch = defineRemedy({
  id: 'mirror-branch',
  room: 'skeleton',
  title: 'Mirror it to the other side',
  does: 'The branch under this bone is taken over to the other side: names with the other side in them, parents, places and axes. Bones that are there become what they should be, whatever they are called; bones that are not are made. The skin stays where it is at rest.',
  params: object({
    bone: refTo('bone', 'Branch to be mirrored'),
    onto: refOrNone('bone', 'Branch that becomes its mirror image').default(-1),
  }),
  rows(character, { bone, onto }, { unit }) {
    const wanted = wantedOf(character, bone, onto);
    const there = wanted.filter(({ node }) => node >= 0);
    const bones = new Map(skeletonOf(character).bones.map((own) => [own.node, own]));
    const most = (off: (own: SkeletonBone, wanted: MirroredBone) => number) =>
      Math.max(0, ...there.map((one) => off(bones.get(one.node) as SkeletonBone, one)));
    const parentNow = character.nodes[wanted[0].node]?.parent ?? -1;
    return [
      { label: 'Bones that are not there', value: wanted.length - there.length, unit: 'bones' },
      {
        label: 'Hanging under',
        value: parentNow < 0 ? 'nothing' : character.nodes[parentNow].name,
        unit: '',
      },
      {
        label: 'Farthest from its mirror image',
        value: inUnit(
          most((own, { place }) => distance(own.place, place)),
          unit,
        ),
        unit: unitSign(unit),
      },
      {
        label: 'Axes off, most',
        value: Number(most((own, { rotation }) => length(turnBetween(rotation, own.rotation))).toFixed(2)),
        unit: '°',
      },
      ...wanted.slice(0, LISTED).map(({ model, node }) => ({
        label: `Twin of ${character.nodes[model].name}`,
        value: node < 0 ? 'not there' : character.nodes[node].name,
        unit: '',
      })),
    ];
  },
  promises(character, { bone, onto }) {
    const wanted = wantedOf(character, bone, onto);
    const moved = wanted.flatMap(({ node }) => (node >= 0 ? [node] : []));
    const inside = branchOf(character.nodes, moved);
    const carried = character.nodes.flatMap((node, i) =>
      node.mesh >= 0 && node.skin < 0 && inside[i] ? [i] : [],
    );
    return promise(
      ['tree', 'names', 'places', 'binds', 'clips', ...(moved.length < wanted.length ? NEW_NODES : [])],
      {
        meant: carried,
        holds: 'at rest',
      },
    );
  },
  apply(character, { bone, onto }): Character {
    const out = withMirroredBranch(character, wantedOf(character, bone, onto));
    if (out === character)
      throw new NothingToDo('The other side is its mirror image already; nothing changes.');
    return out;
  },
});

function wantedOf(character: Character, bone: number, onto: number): MirroredBone[] {
  if (character.nodes[bone]?.kind !== 'bone' || (onto >= 0 && character.nodes[onto]?.kind !== 'bone'))
    throw new RemedyError('The bone is not there any more; choose another, or run the audit again.');
  return mirroredBranch(character, bone, onto);
}
