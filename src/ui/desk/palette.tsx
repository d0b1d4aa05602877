'use client';

import { Command } from 'cmdk';
import { Dialog } from 'radix-ui';
import { useMemo } from 'react';
import { bonesOf } from '@/core/character/hierarchy';
import { ROOM_IDS } from '@/core/contracts/rooms';
import { Mark } from '../kit/gravity';
import { ROOM_TITLES } from './bough';
import { KEYS } from './keys';
import { chooseBone, chooseFinding, moveTo, setRoom, useDesk } from './store';

/** Search over everything: rooms, findings, bones, revisions, commands. */
export function Palette() {
  const { sheetOpen, findings, character, sheet } = useDesk();
  const open = sheetOpen === 'palette';
  const bones = useMemo(() => (character && open ? bonesOf(character) : []), [character, open]);
  const close = () => useDesk.setState({ sheetOpen: null });
  const pick = (work: () => void) => () => {
    close();
    work();
  };
  const item =
    'flex cursor-pointer items-center gap-2.5 rounded-md px-3 py-1.5 data-[selected=true]:bg-damson-wash';
  const group =
    '[&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:pb-1 [&_[cmdk-group-heading]]:text-[12px] [&_[cmdk-group-heading]]:text-soft';
  return (
    <Dialog.Root open={open} onOpenChange={(o) => useDesk.setState({ sheetOpen: o ? 'palette' : null })}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-ink/25" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed left-1/2 top-[16vh] z-40 w-[600px] -translate-x-1/2 overflow-hidden rounded-xl border border-rule bg-sheet shadow-xl"
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
              <Command.Group heading="Rooms" className={group}>
                {ROOM_IDS.map((r) => (
                  <Command.Item
                    key={r}
                    value={`room ${ROOM_TITLES[r]}`}
                    onSelect={pick(() => setRoom(r))}
                    className={item}
                  >
                    {ROOM_TITLES[r]}
                  </Command.Item>
                ))}
              </Command.Group>
              <Command.Group heading="Findings" className={group}>
                {findings?.map((f) => (
                  <Command.Item
                    key={f.key}
                    value={`finding ${f.message} ${f.key}`}
                    onSelect={pick(() => {
                      setRoom(f.room);
                      chooseFinding(f.key);
                    })}
                    className={item}
                  >
                    <Mark gravity={f.gravity} />
                    {f.message}
                  </Command.Item>
                ))}
              </Command.Group>
              <Command.Group heading="Commands" className={group}>
                {KEYS.flatMap((g) => (g.group === 'Rooms' ? [] : g.list))
                  .filter((k) => k.keys !== 'Arrows' && k.keys !== '/')
                  .map((k) => (
                    <Command.Item
                      key={k.does}
                      value={`command ${k.does}`}
                      onSelect={pick(k.run)}
                      className={item}
                    >
                      <span className="flex-1">{k.does}</span>
                      <span className="mono text-soft">{k.keys}</span>
                    </Command.Item>
                  ))}
              </Command.Group>
              <Command.Group heading="Revisions" className={group}>
                {sheet?.revisions
                  .filter((r) => r.id !== sheet.head)
                  .map((r) => (
                    <Command.Item
                      key={r.id}
                      value={`revision ${r.number} ${r.label}`}
                      onSelect={pick(() => void moveTo(r.id, 'Gone back'))}
                      className={item}
                    >
                      Revision {r.number}, “{r.label}”
                    </Command.Item>
                  ))}
              </Command.Group>
              <Command.Group heading="Bones" className={group}>
                {bones.map((b) => (
                  <Command.Item
                    key={b}
                    value={`bone ${character?.nodes[b].name} ${b}`}
                    onSelect={pick(() => chooseBone(b))}
                    className={`${item} mono`}
                  >
                    {character?.nodes[b].name}
                  </Command.Item>
                ))}
              </Command.Group>
            </Command.List>
          </Command>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
