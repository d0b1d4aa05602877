import { listen } from '@/jobs/listen';
import type { Told } from '@/server/told';

export const dynamic = 'force-dynamic';

/** A line now and then keeps what stands between from taking the silence for an end, milliseconds. */
const PULSE = 20_000;

/** What is told in the database, to a page, for as long as it listens. */
export function GET(request: Request): Response {
  let stop = () => {};
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string) => {
        try {
          controller.enqueue(new TextEncoder().encode(text));
        } catch {
          stop();
        }
      };
      const pulse = setInterval(() => send(': \n\n'), PULSE);
      const forget = listen((told: Told) => {
        // What waits in queues is the workers' business.
        if (told.what === 'asked' || told.what === 'cancelled') return;
        // Whoever waits for what is at hand is told by the answer.
        if (told.what === 'job' && told.lane === 'at hand') return;
        send(`data: ${JSON.stringify(told)}\n\n`);
      });
      stop = () => {
        clearInterval(pulse);
        forget();
      };
      request.signal.addEventListener('abort', () => stop());
      // The first line tells the page that it is heard from now on.
      send('retry: 2000\n\n');
    },
    cancel: () => stop(),
  });
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' },
  });
}
