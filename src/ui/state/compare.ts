import { fetchCharacter, messageOf } from '../kit/api';
import { LatestRequest } from './latest-request';
import type { ComparedPicture } from './document';
import { desk, setDesk } from './store';
import { deskWorker } from './worker';

const comparing = new LatestRequest();

/**
 * Lays two revisions beside each other: the second on the stage, coloured by how far it lies from the first.
 */
export async function compareRevisions(a: string, b: string): Promise<void> {
  const isCurrent = comparing.begin();
  const { brief, record } = desk();
  const isWanted = () => isCurrent() && desk().record?.id === record?.id;
  setDesk({ compared: { a, b, data: null, show: 'difference' }, error: null });
  try {
    const [first, second] = [await fetchCharacter(a), await fetchCharacter(b)];
    const data = await deskWorker().compare(first.character, second.character, brief);
    if (isWanted()) setDesk({ compared: { a, b, data, show: 'difference' } });
  } catch (error) {
    if (isWanted()) setDesk({ error: messageOf(error), compared: null });
  }
}

export const showCompared = (show: ComparedPicture): void =>
  setDesk(({ compared }) => (compared ? { compared: { ...compared, show } } : {}));

/** Back from a comparison to the revision that is worked on. */
export function endComparison(): void {
  comparing.drop();
  setDesk({ compared: null });
}
