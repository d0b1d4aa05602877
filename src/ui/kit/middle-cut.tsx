/** How many letters at the end always stay, at most: half of a short name. */
const TAIL = 9;

/** A name this short is not cut. */
const SHORT = 8;

/**
 * A name that is cut in its middle where it does not fit: names differ at their ends. The whole name shows on
 * hover.
 */
export function MiddleCut({ text, className = '' }: { text: string; className?: string }) {
  const tail = text.length > SHORT ? Math.min(TAIL, text.length >> 1) : 0;
  const cut = text.length - tail;
  return (
    <span className={`flex min-w-0 ${className}`} title={text}>
      <span className="overflow-hidden text-ellipsis whitespace-pre">{text.slice(0, cut)}</span>
      {cut < text.length && <span className="shrink-0 whitespace-pre">{text.slice(cut)}</span>}
    </span>
  );
}
