import { expect } from '@playwright/test';
import { test } from './browser';
import {
  accessible,
  castFile,
  expectOtherPicture,
  openCharacter,
  picture,
  pictureAtRest,
  ready,
} from './support';

test('the shelf: pictures, counts, and a clear sentence for what cannot be read', async ({ page }) => {
  await page.goto('/');
  await expect(page.getByRole('img', { name: 'Deckhand at rest', exact: true }).first()).toBeVisible();
  await accessible(page);
  await picture(page, 'shelf');
  const cards = await page
    .getByRole('listitem')
    .filter({ has: page.getByRole('link') })
    .count();
  await page.locator('input[type=file]').setInputFiles({
    name: 'notes.glb',
    mimeType: 'application/octet-stream',
    buffer: Buffer.from('not a character at all'),
  });
  await expect(page.getByText('was not taken in')).toBeVisible();
  await expect(page.getByText(/^notes\.glb: /)).toBeVisible();
  expect(
    await page
      .getByRole('listitem')
      .filter({ has: page.getByRole('link') })
      .count(),
  ).toBe(cards);
});

test('every room shows its findings, lights them up and passes axe', async ({ page }) => {
  await openCharacter(page, 'Deckhand');
  for (const [key, title, finding] of [
    ['1', 'Placement', /hovers/],
    ['2', 'Skeleton', /lies 0.053 m from the origin/],
    ['3', 'Surface', /\d+ points of “oilskin coat” lie within .*; merged, \d+ of them would go/],
    ['4', 'Weights', /hold up to 6 bones/],
  ] as const) {
    await page.keyboard.press(key);
    await expect(page.getByRole('heading', { name: title, exact: true })).toBeVisible();
    await expect(page.getByRole('button', { name: finding })).toBeVisible();
    await accessible(page);
    if (key !== '3') await page.keyboard.press('o');
  }
  await page.keyboard.press('5');
  await expect(page.getByRole('button', { name: 'Play' })).toBeVisible();
  await page.getByLabel('Moment of the clip').fill('0.5');
  await page.locator('canvas').first().focus();
  await page.keyboard.press('/');
  await page.keyboard.type('bone R_forearm');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('img', { name: /^Turn of R_forearm over the clip/ })).toBeVisible();
  await accessible(page);
  await page.keyboard.press('7');
  await expect(page.getByRole('heading', { name: 'Docket', exact: true })).toBeVisible();
  await accessible(page);
  await page.keyboard.press('6');
  await expect(page.getByTestId('arrives')).toContainText('Weight before');
  await accessible(page);
});

test(
  'the stage shows what is chosen: its pixels change with surface, finding, isolation and view',
  { tag: '@pictures' },
  async ({ page }) => {
    await openCharacter(page, 'Deckhand');
    let before = await pictureAtRest(page);
    for (const name of ['Edges', 'Sheer', 'Meshes', 'Weights', 'Left', 'Top', 'Front', 'Isolate']) {
      await page.getByRole('button', { name, exact: true }).last().click();
      await expectOtherPicture(page, before, name);
      before = await pictureAtRest(page);
    }
    await page.mouse.move(520, 420);
    await expect(page.getByTestId('read-out')).toContainText(/vertex|_/);
  },
);

test('with the keyboard alone: search, choose, repair, undo, read the sheet of keys', async ({ page }) => {
  await page.goto('/');
  await page.locator('input[type=file]').setInputFiles(castFile('deckhand.glb'));
  await expect(page.getByText('is on the shelf')).toBeVisible();
  await page
    .getByRole('link', { name: /^Open deckhand$/ })
    .first()
    .focus();
  await page.keyboard.press('Enter');
  await ready(page);
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keyboard' })).toBeVisible();
  await accessible(page);
  await page.keyboard.press('Escape');
  await page.keyboard.press('/');
  await expect(page.getByPlaceholder(/A room, a finding/)).toBeFocused();
  await page.keyboard.type("sou'wester carry");
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Weights', exact: true })).toBeVisible();
  const fill = page.getByRole('button', { name: 'Fill from the neighbours' });
  await expect(fill).toBeEnabled();
  await fill.focus();
  await page.keyboard.press('Enter');
  await expect(page.getByText('7 stop hand-off')).toBeVisible();
  await page.keyboard.press('u');
  await expect(page.getByText('8 stop hand-off')).toBeVisible();
  await page.keyboard.press('j');
  await expect(
    page.locator('button[aria-pressed=true]').filter({ hasText: 'do not sum to one' }),
  ).toBeVisible();
  await page.keyboard.press('l');
  await expect(page.getByText('fill from the neighbours')).toBeVisible();
});

test('a step on an old revision is refused with both revisions named, and nothing is lost', async ({
  page,
  request,
  baseURL,
}) => {
  await openCharacter(page, 'Deckhand');
  const id = new URL(page.url()).pathname.split('/')[2];
  const record = (await (await request.get(`/api/characters/${id}`)).json()) as {
    head: string;
    revisions: unknown[];
  };
  const post = (base: string) =>
    request.post(`/api/characters/${id}/steps/remedy`, {
      data: { base, remedy: 'set-on-ground', params: {} },
      headers: { origin: baseURL as string },
    });
  expect((await post(record.head)).status()).toBe(201);
  const stale = await post(record.head);
  expect(stale.status()).toBe(409);
  expect(await stale.json()).toMatchObject({
    base: { number: 1 },
    head: { number: 2 },
    message: expect.stringContaining('revision 2 has come since'),
  });
  // The open page learns of it when it tries, and shows the newer revision.
  await page.keyboard.press('1');
  await page.getByRole('button', { name: /hovers/ }).click();
  await page.getByRole('button', { name: 'Set on the ground' }).click();
  await expect(page.getByText(/revision 2 has come since/)).toBeVisible();
  await expect(page.getByRole('button', { name: 'revision 2, “set on the ground”' })).toBeVisible();
  await page.keyboard.press('u');
  await expect(page.getByText('Undone: back at revision 1, “as delivered”.')).toBeVisible();
});

test('requests from other sites change nothing', async ({ request }) => {
  const { characters } = (await (await request.get('/api/characters')).json()) as {
    characters: { id: string }[];
  };
  const response = await request.delete(`/api/characters/${characters[0].id}`, {
    headers: { origin: 'http://elsewhere.example' },
  });
  expect(response.status()).toBe(403);
  expect(
    ((await (await request.get('/api/characters')).json()) as { characters: unknown[] }).characters.length,
  ).toBe(characters.length);
  expect((await request.get('/api/characters', { headers: { host: 'elsewhere.example' } })).status()).toBe(
    403,
  );
});
