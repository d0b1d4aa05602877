/** The dockets that there are: of all characters, or of the one on the desk. */
import { create } from 'zustand';
import { bendsWorseCheck } from '@/core/rooms/trials/checks/bends-worse';
import { type DocketEntry, handOverPath, listDockets } from '@/routes/dockets';
import { addressOf } from '@/routes/route';
import { askWork, call, messageOf } from '../kit/api';
import { LatestRequest } from './latest-request';
import { onToldOf } from './events';
import { NOT_KEPT } from './open';
import { desk, setDesk } from './store';

interface Dockets {
  /** Of which character; null for all. */
  readonly of: string | null;
  /** Null until they have come. */
  readonly entries: readonly DocketEntry[] | null;
  readonly error: string | null;
  /** How far a handing over has come. */
  readonly handing: {
    readonly stage: string;
    readonly share: number;
    readonly cancel: AbortController;
  } | null;
  /** The one that was sealed last. */
  readonly sealed: string | null;
}

const NOBODY: Dockets = { of: null, entries: null, error: null, handing: null, sealed: null };

export const useDockets = create<Dockets>(() => NOBODY);

const asking = new LatestRequest();

/** Fetches the dockets of a character, or all. */
export async function loadDockets(of: string | null): Promise<void> {
  const isCurrent = asking.begin();
  const { of: before } = useDockets.getState();
  if (before !== of) useDockets.setState({ ...NOBODY, of });
  try {
    const { dockets } = await call(listDockets, of ? { character: of } : {});
    if (isCurrent()) useDockets.setState({ of, entries: dockets, error: null });
  } catch (error) {
    if (isCurrent()) useDockets.setState({ of, error: messageOf(error) });
  }
}

/** How long several that are sealed at once are waited for, milliseconds. */
const GATHER = 300;

/** Fetches the dockets of a character, or all, and again whenever one is sealed. Returns what ends it. */
export function watchDockets(of: string | null): () => void {
  void loadDockets(of);
  return onToldOf(
    (news) => news.what === 'anew' || (news.what === 'docket' && (of === null || news.character === of)),
    GATHER,
    () => void loadDockets(of),
  );
}

/** What goes out, and by whom. */
export interface HandOverChoice {
  readonly items: readonly string[] | null;
  readonly format: string;
  readonly by: string;
  readonly note: string;
  readonly receiver?: string;
}

/** Hands the revision on the desk over. */
export async function handOver(what: HandOverChoice): Promise<void> {
  const { record, revision, draft } = desk();
  if (!record || !revision || useDockets.getState().handing) return;
  if (draft && draft.steps > 0) {
    useDockets.setState({ error: NOT_KEPT });
    return;
  }
  const cancel = new AbortController();
  const tell = (stage: string, share: number) => useDockets.setState({ handing: { stage, share, cancel } });
  tell('sending', 0);
  useDockets.setState({ error: null, sealed: null });
  try {
    const { id } = await askWork(
      addressOf({ method: 'POST', path: handOverPath }, { id: record.id }),
      { revision, ...what },
      ({ stage, share }) => tell(stage, share),
      cancel.signal,
      'The connection broke off before the docket was sealed; look whether it is there, and hand over again if not.',
    );
    // Somebody who has gone to another character is not brought back.
    if (desk().record?.id !== record.id) return;
    await loadDockets(record.id);
    useDockets.setState({ sealed: id ?? null });
    // What it was held against is another revision now: it is tried anew.
    if (desk().audited?.some(({ check }) => check === bendsWorseCheck.id)) setDesk({ tried: null });
  } catch (error) {
    if (desk().record?.id !== record.id) return;
    const isCancelled = cancel.signal.aborted;
    // It may have been sealed before the word to stop came there.
    if (isCancelled) await loadDockets(record.id);
    useDockets.setState({
      error: isCancelled ? 'Cancelled; what was sealed before that stands below.' : messageOf(error),
    });
  } finally {
    useDockets.setState({ handing: null });
  }
}
