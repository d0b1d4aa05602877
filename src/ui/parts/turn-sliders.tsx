'use client';

const AXES = ['x', 'y', 'z'] as const;

/** Farthest that a slider turns a bone, degrees. */
const MOST = 120;

/** Three sliders that turn a bone about its own axes, degrees. */
export function TurnSliders({
  turn,
  disabled,
  onTurn,
}: {
  turn: readonly number[];
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
            min={-MOST}
            max={MOST}
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
