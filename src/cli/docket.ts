import { type Docket, docketIn } from '../core/house/docket';
import { UsageError } from './errors';
import { bytesOf } from './files';

/** The docket that a file holds. Throws UsageError where it holds none. */
export function docketOf(file: string): Docket {
  try {
    return docketIn(new TextDecoder().decode(bytesOf(file)));
  } catch (error) {
    if (error instanceof UsageError) throw error;
    const why = error instanceof Error ? error.message : 'it cannot be read';
    throw new UsageError(`“${file}” is no docket: ${why}.`);
  }
}
