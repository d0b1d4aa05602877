/** The gate before an application that answers over HTTP. */
import { randomBytes } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { KeyBrake } from './brake';
import {
  API_POLICY,
  type GateRules,
  type RequestHead,
  type Turned,
  bodyBound,
  pagePolicy,
  tooLarge,
  turnAway,
} from './gate';

export type Handle = (request: IncomingMessage, response: ServerResponse) => void;

export const headOf = ({ method = '', url = '', headers }: IncomingMessage): RequestHead => ({
  method,
  url,
  headers,
});

/** How long what is still being sent is let go of, so that the other end can read its answer, milliseconds. */
const LINGER = 5000;

/** Answers with a sentence, and takes nothing more of what is being sent. */
function turn(
  request: IncomingMessage,
  response: ServerResponse,
  { status, message, headers }: Turned,
): void {
  if (response.headersSent) {
    request.destroy();
    return;
  }
  // Closing the line at once would cut off the answer of whoever is still sending.
  setTimeout(() => {
    if (!request.complete) request.socket.destroy();
  }, LINGER).unref();
  response.writeHead(status, { ...headers, 'content-type': 'application/json' });
  response.end(JSON.stringify({ message }), () => request.resume());
}

/** Counts what comes in of a body; one that grows over its bound, whatever it announced, is taken no further. */
function countBody(request: IncomingMessage, bound: number, overflow: () => void): void {
  const push = request.push.bind(request);
  let taken = 0;
  request.push = (chunk: Buffer | null, encoding?: BufferEncoding): boolean => {
    taken += chunk?.length ?? 0;
    if (taken <= bound) return push(chunk, encoding);
    // What still comes is let go of. Only its real end is told: a request that ends before it is complete has
    // its line cut, and with it the answer.
    request.push = (more: Buffer | null): boolean => (more === null ? push(null) : true);
    overflow();
    return true;
  };
}

function setPolicy(request: IncomingMessage, response: ServerResponse): void {
  response.setHeader('x-frame-options', 'DENY');
  response.setHeader('referrer-policy', 'same-origin');
  response.setHeader('x-content-type-options', 'nosniff');
  if (request.url?.startsWith('/api/')) {
    response.setHeader('content-security-policy', API_POLICY);
    return;
  }
  const policy = pagePolicy(randomBytes(16).toString('base64'));
  response.setHeader('content-security-policy', policy);
  // The application reads from here what its own scripts must carry.
  request.headers['content-security-policy'] = policy;
}

const TOO_MANY = 429;

const addressOf = ({ socket }: IncomingMessage): string => socket.remoteAddress ?? '';

/** Null where an address need not wait. Who gives no key, as browsers do at first, guesses at none. */
function slowed(request: IncomingMessage, brake: KeyBrake, now: number): Turned | null {
  const wait = request.headers.authorization ? brake.waits(addressOf(request), now) : 0;
  if (wait === 0) return null;
  const seconds = Math.ceil(wait / 1000);
  return {
    status: TOO_MANY,
    message: `Too many wrong access keys came from this address; try again in ${seconds} ${seconds === 1 ? 'second' : 'seconds'}.`,
    headers: { 'retry-after': String(seconds) },
  };
}

/** Takes note of whether the key that was given is the right one, and tells the log of those who guess. */
function noteKey(
  request: IncomingMessage,
  rules: GateRules,
  brake: KeyBrake,
  turned: Turned | null,
  now: number,
): void {
  if (!rules.key || !request.headers.authorization) return;
  if (turned?.status !== 401) {
    if (!turned) brake.succeeded(addressOf(request));
    return;
  }
  const count = brake.failed(addressOf(request), now);
  if (KeyBrake.isWorthTelling(count))
    process.stderr.write(
      `${count} wrong access keys from ${addressOf(request)}; it has to wait longer each time.\n`,
    );
}

/** The gate before an application. */
export function behindGate(
  rules: GateRules,
  handle: Handle,
  clock: () => number = () => performance.now(),
): Handle {
  const brake = new KeyBrake();
  return (request, response) => {
    setPolicy(request, response);
    const head = headOf(request);
    const turned = slowed(request, brake, clock()) ?? turnAway(head, rules);
    if (turned?.status !== TOO_MANY) noteKey(request, rules, brake, turned, clock());
    if (turned) {
      turn(request, response, turned);
      return;
    }
    countBody(request, bodyBound(head, rules), () => turn(request, response, tooLarge(head, rules)));
    handle(request, response);
  };
}
