import { type InferType, boolean, number, object, string } from 'yup';
import { withOtherSide } from '../../../anatomy/side-in-name';
import { childrenOf, restPlace, restWorld } from '../../../character/hierarchy';
import { type Character, type SceneNode, node } from '../../../character/model';
import { rehung } from '../../../character/rehang';
import { NEW_NODES } from '../../../contracts/aspect';
import { placeOf, refTo } from '../../../contracts/params';
import { RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { lengthText } from '../../../contracts/units';
import { type Vec3, distance, inverseOr, pointThrough } from '../../../geometry/matrix';
import { mirroredPlace } from '../../../geometry/mirror';
import { tipOf } from '../chain-ends';
import { planeBetweenSides, twinOfBone } from '../mirror-branch';

const PARAMS = object({
  under: refTo('bone', 'Hangs under'),
  name: string().trim().required().max(200).meta({ label: 'Its name' }),
  share: number().min(0).max(2).default(0.5).meta({ label: 'Along its parent, 0 to 1' }),
  place: placeOf('Or at a place').nullable().default(null),
  split: boolean().default(false).meta({ label: 'What its parent goes on to hangs under it' }),
  twin: boolean().default(false).meta({ label: 'With a twin on the other side' }),
});

interface NewBone {
  readonly under: number;
  readonly name: string;
  readonly place: Vec3;
  /** What hangs under it from then on; −1 for nothing. */
  readonly next: number;
}

/** Puts a bone in: along another one or at a place, within a chain or beside it, with its twin. */
export const addBone = defineRemedy({
  id: 'add-bone',
  room: 'skeleton',
  title: 'Put in a bone',
  does: 'A new bone hangs under this one, with its axes: part of the way to what it goes on to, or to the end of its flesh, or at a place. It carries nothing yet, and nothing moves.',
  params: PARAMS,
  rows: (character, params, { unit }) =>
    newBonesOf(character, params).map(({ name, under, place }) => ({
      label: `${name}, under ${character.nodes[under].name}`,
      value: character.nodes.some((other) => other.name === name)
        ? 'there'
        : `not there, will stand at ${place.map((x) => lengthText(x, unit)).join(', ')}`,
      unit: '',
    })),
  promises: (_character, { split }) => promise(split ? [...NEW_NODES, 'clips'] : NEW_NODES),
  apply(character, params): Character {
    if (character.nodes[params.under]?.kind !== 'bone')
      throw new RemedyError('The bone is not there any more; choose another.');
    let out = character;
    for (const bone of newBonesOf(character, params)) out = withBone(out, bone);
    return out;
  },
});

function newBonesOf(
  character: Character,
  { under, name, share, place, split, twin }: InferType<typeof PARAMS>,
): NewBone[] {
  const to = place ? (place as unknown as Vec3) : alongBone(character, under, share);
  const next = split ? nextOf(character, under) : -1;
  if (split && next < 0)
    throw new RemedyError(
      `“${character.nodes[under].name}” goes on to no bone that could hang under the new one.`,
    );
  const own: NewBone = { under, name, place: to, next };
  if (!twin) return [own];
  const otherName = withOtherSide(name);
  if (otherName === null)
    throw new RemedyError(`“${name}” says no side; with a twin its name needs one, as “${name}_l”.`);
  const plane = planeBetweenSides(character);
  const acrossParent = twinOfBone(character, under);
  const acrossNext = next < 0 ? -1 : twinOfBone(character, next);
  if (next >= 0 && acrossNext < 0)
    throw new RemedyError(
      `“${character.nodes[next].name}” has no twin that could hang under the new one’s twin.`,
    );
  return [
    own,
    {
      under: acrossParent < 0 ? under : acrossParent,
      name: otherName,
      place: mirroredPlace(plane, to),
      next: acrossNext,
    },
  ];
}

/** What a bone goes on to: the bone that lies farthest of those under it; −1 for none. */
function nextOf({ nodes }: Character, bone: number): number {
  const from = restPlace(nodes, bone);
  const away = (child: number) => distance(from, restPlace(nodes, child));
  return (childrenOf(nodes)[bone] ?? [])
    .filter((child) => nodes[child].kind === 'bone')
    .reduce((best, child) => (best < 0 || away(child) > away(best) ? child : best), -1);
}

function alongBone(character: Character, bone: number, share: number): Vec3 {
  const next = nextOf(character, bone);
  const from = restPlace(character.nodes, bone);
  const to = next >= 0 ? restPlace(character.nodes, next) : tipOf(character, bone);
  if (!to)
    throw new RemedyError(
      `“${character.nodes[bone].name}” has no way of its own; say the place of the new bone.`,
    );
  return [0, 1, 2].map((k) => from[k] + share * (to[k] - from[k])) as unknown as Vec3;
}

function withBone(character: Character, { under, name, place, next }: NewBone): Character {
  if (character.nodes.some((other) => other.kind === 'bone' && other.name === name))
    throw new RemedyError(`A bone is called “${name}” already; choose another name.`);
  const { source } = character.nodes[under];
  const fresh: SceneNode = {
    ...node({
      name,
      kind: 'bone',
      parent: under,
      translation: pointThrough(inverseOr(restWorld(character.nodes), under * 16), place),
    }),
    ...(source === undefined ? {} : { source }),
  };
  const out = { ...character, nodes: [...character.nodes, fresh] };
  return next < 0 ? out : rehung(out, next, character.nodes.length);
}
