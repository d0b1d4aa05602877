'use client';

import { Loader2, X } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { type Surveyed, type ToldLine, sendFiles, surveyFiles } from '../../kit/api';
import { AskUnits } from '../../kit/ask-units';
import { Button } from '../../kit/button';
import { refresh, useDesk } from '../../desk/store';

/** Adds files to the open character: asks for what they do not say, shows how far it has come, can be cancelled. */
export function AddFiles({ files, onClose }: { files: readonly File[]; onClose: () => void }) {
  const { sheet, brief } = useDesk();
  const [survey, setSurvey] = useState<Surveyed | null>(null);
  const [line, setLine] = useState<ToldLine>({ stage: 'looking into it', share: 0 });
  const [error, setError] = useState<string | null>(null);
  const cancel = useRef(new AbortController());
  const begun = useRef(false);
  const send = async (fields: { unit: string; up: string }) => {
    if (!sheet) return;
    setSurvey(null);
    try {
      const done = await sendFiles(
        `/api/characters/${sheet.id}/files`,
        files,
        { base: sheet.head, ...fields },
        setLine,
        cancel.current.signal,
      );
      await refresh(
        `Added ${done.name}.${done.notes && done.notes.length > 0 ? ` ${done.notes.join(' ')}` : ' Everything that the files hold was carried over.'}`,
      );
      onClose();
    } catch (e) {
      if (cancel.current.signal.aborted) onClose();
      else setError(e instanceof Error ? e.message : String(e));
    }
  };
  useEffect(() => {
    if (begun.current) return;
    begun.current = true;
    surveyFiles(files, cancel.current.signal).then(
      (s) => (s ? setSurvey(s) : send({ unit: '', up: '' })),
      (e: unknown) => {
        if (cancel.current.signal.aborted) onClose();
        else setError(e instanceof Error ? e.message : String(e));
      },
    );
    // Once for the files that were chosen.
  });
  return (
    <div className="mt-3 rounded-lg border border-rule bg-paper/60 px-3 py-2.5">
      <p className="flex items-center gap-2 text-[13px]">
        {!survey && !error && <Loader2 size={14} className="animate-spin text-leaf" aria-hidden />}
        <span className="mono min-w-0 flex-1 truncate">{files.map((f) => f.name).join(', ')}</span>
        {error ? (
          <button type="button" aria-label="Close this message" onClick={onClose}>
            <X size={14} />
          </button>
        ) : (
          !survey && (
            <Button small onClick={() => cancel.current.abort()}>
              Cancel
            </Button>
          )
        )}
      </p>
      {error ? (
        <p role="alert" className="mt-1 text-[13px] text-stops">
          {error}
        </p>
      ) : survey ? (
        <AskUnits survey={survey} brief={brief} onAnswer={(f) => void send(f)} onCancel={onClose} />
      ) : (
        <>
          <p className="text-[12.5px] text-soft">{line.stage} …</p>
          <div
            role="progressbar"
            aria-label="Progress"
            aria-valuenow={Math.round(line.share * 100)}
            className="mt-1 h-1 overflow-hidden rounded bg-wash"
          >
            <div className="h-full bg-leaf" style={{ width: `${line.share * 100}%` }} />
          </div>
        </>
      )}
    </div>
  );
}
