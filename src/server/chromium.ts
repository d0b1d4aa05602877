/** A page printed as PDF by the Chromium of this machine. */
import { existsSync } from 'node:fs';
import { mkdtemp, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { BrowserContext } from 'playwright-core';
import { Refused, cancelled } from './refused';

/** Where Chromium lies on the systems that the house knows; the environment may name another place. */
const PLACES = ['/usr/bin/chromium', '/usr/bin/chromium-browser', '/usr/bin/google-chrome'];

/** It calls nobody: no name has an address, and what has one is asked of a port that nobody answers on. */
const ARGUMENTS = [
  '--disable-quic',
  '--disable-sync',
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
  return (told ? [told] : PLACES).find((path) => existsSync(path)) ?? null;
}

/**
 * Prints a page that needs nothing else. It is handed over through a pipe and never lies in a file; its scripts do not
 * run, and it has no network. Throws {@link Refused} with 501 where there is no Chromium, with 499 when it is cancelled;
 * Chromium has ended by then.
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
    return await inChromium(chromium, folder, seconds, signal, async (context) => {
      // Whatever it wants to load, or to go on to, is given up before it begins: the page stays as it was handed over.
      await context.route('**/*', (route) => route.abort('aborted'));
      const page = context.pages()[0] ?? (await context.newPage());
      await page.setContent(guarded(html), { timeout: seconds * 1000 });
      return new Uint8Array(await page.pdf({ preferCSSPageSize: true }));
    });
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

/**
 * Has a Chromium that keeps all it writes in one folder, for as long as the work takes, which it does within the time
 * given; it ends when the work is cancelled, and with this process, whose pipe it hangs on.
 */
async function inChromium<T>(
  executablePath: string,
  folder: string,
  seconds: number,
  signal: AbortSignal | undefined,
  work: (context: BrowserContext) => Promise<T>,
): Promise<T> {
  // Nobody else needs it, and it is large.
  const { chromium } = await import('playwright-core');
  const context = await chromium.launchPersistentContext(path.join(folder, 'profile'), {
    executablePath,
    args: ARGUMENTS,
    artifactsDir: folder,
    chromiumSandbox: false,
    javaScriptEnabled: false,
    offline: true,
    timeout: seconds * 1000,
    // What ends this process is its own to mind.
    handleSIGINT: false,
    handleSIGTERM: false,
    handleSIGHUP: false,
  });
  const end = () => void context.close().catch(() => undefined);
  const timer = setTimeout(end, seconds * 1000);
  signal?.addEventListener('abort', end);
  try {
    signal?.throwIfAborted();
    return await work(context);
  } finally {
    clearTimeout(timer);
    signal?.removeEventListener('abort', end);
    await context.close();
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
