import fc from 'fast-check';

type Json = null | boolean | number | string | Json[] | { [key: string]: Json };

/** Every place in a value, as the way to it. */
function placesIn(value: Json, way: readonly (string | number)[] = []): (readonly (string | number)[])[] {
  if (value === null || typeof value !== 'object') return [way];
  const inner = Object.entries(value).flatMap(([key, otherValue]) =>
    placesIn(otherValue, [...way, Array.isArray(value) ? Number(key) : key]),
  );
  return [way, ...inner];
}

function withAt(value: Json, [first, ...rest]: readonly (string | number)[], next: Json): Json {
  if (first === undefined) return next;
  const copy = structuredClone(value) as Record<string | number, Json>;
  copy[first] = withAt(copy[first], rest, next);
  return copy as Json;
}

/**
 * Reads a file's value again and again with something else at one of its places: what is no such file is
 * refused by an Error with a sentence, never by a crash of another kind. Gives how many were refused.
 */
export function spoiltReads(file: unknown, read: (json: unknown) => unknown): number {
  const value = JSON.parse(JSON.stringify(file)) as Json;
  const places = placesIn(value);
  let refused = 0;
  fc.assert(
    fc.property(fc.constantFrom(...places), fc.jsonValue(), (way, other) => {
      try {
        read(withAt(value, way, other as Json));
      } catch (error) {
        refused++;
        if (!(error instanceof Error) || error instanceof TypeError || error instanceof RangeError)
          throw error;
        if (!/\S+ \S+/.test(error.message)) throw new Error(`“${error.message}” is no sentence`);
      }
    }),
    { numRuns: 200 },
  );
  return refused;
}
