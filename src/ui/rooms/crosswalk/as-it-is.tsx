'use client';

import { useWalk } from './walk';

/** The words over the character on its own skeleton. */
export function AsItIs() {
  const source = useWalk((s) => s.source);
  const carrying = source?.bones.filter((b) => b.weight > 0).length;
  return (
    <div className="pointer-events-none absolute left-[18px] top-3.5">
      <h2 className="title text-[19px]">as it is</h2>
      {source && (
        <p className="text-[13px] text-soft">
          {source.bones.length} bones · {carrying} carry weight
        </p>
      )}
    </div>
  );
}
