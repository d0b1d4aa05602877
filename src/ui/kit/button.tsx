import clsx from 'clsx';
import type { ButtonHTMLAttributes } from 'react';

type Props = ButtonHTMLAttributes<HTMLButtonElement> & { kind?: 'leaf' | 'plain' | 'quiet'; small?: boolean };

export function Button({ kind = 'plain', small, className, ...rest }: Props) {
  return (
    <button
      type="button"
      className={clsx(
        'inline-flex items-center justify-center gap-1.5 rounded-[7px] border font-semibold',
        'whitespace-nowrap transition-colors disabled:opacity-45',
        small ? 'h-7 px-2.5 text-[12.5px]' : 'h-8 px-3.5 text-[13px]',
        kind === 'leaf' &&
          'border-leaf bg-leaf text-on-leaf enabled:hover:bg-leaf-dark enabled:hover:border-leaf-dark',
        kind === 'plain' && 'border-rule bg-sheet text-ink enabled:hover:bg-wash',
        kind === 'quiet' &&
          'border-transparent bg-transparent text-soft enabled:hover:bg-wash enabled:hover:text-ink',
        className,
      )}
      {...rest}
    />
  );
}

/** A choice that is on or off. */
export function Chip({ on, className, ...rest }: ButtonHTMLAttributes<HTMLButtonElement> & { on: boolean }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      className={clsx(
        'h-7 rounded-full border px-2.5 text-[12px] font-semibold',
        'whitespace-nowrap transition-colors disabled:opacity-45',
        on ? 'border-ink bg-ink text-paper' : 'border-rule bg-sheet text-ink enabled:hover:bg-wash',
        className,
      )}
      {...rest}
    />
  );
}
