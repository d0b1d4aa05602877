import { readFileSync } from 'node:fs';
import path from 'node:path';

let stamp: string | undefined;

/** What the checks of this house are, as a stamp: an audit that was made by other ones is made again. */
export function houseStamp(): string {
  if (stamp === undefined) {
    try {
      stamp = readFileSync(path.join(process.cwd(), 'dist', '.stamp'), 'utf8');
    } catch {
      // Without a build there is nothing to compare with; audits are then kept for this run.
      stamp = `run ${process.pid}`;
    }
  }
  return stamp;
}
