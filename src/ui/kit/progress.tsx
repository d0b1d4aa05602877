/** How far something has come: a thin bar with its share told to screen readers. */
export function ProgressBar({ share, label }: { share: number; label: string }) {
  return (
    <div
      role="progressbar"
      aria-label={label}
      aria-valuenow={Math.round(share * 100)}
      className="h-1 overflow-hidden rounded bg-wash"
    >
      <div className="h-full bg-leaf transition-[width]" style={{ width: `${share * 100}%` }} />
    </div>
  );
}
