'use client';

import { type ReactNode, useState } from 'react';
import type { Figure } from '../worker/figure';

const AXES = ['x', 'y', 'z'] as const;

/** Where no bone is chosen, degrees. */
const ANY = 120;

/** The farthest that a bone of a figure is turned by hand, degrees. */
export const reachOf = (figure: Figure | null | undefined, node: number): number =>
  figure?.bones.find((bone) => bone.node === node)?.reach ?? ANY;

/** Three sliders that turn a bone about its own axes, degrees. */
export function TurnSliders({
  turn,
  most,
  disabled,
  onBegin,
  onTurn,
  after,
}: {
  turn: readonly number[];
  /** Farthest that the bone is turned, degrees. */
  most: number;
  disabled: boolean;
  /** Told before a movement of a slider or a number begins: all of it is taken back together. */
  onBegin?: () => void;
  onTurn: (turn: readonly number[]) => void;
  /** What stands behind an axis, by its number. */
  after?: (axis: number) => ReactNode;
}) {
  return (
    <>
      {AXES.map((axis, k) => {
        const turnTo = (degrees: number) => onTurn(turn.map((x, i) => (i === k ? degrees : x)));
        return (
          <span key={axis} className="flex items-center gap-1 text-[13px]">
            {axis}
            <input
              type="range"
              disabled={disabled}
              aria-label={`About its ${axis} axis, degrees`}
              min={-most}
              max={most}
              step={1}
              value={turn[k]}
              onPointerDown={onBegin}
              onKeyDown={(event) => !event.repeat && onBegin?.()}
              onChange={(event) => turnTo(Number(event.target.value))}
              className="w-[68px] accent-[var(--leaf)]"
            />
            <DegreesField
              label={`Degrees about its ${axis} axis`}
              degrees={turn[k]}
              disabled={disabled}
              onBegin={onBegin}
              onDegrees={turnTo}
            />
            °{after?.(k)}
          </span>
        );
      })}
    </>
  );
}

/** Degrees as they are typed: what is no number yet, as a lone minus, is waited for. */
function DegreesField({
  label,
  degrees,
  disabled,
  onBegin,
  onDegrees,
}: {
  label: string;
  degrees: number;
  disabled: boolean;
  onBegin?: () => void;
  onDegrees: (degrees: number) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const done = () => setTyped(null);
  return (
    <input
      aria-label={label}
      disabled={disabled}
      inputMode="decimal"
      value={typed ?? String(Math.round(degrees * 10) / 10)}
      onFocus={onBegin}
      onBlur={done}
      onKeyDown={(event) => event.key === 'Enter' && done()}
      onChange={(event) => {
        const { value } = event.target;
        setTyped(value);
        if (value.trim() !== '' && Number.isFinite(Number(value))) onDegrees(Number(value));
      }}
      className="mono h-6 w-[52px] rounded-md border border-rule bg-sheet px-1 text-right"
    />
  );
}
