/**
 * What stands before every request: who may ask, from where, and how much may be sent. It looks at the head of
 * a request alone, before anything of its body is taken in.
 */

import { isIP } from 'node:net';

/** The head of a request. Names of headers in small letters. */
export interface RequestHead {
  readonly method: string;
  readonly url: string;
  readonly headers: Readonly<Record<string, string | string[] | undefined>>;
}

/** What the gate goes by. Bounds in bytes. */
export interface GateRules {
  /** The access key; empty where the house is on loopback only. */
  readonly key: string;
  /** Host names that it answers to with a key, beside those of loopback and addresses of numbers; in small letters. */
  readonly hosts: readonly string[];
  /** The most that files may hold together. */
  readonly uploads: number;
}

/** Why a request is turned away, as a sentence, with its status. */
export interface Turned {
  readonly status: number;
  readonly message: string;
  readonly headers?: Readonly<Record<string, string>>;
}

/** The most that a request without files may hold. */
export const JSON_BYTES = 4 << 20;

/** The most that what the hand did may hold. */
export const EDIT_BYTES = 256 << 20;

const METHODS = ['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE'];
const UPLOADS = /^\/api\/(survey|characters|characters\/[^/]+\/(files|deliveries))$/;
const EDITS = /^\/api\/characters\/[^/]+\/steps\/edit$/;

/** Room in a form for its fields and its borders, beside the files. */
const FORM = 1 << 20;

const pathOf = ({ url }: RequestHead) => url.split('?')[0];

const takesFiles = (head: RequestHead) => head.method === 'POST' && UPLOADS.test(pathOf(head));

/** The most bytes that the body of a request may hold. */
export function bodyBound(head: RequestHead, { uploads }: GateRules): number {
  if (takesFiles(head)) return uploads + FORM;
  return EDITS.test(pathOf(head)) ? EDIT_BYTES : JSON_BYTES;
}

/** The sentence for a body that is larger. */
export const tooLarge = (head: RequestHead, rules: GateRules): Turned => ({
  status: 413,
  message: takesFiles(head)
    ? `The files are larger than ${rules.uploads} bytes together; split them, or raise BOUGH_UPLOAD_BYTES.`
    : `The request holds more than ${bodyBound(head, rules)} bytes and was not carried out.`,
});

const one = (head: RequestHead, name: string): string | null => {
  const value = head.headers[name];
  return typeof value === 'string' ? value : null;
};

/** Null where a request may come in. */
export function turnAway(head: RequestHead, rules: GateRules): Turned | null {
  return (
    guardMethod(head) ??
    guardPath(head) ??
    guardHost(head, rules) ??
    (rules.key ? guardKey(head, rules.key) : null) ??
    guardOrigin(head) ??
    guardLength(head, rules)
  );
}

function guardMethod({ method }: RequestHead): Turned | null {
  if (METHODS.includes(method)) return null;
  const message = `This house does not know the method ${method}.`;
  return { status: 405, message, headers: { allow: METHODS.join(', ') } };
}

function guardPath({ url }: RequestHead): Turned | null {
  try {
    decodeURIComponent(url);
    return url.startsWith('/') ? null : { status: 400, message: 'The address is not one of this house.' };
  } catch {
    return { status: 400, message: 'The address holds a broken escape.' };
  }
}

/**
 * Without a key the house answers to loopback names only, with one to addresses of numbers and to the names that it was
 * given as well: no page elsewhere reaches it under a name of its own.
 */
function guardHost(head: RequestHead, { key, hosts }: GateRules): Turned | null {
  const host = (one(head, 'host') ?? '').toLowerCase().replace(/:\d+$/, '');
  if (/^(localhost|127(\.\d{1,3}){3}|\[::1\])$/.test(host)) return null;
  if (!key) return { status: 403, message: 'This house answers on loopback only.' };
  if (isIP(host.replace(/^\[|\]$/g, '')) > 0 || hosts.includes(host)) return null;
  return {
    status: 403,
    message: 'This house does not answer to that host name; whoever runs it can add it to BOUGH_HOSTS.',
  };
}

/** HTTP Basic with any name (RFC 7617); names and keys are UTF-8. */
function guardKey(head: RequestHead, key: string): Turned | null {
  const given = /^Basic ([A-Za-z0-9+/=_-]+)$/i.exec(one(head, 'authorization') ?? '')?.[1] ?? '';
  const password = Buffer.from(given, 'base64')
    .toString('utf8')
    .replace(/^[^:]*:/, '');
  if (isSame(password, key)) return null;
  const headers = { 'www-authenticate': 'Basic realm="Young Bough", charset="UTF-8"' };
  return { status: 401, message: 'An access key is needed.', headers };
}

/** Compares without telling by its time where the difference is. */
function isSame(a: string, b: string): boolean {
  let difference = a.length ^ b.length;
  for (let i = 0; i < b.length; i++) difference |= b.charCodeAt(i) ^ (a.charCodeAt(i) || 0);
  return difference === 0;
}

/** A request that changes something must come from our own pages. */
function guardOrigin(head: RequestHead): Turned | null {
  if (head.method === 'GET' || head.method === 'HEAD') return null;
  const elsewhere: Turned = {
    status: 403,
    message: 'This request comes from another site and was not carried out.',
  };
  const site = one(head, 'sec-fetch-site');
  if (site && site !== 'same-origin' && site !== 'none') return elsewhere;
  const origin = one(head, 'origin');
  if (origin === null) return null;
  if (origin === 'null') return elsewhere;
  if (!URL.canParse(origin)) return { status: 400, message: 'The request says a broken origin.' };
  return new URL(origin).host === one(head, 'host') ? null : elsewhere;
}

function guardLength(head: RequestHead, rules: GateRules): Turned | null {
  const announced = one(head, 'content-length');
  if (announced === null) return null;
  return Number(announced) > bodyBound(head, rules) ? tooLarge(head, rules) : null;
}

/** What a page may load: what this house serves, and the one script of its own that carries the nonce. */
export const pagePolicy = (nonce: string): string =>
  [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic' 'wasm-unsafe-eval'`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "font-src 'self'",
    "connect-src 'self' blob: data:",
    "worker-src 'self' blob:",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ');

/** What an answer of the API may load when it is opened by itself, as the report is: its own styles and pictures. */
export const API_POLICY =
  "default-src 'none'; style-src 'unsafe-inline'; font-src 'self'; img-src 'self' data:; base-uri 'none'; frame-ancestors 'none'";
