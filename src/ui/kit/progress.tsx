import clsx from 'clsx';
import { Button } from './button';

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

/** Work that is under way: what it does just now, how far it is, and the way to break it off. */
export function UnderWay({
  stage,
  share,
  label,
  onCancel,
  className,
}: {
  stage: string;
  share: number;
  label: string;
  onCancel: () => void;
  className?: string;
}) {
  return (
    <div className={clsx('flex items-center gap-3', className)}>
      <div className="min-w-0 flex-1">
        <p className="mb-1 truncate text-[13px] text-soft">{stage}</p>
        <ProgressBar share={share} label={label} />
      </div>
      <Button small onClick={onCancel}>
        Cancel
      </Button>
    </div>
  );
}
