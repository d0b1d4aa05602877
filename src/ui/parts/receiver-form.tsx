'use client';

import { useState } from 'react';
import type { Receiver } from '@/core/rooms/docket/receivers';
import { Button } from '../kit/button';
import { setReceiver, useReceiver } from '../state/receiver';

type Field = keyof Omit<Receiver, 'id' | 'title' | 'about'>;

interface Asked {
  readonly field: Field;
  readonly label: string;
  /** Words to choose from; a number where there are none. */
  readonly words?: readonly (readonly [string, string])[];
  /** Whether it may be left empty: no limit. */
  readonly mayBeNone?: true;
}

const FIELDS: readonly Asked[] = [
  { field: 'influences', label: 'Bones a point' },
  {
    field: 'weights',
    label: 'Weights in',
    words: [
      ['u8', 'bytes'],
      ['u16', 'shorts'],
      ['float', 'floats'],
    ],
  },
  { field: 'bonesPerDraw', label: 'Bones a draw', mayBeNone: true },
  { field: 'bones', label: 'Bones a skin', mayBeNone: true },
  { field: 'verticesPerDraw', label: 'Vertices a draw', mayBeNone: true },
  {
    field: 'positions',
    label: 'Points in',
    words: [
      ['float', 'floats'],
      ['u16', 'steps'],
    ],
  },
  { field: 'metresPerUnit', label: 'Its unit, m' },
  {
    field: 'up',
    label: 'Up',
    words: [
      ['y', 'Y'],
      ['z', 'Z'],
    ],
  },
  {
    field: 'scale',
    label: 'Scale of nodes',
    words: [
      ['any', 'any'],
      ['even', 'even only'],
      ['none', 'none'],
    ],
  },
  {
    field: 'meshNodes',
    label: 'Mesh nodes’ own place',
    words: [
      ['kept', 'minded'],
      ['ignored', 'forgotten'],
    ],
  },
  {
    field: 'loneBones',
    label: 'Bones in no skin',
    words: [
      ['kept', 'stay'],
      ['dropped', 'go'],
    ],
  },
  {
    field: 'empties',
    label: 'Empties, cameras, lights',
    words: [
      ['kept', 'stay'],
      ['dropped', 'go'],
    ],
  },
  { field: 'morphs', label: 'Morph targets a mesh', mayBeNone: true },
];

/** Which receiver is asked, and what it does, to be changed. */
export function ReceiverForm({ receivers }: { receivers: readonly Receiver[] }) {
  const receiver = useReceiver((s) => s.receiver);
  const [isOpen, setOpen] = useState(false);
  const known = receivers.find((r) => r.id === receiver.id);
  const isChanged = JSON.stringify(known) !== JSON.stringify(receiver);
  return (
    <div>
      <div className="flex items-center gap-2">
        <select
          aria-label="Receiver"
          value={receiver.id}
          onChange={(e) => {
            const chosen = receivers.find((r) => r.id === e.target.value);
            if (chosen) setReceiver(chosen);
          }}
          className="h-7 min-w-0 flex-1 rounded-[7px] border border-rule bg-sheet px-2 font-semibold"
        >
          {receivers.map((r) => (
            <option key={r.id} value={r.id}>
              {r.title}
              {isChanged && r.id === receiver.id ? ' (changed)' : ''}
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
          {FIELDS.map((f) => (
            <FieldOf key={f.field} asked={f} receiver={receiver} />
          ))}
        </div>
      )}
    </div>
  );
}

function FieldOf({
  asked: { field, label, words, mayBeNone },
  receiver,
}: {
  asked: Asked;
  receiver: Receiver;
}) {
  const value = receiver[field];
  const box = 'h-6 w-[86px] shrink-0 rounded-md border border-rule bg-sheet px-1 text-[12.5px]';
  const take = (next: string | number | null) => setReceiver({ ...receiver, [field]: next } as Receiver);
  return (
    <label className="flex items-center justify-between gap-2 text-[12.5px] text-soft">
      {label}
      {words ? (
        <select value={String(value)} onChange={(e) => take(e.target.value)} className={`${box} text-ink`}>
          {words.map(([word, text]) => (
            <option key={word} value={word}>
              {text}
            </option>
          ))}
        </select>
      ) : (
        <input
          type="number"
          min={field === 'morphs' ? 0 : 1}
          step={field === 'metresPerUnit' ? 'any' : 1}
          placeholder={mayBeNone ? 'no limit' : undefined}
          defaultValue={value ?? ''}
          key={receiver.id}
          onChange={(e) => {
            const n = e.target.value === '' ? null : Number(e.target.value);
            if (n === null ? mayBeNone : isSound(field, n)) take(n);
          }}
          className={`mono text-right text-ink ${box}`}
        />
      )}
    </label>
  );
}

function isSound(field: Field, n: number): boolean {
  if (field === 'metresPerUnit') return n > 0 && Number.isFinite(n);
  return Number.isInteger(n) && n >= (field === 'morphs' ? 0 : 1);
}
