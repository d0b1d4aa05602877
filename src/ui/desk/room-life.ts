import { useEffect } from 'react';
import type { RoomId } from '@/core/contracts/rooms';
import { roomById } from '../rooms/list';
import { goToRoom, roomOfAddress } from '../state/choose';
import { restoreDraft } from '../state/draft';
import { watchElsewhere } from '../state/elsewhere';
import { closeDesk, openDesk } from '../state/open';
import { showPose } from '../state/pose';
import { desk, setDesk, useDesk } from '../state/store';

/**
 * The first room, in the order of the work, where something stops hand-off; else the first with anything
 * open.
 */
function firstOpenRoom(): RoomId {
  const { findings } = desk();
  return findings?.find((finding) => finding.gravity === 'stops')?.room ?? findings?.[0]?.room ?? 'placement';
}

/** Leaves a room and enters another: what each has set up for itself. */
function changeRoom(from: RoomId, to: RoomId): void {
  roomById(from).leave?.();
  const room = roomById(to);
  const isKnown = room.tools.some((tool) => tool.id === desk().tool) || !isRoomTool(from, desk().tool);
  setDesk({ wide: !!room.wide, ...(!isKnown && { tool: 'turn' }) });
  room.enter?.();
  if (room.wide || roomById(from).wide) void showPose();
}

const isRoomTool = (room: RoomId, tool: string) =>
  roomById(room).tools.some((definition) => definition.id === tool);

/**
 * A character on the desk: opened, with its rooms entered and left, and the browser's way back among them.
 */
export function useDeskLife(id: string): void {
  useEffect(() => {
    const stop = useDesk.subscribe((now, before) => {
      if (now.room !== before.room) changeRoom(before.room, now.room);
      if (now.revision && now.revision !== before.revision) void restoreDraft(now.revision);
    });
    const goBack = () => {
      const room = roomOfAddress();
      // Late, it may name the room that one is in already: what was chosen there meanwhile stays.
      if (room && room !== desk().room) goToRoom(room, 'none');
    };
    window.addEventListener('popstate', goBack);
    const stopWatching = watchElsewhere();
    void openDesk(id).then(() => {
      const { roomChosen, record } = desk();
      if (roomChosen || record?.id !== id) return;
      goToRoom(roomOfAddress() ?? firstOpenRoom(), 'replace');
    });
    return () => {
      stop();
      stopWatching();
      window.removeEventListener('popstate', goBack);
      closeDesk();
    };
  }, [id]);
}
