import { type AnyObjectSchema, type InferType, ValidationError, string } from 'yup';
import { Refused } from './pool';

export const uuid = () => string().uuid().required();

/** Runs a route's work: a Refused becomes its sentence and status, a validation error 400, anything else 500 without its inside. */
export async function answer(request: Request, work: () => Promise<Response | object>): Promise<Response> {
  try {
    guardOrigin(request);
    const out = await work();
    return out instanceof Response ? out : Response.json(out);
  } catch (error) {
    if (error instanceof Refused)
      return Response.json(
        { message: error.message, ...error.body },
        { status: error.status === 499 ? 409 : error.status },
      );
    if (error instanceof ValidationError)
      return Response.json(
        { message: `The request is not as it should be: ${error.errors[0]}.` },
        { status: 400 },
      );
    process.stderr.write(`${error instanceof Error ? error.stack : String(error)}\n`);
    return Response.json(
      {
        message:
          'Something went wrong on our side; nothing was changed. Try again, and report it if it stays.',
      },
      { status: 500 },
    );
  }
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

export function checked<S extends AnyObjectSchema>(schema: S, value: unknown): InferType<S> {
  return schema.validateSync(value, { stripUnknown: true }) as InferType<S>;
}

export async function bodyOf(request: Request): Promise<unknown> {
  try {
    return await request.json();
  } catch {
    throw new Refused('The request holds no JSON.', 400);
  }
}

export function binary(
  bytes: Uint8Array,
  type = 'application/octet-stream',
  headers: Record<string, string> = {},
): Response {
  return new Response(bytes as Uint8Array<ArrayBuffer>, {
    headers: { 'content-type': type, 'x-content-type-options': 'nosniff', ...headers },
  });
}
