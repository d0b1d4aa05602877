'use client';

import { useState } from 'react';
import { type Field, fieldsOf } from '@/core/contracts/params';
import { type Receiver, receiverSchema } from '@/core/rooms/docket/receivers';
import { Button } from '../kit/button';
import { setReceiver, useReceiver } from '../state/receiver';

/** What a receiver does, field by field; its name and what is told of it are not for the form. */
const FIELDS = fieldsOf(receiverSchema).filter(({ kind }) => kind === 'choice' || kind === 'number');

/** Which receiver is asked, and what it does, to be changed. */
export function ReceiverForm({ receivers }: { receivers: readonly Receiver[] }) {
  const receiver = useReceiver((state) => state.receiver);
  const [isOpen, setOpen] = useState(false);
  const known = receivers.find((otherReceiver) => otherReceiver.id === receiver.id);
  const isChanged = JSON.stringify(known) !== JSON.stringify(receiver);
  return (
    <div>
      <div className="flex items-center gap-2">
        <select
          aria-label="Receiver"
          value={receiver.id}
          onChange={(event) => {
            const chosen = receivers.find((receiver) => receiver.id === event.target.value);
            if (chosen) setReceiver(chosen);
          }}
          className="h-7 min-w-0 flex-1 rounded-[7px] border border-rule bg-sheet px-2 font-semibold"
        >
          {receivers.map((otherReceiver) => (
            <option key={otherReceiver.id} value={otherReceiver.id}>
              {otherReceiver.title}
              {isChanged && otherReceiver.id === receiver.id ? ' (changed)' : ''}
            </option>
          ))}
        </select>
        <Button small kind="quiet" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
          Its settings
        </Button>
        {isChanged && known && (
          <Button small kind="quiet" onClick={() => setReceiver(known)}>
            As they were
          </Button>
        )}
      </div>
      {!isOpen && <p className="mt-0.5 text-[12.5px] text-soft">{receiver.about}</p>}
      {isOpen && (
        <div
          className="mt-1 grid grid-cols-2 gap-x-3 gap-y-1"
          role="group"
          aria-label="Settings of the receiver"
        >
          {FIELDS.map((field) => (
            <FieldOf key={field.name} field={field} receiver={receiver} />
          ))}
        </div>
      )}
    </div>
  );
}

function FieldOf({ field, receiver }: { field: Field; receiver: Receiver }) {
  const { name, label, kind, choices, mayBeNone, isWhole, least } = field;
  const value = receiver[name as keyof Receiver];
  const box = 'h-6 w-[86px] shrink-0 rounded-md border border-rule bg-sheet px-1 text-[12.5px]';
  /** What the receiver cannot be is not taken: the field shows it until it is mended. */
  const take = (next: string | number | null) => {
    const changed = { ...receiver, [name]: next };
    if (receiverSchema.isValidSync(changed, { strict: true })) setReceiver(changed as Receiver);
  };
  return (
    <label className="flex items-center justify-between gap-2 text-[12.5px] text-soft">
      {label}
      {kind === 'choice' ? (
        <select
          value={String(value)}
          onChange={(event) => take(event.target.value)}
          className={`${box} text-ink`}
        >
          {Object.entries(choices).map(([choice, word]) => (
            <option key={choice} value={choice}>
              {word}
            </option>
          ))}
        </select>
      ) : (
        <input
          type="number"
          min={Number.isFinite(least) ? least : undefined}
          step={isWhole ? 1 : 'any'}
          placeholder={mayBeNone ? 'no limit' : undefined}
          defaultValue={value ?? ''}
          key={receiver.id}
          onChange={(event) => take(event.target.value === '' ? null : Number(event.target.value))}
          className={`mono text-right text-ink ${box}`}
        />
      )}
    </label>
  );
}
