/** What a route of the house takes and gives, said once for both sides. */
import { type AnyObjectSchema, type AnySchema, type InferType, string } from 'yup';

export type Method = 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE';

/**
 * A route whose request and answer are JSON. Fields of the request that the path names (`:id`) stand in the
 * path; the others in the query of a GET or DELETE, in the body of the rest.
 */
export interface Route<Q extends AnyObjectSchema, A extends AnySchema> {
  readonly method: Method;
  readonly path: string;
  readonly request: Q;
  readonly answer: A;
}

export const defineRoute = <Q extends AnyObjectSchema, A extends AnySchema>(
  route: Route<Q, A>,
): Route<Q, A> => route;

export type AnswerOf<R> = R extends Route<AnyObjectSchema, infer A> ? InferType<A> : never;

/** Names of the fields that stand in a path. */
const pathFields = (path: string): string[] => [...path.matchAll(/:(\w+)/g)].map((match) => match[1]);

/** The address of a request: its path filled in, and for requests without a body the rest as a query. */
export function addressOf(
  { method, path }: Pick<Route<AnyObjectSchema, AnySchema>, 'method' | 'path'>,
  request: Readonly<Record<string, unknown>>,
): string {
  const inPath = new Set(pathFields(path));
  const filled = path.replace(/:(\w+)/g, (_, name: string) => encodeURIComponent(String(request[name])));
  if (hasBody(method)) return filled;
  const query = new URLSearchParams();
  for (const [name, value] of Object.entries(request))
    if (!inPath.has(name) && value !== undefined && value !== null) query.set(name, String(value));
  const text = query.toString();
  return text ? `${filled}?${text}` : filled;
}

export const hasBody = (method: Method): boolean => method !== 'GET' && method !== 'DELETE';

/** What of a request goes into its body. */
export function bodyOf(
  { path }: Pick<Route<AnyObjectSchema, AnySchema>, 'path'>,
  request: Readonly<Record<string, unknown>>,
): Record<string, unknown> {
  const inPath = new Set(pathFields(path));
  return Object.fromEntries(Object.entries(request).filter(([name]) => !inPath.has(name)));
}

/** An id as the database makes them. */
export const uuid = () => string().uuid().required();

/** A content address: sha-256 in hex. */
export const contentAddress = () =>
  string()
    .matches(/^[0-9a-f]{64}$/)
    .required();
