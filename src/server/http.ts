/** From a request to an answer: what every route shares. */
import { type AnyObjectSchema, type AnySchema, type InferType, ValidationError } from 'yup';
import { type Route, hasBody } from '../routes/route';
import { Refused } from './refused';

/** What Next.js hands to a route besides the request. */
export interface Context {
  readonly params: Promise<Record<string, string>>;
}

type Handler = (request: Request, context: Context) => Promise<Response>;

/** What a route's work may want beside the checked request. */
export interface Asked {
  readonly signal: AbortSignal;
}

/**
 * A route of the house: checks the request against its schema, does the work, answers as JSON with the given
 * status.
 */
export function handle<Q extends AnyObjectSchema, A extends AnySchema>(
  route: Route<Q, A>,
  work: (request: InferType<Q>, asked: Asked) => Promise<InferType<A>>,
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
  const body = withBody ? ((await jsonOf(request)) as object) : {};
  return schema.validateSync(
    { ...query, ...body, ...(await params) },
    { stripUnknown: true },
  ) as InferType<Q>;
}

async function jsonOf(request: Request): Promise<unknown> {
  try {
    return await request.json();
  } catch {
    throw new Refused('The request holds no JSON.', 400);
  }
}

/**
 * Runs a route's work: a Refused becomes its sentence and status, a validation error 400, anything else 500
 * without its inside.
 */
export async function answer(request: Request, work: () => Promise<Response>): Promise<Response> {
  try {
    guardOrigin(request);
    return await work();
  } catch (error) {
    return failure(error);
  }
}

function failure(error: unknown): Response {
  if (error instanceof Refused) {
    const status = error.status === 499 ? 409 : error.status;
    return Response.json({ message: error.message, ...error.body }, { status });
  }
  if (error instanceof ValidationError) {
    const message = `The request is not as it should be: ${error.errors[0]}.`;
    return Response.json({ message }, { status: 400 });
  }
  process.stderr.write(`${error instanceof Error ? error.stack : String(error)}\n`);
  const message =
    'Something went wrong on our side; nothing was changed. Try again, and report it if it stays.';
  return Response.json({ message }, { status: 500 });
}

/** A request that changes something must come from our own pages. */
function guardOrigin(request: Request): void {
  if (request.method === 'GET' || request.method === 'HEAD') return;
  const origin = request.headers.get('origin');
  const host = request.headers.get('host');
  const site = request.headers.get('sec-fetch-site');
  if (site && site !== 'same-origin' && site !== 'none')
    throw new Refused('This request comes from another site and was not carried out.', 403);
  if (origin !== null && new URL(origin === 'null' ? 'http://null.invalid' : origin).host !== host)
    throw new Refused('This request comes from another site and was not carried out.', 403);
}

/** The bytes of a request's body, up to a bound. */
export async function bytesOf(request: Request, most: number): Promise<Uint8Array> {
  const announced = Number(request.headers.get('content-length') ?? 0);
  const tooLarge = () => new Refused(`The request holds more than ${most} bytes.`, 413);
  if (announced > most) throw tooLarge();
  const bytes = new Uint8Array(await request.arrayBuffer());
  if (bytes.length > most) throw tooLarge();
  return bytes;
}

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
