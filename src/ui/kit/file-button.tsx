import { useRef } from 'react';
import { Button } from './button';

/** A button that asks for one file. */
export function FileButton({
  label,
  accept,
  small,
  onFile,
  children,
}: {
  /** What the file is, for those who do not see the page. */
  label: string;
  accept?: string;
  small?: boolean;
  onFile: (file: File) => void;
  children: string;
}) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={accept}
        aria-label={label}
        className="hidden"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) onFile(file);
          event.target.value = '';
        }}
      />
      <Button small={small} onClick={() => input.current?.click()}>
        {children}
      </Button>
    </>
  );
}
