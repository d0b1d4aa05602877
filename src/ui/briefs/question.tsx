import type { ReactNode } from 'react';

/** One question of the form: what it is called, where it is answered, what it does, and what stands beside it. */
export function Question({
  id,
  label,
  hint,
  beside,
  children,
}: {
  /** Id of the field that answers it. */
  id: string;
  label: string;
  hint?: ReactNode;
  beside?: ReactNode;
  children: ReactNode;
}) {
  return (
    <div className="grid grid-cols-[150px_minmax(0,1fr)_150px] items-start gap-x-3 py-1">
      <label htmlFor={id} className="pt-1 text-soft">
        {label}
      </label>
      <div>
        {children}
        {hint && <p className="mt-0.5 text-[12.5px] leading-snug text-soft">{hint}</p>}
      </div>
      <div className="pt-1 text-right text-[12.5px] text-soft">{beside}</div>
    </div>
  );
}
