import { expect } from '@playwright/test';
import { test } from './browser';
import { accessible, bring, castFile, openCharacter, ready } from './support';

test('the night sheet keeps the tokens and passes axe', async ({ page }) => {
  await openCharacter(page, 'Deckhand, clean');
  // A page that broke on the server would be drawn again from nothing in the browser, without the chosen
  // sheet.
  expect(await (await page.request.get(page.url())).text()).toContain('Opening …');
  const ground = () => page.evaluate(() => getComputedStyle(document.body).backgroundColor);
  const day = await ground();
  await page.keyboard.press('n');
  expect(await ground()).not.toBe(day);
  // All colours turn at once; none is on its way between the sheets.
  expect(
    await page.evaluate(
      () =>
        document
          .getAnimations()
          .filter(
            (animation) => animation instanceof CSSTransition && /color/.test(animation.transitionProperty),
          ).length,
    ),
  ).toBe(0);
  await accessible(page);
  await page.reload();
  await ready(page);
  expect(await ground()).not.toBe(day);
  await page.getByRole('button', { name: 'Day or night sheet' }).click();
  expect(await ground()).toBe(day);
});

test('another brief is another audit: eight influences on a desk are no fault', async ({ page }) => {
  await page.goto('/');
  await page.locator('input[type=file]').setInputFiles(castFile('deckhand.glb'));
  await expect(page.getByText('is on the shelf')).toBeVisible();
  await page
    .getByRole('link', { name: /^Open deckhand$/ })
    .first()
    .click();
  await ready(page);
  await expect(page.getByText('8 stop hand-off')).toBeVisible();
  await page.getByRole('button', { name: /^Brief:/ }).click();
  await page.getByRole('menuitem', { name: /desktop/ }).click();
  // A desk minds where mesh nodes stand as well.
  await expect(page.getByText('6 stop hand-off')).toBeVisible();
  await page.keyboard.press('4');
  await expect(page.getByRole('button', { name: /hold up to 6 bones/ })).toHaveCount(0);
});

test('an audit can be broken off: it tells how far it is, and the brief stays what it was', async ({
  page,
}) => {
  await openCharacter(page, 'Deckhand');
  // An audit that never ends, as far as the page can see.
  await page.route(/\/audit\?brief=headset/, (route) =>
    route.request().method() === 'POST' ? undefined : route.continue(),
  );
  await page.getByRole('button', { name: /^Brief:/ }).click();
  await page.getByRole('menuitem', { name: /Night Ferry, headset/ }).click();
  await expect(page.getByRole('progressbar', { name: 'Audited so far' })).toBeVisible();
  await expect(page.getByRole('button', { name: /^Brief:.*headset/ })).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByText('Cancelled; the brief is still “Night Ferry, handset”.')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Brief:.*handset/ })).toBeVisible();
  await expect(page.getByText(/stop hand-off/)).toBeVisible();
});

test('renaming: clashes are told before anything changes, and the new name is everywhere afterwards', async ({
  page,
}) => {
  await page.goto('/');
  await page.locator('input[type=file]').setInputFiles(castFile('deckhand.glb'));
  await page
    .getByRole('link', { name: /^Open deckhand$/ })
    .first()
    .click();
  await ready(page);
  await page.keyboard.press('2');
  await page.getByRole('button', { name: /leftover of copying/ }).click();
  const table = page.getByLabel('Table of old and new names');
  await expect(table).toHaveValue('R_index_2_copy → R_index_2');
  await table.fill('R_index_2_copy → R_index_1');
  await expect(page.getByText('clash: R_index_1')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Rename/ })).toBeDisabled();
  await table.fill('R_index_2_copy, R_index_2');
  await page.getByRole('button', { name: 'Rename 1' }).click();
  await expect(page.getByRole('button', { name: /leftover of copying/ })).toHaveCount(0);
  await page.keyboard.press('b');
  await page.getByLabel('Find a bone').fill('R_index');
  await expect(page.getByRole('option', { name: /^R_index_2, deforming, under R_index_1/ })).toBeVisible();
});

test('a character is removed only after a question, and the shelf is without it', async ({ page }) => {
  await page.goto('/');
  await page.locator('input[type=file]').setInputFiles(castFile('quay-skeleton.glb'));
  await expect(page.getByText('is on the shelf')).toBeVisible();
  const cards = page
    .getByRole('listitem')
    .filter({ has: page.getByRole('link', { name: 'Open quay-skeleton', exact: true }) });
  await expect(cards.first()).toBeVisible();
  const before = await cards.count();
  await page.getByRole('button', { name: 'Remove quay-skeleton' }).first().click();
  await expect(page.getByRole('alertdialog')).toBeVisible();
  await page.getByRole('button', { name: 'Keep it' }).click();
  expect(await cards.count()).toBe(before);
  // Where the server does not answer, that is said, and the character stays.
  await page.route('**/api/characters/*', (route) => route.abort());
  await page.getByRole('button', { name: 'Remove quay-skeleton' }).first().click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(
    page
      .getByRole('alert')
      .filter({ hasText: '“quay-skeleton” was not removed. The server does not answer' }),
  ).toBeVisible();
  expect(await cards.count()).toBe(before);
  await page.unroute('**/api/characters/*');
  await page.getByRole('button', { name: 'Try again' }).click();
  await expect(cards).toHaveCount(before - 1);
  await expect(page.getByRole('alert').filter({ hasText: 'was not removed' })).toHaveCount(0);
});

test('a page that is not there says so and shows the way back', async ({ page }) => {
  await page.goto('/c/00000000-0000-4000-8000-000000000000');
  await expect(page.getByText(/not in the house any more/)).toBeVisible();
  await page.getByRole('link', { name: 'Back to the shelf' }).last().click();
  await expect(page.getByRole('heading', { name: 'Characters' })).toBeVisible();
});

test('many findings of one kind are one row that opens; a room with nothing to examine is not called clean', async ({
  page,
}) => {
  const parts = 8;
  const gltf = {
    asset: { version: '2.0' },
    accessors: [{ componentType: 5126, type: 'VEC3', count: 3, min: [0, 0, 0], max: [0, 0, 0] }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
    nodes: Array.from({ length: parts }, (_, i) => ({
      name: `part ${i}`,
      mesh: 0,
      rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2],
    })),
    scenes: [{ nodes: Array.from({ length: parts }, (_, i) => i) }],
    scene: 0,
  };
  await page.goto('/');
  const buffer = Buffer.from(JSON.stringify(gltf));
  await page
    .locator('input[type=file]')
    .setInputFiles({ name: 'cranks.gltf', mimeType: 'model/gltf+json', buffer });
  await page.getByRole('link', { name: 'Open cranks', exact: true }).first().click();
  await ready(page);
  await page.keyboard.press('1');
  const notebook = page.getByRole('complementary', { name: 'Notebook' });
  const gathered = notebook.getByRole('button', { name: /8 ×/ }).first();
  const rows = notebook.getByRole('button', { name: /is turned by 90°/ });
  await expect(gathered).toHaveAttribute('aria-expanded', 'false');
  await expect(rows).toHaveCount(0);
  await gathered.click();
  await expect(rows).toHaveCount(parts);
  await rows.nth(2).click();
  const leaf = notebook.getByRole('region', { name: 'The chosen finding' });
  await expect(leaf.locator('xpath=..').locator('xpath=..')).toContainText('“part 2” is turned');
  await accessible(page);
  // Closed again, it says which of them is chosen; J goes on among them.
  await gathered.click();
  await expect(gathered).toContainText('3 of 8 is chosen');
  await page.keyboard.press('j');
  await expect(gathered).toContainText('4 of 8 is chosen');
  await expect(gathered).toBeFocused();
  // One press, one preview, one revision for all of them.
  await leaf.getByRole('button', { name: `All ${parts} …` }).click();
  await expect(leaf.getByRole('row', { name: `Findings of this kind ${parts} 0` })).toBeVisible();
  await accessible(page);
  await leaf.getByRole('button', { name: `Do it for ${parts} at once` }).click();
  await expect(page.getByText(/Revision 2: .* 8 times/)).toBeVisible();
  await expect(notebook.getByRole('button', { name: /is turned by 90°/ })).toHaveCount(0);
  await page.keyboard.press('4');
  await expect(notebook).toContainText('No mesh is bound to bones: there are no weights to look at.');
  const rooms = page.getByRole('navigation', { name: 'Rooms' });
  await expect(rooms.getByRole('button', { name: 'Weights', exact: true })).toBeVisible();
  await page.keyboard.press('2');
  await expect(notebook).toContainText('It has no bones');
});

for (const [width, height] of [
  [1100, 700],
  [640, 400],
  [320, 568],
])
  test(`at ${width} × ${height} nothing lies outside: stage and notebook are reached by scrolling one way`, async ({
    page,
  }) => {
    await page.setViewportSize({ width, height });
    await bring(page, 'deckhand.glb');
    const wide = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth);
    expect(wide).toBeLessThanOrEqual(0);
    const notebook = page.getByRole('complementary', { name: 'Notebook' });
    await notebook.getByRole('button', { name: 'Bake the scale into the points' }).scrollIntoViewIfNeeded();
    await expect(notebook.getByRole('button', { name: 'Bake the scale into the points' })).toBeInViewport();
    await page.getByRole('button', { name: 'Docket' }).first().click();
    const form = page.getByRole('form', { name: 'Hand over' });
    await form.getByRole('textbox', { name: 'Note' }).scrollIntoViewIfNeeded();
    await expect(form.getByRole('textbox', { name: 'Note' })).toBeInViewport();
    expect(await page.evaluate(() => document.documentElement.scrollWidth - innerWidth)).toBeLessThanOrEqual(
      0,
    );
    await accessible(page);
  });

test('a step in one window is told in the other at once, which shows it when it is asked to', async ({
  page,
  context,
}) => {
  await bring(page, 'deckhand.glb');
  const other = await context.newPage();
  await other.goto(page.url());
  await ready(other);
  await page.keyboard.press('1');
  await page.getByRole('button', { name: /hovers/ }).click();
  await page.getByRole('button', { name: 'Set on the ground', exact: true }).click();
  await expect(page.getByText(/Revision 2: set on the ground/)).toBeVisible();
  await expect(page.getByText(/Another window has gone on/)).toHaveCount(0);
  await expect(other.getByText('the character stands at revision 2, here you see 1.')).toBeVisible();
  await accessible(other);
  await other.getByRole('button', { name: 'Show revision 2' }).click();
  await expect(other.getByText('Revision 2, made in another window, is shown now.')).toBeVisible();
  await expect(other.getByText(/Another window has gone on/)).toHaveCount(0);
  await expect(other.getByRole('button', { name: /^revision 2, “/ })).toBeVisible();
});
