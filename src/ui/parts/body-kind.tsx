'use client';

import { useEffect, useId, useState } from 'react';
import { BODY_KINDS, BODY_KIND_WORDS } from '@/core/character/body-kinds';
import type { RoomId } from '@/core/contracts/rooms';
import { goToRoom } from '../state/choose';
import { applyRemedy } from '../state/steps';
import { desk, setDesk, useDesk } from '../state/store';
import { deskWorker } from '../state/worker';
import type { BodyLook } from '../worker/desk.worker';

/** Which kind of body lies on the desk; null until it is known. */
function useBody(): BodyLook | null {
  const revision = useDesk((state) => state.revision);
  const brief = useDesk((state) => state.brief);
  const [body, setBody] = useState<BodyLook | null>(null);
  useEffect(() => {
    let isOpen = true;
    if (!desk().character) return;
    deskWorker()
      .body(brief)
      .then((look) => isOpen && setBody(look))
      .catch(() => {});
    return () => {
      isOpen = false;
    };
  }, [revision, brief]);
  return body;
}

const percent = (share: number) => `${Math.round(share * 100)} % sure`;

/** The kind of body, how sure that is and why; and the list to say otherwise. */
export function BodyKindField() {
  const body = useBody();
  const id = useId();
  const busy = useDesk((state) => state.busy);
  if (!body) return null;
  const say = (kind: string) => void applyRemedy('body-kind', { kind }, 'Say which kind of body it is');
  return (
    <section aria-label="Kind of body" className="mt-3">
      <h3 className="title flex items-baseline justify-between text-[16px]">
        <label htmlFor={id}>Kind of body</label>
        <span className="mono font-normal text-soft">
          {body.isByHand ? 'said by hand' : percent(body.confidence)}
        </span>
      </h3>
      <select
        id={id}
        value={body.isByHand ? body.kind : 'worked-out'}
        disabled={!!busy}
        onChange={(event) => say(event.target.value)}
        className="mt-1 h-8 w-full rounded-md border border-rule bg-sheet px-2"
      >
        <option value="worked-out">
          {body.isByHand ? 'as its skeleton tells' : `${BODY_KIND_WORDS[body.kind]} (as its skeleton tells)`}
        </option>
        {BODY_KINDS.map((kind) => (
          <option key={kind} value={kind}>
            {BODY_KIND_WORDS[kind]}
          </option>
        ))}
      </select>
      {!body.isByHand && <p className="mt-1 text-[12.5px] text-soft">{body.reasons.join('; ')}</p>}
    </section>
  );
}

/** What of a room was not asked of a body of this kind, and where to say that it is of another. */
export function NotAsked({ room }: { room: RoomId }) {
  const body = useBody();
  const silent = body?.silent.filter((check) => check.room === room) ?? [];
  if (!body || silent.length === 0) return null;
  return (
    <p className="border-b border-rule px-[18px] py-2 text-[13px] text-soft">
      Not asked of a body that is {BODY_KIND_WORDS[body.kind]}:{' '}
      {silent.map((check) => check.title.toLowerCase()).join(', ')}.{' '}
      <button
        type="button"
        className="font-semibold text-leaf underline"
        onClick={() => {
          goToRoom('placement');
          setDesk({ page: 'measures' });
        }}
      >
        Kind of body
      </button>
    </p>
  );
}
