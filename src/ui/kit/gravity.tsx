import clsx from 'clsx';
import { type Gravity } from '@/core/contracts/finding';
import { GRAVITY_WORDS } from '@/core/contracts/finding';

const TONE: Record<Gravity, string> = { stops: 'text-stops', worth: 'text-worth', note: 'text-note' };

/** A mark of its own shape for every gravity: a solid diamond, a half-moon, an open ring. */
export function Mark({ gravity, size = 11 }: { gravity: Gravity; size?: number }) {
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 12 12"
      className={clsx('shrink-0', TONE[gravity])}
      role="img"
      aria-label={GRAVITY_WORDS[gravity]}
    >
      {gravity === 'stops' && <path d="M6 .4 11.2 6 6 11.6.8 6Z" fill="currentColor" />}
      {gravity === 'worth' && <path d="M2.5.4a5.6 5.6 0 0 1 0 11.2Z" fill="currentColor" />}
      {gravity === 'note' && (
        <circle cx="6" cy="6" r="4.2" fill="none" stroke="currentColor" strokeWidth="1.8" />
      )}
    </svg>
  );
}

export function Tally({
  counts,
  empty = 'clean',
}: {
  counts: { stops: number; worth: number; note: number } | null;
  empty?: string;
}) {
  if (!counts) return <span className="text-soft">not audited yet</span>;
  const all = (['stops', 'worth', 'note'] as const).filter((gravity) => counts[gravity] > 0);
  if (all.length === 0) return <span className="text-fine">✓ {empty}</span>;
  return (
    <span className="inline-flex flex-wrap items-center gap-x-3">
      {all.map((oneGravity) => (
        <span key={oneGravity} className={clsx('inline-flex items-center gap-1.5', TONE[oneGravity])}>
          <Mark gravity={oneGravity} />
          {counts[oneGravity]}{' '}
          {oneGravity === 'stops' && counts[oneGravity] !== 1 ? 'stop hand-off' : GRAVITY_WORDS[oneGravity]}
        </span>
      ))}
    </span>
  );
}
