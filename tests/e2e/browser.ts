/**
 * One browser profile for all tests of a worker: what it has once compiled and fetched of the page it need not again, which
 * is about a third of the processor's time that opening a character takes. What a page keeps is taken away before every test.
 */
import { type BrowserContext, test as base } from '@playwright/test';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';

/** All that a page keeps in the browser; not what the browser keeps of the page. */
const KEPT_BY_PAGES = 'cookies,local_storage,indexeddb,cache_storage,service_workers';

/**
 * Drawing in software takes most of the time: small pictures do where none is kept. Those for the documentation are drawn
 * with smooth edges.
 */
const DRAWING = process.env.BOUGH_PICTURES ? 'fine' : 'small';

export const test = base.extend<object, { profile: BrowserContext }>({
  profile: [
    async ({ playwright, launchOptions }, use, { project }) => {
      const folder = mkdtempSync(path.join(tmpdir(), 'bough-browser-'));
      const { baseURL, viewport, actionTimeout = 0 } = project.use;
      const profile = await playwright.chromium.launchPersistentContext(folder, {
        ...launchOptions,
        baseURL,
        viewport,
        // Nothing fades or slides: each picture on the way would be drawn by the processor.
        reducedMotion: 'reduce',
        acceptDownloads: true,
      });
      profile.setDefaultTimeout(actionTimeout);
      await profile.addInitScript((drawing) => {
        // A page without an address keeps nothing.
        if (location.protocol === 'http:' && !localStorage.getItem('drawing'))
          localStorage.setItem('drawing', drawing);
      }, DRAWING);
      await use(profile);
      await profile.close();
      rmSync(folder, { recursive: true, force: true });
    },
    { scope: 'worker' },
  ],
  context: async ({ profile, baseURL }, use) => {
    // The first page stays, or the browser would end with the last one.
    const [first] = profile.pages();
    const session = await profile.newCDPSession(first);
    const { origin } = new URL(baseURL ?? '');
    await session.send('Storage.clearDataForOrigin', { origin, storageTypes: KEPT_BY_PAGES });
    await session.detach();
    await use(profile);
    for (const page of profile.pages()) if (page !== first) await page.close();
  },
});
