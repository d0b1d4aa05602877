/**
 * What happens to the character on the desk in another window. Windows of one browser tell each other at once; what is
 * done elsewhere is asked for every few seconds while the page is in sight, and when it comes into sight.
 */
import { readHead } from '@/routes/characters';
import { call } from '../kit/api';
import { refreshDesk } from './open';
import { desk, setDesk, useDesk } from './store';

/** How often the server is asked which revision is the newest, milliseconds. */
const ASK = 5000;

const CHANNEL = 'young-bough-heads';

/** What a window tells the others. */
interface Told {
  readonly id: string;
  readonly head: string;
}

/** Asks which revision is the newest, and says so where another one stands on the desk. */
async function look(): Promise<void> {
  const { record, busy, revision } = desk();
  if (!record || revision === null || busy) return;
  try {
    const { head, number } = await call(readHead, { id: record.id });
    const now = desk();
    // While it was asked for, this page may have gone on itself.
    if (now.busy || now.record?.id !== record.id || now.revision !== revision) return;
    const isNewer = head !== revision;
    if (isNewer !== (now.elsewhere !== null)) setDesk({ elsewhere: isNewer ? { number } : null });
  } catch {
    // Whether the server can be reached is told by what a person does; a question nobody asked is silent.
  }
}

/** Shows the newest revision. A draft of the hand stays with the revision that it was begun on. */
export async function showNewest(): Promise<void> {
  const { elsewhere } = desk();
  if (!elsewhere) return;
  setDesk({ elsewhere: null });
  await refreshDesk(`Revision ${elsewhere.number}, made in another window, is shown now.`);
}

/** Watches over the character on the desk, and tells other windows what becomes of it. Returns what ends it. */
export function watchElsewhere(): () => void {
  const channel = new BroadcastChannel(CHANNEL);
  channel.onmessage = ({ data }: MessageEvent<Told>) => {
    if (data.id === desk().record?.id && data.head !== desk().revision) void look();
  };
  const stop = useDesk.subscribe((now, before) => {
    if (now.revision === before.revision) return;
    if (now.elsewhere) setDesk({ elsewhere: null });
    // What was opened first is news to nobody.
    const { record, revision } = now;
    if (record && revision && before.revision) channel.postMessage({ id: record.id, head: revision });
  });
  const lookInSight = () => {
    if (document.visibilityState === 'visible') void look();
  };
  const timer = setInterval(lookInSight, ASK);
  document.addEventListener('visibilitychange', lookInSight);
  return () => {
    stop();
    clearInterval(timer);
    document.removeEventListener('visibilitychange', lookInSight);
    channel.close();
  };
}
