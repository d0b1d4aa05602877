import { defineConfig } from '@playwright/test';
import { CHROMIUM } from './src/bench/chromium';

/** The real interface in Debian's Chromium, against a server that scripts/test.mjs has started. */
export default defineConfig({
  testDir: 'tests/e2e',
  outputDir: 'test-results/e2e',
  // Wide, since drawing without a graphics card varies with whatever else the machine does, the unit tests beside it
  // most of all; no test says how fast anything is.
  timeout: 600_000,
  expect: { timeout: 90_000 },
  workers: 1,
  retries: 0,
  reporter: [['list'], ['json', { outputFile: 'test-results/e2e.json' }]],
  use: {
    baseURL: process.env.BASE_URL ?? 'http://127.0.0.1:4810',
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    // Pictures for the documentation are drawn with smooth edges, which tests do without.
    ...(process.env.BOUGH_PICTURES
      ? {
          storageState: {
            cookies: [],
            origins: [
              {
                origin: process.env.BASE_URL ?? 'http://127.0.0.1:4810',
                localStorage: [{ name: 'drawing', value: 'fine' }],
              },
            ],
          },
        }
      : {}),
    launchOptions: CHROMIUM,
  },
});
