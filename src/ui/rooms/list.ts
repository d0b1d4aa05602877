import type { RoomId } from '@/core/contracts/rooms';
import type { Room } from '../parts/room';
import { crosswalk } from './crosswalk';
import { docket } from './docket';
import { placement } from './placement';
import { skeleton } from './skeleton';
import { surface } from './surface';
import { trials } from './trials';
import { weights } from './weights';

/** The rooms of the desk, in the order of the work. A new room is its own folder and one line here. */
export const ROOM_LIST: readonly Room[] = [placement, skeleton, surface, weights, trials, crosswalk, docket];

export const roomById = (id: RoomId): Room => ROOM_LIST.find((room) => room.id === id) ?? placement;
