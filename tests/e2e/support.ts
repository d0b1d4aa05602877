import { AxeBuilder } from '@axe-core/playwright';
import { type Page, expect } from '@playwright/test';
import path from 'node:path';

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

/** Takes a copy of a member of the cast in by itself, so that tests do not meet each other's steps. */
export async function bring(page: Page, file: string, buffer?: Buffer, name = file): Promise<void> {
  await page.goto('/');
  await page.getByRole('main').waitFor();
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles(buffer ? { name, mimeType: 'application/octet-stream', buffer } : castFile(file));
  await expect(page.getByText('is on the shelf')).toBeVisible({ timeout: 60_000 });
  await page
    .getByRole('link', { name: /^Open / })
    .first()
    .click();
  await ready(page);
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
      .every((a) => a.playState !== 'running' || a.effect?.getComputedTiming().iterations === Infinity),
  );
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(
    violations
      .filter((v) => v.impact === 'serious' || v.impact === 'critical')
      .map(
        (v) =>
          `${v.id}: ${v.nodes
            .slice(0, 3)
            .map((n) => `${n.html.slice(0, 140)} ${n.any[0]?.message ?? ''}`)
            .join(' | ')}`,
      ),
  ).toEqual([]);
}

/** Keeps the page's picture for the documentation, when asked to. */
export async function picture(page: Page, name: string): Promise<void> {
  if (!process.env.BOUGH_PICTURES) return;
  await page.mouse.move(4, 796);
  await page.waitForTimeout(700);
  await page.screenshot({ path: path.join('docs', 'screenshots', `${name}.png`) });
}
