'use client';

import { Loader2, X } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { bonesOf } from '@/core/character/hierarchy';
import { bodyBox } from '@/core/character/measure';
import { type ProgressLine, type Survey, addFilesPath } from '@/routes/arrivals';
import { addressOf } from '@/routes/route';
import { messageOf, sendFiles, surveyFiles } from '../../kit/api';
import { AskUnits, type BodyBeside, type UnitAnswer } from '../../kit/ask-units';
import { Button } from '../../kit/button';
import { ProgressBar } from '../../kit/progress';
import { refreshDesk } from '../../state/open';
import { desk, useDesk } from '../../state/store';

type Arrival =
  | { readonly stage: 'asked'; readonly survey: Survey }
  | { readonly stage: 'coming'; readonly line: ProgressLine }
  | { readonly stage: 'refused'; readonly message: string };

const BEGINNING: Arrival = { stage: 'coming', line: { stage: 'looking into it', share: 0 } };

const doneText = ({ name, notes = [] }: ProgressLine) =>
  `Added ${name}. ${notes.length > 0 ? notes.join(' ') : 'Everything that the files hold was carried over.'}`;

/** Sends files to the open character, and asks first for what they do not say. */
function useAddFiles(files: readonly File[], onClose: () => void) {
  const [arrival, setArrival] = useState<Arrival>(BEGINNING);
  const [cancel] = useState(() => new AbortController());
  const hasBegun = useRef(false);
  const refuse = async (error: unknown) => {
    if (!cancel.signal.aborted) {
      setArrival({ stage: 'refused', message: messageOf(error) });
      return;
    }
    // It may have been a moment too late.
    await refreshDesk().catch(() => {});
    onClose();
  };
  const send = async (answer: UnitAnswer) => {
    const { record } = desk();
    if (!record) return;
    setArrival(BEGINNING);
    try {
      const path = addressOf({ method: 'POST', path: addFilesPath }, { id: record.id });
      const tell = (line: ProgressLine) => setArrival({ stage: 'coming', line });
      const done = await sendFiles(path, files, { base: record.head, ...answer }, tell, cancel.signal);
      await refreshDesk(doneText(done));
      onClose();
    } catch (error) {
      await refuse(error);
    }
  };
  useEffect(() => {
    if (hasBegun.current) return;
    hasBegun.current = true;
    surveyFiles(files, cancel.signal).then(
      (survey) => (survey ? setArrival({ stage: 'asked', survey }) : send({ unit: '', up: '' })),
      refuse,
    );
    // Once for the files that were chosen.
  });
  return { arrival, send, cancel: () => cancel.abort() };
}

/** The figure that a part without bones comes to; null where the desk has no body to measure it by. */
function besideOf({ bones }: Survey): BodyBeside | null {
  const { character } = desk();
  const box = character && bones === 0 && bonesOf(character).length > 0 ? bodyBox(character) : null;
  return character && box && { height: box.max[1] - box.min[1], unitMetres: character.source.unitMetres };
}

/**
 * Adds files to the open character: asks for what they do not say, shows how far it has come, can be
 * cancelled.
 */
export function AddFiles({ files, onClose }: { files: readonly File[]; onClose: () => void }) {
  const brief = useDesk((state) => state.brief);
  const { arrival, send, cancel } = useAddFiles(files, onClose);
  return (
    <div className="mt-3 rounded-lg border border-rule bg-paper/60 px-3 py-2.5">
      <div className="flex items-center gap-2 text-[13px]">
        {arrival.stage === 'coming' && <Loader2 size={14} className="animate-spin text-leaf" aria-hidden />}
        <span className="mono min-w-0 flex-1 [overflow-wrap:anywhere]">
          {files.map((file) => file.name).join(', ')}
        </span>
        {arrival.stage === 'refused' && (
          <button type="button" aria-label="Close this message" onClick={onClose}>
            <X size={14} />
          </button>
        )}
        {arrival.stage === 'coming' && (
          <Button small onClick={cancel}>
            Cancel
          </Button>
        )}
      </div>
      {arrival.stage === 'refused' && (
        <p role="alert" className="mt-1 text-[13px] text-stops">
          {arrival.message}
        </p>
      )}
      {arrival.stage === 'asked' && (
        <AskUnits
          survey={arrival.survey}
          brief={brief}
          beside={besideOf(arrival.survey)}
          onAnswer={(answer) => void send(answer)}
          onCancel={onClose}
        />
      )}
      {arrival.stage === 'coming' && (
        <>
          <p className="mb-1 text-[12.5px] text-soft">{arrival.line.stage} …</p>
          <ProgressBar share={arrival.line.share} label="Progress" />
        </>
      )}
    </div>
  );
}
