import { AxeBuilder } from '@axe-core/playwright';
import { type APIRequestContext, type Page, expect, test } from '@playwright/test';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { BRIEFS } from '../../src/core/house/briefs';

export const castFile = (name: string) => path.join(process.env.BOUGH_CAST ?? 'dist/demo', name);

/** Opens a character of the shelf by its name and waits until it has been audited. */
export async function openCharacter(page: Page, name: string): Promise<void> {
  await page.goto('/');
  await page
    .getByRole('link', { name: `Open ${name}`, exact: true })
    .first()
    .click();
  await ready(page);
}

/**
 * Takes a file in as a character of its own, so that tests do not meet each other's steps; a member of the cast where
 * no bytes are given. Gives its id.
 */
export async function bringBy(
  request: APIRequestContext,
  file: string,
  { bytes = readFileSync(castFile(file)), brief = BRIEFS[0].id }: { bytes?: Buffer; brief?: string } = {},
): Promise<string> {
  const answer = await request.post('/api/characters', {
    headers: { 'sec-fetch-site': 'same-origin' },
    multipart: { files: { name: file, mimeType: 'application/octet-stream', buffer: bytes }, brief },
  });
  const lines = (await answer.text()).trim().split('\n');
  const last = JSON.parse(lines[lines.length - 1]);
  expect(last, lines[lines.length - 1]).toHaveProperty('id');
  return last.id;
}

/** The same, and opens it. */
export async function bring(page: Page, file: string, bytes?: Buffer): Promise<void> {
  const id = await bringBy(page.request, file, { bytes });
  await page.goto(`/c/${id}`);
  await ready(page);
}

/** The database of the house that this worker's tests are run against. */
export const databaseOfHouse = (): string | undefined =>
  process.env.DATABASE_URL?.split(' ')[Number(process.env.TEST_PARALLEL_INDEX ?? 0)];

/** A page whose parts scroll by themselves does not scroll as a whole. */
export const fillsTheWindow = (page: Page): Promise<void> =>
  expect
    .poll(() => page.evaluate(() => document.documentElement.scrollHeight - window.innerHeight))
    .toBeLessThanOrEqual(0);

/** Fails in a test that nothing is drawn for: there every picture is as empty as the other. */
function expectDrawn(): void {
  expect(test.info().tags, 'a test that looks at the stage is tagged @pictures').toContain('@pictures');
}

/** The picture of the stage once it has come to rest: the same twice in a row. */
export async function pictureAtRest(page: Page): Promise<Buffer> {
  expectDrawn();
  const canvas = page.locator('canvas').first();
  let last = await canvas.screenshot();
  await expect
    .poll(
      async () => {
        const before = last;
        last = await canvas.screenshot();
        return last.equals(before);
      },
      { message: 'the stage never comes to rest' },
    )
    .toBe(true);
  return last;
}

/** Waits until the stage shows another picture; fails where it stays the same. */
export async function expectOtherPicture(page: Page, before: Buffer, after: string): Promise<void> {
  expectDrawn();
  const canvas = page.locator('canvas').first();
  await expect
    .poll(async () => (await canvas.screenshot()).equals(before), {
      message: `the picture is the same as before ${after}`,
    })
    .toBe(false);
}

export async function ready(page: Page): Promise<void> {
  await expect(page.getByRole('navigation', { name: 'Rooms' })).toBeVisible();
  await expect(page.getByText('Opening …')).toHaveCount(0);
  await expect(page.getByText('auditing …')).toHaveCount(0);
}

/** No serious or critical finding of axe, once nothing fades or slides any more. */
export async function accessible(page: Page): Promise<void> {
  await page.waitForFunction(() =>
    document
      .getAnimations()
      .every(
        (animation) =>
          animation.playState !== 'running' || animation.effect?.getComputedTiming().iterations === Infinity,
      ),
  );
  // There is no frame in the page: none has to be gathered in a page of its own.
  const { violations } = await new AxeBuilder({ page }).setLegacyMode().analyze();
  expect(
    violations
      .filter((violation) => violation.impact === 'serious' || violation.impact === 'critical')
      .map(
        (result) =>
          `${result.id}: ${result.nodes
            .slice(0, 3)
            .map((node) => `${node.html.slice(0, 140)} ${node.any[0]?.message ?? ''}`)
            .join(' | ')}`,
      ),
  ).toEqual([]);
}

/** Keeps the page's picture for the documentation, when asked to. */
export async function picture(page: Page, name: string): Promise<void> {
  if (!process.env.BOUGH_PICTURES) return;
  await page.mouse.move(4, 796);
  // Hints fade.
  await page.waitForTimeout(700);
  await page.screenshot({ path: path.join('docs', 'screenshots', `${name}.png`) });
}

/** The revision that stands, of the character that lies on the desk. */
export async function headOf(page: Page): Promise<string> {
  const id = /\/c\/([^/?]+)/.exec(page.url())![1];
  return (await (await page.request.get(`/api/characters/${id}`)).json()).head;
}
