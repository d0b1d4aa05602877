/** What a bone's name says: its side, the part of the body, its place in a chain. Works on any convention. */

import { wordTable } from '../character/words';

export type SideInName = 'left' | 'right' | 'middle';

/** What the name of a bone says. */
export interface NameReading {
  readonly tokens: readonly string[];
  readonly side: SideInName;
  /** Part of the body, '' where the name does not say. */
  readonly part: string;
  /** Place in its chain, counted from the base; −1 where the name does not say. */
  readonly rank: number;
  /** A twist or roll bone beside the part. */
  readonly twist: boolean;
  /** A tip with nothing beyond it. */
  readonly end: boolean;
}

const LEFT = new Set(['l', 'left', 'lt', 'lft', 'lf']);
const RIGHT = new Set(['r', 'right', 'rt', 'rgt', 'rg']);
const RANKS = wordTable<number>({
  metacarpal: 0,
  base: 1,
  proximal: 1,
  lower: 1,
  a: 1,
  middle: 2,
  intermediate: 2,
  mid: 2,
  b: 2,
  distal: 3,
  upper: 3,
  c: 3,
  tip: 4,
  d: 4,
  e: 5,
});
const FINGERS = wordTable<string>({
  thumb: 'thumb',
  index: 'index',
  point: 'index',
  pointer: 'index',
  fore: 'index',
  middle: 'long',
  mid: 'long',
  long: 'long',
  ring: 'ring',
  little: 'little',
  pinky: 'little',
  pinkie: 'little',
  small: 'little',
});
const PARTS = wordTable<string>({
  root: 'root',
  origin: 'root',
  humanoidroot: 'root',
  hips: 'pelvis',
  pelvis: 'pelvis',
  sacroiliac: 'pelvis',
  sacrum: 'pelvis',
  spine: 'spine',
  waist: 'spine',
  torso: 'spine',
  abdomen: 'spine',
  back: 'spine',
  vl5: 'spine',
  belly: 'spine',
  chest: 'spine',
  thorax: 'spine',
  ribs: 'spine',
  upperchest: 'spine',
  neck: 'neck',
  head: 'head',
  skull: 'head',
  skullbase: 'head',
  jaw: 'jaw',
  chin: 'jaw',
  eye: 'eye',
  clavicle: 'collar',
  collar: 'collar',
  collarbone: 'collar',
  scapula: 'collar',
  shoulder: 'collar',
  upperarm: 'upperarm',
  humerus: 'upperarm',
  bicep: 'upperarm',
  uparm: 'upperarm',
  forearm: 'lowerarm',
  lowerarm: 'lowerarm',
  elbow: 'lowerarm',
  radius: 'lowerarm',
  loarm: 'lowerarm',
  hand: 'hand',
  wrist: 'hand',
  palm: 'hand',
  upperleg: 'upperleg',
  thigh: 'upperleg',
  upleg: 'upperleg',
  femur: 'upperleg',
  hip: 'upperleg',
  lowerleg: 'lowerleg',
  shin: 'lowerleg',
  calf: 'lowerleg',
  knee: 'lowerleg',
  loleg: 'lowerleg',
  tibia: 'lowerleg',
  foot: 'foot',
  ankle: 'foot',
  toe: 'toe',
  toes: 'toe',
  ball: 'toe',
  midtarsal: 'toe',
});

/** Splits a name at separators, changes of case and digits: “LeftUpperArm_02” → left, upper, arm, 02. */
export function tokensOf(name: string): string[] {
  return name
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .replace(/([A-Z]+)([A-Z][a-z])/g, '$1 $2')
    .replace(/([A-Za-z])(\d)/g, '$1 $2')
    .replace(/(\d)([A-Za-z])/g, '$1 $2')
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter(Boolean);
}

const cache = new Map<string, NameReading>();

/**
 * Reads the name of a bone: its part of the body, its side, its place in a chain; empty where it does not
 * say.
 */
export function readName(name: string): NameReading {
  const known = cache.get(name);
  if (known) return known;
  const reading = read(name);
  if (cache.size > 20_000) cache.clear();
  cache.set(name, reading);
  return reading;
}

function read(name: string): NameReading {
  let tokens = tokensOf(name);
  // A leading namespace that is not a side says nothing about the bone.
  const joined = tokens.join(' ').replace(/\bvl 5\b/, 'vl5');
  tokens = joined.split(' ').flatMap((word) => {
    const glued = /^(left|right)([a-z]{3,})$/.exec(word) ?? /^([a-z]{3,})(twist|roll)$/.exec(word);
    return glued ? [glued[1], glued[2]] : [word];
  });
  let side: SideInName = 'middle';
  const rest: string[] = [];
  tokens.forEach((token, i) => {
    const edge = i === 0 || i === tokens.length - 1 || token.length > 1 || /^\d+$/.test(tokens[i + 1] ?? '');
    if (side === 'middle' && edge && LEFT.has(token)) side = 'left';
    else if (side === 'middle' && edge && RIGHT.has(token)) side = 'right';
    else rest.push(token);
  });
  const has = (...words: string[]) => words.some((word) => rest.includes(word));
  let part = '';
  const control = has('ctrl', 'control', 'ik', 'pole', 'target', 'aim');
  const finger = rest.find(
    (text) =>
      FINGERS.has(text) &&
      ((text !== 'middle' && text !== 'mid' && text !== 'small' && text !== 'ring' && text !== 'long') ||
        has('finger', 'phalanx', 'metacarpal', 'proximal', 'intermediate', 'distal') ||
        /\d/.test(rest[rest.length - 1] ?? '')),
  );
  if (finger && !has('toe', 'toes', 'spine', 'lantern')) part = FINGERS.get(finger) ?? '';
  else if (has('arm')) part = has('lower', 'fore', 'lo') ? 'lowerarm' : 'upperarm';
  else if (has('leg')) part = has('upper', 'up') && !has('lower', 'lo') ? 'upperleg' : 'lowerleg';
  else
    for (const text of rest)
      if (PARTS.has(text)) {
        part = PARTS.get(text) ?? '';
        break;
      }
  if (control) part = '';
  let rank = -1;
  const figure = rest.find((text) => /^\d+$/.test(text));
  if (figure) rank = Number(figure);
  else
    for (const text of rest)
      if (
        RANKS.has(text) &&
        !(part.endsWith('arm') || part.endsWith('leg')) &&
        !(part === 'long' && text === finger && rest.filter((otherText) => otherText === text).length === 1)
      )
        rank = RANKS.get(text) ?? -1;
  if (part === 'spine' && rank < 0) rank = rankOfTrunk(has, rank);
  return {
    tokens: rest,
    side,
    part,
    rank,
    twist: rest.some((text) => text === 'twist' || text === 'roll' || /twist$/.test(text)),
    end: has('end', 'tip') && !has('phalanx'),
  };
}

/** The place of a trunk bone along the spine, where its words tell: spine, chest, upper chest from below. */
function rankOfTrunk(has: (...words: string[]) => boolean, otherwise: number): number {
  if (has('upperchest') || (has('chest') && has('upper'))) return 3;
  if (has('chest')) return 2;
  return has('spine') ? 1 : otherwise;
}
