/** What is changed of a character without making a revision: pins, poses, words. */
import type { CharacterRecord } from '@/routes/characters';
import { messageOf } from '../kit/api';
import { desk, setDesk } from './store';

/** Changes the record on the server without making a revision. True where it could be kept. */
export async function changeRecord(
  work: (record: CharacterRecord) => Promise<CharacterRecord>,
): Promise<boolean> {
  const { record } = desk();
  if (!record) return false;
  try {
    const changed = await work(record);
    if (desk().record?.id !== record.id) return false;
    setDesk({ record: changed });
    return true;
  } catch (error) {
    setDesk({ error: messageOf(error) });
    return false;
  }
}
