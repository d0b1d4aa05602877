import clsx from 'clsx';

/** A field that narrows a list down to what holds some words. */
export const FindField = ({
  label,
  hint = 'find …',
  value,
  onChange,
  className,
}: {
  /** What is found, for those who do not see the page. */
  label: string;
  hint?: string;
  value: string;
  onChange: (value: string) => void;
  className: string;
}) => (
  <input
    value={value}
    onChange={(event) => onChange(event.target.value)}
    placeholder={hint}
    aria-label={label}
    className={clsx('rounded-full border border-rule bg-sheet px-3 text-[12.5px] text-ink', className)}
  />
);
