/** Poses that are kept by name with a character. */
import type { KeptPose } from '../routes/kept-pose';
import { characterById } from './characters';
import type { Db } from './blobs';

/** Keeps a pose; one of the same name gives way. Throws 404 where the character is not there. */
export async function keepPose(
  db: Db,
  id: string,
  { name, turns, moment }: Pick<KeptPose, 'name' | 'turns' | 'moment'>,
): Promise<void> {
  await characterById(db, id);
  const stands = JSON.stringify({ turns, moment });
  await db
    .insertInto('poses')
    .values({ character_id: id, name, stands })
    .onConflict((conflict) => conflict.columns(['character_id', 'name']).doUpdateSet({ stands }))
    .execute();
}

/** Lets go of a pose. */
export async function removePose(db: Db, id: string, pose: string): Promise<void> {
  await db.deleteFrom('poses').where('id', '=', pose).where('character_id', '=', id).execute();
}
