import { WRITTEN_FORMATS } from '../core/formats';
import { Refused } from './refused';

/** Checks the id of a format that a request names. `isWhole`: one in which a character can be handed over. Throws 400. */
export function checkFormat(id: string, isWhole = false): void {
  const fitting = WRITTEN_FORMATS.filter(({ writer }) => writer.isWhole || !isWhole);
  if (fitting.some((format) => format.id === id)) return;
  const known = fitting.map((format) => format.id).join(', ');
  throw new Refused(`“${id}” is no format that this can be written in; choose one of ${known}.`, 400);
}
