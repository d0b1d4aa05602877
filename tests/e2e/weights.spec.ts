import { type Page, expect } from '@playwright/test';
import { readGltf } from '../../src/core/formats/gltf/read';
import { test } from './browser';
import { accessible, bring, expectOtherPicture, headOf, picture, pictureAtRest } from './support';

const page4 = async (page: Page, file: string): Promise<void> => {
  await bring(page, file);
  await page.keyboard.press('4');
};

const notebook = (page: Page) => page.getByRole('complementary', { name: 'Notebook' });
const chip = (page: Page, name: string) =>
  page.getByRole('group', { name: 'Pages of the notebook' }).getByRole('button', { name, exact: true });

test('the weights room goes from all its findings to none, the brush by pointer and by keyboard on the way', async ({
  page,
}) => {
  await page4(page, 'deckhand.glb');
  // Remedies of the findings, each by its first button.
  for (const [finding, remedy] of [
    [/hold up to 6 bones/, 'Limit and normalise'],
    [/of sou'wester carry no weight/, 'Fill from the neighbours'],
  ] as const) {
    const row = page.getByRole('button', { name: finding });
    await row.click();
    await page.getByRole('button', { name: remedy, exact: true }).click();
    await expect(row).toHaveCount(0);
  }
  const ends = page.getByRole('button', { name: /carries weight/ });
  while ((await ends.count()) > 0) {
    const before = await ends.count();
    const told = await ends.first().textContent();
    await ends.first().click();
    // The picture is that of the bone that the finding speaks of.
    await expect(page.getByText(`weight of ${/“([^”]+)”/.exec(told!)![1]}`, { exact: true })).toBeVisible();
    await page.getByRole('button', { name: 'Give its weight to the parent', exact: true }).click();
    await expect(ends).toHaveCount(before - 1);
  }
  const uneven = page.getByRole('button', { name: /otherwise than their twins/ });
  if ((await uneven.count()) > 0) {
    await uneven.first().click();
    await page.getByRole('button', { name: 'Mirror the weights', exact: true }).first().click();
    await expect(uneven).toHaveCount(0);
  }
  await expect(page.getByText(/Every point is carried as the brief wants it/)).toBeVisible();
  // The brush without a pointer: the points that a bone pulls between two weights, chosen, and one dab on them.
  await page.keyboard.press('/');
  await page.keyboard.type('bone L_shin');
  await page.keyboard.press('Enter');
  await page.keyboard.press('w');
  const brush = page.getByRole('region', { name: 'Brush', exact: true });
  await expect(brush).toContainText('L_shin');
  await accessible(page);
  const choose = page.getByRole('button', { name: 'Choose', exact: true });
  await page.getByLabel('From this weight').fill('0.4');
  await page.getByLabel('To this weight').fill('0.6');
  await choose.focus();
  await page.keyboard.press('Enter');
  await expect(brush).toContainText(/kept to [\d\u202f]+ chosen vertices/);
  const dab = async (work: string) => {
    await brush
      .getByRole('group', { name: 'What the brush does' })
      .getByRole('button', { name: work, exact: true })
      .focus();
    await page.keyboard.press('Enter');
    await brush.getByRole('button', { name: 'Dab on them' }).focus();
    await page.keyboard.press('Enter');
  };
  // Half way between two rings that are alike there is nothing to smooth, and it says so.
  await dab('smooth');
  await expect(
    page.getByText('The chosen points have what the brush would give them already.'),
  ).toBeVisible();
  await dab('add');
  const painted = page.getByTestId('painted');
  await expect(painted).toContainText(/[1-9][\d\u202f]* points? brushed/);
  const byKeyboard = await painted.innerText();
  // And by the pointer, kept to nothing: more points than before.
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  await page.keyboard.press('w');
  await brush.getByRole('button', { name: 'Both sides at once' }).click();
  const box = (await page.locator('canvas').first().boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.54, box.y + box.height * 0.74);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.54, box.y + box.height * 0.8, { steps: 5 });
  await page.mouse.up();
  await expect(painted).not.toHaveText(byKeyboard);
  await page.getByRole('button', { name: 'Keep as one step' }).click();
  await expect(page.getByText(/weights by the brush/).first()).toBeVisible();
});

test('a mesh is bound after a look at its parts, and a garment gets its weights from it', async ({
  page,
}) => {
  await page4(page, 'deckhand-unbound.glb');
  await expect(page.getByRole('button', { name: /“body” is bound to no bone/ })).toBeVisible();
  await chip(page, 'Bind').click();
  const meshes = page.getByRole('list', { name: 'Meshes' });
  await expect(meshes.getByRole('checkbox', { name: /body/ })).toBeChecked();
  await meshes.getByRole('checkbox', { name: /oilskin coat/ }).uncheck();
  const parts = page.getByRole('list', { name: 'Parts and how they are bound' });
  await expect(parts.getByRole('combobox', { name: 'How body 1 is bound' })).toHaveValue('heat');
  await expect(parts.getByRole('combobox', { name: 'How body 2 is bound' })).toHaveValue('one');
  await accessible(page);
  await picture(page, 'bind');
  await page.getByRole('button', { name: 'Bind 1 mesh' }).click();
  await expect(meshes.getByText('not bound')).toHaveCount(1);
  await chip(page, 'Copy').click();
  await expect(page.getByLabel('From', { exact: true }).locator('option:checked')).toHaveText('body');
  await expect(page.getByLabel('Onto', { exact: true }).locator('option:checked')).toHaveText(
    'oilskin coat (not bound)',
  );
  await expect(notebook(page)).toContainText(/Found on the other mesh/);
  await page.getByRole('button', { name: 'Picture of it' }).click();
  await expect(page.getByText('where weights come from')).toBeVisible();
  await accessible(page);
  await page.getByRole('button', { name: 'Copy weights', exact: true }).click();
  await expect(page.getByText(/copy weights from body/).first()).toBeVisible();
  await chip(page, 'Findings').click();
  await expect(page.getByRole('button', { name: /is bound to no bone/ })).toHaveCount(0);
  const file = await page.request.get(`/api/revisions/${await headOf(page)}/file?format=glb`);
  const { nodes, meshes: written } = readGltf([{ name: 'a.glb', bytes: new Uint8Array(await file.body()) }]);
  for (const { mesh, skin, name } of nodes)
    if (mesh >= 0 && name !== 'storm lantern') {
      expect([name, skin >= 0]).toEqual([name, true]);
      expect(written[mesh].influences).not.toBeNull();
    }
});

test(
  'exact weights on what a bone pulls: set, held bones stay, one taken out',
  { tag: '@pictures' },
  async ({ page }) => {
    await page4(page, 'deckhand-clean.glb');
    await page.keyboard.press('/');
    await page.keyboard.type('bone leg_lower_lt');
    await page.keyboard.press('Enter');
    await chip(page, 'Who pulls').click();
    await page.getByLabel('From this weight').fill('0.3');
    await page.getByLabel('To this weight').fill('0.7');
    await page.getByRole('button', { name: 'Choose', exact: true }).click();
    const row = (bone: string) =>
      page.getByRole('row').filter({ has: page.getByRole('button', { name: `Take ${bone} out here` }) });
    await expect(row('leg_lower_lt')).toBeVisible();
    await picture(page, 'weights');
    await page.getByRole('button', { name: 'Hold leg_upper_lt' }).click();
    const held = await row('leg_upper_lt').locator('td').nth(1).innerText();
    await page.getByLabel('Weight', { exact: true }).fill('0.25');
    await page.getByRole('button', { name: 'Take away', exact: true }).click();
    await expect(page.getByText(/Revision 2: take away 0.25 of leg_lower_lt/)).toBeVisible();
    // Held: it has what it had.
    await expect(row('leg_upper_lt').locator('td').nth(1)).toHaveText(held);
    await page.getByRole('button', { name: 'Take leg_lower_lt out here' }).click();
    await expect(row('leg_lower_lt')).toHaveCount(0);
    await accessible(page);
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await expect(page.getByRole('button', { name: /^revision 2,/ })).toBeVisible();
    // The list of these points on others, and whose every point is as a picture.
    await page.getByRole('button', { name: 'Copy the list' }).click();
    const mean = await row('leg_lower_lt').locator('td').nth(1).innerText();
    await page.getByLabel('From this weight').fill('0.95');
    await page.getByLabel('To this weight').fill('1');
    await page.getByRole('button', { name: 'Choose', exact: true }).click();
    await expect(row('leg_lower_lt').locator('td').nth(1)).not.toHaveText(mean);
    await page.getByRole('button', { name: 'Paste it' }).click();
    await expect(page.getByText(/Revision 4: paste a list of weights/)).toBeVisible();
    await expect(row('leg_lower_lt').locator('td').nth(1)).toHaveText(mean);
    const before = await pictureAtRest(page);
    await page.getByRole('button', { name: 'Owners', exact: true }).click();
    await expectOtherPicture(page, before, 'owners are shown');
  },
);
