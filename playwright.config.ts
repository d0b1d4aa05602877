import { defineConfig } from '@playwright/test';
import { CHROMIUM } from './src/bench/chromium';

/**
 * Tests that look at the picture of the stage. For the others nothing is drawn: in software that takes a fifth of
 * their time.
 */
const LOOKS = /@pictures/;

/** Pictures for the documentation are taken by tests of both kinds. */
const isDrawnAlways = Boolean(process.env.BOUGH_PICTURES);

const UNDRAWN = { ...CHROMIUM, args: [...CHROMIUM.args, '--disable-gl-drawing-for-tests'] };

/** Addresses of the houses that tests are run against, one for each worker: tests in two houses never meet. */
const houses = (process.env.BASE_URL ?? 'http://127.0.0.1:4810').split(' ');

const baseURL = houses[Number(process.env.TEST_PARALLEL_INDEX ?? 0) % houses.length];

/** The real interface in Debian's Chromium, against a server that scripts/test.mjs has started. */
export default defineConfig({
  testDir: 'tests/e2e',
  outputDir: 'test-results/e2e',
  // Wide, since drawing without a graphics card varies with whatever else the machine does, the unit tests beside it
  // most of all; no test says how fast anything is.
  timeout: 1_500_000,
  expect: { timeout: 120_000 },
  workers: houses.length,
  retries: 0,
  reporter: [['list'], ['json', { outputFile: 'test-results/e2e.json' }]],
  use: {
    baseURL,
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    actionTimeout: 180_000,
    launchOptions: CHROMIUM,
  },
  projects: [
    { name: 'pictures', grep: LOOKS },
    { name: 'plain', grepInvert: LOOKS, use: { launchOptions: isDrawnAlways ? CHROMIUM : UNDRAWN } },
  ],
});
