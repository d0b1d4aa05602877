import { filesOf } from '@/server/arrivals';
import { answer } from '@/server/http';
import { onThread } from '@/server/pool';

/** Looks into files before they are taken in: what they say of unit and axes, and how large they are as read. Saves nothing. */
export async function POST(request: Request) {
  return answer(request, async () => {
    const { files } = await filesOf(request);
    return onThread({ task: 'survey', files }, { signal: request.signal });
  });
}
