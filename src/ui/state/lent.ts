/** Motion of other characters of the shelf, played on the one that lies on the desk. */
import { create } from 'zustand';
import { listCharacters } from '@/routes/characters';
import { call, fetchCharacter, messageOf } from '../kit/api';
import { LatestRequest } from './latest-request';
import type { PosedMoment } from './posed';
import { desk, setDesk } from './store';
import { deskWorker } from './worker';

export type Lender = NonNullable<PosedMoment['from']>;

interface Lent {
  /** Who could lend motion. */
  readonly lenders: readonly Lender[];
  /** Who does; null for the character's own clips. */
  readonly from: Lender | null;
  /** Whose clips are being fetched; null for nobody's. */
  readonly asked: Lender | null;
  readonly clips: readonly { readonly name: string; readonly seconds: number }[];
}

const NOBODY: Lent = { lenders: [], from: null, asked: null, clips: [] };

export const useLent = create<Lent>(() => NOBODY);

const asking = new LatestRequest();

/** Looks who of the shelf has bones that could move these. */
export async function findLenders(): Promise<void> {
  const { record } = desk();
  if (!record) return;
  try {
    const { characters } = await call(listCharacters, {});
    if (desk().record?.id !== record.id) return;
    const lenders = characters.flatMap(({ id, head, name, bones }) =>
      head && id !== record.id && bones !== 0 ? [{ revision: head, name }] : [],
    );
    useLent.setState({ lenders });
  } catch (error) {
    setDesk({ error: messageOf(error) });
  }
}

/** Takes the clips of another character; null: the own ones again. */
export async function borrowFrom(from: Lender | null): Promise<void> {
  const isCurrent = asking.begin();
  if (!from) {
    useLent.setState({ from: null, asked: null, clips: [] });
    return;
  }
  useLent.setState({ asked: from });
  try {
    const { character } = await fetchCharacter(from.revision);
    const clips = await deskWorker().lend(from.revision, character);
    if (!isCurrent()) return;
    if (clips && clips.length > 0) useLent.setState({ from, clips });
    else
      setDesk({
        error: clips
          ? `“${from.name}” holds no motion; choose another one.`
          : `Nothing of the skeleton of “${from.name}” is like this one; choose another one.`,
      });
  } catch (error) {
    if (isCurrent()) setDesk({ error: messageOf(error) });
  } finally {
    if (isCurrent()) useLent.setState({ asked: null });
  }
}
