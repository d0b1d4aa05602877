'use client';

import { useState } from 'react';
import { fieldsOf } from '@/core/contracts/params';
import { type Receiver, receiverSchema } from '@/core/rooms/docket/receivers';
import { Button } from '../kit/button';
import { SchemaForm } from '../kit/form/form';
import { FieldError, FieldInput } from '../kit/form/inputs';
import { setReceiver, useReceiver } from '../state/receiver';

/** What a receiver does, field by field; its name and what is told of it are not for the form. */
const FIELDS = fieldsOf(receiverSchema)
  .filter(({ kind }) => kind === 'choice' || kind === 'number')
  .map((field) => ({ ...field, none: field.mayBeNone ? 'no limit' : undefined }));

const changeSetting = (name: string, value: unknown) =>
  setReceiver({ ...useReceiver.getState().receiver, [name]: value });

/** Which receiver is asked, and what it does, to be changed. */
export function ReceiverForm({ receivers }: { receivers: readonly Receiver[] }) {
  const receiver = useReceiver((state) => state.receiver);
  const [isOpen, setOpen] = useState(false);
  const known = receivers.find((listed) => listed.id === receiver.id);
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
          {receivers.map((listed) => (
            <option key={listed.id} value={listed.id}>
              {listed.title}
              {isChanged && listed.id === receiver.id ? ' (changed)' : ''}
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
        <SchemaForm
          key={receiver.id}
          schema={receiverSchema}
          values={receiver}
          unit="m"
          onTake={changeSetting}
        >
          <div
            className="mt-1 grid grid-cols-2 gap-x-3 gap-y-1"
            role="group"
            aria-label="Settings of the receiver"
          >
            {FIELDS.map((field) => (
              <div key={field.name}>
                <label className="flex items-center justify-between gap-2 text-[12.5px] text-soft">
                  {field.label}
                  <FieldInput
                    name={field.name}
                    field={field}
                    className="h-6 w-[86px] shrink-0 text-[12.5px]"
                  />
                </label>
                <FieldError name={field.name} field={field} />
              </div>
            ))}
          </div>
        </SchemaForm>
      )}
    </div>
  );
}
