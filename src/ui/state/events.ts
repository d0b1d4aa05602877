/**
 * What the house tells its pages: jobs that go on, characters that stand at another revision. The windows of one browser
 * share one connection, since a browser has few of them to one house.
 */
import { type PageTold, eventsPath } from '@/routes/jobs';

/** What is told; `anew`: the connection stands anew, and what happened meanwhile was missed. */
export type PageNews = PageTold | { readonly what: 'anew' };

type Hear = (news: PageNews) => void;

/** Name of the lock whose holder has the connection, and of the channel on which it tells the others. */
const NAME = 'young-bough-told';

const all = new Set<Hear>();
let isOpen = false;

/** Tells of what happens in the house until the returned is called. */
export function onTold(hear: Hear): () => void {
  all.add(hear);
  open();
  return () => all.delete(hear);
}

/** The same for many things that are told at once: acts once, so many milliseconds after the first that matters. */
export function onToldOf(matters: (news: PageNews) => boolean, wait: number, act: () => void): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const forget = onTold((news) => {
    if (!matters(news)) return;
    timer ??= setTimeout(() => {
      timer = undefined;
      act();
    }, wait);
  });
  return () => {
    forget();
    clearTimeout(timer);
  };
}

function open(): void {
  if (isOpen) return;
  isOpen = true;
  const channel = new BroadcastChannel(NAME);
  const tell = (news: PageNews) => {
    for (const hear of all) hear(news);
  };
  channel.onmessage = ({ data }: MessageEvent<PageNews>) => tell(data);
  const connect = () => {
    const source = new EventSource(eventsPath);
    const both = (news: PageNews) => {
      channel.postMessage(news);
      tell(news);
    };
    source.onmessage = ({ data }: MessageEvent<string>) => both(JSON.parse(data) as PageNews);
    source.onopen = () => both({ what: 'anew' });
  };
  // Only pages that were fetched safely have locks; others have a connection each.
  if (!navigator.locks) return connect();
  // Held until the window closes; then the next one has it.
  void navigator.locks.request(NAME, () => {
    connect();
    return new Promise<void>(() => {});
  });
}
