/** A page printed as PDF by the Chromium of this machine. */
import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import type { Kysely, Transaction } from 'kysely';
import { type Db, hashOf, putBlob } from './blobs';
import { type Database, keeping } from './database';
import { Refused, cancelled } from './refused';

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
  '--host-resolver-rules=MAP * ~NOTFOUND',
  '--proxy-server=127.0.0.1:9',
];

/** What a page that is printed may load and do: nothing but show what it carries itself. */
const POLICY = `<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'; img-src data:">`;

/** The page with that policy before all else that stands in its head. */
function guarded(html: Uint8Array): string {
  const text = new TextDecoder().decode(html);
  const head = /<head[^>]*>/i.exec(text);
  if (!head) return POLICY + text;
  const at = head.index + head[0].length;
  return text.slice(0, at) + POLICY + text.slice(at);
}

/** Folders of prints, by the process that made them. */
const FOLDER = 'bough-print-';

/** The Chromium of this machine, where BOUGH_CHROMIUM says or where systems put it; null where there is none. */
function chromiumPath(): string | null {
  const told = process.env.BOUGH_CHROMIUM;
  return (told ? [told] : PLACES).find((p) => existsSync(p)) ?? null;
}

/** The PDF of a report that has been printed before; null where it has not. */
export async function printOf(db: Db, report: Uint8Array): Promise<Uint8Array | null> {
  const row = await db
    .selectFrom('prints')
    .innerJoin('blobs', 'blobs.hash', 'prints.pdf')
    .select('bytes')
    .where('report', '=', hashOf(report))
    .executeTakeFirst();
  return row ? new Uint8Array(row.bytes.buffer, row.bytes.byteOffset, row.bytes.byteLength) : null;
}

/** Keeps a PDF beside the report that it is of; gives its address. */
export async function keepPrint(
  db: Kysely<Database>,
  report: Uint8Array,
  pdf: Uint8Array,
  ended: (trx: Transaction<Database>, kept: { pdf: string }) => Promise<void>,
  signal?: AbortSignal,
): Promise<{ pdf: string }> {
  const keep = async (trx: Transaction<Database>) => {
    const hash = await putBlob(trx, pdf);
    await trx
      .insertInto('prints')
      .values({ report: hashOf(report), pdf: hash })
      .onConflict((c) => c.column('report').doNothing())
      .execute();
    await ended(trx, { pdf: hash });
    return { pdf: hash };
  };
  return keeping(db, keep, signal);
}

/**
 * Prints a page that needs nothing else: scripts do not run, and there is no network. Throws {@link Refused} with 501 where
 * there is no Chromium.
 */
export async function printPdf(html: Uint8Array, seconds: number, signal?: AbortSignal): Promise<Uint8Array> {
  const chromium = chromiumPath();
  if (!chromium)
    throw new Refused(
      'There is no Chromium on this machine to print a PDF with; open the report as a page and print it there, or install Chromium and try again.',
      501,
    );
  await clearLeftovers();
  const folder = await mkdtemp(path.join(tmpdir(), `${FOLDER}${process.pid}-`));
  try {
    const page = path.join(folder, 'report.html');
    const pdf = path.join(folder, 'report.pdf');
    await writeFile(page, guarded(html));
    const profile = `--user-data-dir=${path.join(folder, 'profile')}`;
    const args = [...ARGUMENTS, profile, `--print-to-pdf=${pdf}`, pathToFileURL(page).href];
    await runToItsEnd(chromium, args, seconds, signal);
    return new Uint8Array(await readFile(pdf));
  } catch {
    if (signal?.aborted) throw cancelled();
    throw new Refused(
      'Chromium could not print the report; open it as a page and print it there, or try again.',
      502,
    );
  } finally {
    await rm(folder, { recursive: true, force: true, maxRetries: 3 });
  }
}

/** Runs a program in a group of processes of its own, so that all of them end with it, however it ends. */
async function runToItsEnd(
  program: string,
  args: readonly string[],
  seconds: number,
  signal?: AbortSignal,
): Promise<void> {
  const child = spawn(program, args, { detached: true, stdio: 'ignore' });
  const end = () => {
    if (child.pid === undefined) return;
    try {
      process.kill(-child.pid, 'SIGKILL');
    } catch {
      // They have ended by themselves.
    }
  };
  const timer = setTimeout(end, seconds * 1000);
  signal?.addEventListener('abort', end);
  if (signal?.aborted) end();
  try {
    const code = await new Promise<number | null>((done, fail) => {
      child.once('error', fail);
      child.once('exit', done);
    });
    if (code !== 0) throw new Error(`ended with ${code}`);
  } finally {
    clearTimeout(timer);
    signal?.removeEventListener('abort', end);
    end();
  }
}

/** Takes away what processes that are no more have left of their prints. */
async function clearLeftovers(): Promise<void> {
  for (const name of await readdir(tmpdir())) {
    const pid = Number(new RegExp(`^${FOLDER}(\\d+)-`).exec(name)?.[1] ?? 0);
    if (pid > 0 && !isRunning(pid)) await rm(path.join(tmpdir(), name), { recursive: true, force: true });
  }
}

function isRunning(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as { code?: string }).code === 'EPERM';
  }
}
