import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { type Page, expect } from '@playwright/test';
import { test } from './browser';
import { accessible, bring, castFile, fillsTheWindow, openCharacter, picture, ready } from './support';

/** Waits until a brief is the one that lies on the table. */
const liesOpen = (page: Page, title: string) =>
  expect(
    page.getByRole('navigation', { name: 'Briefs' }).getByRole('link', { name: new RegExp(`^${title}`) }),
  ).toHaveAttribute('aria-current', 'page');

test('a brief for a game of one’s own, and the Deckhand held against it', async ({ page }) => {
  await openCharacter(page, 'Deckhand');
  await page.getByRole('button', { name: /^Brief: Night Ferry, handset/ }).click();
  await page.getByRole('menuitem', { name: /make one of your own/ }).click();
  await expect(page.getByRole('heading', { name: 'Night Ferry, handset' })).toBeVisible();
  await fillsTheWindow(page);
  // One of the house is read, not changed.
  await expect(page.getByLabel('Height', { exact: true })).toBeDisabled();
  await page.getByRole('button', { name: 'Make one like it …' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Its name').fill('Harbour Lights, small');
  await dialog.getByLabel('Begins like').selectOption({ label: 'A figure, handset' });
  await accessible(page);
  await dialog.getByRole('button', { name: 'Make it' }).click();
  await expect(page).toHaveURL(/\/briefs\/harbour-lights-small$/);
  await page.getByLabel('beside it').selectOption({ label: 'Deckhand' });

  // A length in any unit, beside what is measured; a check that is not asked; a pattern that never ends.
  const height = page.getByLabel('Height', { exact: true });
  await height.fill('five feet');
  await page.keyboard.press('Enter');
  await expect(page.getByText('a length, as 1.76 m, 176 cm or 5 ft 9 in')).toBeVisible();
  await height.fill('5 ft 10 in');
  await page.keyboard.press('Enter');
  await expect(height).toHaveValue('1.778');
  await expect(page.getByText(/^measured 1\.78\d m$/)).toBeVisible();
  // In the game's own unit, so many to the metre: all lengths are told in it.
  await page.getByLabel('Lengths in').selectOption({ label: 'the game’s own' });
  const perMetre = page.getByLabel('Units to the metre');
  await perMetre.fill('0');
  await page.keyboard.press('Enter');
  await expect(page.getByText('a number above 0 and below 1 000 000')).toBeVisible();
  await perMetre.fill('32');
  await page.keyboard.press('Enter');
  await expect(height).toHaveValue('56.9');
  await expect(page.getByText(/^measured 5[67](\.\d+)? u$/)).toBeVisible();
  await page.getByLabel('Lengths in').selectOption('m');
  await expect(height).toHaveValue('1.778');
  const influences = page.getByLabel('Most bones at a point');
  await influences.fill('2');
  await page.keyboard.press('Enter');
  const limit = page.locator('[data-check="influence-limit"]');
  await expect(limit).toContainText('the brief allows 2');
  await page
    .getByLabel('More bones per point than the brief allows: how much it matters')
    .selectOption('off');
  await expect(limit).not.toContainText('the brief allows 2');
  const match = page.getByLabel('Names match');
  await match.fill('^(?=a)b');
  await expect(page.getByText('looks around at what stands beside a match')).toBeVisible();
  await page.getByRole('combobox', { name: 'Letters' }).selectOption('capital');
  await expect(match).toHaveValue('^[A-Z][A-Za-z0-9]*(_[A-Za-z0-9]+)*$');
  await expect(page.getByText('such as Spine_2, Upper_Arm')).toBeVisible();

  const changes = page.getByRole('region', { name: 'What is changed' });
  await expect(changes).toContainText('Height of the body, height: 1.75 m → 1.778 m');
  await expect(changes).toContainText(
    '“More bones per point than the brief allows”: as the check says → not asked',
  );
  await accessible(page);
  // What is not saved yet outlives the page.
  await page.reload();
  await expect(page.getByText('Your changes from before are here')).toBeVisible();
  await expect(height).toHaveValue('1.778');
  await page.getByRole('button', { name: 'Save version 2' }).click();
  await expect(page.getByText('Saved as version 2')).toBeVisible();
  await expect(page.getByRole('region', { name: 'Versions' })).toContainText('most bones at a point: 4 → 2');

  // The Deckhand under it: what this brief does not ask does not count.
  await openCharacter(page, 'Deckhand');
  await page.getByRole('button', { name: /^Brief: / }).click();
  await page.getByRole('menuitem', { name: /Harbour Lights, small/ }).click();
  await expect(page.getByText('The brief is now “Harbour Lights, small”.')).toBeVisible();
  await ready(page);
  await page.keyboard.press('4');
  await expect(page.getByText('the brief allows 2')).toHaveCount(0);

  // A stricter version, told before it is saved: who would stand differently.
  await page.getByRole('button', { name: /^Brief: / }).click();
  await page.getByRole('menuitem', { name: /make one of your own/ }).click();
  await page
    .getByLabel('More bones per point than the brief allows: how much it matters')
    .selectOption('stops');
  await page.getByRole('button', { name: 'Who would stand differently?' }).click();
  const trial = page.getByRole('table', { name: 'How they would stand' });
  await expect(trial.getByRole('row', { name: /^Deckhand/ })).toBeVisible();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await page.getByRole('button', { name: 'Really remove it?' }).click();
  await expect(page.getByRole('alert').first()).toContainText('“Deckhand” is held against this brief');
  await page.getByRole('button', { name: 'Take back' }).click();
  await page.getByRole('link', { name: 'Back to the character' }).click();
  await ready(page);
  await page.getByRole('button', { name: /^Brief: / }).click();
  await page.getByRole('menuitem', { name: /^Night Ferry, handset/ }).click();
  await expect(page.getByText('The brief is now “Night Ferry, handset”.')).toBeVisible();
});

test('a brief learned from a character that is right, out as a file and in again', async ({ page }) => {
  await page.goto('/briefs');
  // The first of the list lies open.
  await expect(page.getByRole('navigation', { name: 'Briefs' }).getByRole('link').first()).toHaveAttribute(
    'aria-current',
    'page',
  );
  await page.getByRole('button', { name: 'A brief of your own …' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Its name').fill('As the clean one');
  await dialog.getByLabel('Begins like').selectOption({ label: 'A figure, handset' });
  await dialog.getByRole('button', { name: 'learned from a character' }).click();
  await expect(dialog.getByRole('button', { name: 'Make it' })).toBeDisabled();
  await dialog.getByLabel('Character that is right').selectOption({ label: 'Deckhand, clean' });
  await dialog.getByRole('button', { name: 'Measure it' }).click();
  const learned = dialog.getByRole('table', { name: 'What was learned' });
  await expect(learned).toContainText('Height of the body, height');
  await accessible(page);
  await dialog.getByRole('button', { name: 'Make it' }).click();
  await liesOpen(page, 'As the clean one');
  await page.getByLabel('beside it').selectOption({ label: 'Deckhand, clean' });
  await expect(page.getByText('✓ nothing stops hand-off')).toBeVisible();
  await picture(page, 'briefs');
  await page.getByLabel('beside it').selectOption({ label: 'Deckhand' });
  await expect(page.getByText(/^\d+ stop hand-off$/)).toBeVisible();

  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'As a file' }).click();
  const file = await (await download).path();
  const brief = JSON.parse(readFileSync(file, 'utf8'));
  const input = page.getByLabel('File of a brief');
  const send = (json: object) =>
    input.setInputFiles({
      name: 'x.brief.json',
      mimeType: 'application/json',
      buffer: Buffer.from(JSON.stringify(json)),
    });
  await send({ ...brief, title: 'Spoilt', colour: 'blue' });
  await expect(page.getByRole('alert').first()).toContainText('a field “colour” that no brief has');
  await send({ ...brief, title: 'The same again' });
  await expect(page).toHaveURL(/\/briefs\/the-same-again$/);
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await page.getByRole('button', { name: 'Really remove it?' }).click();
  // The page of briefs goes on to the first of them.
  await expect(page).not.toHaveURL(/the-same-again/);
  await expect(page.getByRole('link', { name: /^The same again/ })).toHaveCount(0);
});

test('on arrival the brief that fits is proposed, with the reason', async ({ page }) => {
  await page.goto('/');
  await page.getByLabel('Files of a character').setInputFiles({
    name: 'winch.glb',
    mimeType: 'model/gltf-binary',
    buffer: readFileSync(castFile('capstan.glb')),
  });
  await expect(
    page.getByText(/“Night Ferry, deck gear” is for such a machine: its parts hang rigid/),
  ).toBeVisible();
  const open = page.getByRole('link', { name: /^Open winch/ }).first();
  const id = (await open.getAttribute('href'))?.split('/').at(-1) ?? '';
  await page.getByRole('button', { name: 'Hold it against that one' }).click();
  await expect(page.getByText('It is held against “Night Ferry, deck gear” now.')).toBeVisible();
  const card = page.getByRole('listitem').filter({ has: page.getByRole('link', { name: /^Open winch/ }) });
  await expect(card).toContainText('for Night Ferry, deck gear');
  await expect(card).toContainText('stop hand-off');
  await page.request.delete(`/api/characters/${id}`, { headers: { origin: new URL(page.url()).origin } });
});

test('a brief made by hand and the same from its file give the same audit; its own skeleton is offered; several side by side', async ({
  page,
}, info) => {
  await page.goto('/briefs');
  await page.getByRole('button', { name: 'A brief of your own …' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Its name').fill('The long pier');
  await dialog.getByLabel('Begins like').selectOption({ label: 'A figure, handset' });
  await dialog.getByRole('button', { name: 'Make it' }).click();
  await liesOpen(page, 'The long pier');
  await page.getByLabel('beside it').selectOption({ label: 'Deckhand' });

  // Names one by one, and the skeleton of a file.
  const names = page.locator('[data-check="bone-names"]');
  await page.getByLabel('Forbidden', { exact: true }).fill('hips_c\nnobody');
  await expect(names).toContainText('that the brief forbids: “hips_c”');
  // What the brief cannot be stays in its field with a sentence, and is not saved.
  const most = page.getByLabel('Most bones at a point');
  await most.fill('2.5');
  await expect(page.getByText('Most bones at a point must be an integer.')).toBeVisible();
  await expect(most).toHaveAttribute('aria-invalid', 'true');
  await expect(page.getByRole('button', { name: 'Save version 2' })).toBeDisabled();
  await most.fill('3');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Most bones at a point must be')).toHaveCount(0);
  await page.getByLabel('File of the skeleton').setInputFiles(castFile('stoker.dae'));
  await expect(page.getByLabel('Skeleton of the game')).toHaveValue('own');
  await expect(page.getByRole('region', { name: 'What is changed' })).toContainText(
    'Skeleton of the game: VRM 1.0 humanoid → stoker',
  );
  await accessible(page);
  await page.getByRole('button', { name: 'Save version 2' }).click();
  await expect(page.getByText('Saved as version 2')).toBeVisible();
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'As a file' }).click();
  const file = info.outputPath('the-long-pier.json');
  await (await download).saveAs(file);

  // On the page, and on the command line.
  const deckhand = castFile('deckhand.glb');
  const cli = (...args: string[]) =>
    spawnSync(process.execPath, ['dist/cli.mjs', ...args], { encoding: 'utf8', maxBuffer: 1 << 28 });
  const report = JSON.parse(cli('audit', deckhand, '--brief', file, '--json').stdout);
  await bring(page, 'pier-hand.glb', readFileSync(castFile('deckhand.glb')));
  await page.getByRole('button', { name: /^Brief: / }).click();
  await page.getByRole('menuitem', { name: /The long pier/ }).click();
  await expect(page.getByText('The brief is now “The long pier”.')).toBeVisible();
  await ready(page);
  await page.keyboard.press('7');
  const verdict = page.getByRole('complementary', { name: 'Docket' });
  const { stops, worth } = report.counts;
  await expect(verdict.getByText(`${stops} stop hand-off`)).toBeVisible();
  await expect(verdict.getByText(`${worth} worth fixing`)).toBeVisible();
  expect(report.findings.map((finding: { message: string }) => finding.message).join()).toContain('“hips_c”');

  // The crosswalk offers the brief's own skeleton first; so does the command line.
  await page.keyboard.press('6');
  await expect(page.locator('select:has(option[value=own])')).toHaveValue('own');
  const out = info.outputPath('moved.glb');
  const moved = JSON.parse(cli('remap', deckhand, '--brief', file, '--plain', '--out', out, '--json').stdout);
  expect(moved.pairs.length).toBeGreaterThan(20);

  await page.getByRole('button', { name: /^Brief: / }).click();
  await page.getByRole('menuitem', { name: /side by side/ }).click();
  const several = page.getByRole('dialog', { name: 'Under several briefs' });
  await several.getByRole('button', { name: 'Only what glTF 2.0 demands', exact: true }).click();
  const row = several.getByRole('row', { name: /^Bone names/ });
  await expect(row).toContainText('“hips_c”');
  await expect(row).toContainText('not asked');
  await expect(several.getByText(`${stops} stop hand-off`)).toBeVisible();
  await accessible(page);
  await several.getByRole('button', { name: 'Hold it against this one' }).click();
  await expect(page.getByText('The brief is now “Only what glTF 2.0 demands”.')).toBeVisible();
});
