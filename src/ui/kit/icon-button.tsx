import clsx from 'clsx';
import type { ButtonHTMLAttributes } from 'react';

const SIZES = { small: 'h-6 w-6 rounded', large: 'h-8 w-8 rounded-[7px]' } as const;

/** A button that is only a picture; its label is for screen readers, its title for the pointer. */
export function IconButton({
  label,
  size = 'small',
  className,
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { label: string; size?: keyof typeof SIZES }) {
  return (
    <button
      type="button"
      aria-label={label}
      title={rest.title ?? label}
      className={clsx(
        'grid shrink-0 place-items-center text-soft hover:bg-wash hover:text-ink disabled:opacity-45',
        SIZES[size],
        className,
      )}
      {...rest}
    />
  );
}
