'use client';

import { useEffect } from 'react';
import { ROOM_IDS, type RoomId } from '@/core/contracts/rooms';
import { Crosswalk } from '../stations/crosswalk/crosswalk';
import { Docket } from '../stations/docket/docket';
import { Trials } from '../stations/trials/trials';
import { Bough } from './bough';
import { Compare } from './compare';
import { Drawer } from './drawer';
import { Head } from './head';
import { useKeys } from './keys';
import { KeySheet } from './key-sheet';
import { MainStage } from './main-stage';
import { Notebook } from './notebook';
import { Palette } from './palette';
import { closeDesk, openDesk, setRoom, useDesk } from './store';

/** The desk: head, bough, stage, notebook, drawer. The stage stays alive across the rooms. */
export function Desk({ id }: { id: string }) {
  const { room, sheet, error, compared } = useDesk();
  useEffect(() => {
    const wanted = new URL(window.location.href).searchParams.get('room') as RoomId | null;
    void openDesk(id).then(() => {
      if (useDesk.getState().roomChosen || useDesk.getState().sheet?.id !== id) return;
      setRoom(wanted && (ROOM_IDS as readonly string[]).includes(wanted) ? wanted : firstOpenRoom());
    });
    return closeDesk;
  }, [id]);
  useKeys();
  useEffect(() => {
    if (sheet) document.title = `${sheet.name} — Young Bough`;
  }, [sheet]);
  return (
    <div className="flex h-dvh min-w-[1100px] flex-col overflow-hidden">
      <Head />
      {error && !sheet ? (
        <main className="grid flex-1 place-items-center">
          <div role="alert" className="max-w-[480px] text-center">
            <h1 className="title text-[24px]">This cannot be opened</h1>
            <p className="mt-2 text-soft">{error}</p>
            <a href="/" className="mt-4 inline-block font-semibold text-leaf underline">
              Back to the shelf
            </a>
          </div>
        </main>
      ) : (
        <div className="flex min-h-0 flex-1">
          <Bough />
          {room === 'crosswalk' ? (
            <Crosswalk />
          ) : (
            <>
              <main className="relative flex min-w-0 flex-1 flex-col">
                <MainStage />
                {room === 'trials' && !compared && <Trials />}
                <Drawer />
              </main>
              {compared ? <Compare /> : room === 'docket' ? <Docket /> : <Notebook />}
            </>
          )}
        </div>
      )}
      <Palette />
      <KeySheet />
    </div>
  );
}

/** The first room, in the order of the work, where something stops hand-off; else the first with anything open. */
function firstOpenRoom(): RoomId {
  const { findings } = useDesk.getState();
  return findings?.find((f) => f.gravity === 'stops')?.room ?? findings?.[0]?.room ?? 'placement';
}
