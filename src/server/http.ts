/** From a request to an answer: what every route shares. */
import { type AnyObjectSchema, type AnySchema, type InferType, ValidationError } from 'yup';
import { checkedBy } from '../core/contracts/checked';
import { type Route, hasBody } from '../routes/route';
import { databaseTrouble } from './database';
import { Refused } from './refused';

/** What Next.js hands to a route besides the request. */
export interface Context {
  readonly params: Promise<Record<string, string>>;
}

type Handler = (request: Request, context: Context) => Promise<Response>;

/** What a route's work may want beside the checked request. */
export interface RequestContext {
  readonly signal: AbortSignal;
}

/**
 * A route of the house: checks the request against its schema, does the work, answers as JSON with the given
 * status.
 */
export function handle<Q extends AnyObjectSchema, A extends AnySchema>(
  route: Route<Q, A>,
  work: (request: InferType<Q>, asked: RequestContext) => Promise<InferType<A>>,
  status = 200,
): Handler {
  return (request, context) =>
    answer(request, async () => {
      const checked = await readRequest(route.request, request, context, hasBody(route.method));
      return Response.json(await work(checked, { signal: request.signal }), { status });
    });
}

/** Path, query and, where there is one, JSON body of a request as one checked object. */
export async function readRequest<Q extends AnyObjectSchema>(
  schema: Q,
  request: Request,
  { params }: Context,
  withBody = false,
): Promise<InferType<Q>> {
  const query = Object.fromEntries(new URL(request.url).searchParams);
  const body = withBody ? await jsonOf(request) : {};
  return checkRequest(schema, { ...query, ...body, ...(await params) });
}

/** What was sent as its schema has it, with nothing besides. Throws ValidationError, or {@link Refused}. */
export function checkRequest<Q extends AnyObjectSchema>(schema: Q, sent: object): InferType<Q> {
  let checked: InferType<Q>;
  try {
    checked = checkedBy(schema, sent, { stripUnknown: true });
  } catch (error) {
    // A thing where a word belongs cannot even be trimmed.
    if (error instanceof TypeError) throw new Refused('The request is not as it should be.', 400);
    throw error;
  }
  guardText(checked);
  return checked;
}

async function jsonOf(request: Request): Promise<object> {
  let body: unknown;
  try {
    body = await request.json();
  } catch {
    throw new Refused('The request holds no JSON.', 400);
  }
  // Before its schema looks at it, which would not come back from a depth without end.
  guardText(body);
  if (!body || typeof body !== 'object' || Array.isArray(body))
    throw new Refused('The request holds no JSON object.', 400);
  return body;
}

/** True of text with half of a surrogate pair in it. */
const hasHalves = (text: string) => /\p{Surrogate}/u.test(text);

/** How deep what a request holds may be nested. */
const DEEPEST = 100;

/**
 * Text that the database cannot keep is refused wherever in a request it stands (NUL, and halves of a letter), and so is
 * what is nested deeper than anything that people make.
 */
function guardText(value: unknown, where = '', depth = 0): void {
  if (depth > DEEPEST)
    throw new Refused(`The request is nested deeper than ${DEEPEST} levels; send it flatter.`, 400);
  if (typeof value === 'string') {
    if (value.includes('\0') || hasHalves(value))
      throw new Refused(
        `${where ? `The field “${where}”` : 'The request'} holds a letter that cannot be kept (NUL, or half of a pair); take it out.`,
        400,
      );
    return;
  }
  if (!value || typeof value !== 'object' || ArrayBuffer.isView(value)) return;
  for (const [name, part] of Object.entries(value)) {
    guardText(name, where, depth + 1);
    guardText(part, where || name, depth + 1);
  }
}

/**
 * Runs a route's work: a Refused becomes its sentence and status, a validation error 400, anything else 500
 * without its inside.
 */
export async function answer(request: Request, work: () => Promise<Response>): Promise<Response> {
  try {
    return await work();
  } catch (error) {
    if (request.signal.aborted && !(error instanceof Refused))
      return failure(new Refused('The request was broken off.', 499));
    return failure(error);
  }
}

function failure(error: unknown): Response {
  if (error instanceof Refused) {
    return Response.json({ message: error.message, ...error.body }, { status: error.status });
  }
  if (error instanceof ValidationError) {
    const message = `The request is not as it should be: ${error.errors[0]}.`;
    return Response.json({ message }, { status: 400 });
  }
  const trouble = databaseTrouble(error);
  if (trouble) return Response.json({ message: trouble }, { status: 503, headers: { 'retry-after': '5' } });
  process.stderr.write(`${error instanceof Error ? error.stack : String(error)}\n`);
  const message =
    'Something went wrong on our side; nothing was changed. Try again, and report it if it stays.';
  return Response.json({ message }, { status: 500 });
}

/** That an answer is a file, with its name. */
export const attachment = (name: string) => ({ 'content-disposition': `attachment; filename="${name}"` });

/** What a report may load: nothing but what it carries itself. */
export const REPORT_POLICY = {
  'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'; img-src data:",
};

/** An answer of bytes, as a file where it has a name. */
export function binary(
  bytes: Uint8Array,
  type = 'application/octet-stream',
  headers: Record<string, string> = {},
): Response {
  return new Response(bytes as Uint8Array<ArrayBuffer>, {
    headers: { 'content-type': type, 'x-content-type-options': 'nosniff', ...headers },
  });
}
