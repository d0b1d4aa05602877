import type { Said } from '@/core/rooms/docket/receive';

const TONE: Record<Said['kind'], string> = { lost: 'text-stops', changed: 'text-worth', told: 'text-soft' };
const WORD: Record<Said['kind'], string> = { lost: 'lost', changed: 'changed', told: 'told' };

/** What a receiver changed and dropped, line by line. */
export function Saying({ said }: { said: readonly Said[] }) {
  if (said.length === 0) return <p className="text-soft">It takes everything as it is.</p>;
  return (
    <ul aria-label="What the receiver says" className="mt-1 space-y-0.5">
      {said.map((s) => (
        <li key={s.text} className="grid grid-cols-[58px_minmax(0,1fr)] gap-1.5 text-[12.5px]">
          <span className={`font-semibold ${TONE[s.kind]}`}>{WORD[s.kind]}</span>
          <span className="[overflow-wrap:anywhere]">{s.text}</span>
        </li>
      ))}
    </ul>
  );
}
