/** Serves the built application behind the gate: node dist/serve.mjs HOST PORT */
import { createServer } from 'node:http';
import os from 'node:os';
import next from 'next';
import { DEFAULT_LIMITS } from '../core/formats/errors';
import { behindGate, headOf } from './doorway';
import { turnAway } from './gate';

/** A request with a large body on a slow line may take this long to come in, milliseconds. */
const PATIENCE = 30 * 60_000;

/** How long an answer that is under way may take when the server is asked to end, milliseconds. */
const GRACE = 2000;

const [, , host, port] = process.argv;
const rules = {
  key: process.env.BOUGH_KEY ?? '',
  hosts: [os.hostname(), ...(process.env.BOUGH_HOSTS ?? '').split(',')]
    .map((name) => name.trim().toLowerCase())
    .filter(Boolean),
  uploads: Number(process.env.BOUGH_UPLOAD_BYTES ?? DEFAULT_LIMITS.bytes),
};
const app = next({ dev: false, dir: process.cwd(), hostname: host, port: Number(port) });
await app.prepare();
const answer = app.getRequestHandler();
const guarded = behindGate(rules, (request, response) => void answer(request, response));

const server = createServer({ requestTimeout: PATIENCE }, guarded);
// Who asks whether to send a body is answered by the gate, before anything is sent.
server.on('checkContinue', (request, response) => {
  if (!turnAway(headOf(request), rules)) response.writeContinue();
  guarded(request, response);
});
server.listen(Number(port), host);
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => {
    server.close(() => process.exit(0));
    server.closeIdleConnections();
    setTimeout(() => process.exit(0), GRACE).unref();
  });
