import { copyRevision } from '@/routes/characters';
import { copyCharacter } from '@/server/characters';
import { database } from '@/server/database';
import { handle } from '@/server/http';
import { Refused } from '@/server/refused';
import { revisionById } from '@/server/revisions';

export const POST = handle(
  copyRevision,
  async ({ id, revision, name }) => {
    if ((await revisionById(database(), revision)).characterId !== id)
      throw new Refused('That revision does not belong to this character; reload the page.', 404);
    return copyCharacter(database(), revision, name);
  },
  201,
);
