import type { Gravity } from '@/core/contracts/finding';
import type { PlacedBranch } from '@/core/rooms/skeleton/tree/layout';

/** Colours of the sides. */
export const SIDE_COLOURS = { 1: 'var(--left)', [-1]: 'var(--right)', 0: 'var(--ink)' } as const;

/** The colour of a name: the sides are too pale for small letters, so ink tells them, and the mark beside it the side. */
export const GRAVITY_COLOURS: Readonly<Record<Gravity, string>> = {
  stops: 'var(--stops)',
  worth: 'var(--worth)',
  note: 'var(--note)',
};

/** The mark of what is open at a bone: a solid diamond, a half-moon, an open ring. */
export function OpenMark({ gravity, x, y }: { gravity: Gravity; x: number; y: number }) {
  const fill = GRAVITY_COLOURS[gravity];
  if (gravity === 'stops') return <path d={`M${x} ${y - 5}l4.5 5-4.5 5-4.5-5Z`} fill={fill} />;
  if (gravity === 'worth') return <path d={`M${x - 2} ${y - 4.5}a4.5 4.5 0 0 1 0 9Z`} fill={fill} />;
  return <circle cx={x} cy={y} r={3.6} fill="none" stroke={fill} strokeWidth={1.6} />;
}

/** A leaf that points away from the trunk. */
export const leafPath = (way: number): string =>
  way === 0
    ? 'M0 2C-6 -2-5-9 0-13C5-9 6-2 0 2Z'
    : `M0 0C${way * 3}-6 ${way * 10}-7 ${way * 15}-2C${way * 11} 4 ${way * 4} 4 0 0Z`;

/** A bud: what lies folded in it comes out of its tip. */
export const budPath = (way: number): string =>
  `M0 0C${way * 1}-6 ${way * 8}-8 ${way * 13}-3C${way * 12} 4 ${way * 4} 6 0 0Z`;

/** The way of a branch: out of the trunk upwards, along a row to the side, or over to where it does not belong. */
export function branchPath({ from: [fromX, fromY], to: [x, y], kind }: PlacedBranch): string {
  if (kind === 'trunk') return `M${fromX} ${fromY}L${x} ${y}`;
  if (kind === 'astray') {
    const sag = Math.max(fromY, y) + 26;
    return `M${fromX} ${fromY}C${fromX} ${sag} ${x} ${sag} ${x} ${y}`;
  }
  if (fromX === 0) return `M0 ${fromY}C0 ${(fromY + y) / 2} ${x * 0.35} ${y + 2} ${x} ${y}`;
  const middle = (fromX + x) / 2;
  return `M${fromX} ${fromY}C${middle} ${fromY} ${middle} ${y} ${x} ${y}`;
}

/** How thick a branch is that so many of all bones hang on. */
export const thickness = (size: number, count: number): number => 1.2 + 5.5 * Math.sqrt(size / count);
