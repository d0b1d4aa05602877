const GRADIENT =
  'linear-gradient(90deg, var(--ramp-0), var(--ramp-1) 25%, var(--ramp-2) 50%, var(--ramp-3) 75%, var(--ramp-4))';

/** The scale of a picture of numbers: paper to plum, with its ticks. */
export function Ramp({ ticks }: { ticks: readonly string[] }) {
  return (
    <>
      <div className="h-3 rounded-sm border border-rule" style={{ background: GRADIENT }} />
      <div className="mono flex justify-between text-[11px]">
        {ticks.map((tick) => (
          <span key={tick}>{tick}</span>
        ))}
      </div>
    </>
  );
}
