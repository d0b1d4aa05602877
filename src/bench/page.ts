/**
 * The page, driven in Chromium: how long a step takes from the click to the mended picture, and the longest
 * task of the page's own script. Drawing is not counted: what draws is made to do nothing, since this machine
 * may have no graphics card.
 */
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { type Page, chromium } from '@playwright/test';
import { CHROMIUM } from './chromium';

interface TraceEvent {
  readonly name: string;
  readonly ph: string;
  readonly pid: number;
  readonly tid: number;
  /** Microseconds of the clock, and of the thread. */
  readonly dur?: number;
  readonly tdur?: number;
  readonly args?: { readonly name?: string };
}

/** What runs script on the page's thread. */
const SCRIPT = new Set([
  'FunctionCall',
  'EvaluateScript',
  'TimerFire',
  'FireAnimationFrame',
  'EventDispatch',
]);

export interface PageFigures {
  /** The middle one of several steps, milliseconds. */
  readonly step: number;
  /** Longest piece of script, milliseconds of its thread, by what was done. */
  readonly longest: ReadonlyMap<string, number>;
}

/**
 * Measures the page of a house that serves at an address; the faulty Deckhand is brought in for it.
 * @param dense a file of a figure of very many points, on which choosing is measured
 */
export async function measurePage(base: string, dense: string): Promise<PageFigures> {
  const browser = await chromium.launch(CHROMIUM);
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' });
    await page.addInitScript(() => {
      const gl = WebGL2RenderingContext.prototype;
      for (const name of ['drawElements', 'drawArrays', 'clear'] as const)
        Object.defineProperty(gl, name, { value: () => {} });
    });
    await bringIn(page, base);
    const longest = new Map<string, number>();
    for (const [what, act] of Object.entries(ACTS)) longest.set(what, await longestTask(page, act));
    const step = await stepTime(page);
    await open(page, base, dense);
    longest.set('polygons chosen by brush on 500 000 points', await longestTask(page, CHOOSING));
    return { step, longest };
  } finally {
    await browser.close();
  }
}

async function settled(page: Page): Promise<void> {
  await page.getByRole('navigation', { name: 'Rooms' }).waitFor();
  await page.waitForFunction(() => !/Opening …|auditing …/.test(document.body.innerText));
  await page.waitForTimeout(1500);
}

async function bringIn(page: Page, base: string): Promise<void> {
  await page.goto(base);
  const buffer = readFileSync(path.join('dist', 'demo', 'deckhand.glb'));
  const file = { name: 'bench.glb', mimeType: 'model/gltf-binary', buffer };
  await page.locator('input[type=file]').setInputFiles(file);
  await page.getByRole('link', { name: 'Open bench' }).first().click();
  await settled(page);
}

async function open(page: Page, base: string, file: string): Promise<void> {
  await page.goto(base);
  await page.locator('input[type=file]').setInputFiles(file);
  const name = path.basename(file, path.extname(file));
  await page
    .getByRole('link', { name: `Open ${name}` })
    .first()
    .click({ timeout: 240_000 });
  await settled(page);
}

/** Goes across the figure in thirty movements; places and steps in pixels of the page. */
async function sweep(page: Page, isPressed: boolean, [x, y] = [420, 300], [dx, dy] = [6, 5]): Promise<void> {
  await page.mouse.move(x, y);
  if (isPressed) await page.mouse.down();
  for (let i = 0; i < 30; i++) {
    await page.mouse.move(x + i * dx, y + i * dy);
    await page.waitForTimeout(30);
  }
  if (isPressed) await page.mouse.up();
}

/** What is done on the page; only `act` is measured. */
interface Act {
  readonly before?: (page: Page) => Promise<void>;
  readonly act: (page: Page) => Promise<void>;
  readonly after?: (page: Page) => Promise<void>;
}

const CHOOSING: Act = {
  before: async (page) => {
    await page.keyboard.press('3');
    await page.keyboard.press('s');
    await page.getByRole('button', { name: 'Polygons', exact: true }).click();
    await page.getByRole('button', { name: 'Brush', exact: true }).click();
    await page.waitForTimeout(1500);
  },
  act: async (page) => {
    await sweep(page, true, [505, 330], [1.5, 2.5]);
    await page.waitForTimeout(300);
  },
  after: async (page) => {
    await page.keyboard.press('Escape');
    await page.keyboard.press('Escape');
  },
};

const ACTS: Readonly<Record<string, Act>> = {
  'polygons chosen by brush': CHOOSING,
  orbit: { act: (page) => sweep(page, true) },
  hover: { act: (page) => sweep(page, false) },
  'picking a finding': {
    act: async (page) => {
      for (let i = 0; i < 6; i++) {
        await page.keyboard.press('j');
        await page.waitForTimeout(200);
      }
    },
  },
  'opening a room': {
    act: async (page) => {
      for (const room of ['2', '3', '4', '5', '7', '1']) {
        await page.keyboard.press(room);
        await page.waitForTimeout(300);
      }
    },
  },
  'a stroke of the brush': {
    before: async (page) => {
      await page.keyboard.press('4');
      await chooseBone(page, 'spine_b');
      await page.getByRole('button', { name: 'Front', exact: true }).click();
      await page.locator('canvas').first().focus();
      await page.keyboard.press('w');
      await page.waitForTimeout(1500);
    },
    // On the coat from the first movement on: what begins beside the figure turns the camera.
    act: async (page) => {
      await sweep(page, true, [505, 330], [1.5, 2.5]);
      await page.waitForTimeout(300);
    },
    after: async (page) => {
      await page.getByRole('button', { name: 'Take all back' }).click();
      await page.keyboard.press('Escape');
    },
  },
  'playing a clip, with the turn of a bone beside it': {
    before: async (page) => {
      await page.keyboard.press('5');
      await chooseBone(page, 'R_forearm');
      await page.getByRole('button', { name: 'Play' }).click();
      await page.getByRole('img', { name: /^Turn of R_forearm/ }).waitFor();
      await page.waitForTimeout(1500);
    },
    act: (page) => page.waitForTimeout(2000),
    after: async (page) => {
      await page.getByRole('button', { name: 'Hold' }).click();
      await page.locator('canvas').first().focus();
      await page.keyboard.press('0');
      await page.keyboard.press('1');
    },
  },
};

async function chooseBone(page: Page, name: string): Promise<void> {
  await page.locator('canvas').first().focus();
  await page.keyboard.press('/');
  await page.keyboard.type(`bone ${name}`);
  await page.keyboard.press('Enter');
  await page.waitForTimeout(500);
}

/** How often something is done and traced. */
const TRACED = 3;

/** The longest piece of script while something is done: the middle one of a few times, milliseconds. */
async function longestTask(page: Page, { before, act, after }: Act): Promise<number> {
  await before?.(page);
  await act(page);
  const times: number[] = [];
  for (let i = 0; i < TRACED; i++) times.push(await longestOnce(page, act));
  await after?.(page);
  return times.toSorted((a, b) => a - b)[Math.floor(TRACED / 2)];
}

/** The same once; time of the page's thread, so that other work does not count. */
async function longestOnce(page: Page, act: Act['act']): Promise<number> {
  const session = await page.context().newCDPSession(page);
  const events: TraceEvent[] = [];
  session.on('Tracing.dataCollected', ({ value }) => events.push(...(value as unknown as TraceEvent[])));
  await session.send('Tracing.start', {
    categories: 'devtools.timeline,__metadata',
    options: 'record-until-full',
  });
  await act(page);
  const complete = new Promise<void>((done) => session.once('Tracing.tracingComplete', () => done()));
  await session.send('Tracing.end');
  await complete;
  await session.detach();
  const threads = new Set(
    events
      .filter((event) => event.name === 'thread_name' && event.args?.name === 'CrRendererMain')
      .map((event) => `${event.pid} ${event.tid}`),
  );
  const times = events
    .filter((event) => SCRIPT.has(event.name) && threads.has(`${event.pid} ${event.tid}`))
    .map((event) => (event.tdur ?? event.dur ?? 0) / 1000);
  if (times.length === 0) throw new Error('The trace holds no script of the page.');
  return Math.max(...times);
}

/** Steps that are done before any is timed: the threads have not run this code before. */
const WARMING = 2;
const TIMED = 5;

/**
 * From the click on a remedy to the picture that is mended, milliseconds: the middle one of a few, each undone
 * again.
 */
async function stepTime(page: Page): Promise<number> {
  const times: number[] = [];
  for (let i = 0; i < WARMING + TIMED; i++) {
    await page.keyboard.press('1');
    await page.getByRole('button', { name: /hovers/ }).click();
    const remedy = page.getByRole('button', { name: 'Set on the ground', exact: true });
    await remedy.waitFor();
    await page.waitForFunction(() =>
      [...document.querySelectorAll('button')].some(
        (element) => element.textContent === 'Set on the ground' && !element.disabled,
      ),
    );
    await page.waitForTimeout(800);
    times.push(await page.evaluate(clickUntilMended));
    await page.keyboard.press('u');
    await page.getByText(/^Undone: back at revision/).waitFor();
    await page.waitForTimeout(800);
  }
  return times.slice(WARMING).toSorted((a, b) => a - b)[Math.floor(TIMED / 2)];
}

/** Runs in the page: presses the remedy, and waits for the picture after the words that tell of the step. */
function clickUntilMended(): Promise<number> {
  return new Promise((done) => {
    const button = [...document.querySelectorAll('button')].find(
      (element) => element.textContent === 'Set on the ground',
    );
    const begin = performance.now();
    const end = () => done(performance.now() - begin);
    const watch = new MutationObserver(() => {
      if (!/Revision \d+: set on the ground/.test(document.body.textContent ?? '')) return;
      watch.disconnect();
      // The stage catches up in a task of its own, and draws in the frame after it.
      requestAnimationFrame(() => setTimeout(() => requestAnimationFrame(end)));
    });
    watch.observe(document.body, { subtree: true, childList: true, characterData: true });
    button?.click();
  });
}
