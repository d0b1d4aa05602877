/** A page printed as PDF by the Chromium of this machine. */
import { execFile } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { promisify } from 'node:util';
import { Refused } from './refused';

/** Where Chromium lies on the systems that the house knows; the environment may name another place. */
const PLACES = ['/usr/bin/chromium', '/usr/bin/chromium-browser', '/usr/bin/google-chrome'];

/** It calls nobody, keeps nothing, and prints what it is given. */
const ARGUMENTS = [
  '--headless',
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--no-pdf-header-footer',
];

/** How long printing may take, milliseconds. */
const PATIENCE = 60_000;

/** The Chromium of this machine, where BOUGH_CHROMIUM says or where systems put it; null where there is none. */
function chromiumPath(): string | null {
  const told = process.env.BOUGH_CHROMIUM;
  return (told ? [told] : PLACES).find((p) => existsSync(p)) ?? null;
}

/** Prints a page that needs nothing else. Throws {@link Refused} with 501 where there is no Chromium. */
export async function printPdf(html: Uint8Array): Promise<Uint8Array> {
  const chromium = chromiumPath();
  if (!chromium)
    throw new Refused(
      'There is no Chromium on this machine to print a PDF with; open the report as a page and print it there, or install Chromium and try again.',
      501,
    );
  const folder = await mkdtemp(path.join(tmpdir(), 'bough-print-'));
  try {
    const page = path.join(folder, 'report.html');
    const pdf = path.join(folder, 'report.pdf');
    await writeFile(page, html);
    const profile = `--user-data-dir=${path.join(folder, 'profile')}`;
    const args = [...ARGUMENTS, profile, `--print-to-pdf=${pdf}`, pathToFileURL(page).href];
    await promisify(execFile)(chromium, args, { timeout: PATIENCE });
    return new Uint8Array(await readFile(pdf));
  } catch {
    throw new Refused(
      'Chromium could not print the report; open it as a page and print it there, or try again.',
      502,
    );
  } finally {
    await rm(folder, { recursive: true, force: true, maxRetries: 3 });
  }
}
