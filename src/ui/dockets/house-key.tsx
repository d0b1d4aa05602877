'use client';

import { Copy, Key } from 'lucide-react';
import { useEffect, useState } from 'react';
import { type HouseKeyEntry, listKeys, turnKey } from '@/routes/keys';
import { call, messageOf } from '../kit/api';
import { Button } from '../kit/button';
import { PaperDialog } from '../kit/dialog';
import { ago } from '../kit/format';

/** The key that dockets are signed with, for whoever receives them; and the way to another one. */
export function HouseKey() {
  const [keys, setKeys] = useState<readonly HouseKeyEntry[] | null>(null);
  const [isOpen, setOpen] = useState(false);
  useEffect(() => {
    call(listKeys, {}).then(
      (answer) => setKeys(answer.keys),
      () => setKeys(null),
    );
  }, []);
  const [present] = keys ?? [];
  if (!keys || !present) return null;
  return (
    <>
      <Button kind="quiet" onClick={() => setOpen(true)} title="The key that dockets are signed with">
        <Key size={15} /> Signed with <span className="mono">{present.key.slice(0, 8)}…</span>
      </Button>
      {isOpen && <Keys keys={keys} onKeys={setKeys} onClose={() => setOpen(false)} />}
    </>
  );
}

function Keys({
  keys,
  onKeys,
  onClose,
}: {
  keys: readonly HouseKeyEntry[];
  onKeys: (keys: readonly HouseKeyEntry[]) => void;
  onClose: () => void;
}) {
  const [isSure, setSure] = useState(false);
  const [said, setSaid] = useState<string | null>(null);
  const turn = async () => {
    try {
      onKeys((await call(turnKey, {})).keys);
      setSaid('Another key signs from now on. Give it to whoever receives your dockets.');
      setSure(false);
    } catch (error) {
      setSaid(messageOf(error));
    }
  };
  const copy = async (key: string) => {
    try {
      await navigator.clipboard.writeText(key);
      setSaid('Copied.');
    } catch {
      setSaid('The browser does not let this page copy; choose the key and copy it by hand.');
    }
  };
  return (
    <PaperDialog
      title="The key of this house"
      about="Every docket is signed with it when it is sealed. Give this half of it to whoever receives your files: they can tell then that a docket comes from here."
      width={660}
      onClose={onClose}
    >
      <ul className="mt-4 divide-y divide-rule" aria-label="Keys">
        {keys.map((key) => (
          <li key={key.key} className="flex items-center gap-3 py-2">
            <div className="min-w-0 flex-1">
              <p className="mono select-all break-all text-[12px]">{key.key}</p>
              <p className="text-[12px] text-soft">
                {key.until === null
                  ? `signs; made ${ago(key.since)}`
                  : `signed until ${ago(key.until)}: what it signed still holds`}
              </p>
            </div>
            <Button small kind="quiet" aria-label="Copy the key" onClick={() => void copy(key.key)}>
              <Copy size={14} /> Copy
            </Button>
          </li>
        ))}
      </ul>
      <p className="mt-3 text-[13px] text-soft">
        <span className="mono">bough verify FILE --docket D.json --key K</span> says whether a docket was
        signed with it.
      </p>
      <div className="mt-4 flex items-center gap-3">
        {isSure ? (
          <>
            <Button onClick={() => void turn()}>Yes, make another key</Button>
            <Button kind="quiet" onClick={() => setSure(false)}>
              Keep this one
            </Button>
            <span className="text-[13px] text-soft">Receivers will have to be given the new one.</span>
          </>
        ) : (
          <Button onClick={() => setSure(true)}>Make another key …</Button>
        )}
      </div>
      <p role="status" className="mt-2 min-h-5 text-[13px] text-fine">
        {said}
      </p>
    </PaperDialog>
  );
}
