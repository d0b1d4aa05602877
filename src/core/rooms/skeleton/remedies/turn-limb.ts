import { boolean, object } from 'yup';
import { branchOf, parentBone, restPlace, restWorld } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { boundAnew } from '../../../character/place-joints';
import { withLocal } from '../../../character/rehang';
import { angleOf, choiceOf, refTo } from '../../../contracts/params';
import { NothingToDo, type Promised, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import {
  type Vec3,
  decompose,
  inverseOr,
  normalise,
  quatAbout,
  subtract,
  times,
} from '../../../geometry/matrix';
import { mirroredWorldTurn } from '../../../geometry/mirror';
import { degreesOfTurn } from '../../../motion/hand-pose';
import { type Turns, posedWorld } from '../../../motion/pose';
import { boundInPose } from '../../../motion/bound-in-pose';
import { planeBetweenSides, twinOfBone } from '../mirror-branch';

/** What a limb turns about, at its joint. */
const ABOUT = {
  'own-x': 'its own x',
  'own-y': 'its own y',
  'own-z': 'its own z',
  'world-x': 'x of the world',
  'world-y': 'y of the world',
  'world-z': 'z of the world',
} as const;
type About = keyof typeof ABOUT;

/** Whether the skin goes along with the bones at rest. */
export const SKIN_AT_REST = { along: 'goes along', stays: 'stays where it is' } as const;

/** Turns shorter than this are none, degrees. */
const LEAST = 1e-6;

/** Turns a limb about its joint and makes that its rest. */
export const turnLimb = defineRemedy({
  id: 'turn-limb',
  room: 'skeleton',
  title: 'Turn a limb at rest',
  does: 'All that hangs on the joint turns about it, and that becomes the rest pose. The skin goes along by its weights, and clips take the bones where they took them before; or it stays, and clips do what they did relative to rest.',
  params: object({
    bone: refTo('bone', 'Joint'),
    about: choiceOf('About', ABOUT).default('own-z'),
    angle: angleOf('By').min(-180).max(180).default(10),
    skin: choiceOf('The skin', SKIN_AT_REST).default('along'),
    twin: boolean().default(false).meta({ label: 'Its twin as mirror image' }),
  }),
  rows(character, params) {
    return Object.keys(joints(character, params)).flatMap((key) => {
      const bone = Number(key);
      const { name } = character.nodes[bone];
      const way = directionOf(character, bone);
      const leaning = way
        ? [{ label: `${name} below the horizontal`, value: degrees(Math.asin(-way[1])), unit: '°' }]
        : [];
      const angles = degreesOfTurn(decompose(restWorld(character.nodes), bone * 16).rotation, 'own', []);
      return [
        ...leaning,
        ...angles.map((angle, k) => ({
          label: `${name} about the world’s ${'xyz'[k]}`,
          value: Number(angle.toFixed(2)),
          unit: '°',
        })),
      ];
    });
  },
  apply(character, params) {
    if (character.nodes[params.bone]?.kind !== 'bone')
      throw new RemedyError('The joint is not there any more; choose another.');
    if (Math.abs(params.angle) < LEAST) throw new NothingToDo('A turn by 0° changes nothing.');
    const turns = turnsOf(character, params);
    return params.skin === 'along' ? boundInPose(character, turns) : withSkinStaying(character, turns);
  },
  promises: (character, params) =>
    promiseForLimbs(character, Object.keys(joints(character, params)).map(Number), params.skin),
});

/**
 * What a step on limbs at rest may change: with the skin what it makes of it, else only where bones are and what hangs on
 * them.
 * @param tops nodes that move with all below them
 */
export function promiseForLimbs(
  { nodes, skins }: Character,
  tops: readonly number[],
  skin: keyof typeof SKIN_AT_REST,
): Promised {
  const below = branchOf(nodes, tops);
  const isBound = (of: number) => skin === 'along' && skins[of].joints.some((joint) => below[joint]);
  const meant = nodes.flatMap((node, i) => {
    if (node.mesh < 0) return [];
    return (node.skin < 0 ? below[i] : isBound(node.skin)) ? [i] : [];
  });
  return skin === 'along'
    ? promise(['places', 'points', 'shading', 'morphs', 'binds', 'clips', 'shows'], { meant })
    : promise(['places', 'binds', 'clips'], { meant, holds: 'at rest' });
}

interface LimbTurn {
  readonly bone: number;
  readonly about: About;
  readonly angle: number;
  readonly twin: boolean;
}

/** The joints that turn: the one that is meant, and its twin where that turns as well. */
function joints(character: Character, { bone, twin }: LimbTurn): Record<number, 'own' | 'twin'> {
  const out: Record<number, 'own' | 'twin'> = { [bone]: 'own' };
  if (!twin) return out;
  const other = twinOfBone(character, bone);
  if (other < 0)
    throw new RemedyError(
      `“${character.nodes[bone].name}” has no twin by its name; turn it alone, or give its twin its name first.`,
    );
  out[other] = 'twin';
  return out;
}

function turnsOf(character: Character, params: LimbTurn): Turns {
  const world = restWorld(character.nodes);
  const axis = axisOf(world, params);
  const own = quatAbout(axis, (params.angle * Math.PI) / 180);
  return new Map(
    Object.entries(joints(character, params)).map(([bone, which]) => [
      Number(bone),
      which === 'own' ? own : mirroredWorldTurn(planeBetweenSides(character), own),
    ]),
  );
}

function axisOf(world: Float64Array, { bone, about }: LimbTurn): Vec3 {
  const k = 'xyz'.indexOf(about.slice(-1));
  if (about.startsWith('world')) return [0, 1, 2].map((i) => Number(i === k)) as unknown as Vec3;
  return normalise([world[bone * 16 + k * 4], world[bone * 16 + k * 4 + 1], world[bone * 16 + k * 4 + 2]]);
}

/** The joints turned with all that hangs on them; the skin where it was, bound anew. */
function withSkinStaying(character: Character, turns: Turns): Character {
  const world = posedWorld(character, turns);
  const moved = [...turns.keys()].map((bone) => {
    const { parent } = character.nodes[bone];
    const own = world.slice(bone * 16, bone * 16 + 16);
    const local = parent < 0 ? own : times(inverseOr(world, parent * 16), own);
    return [bone, withLocal(character.nodes[bone], local)] as const;
  });
  return boundAnew(character, new Map(moved));
}

/** Which way a limb goes from its joint: to the next one. Unit length; null for none. */
function directionOf(character: Character, bone: number): Vec3 | null {
  const next = character.nodes.findIndex(
    (node, i) => node.kind === 'bone' && parentBone(character.nodes, i) === bone,
  );
  if (next < 0) return null;
  const way = subtract(restPlace(character.nodes, next), restPlace(character.nodes, bone));
  return Math.hypot(...way) > 1e-9 ? normalise(way) : null;
}

const degrees = (radians: number) => Number(((radians * 180) / Math.PI).toFixed(2));
