/**
 * How a body on four legs, or one with wings, stands and looks: its legs reach down, its head is ahead of its
 * hips. Its spine may lie, rise or fall, so the upright is the one of three readings (the ground under its feet,
 * its trunk, its legs) that lies nearest to an axis: a body that is tilted is tilted in all of them.
 */
import { type Vec3, cross, dot, length, normalise, subtract } from '../geometry/matrix';
import { AXES, type Bearing, degreesBetween, nearestAxis, squareAgainst } from './bearing';
import type { BodyKindReading } from './body-kind';
import type { LimbPair } from './limb-pairs';

/** How such a body stands; null where its limbs do not tell. `head` is the place of its head, if it is known. */
export function beastBearing(reading: BodyKindReading, head: Vec3 | null): Bearing | null {
  const { kind, hind, fore, wings } = reading;
  if (!hind || !reading.isEndKnown) return null;
  if (kind === 'four-legged' && fore) return onFourLegs(hind, fore, reading.hasNamedSides);
  const upper = wings ?? fore;
  return kind === 'winged' && upper && head ? onTwoLegs(hind, upper, head, reading.hasNamedSides) : null;
}

function onFourLegs(hind: LimbPair, fore: LimbPair, hasNamedSides: boolean): Bearing | null {
  const trunk = subtract(fore.attach, hind.attach);
  const named = sidewaysOf(hind, fore);
  const down = named && squareAgainst(meanWay([hind, fore]), named);
  const ahead = named && squareAgainst(trunk, named);
  if (!named || !down || !ahead) return null;
  const upByLegs = negative(down);
  const isCrossed = dot(cross(upByLegs, ahead), named) < 0;
  const left = isCrossed ? negative(named) : named;
  const upright = (way: Vec3) => {
    const forward = squareAgainst(way, left);
    return forward ? [cross(forward, left)] : [];
  };
  const ups = [upByLegs, ...upright(trunk), ...upright(subtract(fore.tip, hind.tip))];
  return bearing(leastTilted(ups), left, isCrossed && hasNamedSides);
}

/** Least share of a leg that the head must lie ahead of the hips for it to tell where a body looks. */
const AHEAD = 0.1;

function onTwoLegs(hind: LimbPair, upper: LimbPair, head: Vec3, hasNamedSides: boolean): Bearing | null {
  const named = sidewaysOf(hind, upper);
  const down = named && squareAgainst(meanWay([hind]), named);
  if (!named || !down) return null;
  const up = negative(down);
  const ahead = dot(cross(named, up), subtract(head, hind.attach));
  if (Math.abs(ahead) < AHEAD * hind.reach) return null;
  const isCrossed = ahead < 0;
  const left = isCrossed ? negative(named) : named;
  const rise = squareAgainst(subtract(upper.attach, hind.attach), left);
  return bearing(leastTilted(rise ? [up, rise] : [up]), left, isCrossed && hasNamedSides);
}

const negative = ([x, y, z]: Vec3): Vec3 => [-x, -y, -z];

const bearing = (up: Vec3, left: Vec3, crossed: boolean): Bearing => ({
  up,
  left,
  forward: cross(left, up),
  crossed,
});

/** From right to left as the names of both pairs say, a unit vector; null where they begin in the middle. */
function sidewaysOf(a: LimbPair, b: LimbPair): Vec3 | null {
  const sum: Vec3 = [a.across[0] + b.across[0], a.across[1] + b.across[1], a.across[2] + b.across[2]];
  return length(sum) < 1e-9 ? null : normalise(sum);
}

/** The mean direction of some limbs from their first joints to their tips. */
function meanWay(pairs: readonly LimbPair[]): Vec3 {
  const sum: [number, number, number] = [0, 0, 0];
  for (const { ways } of pairs) for (const way of ways) for (let k = 0; k < 3; k++) sum[k] += way[k];
  return sum;
}

function leastTilted(ups: readonly Vec3[]): Vec3 {
  const tilt = (vector: Vec3) => degreesBetween(vector, AXES[nearestAxis(vector)]);
  return ups.reduce((a, b) => (tilt(b) < tilt(a) ? b : a));
}
