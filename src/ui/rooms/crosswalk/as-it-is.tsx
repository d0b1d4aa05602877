'use client';

import { useCrosswalkSession } from './session';

/** The words over the character on its own skeleton. */
export function AsItIs() {
  const source = useCrosswalkSession((session) => session.source);
  const carrying = source?.bones.filter((bone) => bone.weight > 0).length;
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
