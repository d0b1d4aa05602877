'use client';

import { Command } from 'cmdk';
import { Dialog } from 'radix-ui';
import { bonesOf } from '@/core/character/hierarchy';
import { PAPER, PAPER_VEIL } from '../kit/dialog';
import { Mark } from '../kit/gravity';
import { chooseBone, chooseFinding, goToRoom } from '../state/choose';
import { moveTo } from '../state/steps';
import { setDesk, useDesk } from '../state/store';
import { keysOf } from './keys';
import { scoreOf } from './search-score';
import { PaletteGroup, PaletteItem } from './palette-parts';
import { PaletteChecks, PalettePlaces, PaletteRemedies, PaletteRooms } from './palette-places';

/** Search over everything: rooms, findings, bones, revisions, commands. */
export function Palette() {
  const isOpen = useDesk((s) => s.dialog === 'palette');
  return (
    <Dialog.Root open={isOpen} onOpenChange={(open) => setDesk({ dialog: open ? 'palette' : null })}>
      <Dialog.Portal>
        <Dialog.Overlay className={PAPER_VEIL} />
        <Dialog.Content
          aria-describedby={undefined}
          className={`${PAPER} top-[16vh] w-[600px] overflow-hidden shadow-xl`}
        >
          <Dialog.Title className="sr-only">Search everything</Dialog.Title>
          <Command label="Search everything" loop filter={scoreOf}>
            <Command.Input
              autoFocus
              placeholder="A room, a finding, a remedy, a tool, a bone, a word of the trade …"
              className="h-12 w-full border-b border-rule bg-transparent px-4 text-[15px] outline-none"
            />
            <Command.List className="scroll max-h-[52vh] overflow-y-auto p-1.5">
              <Command.Empty className="px-3 py-4 text-soft">
                Nothing by that name. Try part of a bone’s name, or a room.
              </Command.Empty>
              <PaletteRooms />
              <Findings />
              <PaletteRemedies />
              <PalettePlaces />
              <PaletteChecks />
              <Commands />
              <Revisions />
              <Bones />
            </Command.List>
          </Command>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Findings() {
  const findings = useDesk((s) => s.findings);
  return (
    <PaletteGroup heading="Findings">
      {findings?.map((f) => (
        <PaletteItem
          key={f.key}
          value={`finding ${f.message} ${f.key}`}
          onPick={() => {
            goToRoom(f.room);
            chooseFinding(f.key);
          }}
        >
          <Mark gravity={f.gravity} />
          {f.message}
        </PaletteItem>
      ))}
    </PaletteGroup>
  );
}

function Commands() {
  const room = useDesk((s) => s.room);
  const keys = keysOf(room).flatMap((g) => (g.group === 'Rooms' ? [] : g.list));
  return (
    <PaletteGroup heading="Commands">
      {keys
        .filter((k) => k.keys !== 'Arrows' && k.keys !== '/')
        .map((k) => (
          <PaletteItem key={k.does} value={`command ${k.does}`} onPick={k.run}>
            <span className="flex-1">{k.does}</span>
            <span className="mono text-soft">{k.keys}</span>
          </PaletteItem>
        ))}
    </PaletteGroup>
  );
}

function Revisions() {
  const record = useDesk((s) => s.record);
  return (
    <PaletteGroup heading="Revisions">
      {record?.revisions
        .filter((r) => r.id !== record.head)
        .map((r) => (
          <PaletteItem
            key={r.id}
            value={`revision ${r.number} ${r.label}`}
            onPick={() => void moveTo(r.id, 'Gone back')}
          >
            Revision {r.number}, “{r.label}”
          </PaletteItem>
        ))}
    </PaletteGroup>
  );
}

function Bones() {
  const character = useDesk((s) => s.character);
  if (!character) return null;
  return (
    <PaletteGroup heading="Bones">
      {bonesOf(character).map((b) => (
        <PaletteItem
          key={b}
          value={`bone ${character.nodes[b].name} ${b}`}
          onPick={() => chooseBone(b)}
          className="mono"
        >
          {character.nodes[b].name}
        </PaletteItem>
      ))}
    </PaletteGroup>
  );
}
