/** The gate before an application that answers over HTTP. */
import { randomBytes } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
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

/** The gate before an application. */
export const behindGate =
  (rules: GateRules, handle: Handle): Handle =>
  (request, response) => {
    setPolicy(request, response);
    const head = headOf(request);
    const turned = turnAway(head, rules);
    if (turned) {
      turn(request, response, turned);
      return;
    }
    countBody(request, bodyBound(head, rules), () => turn(request, response, tooLarge(head, rules)));
    handle(request, response);
  };
