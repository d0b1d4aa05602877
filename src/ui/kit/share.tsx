/** A number between two bounds, by a slider, with its value beside it. */
export function Share({
  label,
  value,
  min = 0,
  max = 1,
  step = 0.05,
  text = value.toFixed(2),
  onChange,
}: {
  label: string;
  value: number;
  min?: number;
  max?: number;
  step?: number;
  /** The value in words. */
  text?: string;
  onChange: (value: number) => void;
}) {
  return (
    <label className="mt-1 flex items-center gap-2">
      <span className="w-[66px] text-soft">{label}</span>
      <input
        type="range"
        min={min}
        max={max}
        step={step}
        value={value}
        aria-valuetext={text}
        onChange={(event) => onChange(Number(event.target.value))}
        className="min-w-0 flex-1 accent-[var(--leaf)]"
      />
      <span className="mono w-14 text-right">{text}</span>
    </label>
  );
}
