/** The seven rooms of the house, in the order of the work. */
export const ROOM_IDS = [
  'placement',
  'skeleton',
  'surface',
  'weights',
  'trials',
  'crosswalk',
  'docket',
] as const;

export type RoomId = (typeof ROOM_IDS)[number];
