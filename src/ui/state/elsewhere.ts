/**
 * What happens to the character on the desk in another window, or by somebody else. The house tells it at once; where
 * that is missed it is asked for now and then while the page is in sight, and when it comes into sight.
 */
import { readHead } from '@/routes/characters';
import { call } from '../kit/api';
import { onTold } from './events';
import { refreshDesk } from './open';
import { desk, setDesk, useDesk } from './store';

/** How often the server is asked which revision is the newest, milliseconds. */
const ASK = 15_000;

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

/** Watches over the character on the desk. Returns what ends it. */
export function watchElsewhere(): () => void {
  const forget = onTold((news) => {
    const isOurs = news.what === 'head' && news.character === desk().record?.id;
    if (news.what === 'anew' || (isOurs && news.head !== desk().revision)) void look();
  });
  const stop = useDesk.subscribe((now, before) => {
    if (now.revision !== before.revision && now.elsewhere) setDesk({ elsewhere: null });
    // What was told while this page was busy itself was not looked at.
    if (before.busy && !now.busy) void look();
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
    forget();
  };
}
