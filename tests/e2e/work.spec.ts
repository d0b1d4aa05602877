import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { expect } from '@playwright/test';
import { test } from './browser';
import { accessible, bringBy, castFile, databaseOfHouse, openCharacter } from './support';

const LONG = { timeout: 900_000 };

test('twelve moved in one go: a worker is killed, the page closed, and all twelve stand where they should', async ({
  page,
  context,
  request,
}) => {
  const url = databaseOfHouse();
  test.skip(!url, 'a second worker needs DATABASE_URL');
  const names = Array.from({ length: 12 }, (_, i) => `Crew ${String(i + 1).padStart(2, '0')}`);
  const ids: string[] = [];
  const [large, small] = ['deckhand-clean.glb', 'quay-skeleton.glb'].map((name) =>
    readFileSync(castFile(name)),
  );
  // Two of them take long enough to be seen at work.
  for (const [i, name] of names.entries())
    ids.push(await bringBy(request, `${name}.glb`, { bytes: i < 2 ? large : small }));
  const second = spawn(process.execPath, ['dist/work.mjs'], {
    env: { ...process.env, DATABASE_URL: url },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  try {
    await new Promise((ready) => second.stdout.once('data', ready));
    const desk = await context.newPage();
    await openCharacter(desk, 'Capstan');
    await page.goto('/');
    await page.getByRole('button', { name: 'Move several' }).click();
    const dialog = page.getByRole('dialog', { name: 'Move several onto one skeleton' });
    for (const name of names) await dialog.getByRole('checkbox', { name: new RegExp(`^${name}`) }).check();
    await dialog.getByLabel('Skeleton to move to').selectOption({ label: 'VRM 1.0 humanoid' });
    await dialog.getByRole('button', { name: 'Move 12' }).click();
    await expect(page).toHaveURL(/\/work\?job=/);
    // Every other page is told, be it of a colleague.
    await expect(desk.getByRole('link', { name: '1 at work' })).toBeVisible();
    await desk.close();
    await expect(page.getByText(/^[1-9]\d? of 12 done$/)).toBeVisible(LONG);
    second.kill('SIGKILL');
    await page.close();
  } finally {
    second.kill('SIGKILL');
  }
  const later = await context.newPage();
  await later.goto('/work');
  const line = later.getByRole('listitem').filter({ hasText: '12 characters onto VRM 1.0 humanoid' });
  await expect(line.getByText(/^done, /)).toBeVisible(LONG);
  for (const name of names)
    await expect(
      line.getByRole('row', { name: new RegExp(`^${name} .* \\d+ of \\d+ .* → \\d+$`) }),
    ).toBeVisible();
  await expect(later.getByText(/^\d+ at work$/)).toHaveCount(0);
  await accessible(later);
  // Each was moved once.
  for (const id of ids) {
    const { revisions, head } = await (await request.get(`/api/characters/${id}`)).json();
    expect(revisions).toHaveLength(2);
    expect(revisions.find((revision: { id: string }) => revision.id === head).label).toBe(
      'moved to VRM 1.0 humanoid',
    );
    await request.delete(`/api/characters/${id}`, { headers: { 'sec-fetch-site': 'same-origin' } });
  }
});

test('what is at work can be cancelled, and what is cancelled leaves nothing', async ({ page, request }) => {
  const names = Array.from({ length: 6 }, (_, i) => `Spare ${i + 1}`);
  const ids: string[] = [];
  const bytes = readFileSync(castFile('quay-skeleton.glb'));
  for (const name of names) ids.push(await bringBy(request, `${name}.glb`, { bytes }));
  await page.goto('/');
  await page.getByRole('button', { name: 'Move several' }).click();
  const dialog = page.getByRole('dialog', { name: 'Move several onto one skeleton' });
  for (const name of names) await dialog.getByRole('checkbox', { name: new RegExp(`^${name}`) }).check();
  await dialog.getByLabel('Skeleton to move to').selectOption({ label: 'VRM 1.0 humanoid' });
  await dialog.getByRole('button', { name: 'Move 6' }).click();
  const line = page.getByRole('listitem').filter({ hasText: '6 characters onto' });
  await line.getByRole('button', { name: 'Cancel what is left' }).click();
  await expect(line.getByText(/^cancelled, /)).toBeVisible(LONG);
  const states = await line.locator('tbody tr').allInnerTexts();
  const cancelled = states.filter((state) => state.includes('It was cancelled.')).length;
  expect(cancelled).toBeGreaterThan(0);
  // Those that were done before stand as they were made; the others as they were.
  const moved = async () => {
    let steps = 0;
    for (const id of ids)
      steps += (await (await request.get(`/api/characters/${id}`)).json()).revisions.length - 1;
    return steps;
  };
  expect(await moved()).toBe(ids.length - cancelled);
  // Asked for again, what was cancelled is done, and what was done is not done twice.
  await line.getByRole('button', { name: 'Ask again for what is not done' }).click();
  await expect(line.getByText(/^done, /)).toBeVisible(LONG);
  await expect(line.getByText('It was cancelled.')).toHaveCount(0);
  expect(await moved()).toBe(ids.length);
  for (const id of ids)
    await request.delete(`/api/characters/${id}`, { headers: { 'sec-fetch-site': 'same-origin' } });
});
