'use client';

import { useMemo } from 'react';
import type { Finding } from '@/core/contracts/finding';
import { ROOM_WORDS, type RoomId } from '@/core/contracts/rooms';
import { isNothing, remediesByHand } from '@/core/house/by-hand';
import { CHECKS, REMEDIES } from '@/core/house/registry';
import { Mark } from '../kit/gravity';
import { ROOM_LIST } from '../rooms/list';
import { chooseFinding, chosenOf, goToRoom, openByHand } from '../state/choose';
import { desk, setDesk, useDesk } from '../state/store';
import { takeTool } from '../state/tools';
import { PaletteGroup, PaletteItem } from './palette-parts';

/** Words of the trade for what a room is about, besides its own name. */
const TRADE_WORDS: Readonly<Record<RoomId, readonly string[]>> = {
  placement: ['scale', 'resize', 'ground', 'pivot', 'units', 'facing', 'pose', 'props', 'transform'],
  skeleton: ['rename', 'mirror', 'hierarchy', 'parent', 'joint', 'root', 'names', 'naming', 'sides'],
  surface: ['merge', 'weld', 'normals', 'winding', 'quads', 'topology', 'triangles', 'mesh'],
  weights: ['paint', 'brush', 'bind', 'skin', 'influences', 'normalise', 'smooth', 'vertex group'],
  trials: ['motion', 'animation', 'clip', 'range of motion', 'deform', 'play'],
  crosswalk: ['retarget', 'remap', 'transfer', 'map', 'skeleton'],
  docket: ['export', 'report', 'hand over', 'validate', 'deliver', 'file'],
};

/** The rooms, found by their names and by the words of the trade for what is done in them. */
export function PaletteRooms() {
  return (
    <PaletteGroup heading="Rooms">
      {ROOM_LIST.map(({ id, title, hint }) => (
        <PaletteItem
          key={id}
          value={`room ${title}`}
          keywords={[hint, ...TRADE_WORDS[id]]}
          onPick={() => goToRoom(id)}
        >
          <span className="flex-1">{title}</span>
          <span className="text-[12.5px] text-soft">{hint}</span>
        </PaletteItem>
      ))}
    </PaletteGroup>
  );
}

/** Tools and pages of every room. */
export function PalettePlaces() {
  return (
    <PaletteGroup heading="Tools and pages">
      {ROOM_LIST.flatMap(({ id, title, tools, pages = [] }) => [
        ...tools.map((tool) => (
          <PaletteItem
            key={`${id} ${tool.id}`}
            value={`tool ${tool.title} in ${title}`}
            keywords={[tool.hint]}
            onPick={() => {
              goToRoom(id);
              takeTool(tool.id);
            }}
          >
            <span className="flex-1">{tool.title}</span>
            <span className="text-[12.5px] text-soft">tool in {title}</span>
          </PaletteItem>
        )),
        ...pages.map((page) => (
          <PaletteItem
            key={`${id} page ${page.id}`}
            value={`page ${page.title} in ${title}`}
            onPick={() => {
              goToRoom(id);
              setDesk({ page: page.id });
            }}
          >
            <span className="flex-1">{page.title}</span>
            <span className="text-[12.5px] text-soft">page of {title}</span>
          </PaletteItem>
        )),
      ])}
    </PaletteGroup>
  );
}

/** Goes to a finding; where there is none, to the room, and says that nothing asks for it now. */
function goTo(finding: Finding | undefined, room: RoomId, title: string): void {
  goToRoom(finding?.room ?? room);
  if (finding) chooseFinding(finding.key);
  else if (desk().findings) setDesk({ said: `“${title}”: nothing in this character asks for it now.` });
}

/** Every remedy, those that a finding offers first. */
export function PaletteRemedies() {
  const findings = useDesk((state) => state.findings);
  const sorted = useMemo(() => {
    const offer = (id: string) =>
      findings?.find((finding) => finding.remedies.some((remedy) => remedy.id === id));
    const all = REMEDIES.map((remedy) => ({ remedy, finding: offer(remedy.id) }));
    return [...all.filter((x) => x.finding), ...all.filter((x) => !x.finding)];
  }, [findings]);
  return (
    <PaletteGroup heading="Remedies">
      {sorted.map(({ remedy: { id, title, does, room }, finding }) => (
        <PaletteItem
          key={id}
          value={`remedy ${title} ${id}`}
          keywords={[does, ROOM_WORDS[room]]}
          onPick={() => goTo(finding, room, title)}
        >
          {finding && <Mark gravity={finding.gravity} />}
          <span className="flex-1">{title}</span>
          <span className="text-[12.5px] text-soft">
            {finding ? 'asked for in' : 'remedy in'} {ROOM_WORDS[room]}
          </span>
        </PaletteItem>
      ))}
    </PaletteGroup>
  );
}

/** What can be done with what is chosen. */
export function PaletteByHand() {
  const character = useDesk((state) => state.character);
  const room = useDesk((state) => state.room);
  const lastChosen = useDesk((state) => state.lastChosen);
  const picked = useDesk((state) => state.picked);
  const bone = useDesk((state) => state.bone);
  const chosenSet = useDesk((state) => state.chosenSet);
  const offers = useMemo(() => {
    const chosen = chosenOf({ character, lastChosen, picked, bone, chosenSet });
    return character && !isNothing(chosen) ? remediesByHand(character, chosen, room) : [];
  }, [character, room, lastChosen, picked, bone, chosenSet]);
  if (offers.length === 0) return null;
  return (
    <PaletteGroup heading="With what is chosen">
      {offers.map(({ remedy: { id, title, does }, fitting }) => (
        <PaletteItem
          key={id}
          value={`by hand ${title} ${id}`}
          keywords={[does]}
          onPick={() => openByHand(id)}
        >
          <span className="flex-1">{title}</span>
          <span className="text-[12.5px] text-soft">
            by hand{fitting.length > 0 && `, ${fitting.length} chosen`}
          </span>
        </PaletteItem>
      ))}
    </PaletteGroup>
  );
}

/** Every check, with the first of its findings. */
export function PaletteChecks() {
  const findings = useDesk((state) => state.findings);
  return (
    <PaletteGroup heading="Checks">
      {CHECKS.map(({ id, title, room, why }) => {
        const count = findings?.filter((finding) => finding.check === id).length ?? 0;
        return (
          <PaletteItem
            key={id}
            value={`check ${title} ${id}`}
            keywords={[why]}
            onPick={() =>
              goTo(
                findings?.find((finding) => finding.check === id),
                room,
                title,
              )
            }
          >
            <span className="flex-1">{title}</span>
            <span className="text-[12.5px] text-soft">
              {count > 0 ? `${count} open in` : 'check in'} {ROOM_WORDS[room]}
            </span>
          </PaletteItem>
        );
      })}
    </PaletteGroup>
  );
}
