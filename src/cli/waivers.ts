/** Files of waivers. */
import { existsSync } from 'node:fs';
import { type Waiver, waiverFile, waiversFrom } from '../core/contracts/waiver';
import { UsageError } from './errors';
import { bytesOf, writeBytes } from './files';

/** The waivers of a file; none where no file is named. */
export function waiversOf(file: string | undefined): readonly Waiver[] {
  if (!file) return [];
  try {
    return waiversFrom(JSON.parse(new TextDecoder().decode(bytesOf(file))));
  } catch (error) {
    const why = error instanceof Error ? error.message : 'it cannot be read';
    throw new UsageError(`“${file}” is no file of waivers: ${why}.`);
  }
}

/** Adds a waiver to a file, which is made where it is not there. */
export function addWaiver(file: string, waiver: Waiver): void {
  const known = existsSync(file) ? waiversOf(file) : [];
  writeBytes(file, `${JSON.stringify(waiverFile([...known, waiver]), null, 1)}\n`);
}
