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

/** What a room is called. */
export const ROOM_WORDS: Readonly<Record<RoomId, string>> = {
  placement: 'Placement',
  skeleton: 'Skeleton',
  surface: 'Surface',
  weights: 'Weights',
  trials: 'Trials',
  crosswalk: 'Crosswalk',
  docket: 'Docket',
};
