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
import { PaletteByHand, PaletteChecks, PalettePlaces, PaletteRemedies, PaletteRooms } from './palette-places';

/** Search over everything: rooms, findings, bones, revisions, commands. */
export function Palette() {
  const isOpen = useDesk((state) => state.dialog === 'palette');
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
              <PaletteByHand />
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
  const findings = useDesk((state) => state.findings);
  return (
    <PaletteGroup heading="Findings">
      {findings?.map((finding) => (
        <PaletteItem
          key={finding.key}
          value={`finding ${finding.message} ${finding.key}`}
          onPick={() => {
            goToRoom(finding.room);
            chooseFinding(finding.key);
          }}
        >
          <Mark gravity={finding.gravity} />
          {finding.message}
        </PaletteItem>
      ))}
    </PaletteGroup>
  );
}

function Commands() {
  const room = useDesk((state) => state.room);
  const keys = keysOf(room).flatMap((group) => (group.group === 'Rooms' ? [] : group.list));
  return (
    <PaletteGroup heading="Commands">
      {keys
        .filter((key) => key.keys !== 'Arrows' && key.keys !== '/')
        .map((key) => (
          <PaletteItem key={key.does} value={`command ${key.does}`} onPick={key.run}>
            <span className="flex-1">{key.does}</span>
            <span className="mono text-soft">{key.keys}</span>
          </PaletteItem>
        ))}
    </PaletteGroup>
  );
}

function Revisions() {
  const record = useDesk((state) => state.record);
  return (
    <PaletteGroup heading="Revisions">
      {record?.revisions
        .filter((revision) => revision.id !== record.head)
        .map((revision) => (
          <PaletteItem
            key={revision.id}
            value={`revision ${revision.number} ${revision.label}`}
            onPick={() => void moveTo(revision.id, 'Gone back')}
          >
            Revision {revision.number}, “{revision.label}”
          </PaletteItem>
        ))}
    </PaletteGroup>
  );
}

function Bones() {
  const character = useDesk((state) => state.character);
  if (!character) return null;
  return (
    <PaletteGroup heading="Bones">
      {bonesOf(character).map((bone) => (
        <PaletteItem
          key={bone}
          value={`bone ${character.nodes[bone].name} ${bone}`}
          onPick={() => chooseBone(bone)}
          className="mono"
        >
          {character.nodes[bone].name}
        </PaletteItem>
      ))}
    </PaletteGroup>
  );
}
