'use client';

import clsx from 'clsx';
import { Pencil, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { type Pin, endText, pinLength } from '@/core/character/pin';
import { lengthText } from '@/core/contracts/units';
import { IconButton } from '../../kit/icon-button';
import { RemedyBox } from '../../parts/remedy-box';
import { dropPin, labelPin } from '../../state/steps';
import { useDesk } from '../../state/store';

const endsText = (pin: Pin) => `${endText(pin.from)} — ${endText(pin.to)}`;

/** Measures that were pinned to the character, and rescaling everything by one of them. */
export function PinnedMeasures() {
  const pins = useDesk((state) => state.record?.pins);
  const [by, setBy] = useState<number | null>(null);
  if (!pins || pins.length === 0) return null;
  return (
    <section aria-label="Pinned measures" className="mt-3">
      <h3 className="title text-[16px]">Pinned</h3>
      <ul>
        {pins.map((pin) => (
          <PinRow key={pin.id} pin={pin} onRescale={setBy} />
        ))}
      </ul>
      {by !== null && (
        <RemedyBox
          key={by}
          call={{ id: 'rescale', params: { by: 'points', measured: by, wanted: by } }}
          active
          isFormOpen
          onActive={() => {}}
        />
      )}
    </section>
  );
}

function PinRow({ pin, onRescale }: { pin: Pin; onRescale: (metres: number) => void }) {
  const character = useDesk((state) => state.character);
  const unit = useDesk((state) => state.brief.unit);
  const metres = character && pinLength(character, pin);
  return (
    <li className="flex items-center gap-2 border-b border-rule py-1.5 text-[13px]">
      <PinName pin={pin} />
      <span className="mono whitespace-nowrap text-damson">
        {metres === null ? 'not on this revision' : lengthText(metres, unit)}
      </span>
      {metres !== null && metres > 0 && (
        <button
          type="button"
          className="text-[12.5px] font-semibold text-leaf underline"
          onClick={() => onRescale(metres)}
          title="Rescale everything so that this becomes another length"
        >
          rescale by it
        </button>
      )}
      <IconButton
        label={`Take out the measure ${pin.label || endText(pin.from)}`}
        onClick={() => void dropPin(pin.id)}
      >
        <Trash2 size={14} />
      </IconButton>
    </li>
  );
}

/** What a pinned measure is called: by its ends, until it is given a name of its own. */
function PinName({ pin }: { pin: Pin }) {
  const [isNaming, setNaming] = useState(false);
  if (isNaming) return <PinNameField pin={pin} onClose={() => setNaming(false)} />;
  return (
    <span className="min-w-0 flex-1 leading-snug [overflow-wrap:anywhere]" title={endsText(pin)}>
      {pin.label || endsText(pin)}
      <button
        type="button"
        aria-label={`Name the measure ${pin.label || endsText(pin)}`}
        title="Give it a name"
        className={clsx(
          'ml-1.5 inline-grid h-5 w-5 place-items-center rounded align-middle',
          'text-soft hover:bg-wash hover:text-ink',
        )}
        onClick={() => setNaming(true)}
      >
        <Pencil size={12} />
      </button>
    </span>
  );
}

function PinNameField({ pin, onClose }: { pin: Pin; onClose: () => void }) {
  const [text, setText] = useState(pin.label);
  const keep = async () => {
    if (text.trim() === pin.label || (await labelPin(pin.id, text))) onClose();
  };
  return (
    <form
      className="min-w-0 flex-1"
      onSubmit={(event) => {
        event.preventDefault();
        void keep();
      }}
    >
      <input
        autoFocus
        aria-label={`Name of the measure ${endsText(pin)}`}
        placeholder={endsText(pin)}
        maxLength={120}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => void keep()}
        onKeyDown={(event) => {
          if (event.key !== 'Escape') return;
          event.stopPropagation();
          onClose();
        }}
        className="h-7 w-full rounded-md border border-rule bg-paper px-2"
      />
    </form>
  );
}
