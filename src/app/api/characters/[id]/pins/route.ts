import type { PinEnd } from '@/core/character/pin';
import { addPin } from '@/routes/characters';
import * as characters from '@/server/characters';
import { database } from '@/server/database';
import { handle } from '@/server/http';

export const POST = handle(
  addPin,
  async ({ id, label, from, to }) => {
    await characters.addPin(database(), id, label, { from: from as PinEnd, to: to as PinEnd });
    return characters.characterById(database(), id);
  },
  201,
);
