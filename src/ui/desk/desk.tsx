'use client';

import clsx from 'clsx';
import { memo, useDeferredValue, useEffect } from 'react';
import { MainStage } from '../parts/main-stage';
import type { Room } from '../parts/room';
import { WaiveDialog } from '../parts/waive';
import { roomById } from '../rooms/list';
import { useDesk } from '../state/store';
import { Bough } from './bough';
import { Compare } from './compare';
import { Drawer } from './drawer';
import { Head } from './head';
import { KeySheet } from './key-sheet';
import { useKeys } from './keys';
import { Notebook } from './notebook';
import { Palette } from './palette';
import { SideBySide } from './side-by-side';
import { useDeskLife } from './room-life';

/** The desk: head, bough, stage, notebook, drawer. The stage stays alive across the rooms. */
export function Desk({ id }: { id: string }) {
  const name = useDesk((state) => state.record?.name);
  const cannotOpen = useDesk((state) => state.error !== null && state.record === null);
  useDeskLife(id);
  useKeys();
  useEffect(() => {
    if (name) document.title = `${name} — Young Bough`;
  }, [name]);
  return (
    <div className="flex h-dvh flex-col overflow-hidden max-[1000px]:h-auto max-[1000px]:min-h-dvh max-[1000px]:overflow-visible">
      <Head />
      {cannotOpen ? (
        <CannotOpen />
      ) : (
        <div className="flex min-h-0 flex-1 max-[1000px]:flex-col">
          <Bough />
          <OpenRoom />
        </div>
      )}
      <Palette />
      <KeySheet />
      <SideBySide />
      <WaiveDialog />
    </div>
  );
}

/**
 * The room that is gone to: it is put together in pieces while the page stays at hand, and shown when it is
 * whole.
 */
function OpenRoom() {
  return <InRoom room={roomById(useDeferredValue(useDesk((state) => state.room)))} />;
}

const InRoom = memo(function InRoom({ room }: { room: Room }) {
  const isCompared = useDesk((state) => state.compared !== null);
  const isTableOpen = useDesk(({ drawer }) => room.drawers?.some(({ id }) => id === drawer) ?? false);
  const { Page, Below, Beside, wide } = room;
  return (
    <>
      <main
        className={clsx(
          'relative flex min-w-0 flex-1 flex-col',
          'max-[1000px]:min-h-[300px] max-[1000px]:flex-none',
          Beside && !isCompared ? 'max-[1000px]:h-[144vh]' : 'max-[1000px]:h-[72vh]',
          wide && 'min-w-[280px]',
        )}
        aria-label={wide ? 'As it is' : 'The stage'}
      >
        <div className="flex min-h-0 flex-1 max-[1000px]:flex-col">
          <MainStage room={room} />
          {Beside && !isCompared && <Beside />}
        </div>
        {Below && !isCompared && (
          // A table of the room takes its place; what goes on in it goes on.
          <div className={isTableOpen ? 'hidden' : 'contents'}>
            <Below />
          </div>
        )}
        {!wide && <Drawer />}
      </main>
      {isCompared && !wide && <Compare />}
      {(!isCompared || wide) && (Page ? <Page /> : <Notebook room={room} />)}
    </>
  );
});

function CannotOpen() {
  const error = useDesk((state) => state.error);
  return (
    <main className="grid flex-1 place-items-center">
      <div role="alert" className="max-w-[480px] text-center">
        <h1 className="title text-[24px]">This cannot be opened</h1>
        <p className="mt-2 text-soft">{error}</p>
        <a href="/" className="mt-4 inline-block font-semibold text-leaf underline">
          Back to the shelf
        </a>
      </div>
    </main>
  );
}
