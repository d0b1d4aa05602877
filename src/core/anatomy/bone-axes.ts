/** How the own axes of bones lie: which runs along the bone, and about which a knee or an elbow bends. */
import { childrenOf, parentBone, restPlace, restWorld } from '../character/hierarchy';
import type { Character } from '../character/model';
import {
  type Vec3,
  cross,
  decompose,
  dot,
  length,
  normalise,
  quatConjugate,
  quatRotate,
  subtract,
} from '../geometry/matrix';
import { squareAgainst } from './bearing';
import { isBodyBone, meaningOf } from './bones';

/** Which axis runs along bones: one with its direction, or one in either direction, as mirrored sides may have it. */
export const ALONG = {
  x: '+X',
  '-x': '−X',
  y: '+Y',
  '-y': '−Y',
  z: '+Z',
  '-z': '−Z',
  'x-either': 'X, either way',
  'y-either': 'Y, either way',
  'z-either': 'Z, either way',
} as const;
export type Along = keyof typeof ALONG;

/** About which of their axes knees and elbows bend. */
export const HINGES = { x: 'X', y: 'Y', z: 'Z' } as const;
export type Hinge = keyof typeof HINGES;

const UNIT: Readonly<Record<Hinge, Vec3>> = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };

/** A bone that one other goes on from. */
export interface BoneAxes {
  readonly node: number;
  /** To the joint that it goes on to, in its own axes, unit length. */
  readonly along: Vec3;
  /** What it bends about as it stands, in its own axes, unit length; null where it is straight, or no knee and no elbow. */
  readonly hinge: Vec3 | null;
}

/** A joint must be bent so far, degrees, for its hinge to be read off how it stands. */
const BENT = 3;
const HINGED = new Set(['lowerarm', 'lowerleg']);

/**
 * The axes of all bones that go on to one other: bones where limbs fork, that end, or that hold things in place of going
 * on have no direction of their own.
 */
export function boneAxesOf(character: Character): BoneAxes[] {
  const { nodes } = character;
  const children = childrenOf(nodes);
  const world = restWorld(nodes);
  return nodes.flatMap(({ kind }, node): BoneAxes[] => {
    if (kind !== 'bone') return [];
    const next = onlyNext(character, children[node], node);
    if (next < 0) return [];
    const here = restPlace(nodes, node);
    const way = subtract(restPlace(nodes, next), here);
    if (length(way) < 1e-6) return [];
    const own = quatConjugate(decompose(world, node * 16).rotation);
    const toOwn = (vector: Vec3): Vec3 => normalise(quatRotate(own, vector));
    return [{ node, along: toOwn(way), hinge: hingeOf(character, node, way, toOwn) }];
  });
}

function onlyNext(character: Character, below: readonly number[], node: number): number {
  const bones = below.filter((child) => character.nodes[child].kind === 'bone');
  if (bones.length > 1) return onlyNextOfLimb(character, bones, node);
  if (bones.length !== 1) return -1;
  const [next] = bones;
  // A hat on a head, or a lamp in a hand, does not say which way the head goes.
  const goesOn = !isBodyBone(meaningOf(character, node)) || isBodyBone(meaningOf(character, next));
  return goesOn ? next : -1;
}

/** Where a limb goes on that also carries twists, feathers or cloth: the only bone of the body that hangs on one of its side. */
function onlyNextOfLimb(character: Character, below: readonly number[], node: number): number {
  const own = meaningOf(character, node);
  if (!isBodyBone(own) || own.side === 'middle') return -1;
  const next = below.filter((child) => {
    const meaning = meaningOf(character, child);
    return isBodyBone(meaning) && meaning.side === own.side;
  });
  return next.length === 1 ? next[0] : -1;
}

function hingeOf(character: Character, node: number, way: Vec3, toOwn: (vector: Vec3) => Vec3): Vec3 | null {
  const meaning = meaningOf(character, node);
  const above = parentBone(character.nodes, node);
  if (above < 0 || !isBodyBone(meaning) || !HINGED.has(meaning.part)) return null;
  const before = subtract(restPlace(character.nodes, node), restPlace(character.nodes, above));
  if (length(before) < 1e-6) return null;
  const axis = cross(normalise(before), normalise(way));
  return length(axis) < Math.sin((BENT * Math.PI) / 180) ? null : toOwn(axis);
}

/** The axis that is meant by a word for it, towards a direction where either way will do. Unit length. */
export function alongAxis(word: Along, direction: Vec3): Vec3 {
  const name = word.replace('-either', '').replace('-', '') as Hinge;
  const axis = UNIT[name];
  const isBack = word.endsWith('-either') ? dot(axis, direction) < 0 : word.startsWith('-');
  return isBack ? [-axis[0], -axis[1], -axis[2]] : axis;
}

/** The hinge axis, turned as near as may be to what a bone bends about. Unit length. */
export function hingeAxis(word: Hinge, bend: Vec3): Vec3 {
  return alongAxis(`${word}-either`, bend);
}

/** What a hinge should be: what the bone bends about, square on its direction. Null where the two are one. */
export const squareHinge = ({ along, hinge }: BoneAxes): Vec3 | null => hinge && squareAgainst(hinge, along);
