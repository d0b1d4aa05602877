'use client';

import Link from 'next/link';
import { useState } from 'react';
import type { ChangeEffects } from '@/core/contracts/effects';
import { effectsText } from '@/core/contracts/effects-words';
import { type CharacterRecord, type Revision, copyRevision } from '@/routes/characters';
import { call, messageOf } from '../kit/api';
import { Button } from '../kit/button';
import { PaperDialog } from '../kit/dialog';
import { writeOn } from '../state/steps';
import { useDesk } from '../state/store';

const field = 'mt-1 w-full rounded-md border border-rule bg-paper px-2.5 py-1.5 text-[14px]';

/** Most names of one kind that are listed. */
const MOST = 24;

/** The words of a revision, to be changed, and all that its step touched. */
export function WordsDialog({ revision: row, onClose }: { revision: Revision; onClose: () => void }) {
  const unit = useDesk((state) => state.brief.unit);
  const [label, setLabel] = useState(row.label);
  const [note, setNote] = useState(row.note);
  return (
    <PaperDialog
      title={`Revision ${row.number}`}
      about={effectsText(row.effects, unit) || 'What it holds never changes; its words may.'}
      onClose={onClose}
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void writeOn(row.id, { label, note }).then(onClose);
        }}
      >
        <label className="mt-3 block text-[13px]">
          Label
          <input
            value={label}
            maxLength={200}
            onChange={(event) => setLabel(event.target.value)}
            className={field}
          />
        </label>
        <label className="mt-3 block text-[13px]">
          Note
          <textarea
            value={note}
            maxLength={4000}
            rows={4}
            onChange={(event) => setNote(event.target.value)}
            className={field}
          />
        </label>
        {row.effects.kind === 'changed' && <Touched effects={row.effects} />}
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button kind="leaf" type="submit" disabled={label.trim() === ''}>
            Keep the words
          </Button>
        </div>
      </form>
    </PaperDialog>
  );
}

/** Names of all that a step touched, by kind. */
function Touched({ effects }: { effects: ChangeEffects }) {
  const kinds: readonly (readonly [string, readonly string[]])[] = [
    ['Nodes it touched', effects.nodes],
    ['Meshes', effects.meshes],
    ['Binds of the joints', effects.joints],
    ['Clips', effects.clips],
    ['Removed', effects.removed],
    ['Outside what it promised', effects.outside],
  ];
  return kinds
    .filter(([, names]) => names.length > 0)
    .map(([word, names]) => (
      <p key={word} className="mt-1.5 text-[12.5px] leading-snug text-soft">
        {word}:{' '}
        <span className="mono text-ink [overflow-wrap:anywhere]">
          {names.slice(0, MOST).join(', ')}
          {names.length > MOST ? ` and ${names.length - MOST} more` : ''}
        </span>
      </p>
    ));
}

/** Saves a revision under a new name, as a character of its own. */
export function CopyDialog({
  revision: row,
  record,
  onClose,
}: {
  revision: Revision;
  record: CharacterRecord;
  onClose: () => void;
}) {
  const [name, setName] = useState(`${record.name}, from revision ${row.number}`);
  const [made, setMade] = useState<string | null>(null);
  const [error, setError] = useState<string | null>(null);
  const save = async () => {
    try {
      const { id } = await call(copyRevision, { id: record.id, revision: row.id, name });
      setMade(id);
    } catch (error) {
      setError(messageOf(error));
    }
  };
  return (
    <PaperDialog
      title="Save under a new name"
      about={`Revision ${row.number}, “${row.label}”, becomes the first revision of a character of its own. This one stays as it is.`}
      onClose={onClose}
    >
      {made ? (
        <p className="mt-4">
          It is on the shelf.{' '}
          <Link href={`/c/${made}`} className="font-semibold text-leaf underline">
            Open {name}
          </Link>
        </p>
      ) : (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            void save();
          }}
        >
          <label className="mt-3 block text-[13px]">
            Name
            <input
              value={name}
              maxLength={120}
              autoFocus
              onChange={(event) => setName(event.target.value)}
              className={field}
            />
          </label>
          {error && (
            <p role="alert" className="mt-2 text-[13px] text-stops">
              {error}
            </p>
          )}
          <div className="mt-4 flex justify-end gap-2">
            <Button onClick={onClose}>Cancel</Button>
            <Button kind="leaf" type="submit" disabled={name.trim() === ''}>
              Save
            </Button>
          </div>
        </form>
      )}
    </PaperDialog>
  );
}
