'use client';

import clsx from 'clsx';
import { Command } from 'cmdk';
import { Dialog } from 'radix-ui';
import type { ReactNode } from 'react';
import { bonesOf } from '@/core/character/hierarchy';
import { PAPER, PAPER_VEIL } from '../kit/dialog';
import { Mark } from '../kit/gravity';
import { ROOM_LIST } from '../rooms/list';
import { chooseBone, chooseFinding, goToRoom } from '../state/choose';
import { moveTo } from '../state/steps';
import { setDesk, useDesk } from '../state/store';
import { keysOf } from './keys';

const close = () => setDesk({ dialog: null });

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
          <Command label="Search everything" loop>
            <Command.Input
              autoFocus
              placeholder="A room, a finding, a bone, a revision, a command …"
              className="h-12 w-full border-b border-rule bg-transparent px-4 text-[15px] outline-none"
            />
            <Command.List className="scroll max-h-[52vh] overflow-y-auto p-1.5">
              <Command.Empty className="px-3 py-4 text-soft">
                Nothing by that name. Try part of a bone’s name, or a room.
              </Command.Empty>
              <Rooms />
              <Findings />
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

function Group({ heading, children }: { heading: string; children: ReactNode }) {
  return (
    <Command.Group
      heading={heading}
      className={clsx(
        '[&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:pb-1',
        '[&_[cmdk-group-heading]]:text-[12px] [&_[cmdk-group-heading]]:text-soft',
      )}
    >
      {children}
    </Command.Group>
  );
}

function Item({
  value,
  onPick,
  className = '',
  children,
}: {
  value: string;
  onPick: () => void;
  className?: string;
  children: ReactNode;
}) {
  const pick = () => {
    close();
    onPick();
  };
  return (
    <Command.Item
      value={value}
      onSelect={pick}
      className={clsx(
        'flex cursor-pointer items-center gap-2.5 rounded-md px-3 py-1.5',
        'data-[selected=true]:bg-damson-wash',
        className,
      )}
    >
      {children}
    </Command.Item>
  );
}

function Rooms() {
  return (
    <Group heading="Rooms">
      {ROOM_LIST.map(({ id, title }) => (
        <Item key={id} value={`room ${title}`} onPick={() => goToRoom(id)}>
          {title}
        </Item>
      ))}
    </Group>
  );
}

function Findings() {
  const findings = useDesk((s) => s.findings);
  return (
    <Group heading="Findings">
      {findings?.map((f) => (
        <Item
          key={f.key}
          value={`finding ${f.message} ${f.key}`}
          onPick={() => {
            goToRoom(f.room);
            chooseFinding(f.key);
          }}
        >
          <Mark gravity={f.gravity} />
          {f.message}
        </Item>
      ))}
    </Group>
  );
}

function Commands() {
  const room = useDesk((s) => s.room);
  const keys = keysOf(room).flatMap((g) => (g.group === 'Rooms' ? [] : g.list));
  return (
    <Group heading="Commands">
      {keys
        .filter((k) => k.keys !== 'Arrows' && k.keys !== '/')
        .map((k) => (
          <Item key={k.does} value={`command ${k.does}`} onPick={k.run}>
            <span className="flex-1">{k.does}</span>
            <span className="mono text-soft">{k.keys}</span>
          </Item>
        ))}
    </Group>
  );
}

function Revisions() {
  const record = useDesk((s) => s.record);
  return (
    <Group heading="Revisions">
      {record?.revisions
        .filter((r) => r.id !== record.head)
        .map((r) => (
          <Item
            key={r.id}
            value={`revision ${r.number} ${r.label}`}
            onPick={() => void moveTo(r.id, 'Gone back')}
          >
            Revision {r.number}, “{r.label}”
          </Item>
        ))}
    </Group>
  );
}

function Bones() {
  const character = useDesk((s) => s.character);
  if (!character) return null;
  return (
    <Group heading="Bones">
      {bonesOf(character).map((b) => (
        <Item
          key={b}
          value={`bone ${character.nodes[b].name} ${b}`}
          onPick={() => chooseBone(b)}
          className="mono"
        >
          {character.nodes[b].name}
        </Item>
      ))}
    </Group>
  );
}
