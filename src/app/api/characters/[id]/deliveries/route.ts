import { arrivingAt, told } from '@/server/arrivals';
import { database } from '@/server/database';
import { lineTo, redelivered } from '@/server/delivery';
import { answer } from '@/server/http';

/** A new delivery of a character that is there: a line of its own, with the steps that led to `base` done again on it. */
export async function POST(request: Request, { params }: { params: Promise<{ id: string }> }) {
  return answer(request, async () => {
    const { character, base, files, options, listed } = await arrivingAt(request, await params);
    const line = lineTo(character, base);
    return told(
      'The delivery could not be taken in; what came so far is in the ledger. Try again, and report it if it stays.',
      (say, signal) => redelivered(database(), character, line, files, options, listed, say, signal),
    );
  });
}
