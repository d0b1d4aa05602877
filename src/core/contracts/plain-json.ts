/**
 * JSON that says the same to everybody who reads it (I-JSON, RFC 7493): no field twice in one object with
 * different values, no number that is beyond all numbers, no half of a letter. A sum over anything else would be over what one reader made of it.
 */
import { parse } from 'lossless-json';

/** Reads such a text. Throws an Error with what is wrong, to be read after the name of the file. */
export function plainJson(text: string): unknown {
  try {
    // What is no JSON at all is told by the engine, in the words that are known.
    const json: unknown = JSON.parse(text);
    parse(text, null, { parseNumber: finite, onDuplicateKey: refuseTwice });
    checkText(json);
    return json;
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
    throw new Error('its parts stand in one another far too deep', { cause: error });
  }
}

function refuseTwice({ key }: { readonly key: string }): never {
  throw new Error(`the field “${key}” stands there twice in one object`);
}

function finite(written: string): number {
  const number = Number(written);
  if (!Number.isFinite(number)) throw new Error(`the number ${written} is beyond all numbers`);
  return number;
}

/** Throws where a text, or the name of a field, holds half of a letter. */
function checkText(value: unknown): void {
  if (typeof value === 'string') {
    if (/\p{Surrogate}/u.test(value)) throw new Error('a text in it holds half of a letter');
  } else if (Array.isArray(value)) {
    value.forEach(checkText);
  } else if (value && typeof value === 'object') {
    Object.entries(value).flat().forEach(checkText);
  }
}
