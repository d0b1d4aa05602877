'use client';

import type { Figure } from '../worker/figure';

const AXES = ['x', 'y', 'z'] as const;

/** Where no bone is chosen, degrees. */
const ANY = 120;

/** The farthest that a bone of a figure is turned by hand, degrees. */
export const reachOf = (figure: Figure | null | undefined, node: number): number =>
  figure?.bones.find((b) => b.node === node)?.reach ?? ANY;

/** Three sliders that turn a bone about its own axes, degrees. */
export function TurnSliders({
  turn,
  most,
  disabled,
  onTurn,
}: {
  turn: readonly number[];
  /** Farthest that the bone is turned, degrees. */
  most: number;
  disabled: boolean;
  onTurn: (turn: readonly number[]) => void;
}) {
  return (
    <>
      {AXES.map((axis, k) => (
        <label key={axis} className="flex items-center gap-1 text-[13px]">
          {axis}
          <input
            type="range"
            disabled={disabled}
            aria-label={`About its ${axis} axis, degrees`}
            min={-most}
            max={most}
            value={turn[k]}
            onChange={(e) => onTurn(turn.map((x, i) => (i === k ? Number(e.target.value) : x)))}
            className="w-20 accent-[var(--leaf)]"
          />
          <span className="mono w-10 text-right">{turn[k]}°</span>
        </label>
      ))}
    </>
  );
}
