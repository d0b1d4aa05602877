/** Waiving with a reason, and handing over what is sealed. */
import { type Page, expect } from '@playwright/test';
import { spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { test } from './browser';
import { accessible, bring, castFile, picture, ready } from './support';

/** The Deckhand under a name of its own: other tests know those of the shelf by theirs. */
const bringAs = (page: Page, name: string) => bring(page, name, readFileSync(castFile('deckhand.glb')));

const saved = async (page: Page, click: () => Promise<void>) => {
  const [download] = await Promise.all([page.waitForEvent('download'), click()]);
  return { name: download.suggestedFilename(), bytes: new Uint8Array(readFileSync(await download.path())) };
};

test('a finding is waived by keyboard, all of a kind by mouse, and withdrawn; the ledger keeps both', async ({
  page,
}) => {
  await bringAs(page, 'coat-and-cap.glb');
  await page.keyboard.press('4');
  const list = page.getByRole('complementary', { name: 'Notebook' });
  await expect(list.getByText('3 stop · 3 worth fixing')).toBeVisible();
  const before = await page
    .getByText(/stop hand-off$/)
    .first()
    .innerText();
  // Whatever page of the notebook lies open, the finding that is chosen is the one that is asked about.
  await page.keyboard.press('1');
  await page.getByRole('button', { name: 'Measures', exact: true }).click();
  await page.keyboard.press('z');
  await expect(page.getByRole('dialog', { name: 'Waive, with a reason' })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Findings', exact: true }).click();
  await page.keyboard.press('4');
  await page.keyboard.press('z');
  const dialog = page.getByRole('dialog', { name: 'Waive, with a reason' });
  await expect(dialog.getByRole('button', { name: 'Waive', exact: true })).toBeDisabled();
  await accessible(page);
  await page.keyboard.type('the engine of this game takes eight');
  await page.keyboard.press('Tab');
  await page.keyboard.type('R. Lindqvist');
  await page.keyboard.press('Enter');
  await expect(list.getByText('2 stop · 3 worth fixing')).toBeVisible();
  // In its row; the leaf of the finding, which stays open, may tell it as well.
  await expect(
    list.getByRole('button', { name: /R\. Lindqvist: the engine of this game takes eight/ }),
  ).toBeVisible();
  await expect(page.getByText(`${Number(before.split(' ')[0]) - 1} stop hand-off`)).toBeVisible();

  // Two of one kind at once; the name is known by now.
  await list.getByRole('button', { name: /L_coat_b_end/ }).click();
  await list.getByRole('button', { name: 'Waive it …' }).click();
  await expect(dialog.getByRole('textbox', { name: 'Your name' })).toHaveValue('R. Lindqvist');
  await dialog.getByRole('button', { name: 'All of them' }).click();
  await dialog.getByRole('textbox', { name: 'Reason' }).fill('they swing with the coat');
  await dialog.getByRole('combobox', { name: 'How long' }).selectOption('revision');
  await dialog.getByRole('button', { name: 'Waive 2 findings' }).click();
  await expect(list.getByText('2 stop · 1 worth fixing')).toBeVisible();
  await expect(list.getByRole('heading', { name: '3 waived' })).toBeVisible();

  // It stays over a reload, is told on the shelf, and comes back when it is withdrawn.
  await page.reload();
  await ready(page);
  await expect(list.getByRole('heading', { name: '3 waived' })).toBeVisible();
  await list.getByRole('button', { name: /hold up to 6/ }).click();
  // What its remedy would do comes a moment later and moves what stands below it.
  await expect(list.getByRole('cell', { name: /^All else/ })).toBeVisible();
  await list.getByRole('button', { name: 'Withdraw', exact: true }).click();
  await expect(list.getByText('3 stop · 1 worth fixing')).toBeVisible();
  await page.keyboard.press('l');
  await page.getByText('2 waivers, 1 withdrawn').click();
  await expect(page.getByText(/withdrawn by R\. Lindqvist/)).toBeVisible();
  await page.getByRole('button', { name: 'Take up again' }).click();
  await expect(list.getByRole('heading', { name: '3 waived' })).toBeVisible();

  // Out as a file and in again: what stands here is not taken twice.
  const [id] = /[0-9a-f]{8}-[0-9a-f-]{27}/.exec(page.url()) ?? [];
  const waivers = await page.request.get(`/api/characters/${id}/waivers`);
  const offer = (buffer: Buffer) =>
    page
      .getByLabel('File of waivers')
      .setInputFiles({ name: 'w.json', mimeType: 'application/json', buffer });
  await offer(await waivers.body());
  await expect(page.getByText('No waivers were taken in; 2 stood here already.')).toBeVisible();
  await offer(Buffer.from('{"kind":"young-bough-waivers","waivers":[{"keys":["a"],"reason":"x"}]}'));
  await expect(page.getByText(/“w\.json” is no file of waivers: .*by/)).toBeVisible();
  await page.getByRole('button', { name: 'Withdraw', exact: true }).last().click();
  await expect(page.getByText(/^The waiver is withdrawn/)).toBeVisible();
  await offer(await waivers.body());
  await expect(page.getByText('One waiver was taken in; 1 stood here already.')).toBeVisible();
  await expect(list.getByRole('heading', { name: '3 waived' })).toBeVisible();
  await page.goto('/');
  await expect(page.getByText('3 waived').last()).toBeVisible();
});

test('what is chosen goes out and is sealed; the file is known again, and another one is not', async ({
  page,
}, info) => {
  await bringAs(page, 'for-the-night-build.glb');
  await page.keyboard.press('7');
  const form = page.getByRole('form', { name: 'Hand over' });
  await expect(form.getByText('everything goes out')).toBeVisible();
  await expect(form.getByRole('button', { name: 'Seal and hand over' })).toBeDisabled();
  await form.getByRole('checkbox', { name: /storm lantern/ }).uncheck();
  // What something else needs goes along.
  await form.getByRole('checkbox', { name: /^base/ }).click();
  await expect(form.getByText('goes along, something else needs it')).toBeVisible();
  await expect(form.getByText('1 left out')).toBeVisible();
  await form.getByRole('textbox', { name: 'By, kept in this browser' }).fill('R. Lindqvist');
  await form.getByRole('textbox', { name: 'Note' }).fill('for the night build');
  await accessible(page);
  // What stops it must be meant before it is sealed.
  await expect(form.getByRole('button', { name: 'Seal and hand over' })).toBeDisabled();
  await expect(form.getByText('Mend what stops it, or say that it is meant so.')).toBeVisible();
  await form.getByRole('checkbox', { name: /findings stop hand-off; seal it all the same/ }).check();
  await form.getByRole('button', { name: 'Seal and hand over' }).click();
  await expect(page.getByText('Handed over, and sealed.')).toBeVisible();
  const before = page.getByRole('region', { name: 'Handed over before' });
  // Whoever sealed it by keyboard goes on where the docket stands.
  await expect.poll(() => before.evaluate((element) => element.contains(document.activeElement))).toBe(true);
  await expect(before.getByText('1 left out')).toBeVisible();
  const file = await saved(page, () => before.getByRole('link', { name: /^File of/ }).click());
  const docket = await saved(page, () => before.getByRole('link', { name: /^Docket of/ }).click());
  const sealed = JSON.parse(new TextDecoder().decode(docket.bytes));
  expect(sealed).toMatchObject({ by: 'R. Lindqvist', note: 'for the night build' });
  expect(sealed.leftOut.map((i: { name: string }) => i.name)).toEqual(['storm lantern']);
  const verify = (bytes: Uint8Array, ...more: string[]) => {
    const [out, d] = [info.outputPath('out.glb'), info.outputPath('docket.json')];
    writeFileSync(out, bytes);
    writeFileSync(d, docket.bytes);
    const args = ['dist/cli.mjs', 'verify', out, '--docket', d, ...more];
    return spawnSync(process.execPath, args, { encoding: 'utf8' });
  };
  expect(verify(file.bytes)).toMatchObject({ status: 0, stdout: expect.stringContaining('byte for byte') });
  const pdf = await saved(page, () => before.getByRole('button', { name: /^PDF of/ }).click());
  expect(new TextDecoder('latin1').decode(pdf.bytes.subarray(0, 5))).toBe('%PDF-');

  await before.getByRole('link', { name: 'All of the house' }).click();
  await expect(page.getByRole('heading', { name: 'Dockets' })).toBeVisible();
  await expect(page.getByText('for the night build')).toBeVisible();
  await accessible(page);
  // Whoever has the key of the house can tell that a docket comes from it, also when another key signs.
  await page.getByRole('button', { name: /^Signed with/ }).click();
  const keys = page.getByRole('dialog', { name: 'The key of this house' });
  const shown = keys.getByText(/^[0-9a-f]{64}$/);
  const key = await shown.first().innerText();
  expect(sealed.signature.key).toBe(key);
  const signed = { status: 0, stdout: expect.stringContaining('is signed with the key that was given') };
  expect(verify(file.bytes, '--key', key)).toMatchObject(signed);
  await accessible(page);
  await keys.getByRole('button', { name: 'Make another key …' }).click();
  await keys.getByRole('button', { name: 'Yes, make another key' }).click();
  await expect(keys.getByText('Another key signs from now on.')).toBeVisible();
  const other = await shown.first().innerText();
  expect(other).not.toBe(key);
  expect(verify(file.bytes, '--key', other)).toMatchObject({
    status: 1,
    stdout: expect.stringContaining('does not come from that house'),
  });
  expect(verify(file.bytes, '--key', key)).toMatchObject(signed);
  await keys.getByRole('button', { name: 'Close' }).click();
  const held = page.getByLabel('File to hold against the dockets');
  await held.setInputFiles({
    name: 'mine.glb',
    mimeType: 'model/gltf-binary',
    buffer: Buffer.from(file.bytes),
  });
  await expect(page.getByText(/“mine\.glb” is byte for byte what R\. Lindqvist handed over/)).toBeVisible();
  await picture(page, 'dockets');
  const bent = file.bytes.slice();
  bent[bent.length - 100] ^= 1;
  expect(verify(bent)).toMatchObject({
    status: 1,
    stdout: expect.stringContaining('is not what was handed over'),
  });
  await held.setInputFiles({ name: 'bent.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from(bent) });
  await expect(page.getByText(/“bent\.glb” is none of these/)).toBeVisible();
  const [report] = await Promise.all([
    page.waitForEvent('popup'),
    page
      .getByRole('link', { name: /^Report of/ })
      .first()
      .click(),
  ]);
  await expect(report.getByRole('heading', { name: 'Handed over' })).toBeVisible();
  await expect(report.getByText('Left out on purpose: storm lantern.')).toBeVisible();
});

test('several are handed over in one go, each with a docket of its own', async ({ page }) => {
  await page.goto('/dockets');
  await page.getByRole('button', { name: 'Hand over several …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Hand over several' });
  const go = dialog.getByRole('button', { name: /^Hand .* over$/ });
  await expect(go).toBeDisabled();
  await dialog.getByRole('button', { name: 'Those that nothing stops' }).click();
  await expect(dialog.getByRole('checkbox', { name: /^Deckhand, clean/ })).toBeChecked();
  await expect(dialog.getByRole('checkbox', { name: /^Stoker/ })).not.toBeChecked();
  await dialog.getByRole('checkbox', { name: /^Capstan/ }).check();
  await dialog.getByRole('textbox', { name: 'By, kept in this browser' }).fill('A lead');
  await dialog.getByRole('textbox', { name: 'Note' }).fill('the whole crew');
  await accessible(page);
  await go.click();
  await expect(page).toHaveURL(/\/work\?job=/);
  const done = page.getByRole('table', { name: 'What came of it' });
  // Each is written, read back and turned joint by joint.
  await expect(done.getByRole('row', { name: /^Deckhand, clean/ })).toContainText('nothing open', {
    timeout: 600_000,
  });
  await expect(done.getByRole('row', { name: /^Capstan/ })).toContainText('stop hand-off');
  await expect(page.getByRole('link', { name: /^Docket of Capstan/ })).toBeVisible();
  await accessible(page);
  await page.goto('/dockets');
  await expect(page.getByText('the whole crew').first()).toBeVisible();
  await expect(page.getByText('the whole crew')).toHaveCount(await page.getByText('A lead').count());
});

test('thousands of dockets: only those in sight stand in the page, the last can be reached, words find', async ({
  page,
}) => {
  const count = 5000;
  const dockets = Array.from({ length: count }, (_, i) => ({
    id: `00000000-0000-4000-8000-${String(i).padStart(12, '0')}`,
    character: '00000000-0000-4000-8000-000000000000',
    name: `Crew ${i}`,
    revision: 1,
    brief: 'handset@1',
    briefTitle: 'Night Ferry, handset',
    by: i % 2 ? 'R. Lindqvist' : 'A lead',
    note: i % 9 ? '' : 'words that take more than one line, so that the rows are not all of one height',
    counts: { stops: 0, worth: 0, note: 0 },
    waived: 0,
    leftOut: 0,
    fileName: `crew-${i}-r1.glb`,
    fileBytes: 1000,
    sha256: String(i % 100).padStart(64, '0'),
    picture: '0'.repeat(64),
    at: '2026-11-01T12:00:00.000Z',
  }));
  await page.route('**/api/dockets', (route) => route.fulfill({ json: { dockets } }));
  await page.goto('/dockets');
  const table = page.getByRole('table');
  await expect(table.getByText('Crew 0', { exact: true })).toBeVisible();
  // A file that was handed over again and again is kept once.
  await expect(page.getByText(`${count} dockets · files of 100 kB`)).toBeVisible();
  expect(await table.getByRole('row').count()).toBeLessThan(60);
  await page.evaluate(async () => {
    for (let before = -1; before !== window.scrollY;) {
      before = window.scrollY;
      window.scrollTo(0, document.body.scrollHeight);
      await new Promise((resolve) => setTimeout(resolve, 200));
    }
  });
  await expect(table.getByText(`Crew ${count - 1}`, { exact: true })).toBeInViewport();
  expect(await table.getByRole('row').count()).toBeLessThan(60);
  const find = page.getByRole('textbox', { name: 'Find a docket' });
  await find.fill('LIND 4321');
  await expect(page.getByText(`1 of ${count} dockets`)).toBeVisible();
  await expect(table.getByText('crew-4321-r1.glb')).toBeVisible();
  await find.fill('lead 4321');
  await expect(page.getByText('None of them holds all of these words.')).toBeVisible();
  await accessible(page);
});

test('what the machine of the brief makes of it is a finding of the docket, and one press mends it', async ({
  page,
}) => {
  await bringAs(page, 'for-the-handset.glb');
  await page.keyboard.press('7');
  const open = page.getByRole('region', { name: 'On arrival, under the brief' });
  await expect(open.getByRole('button', { name: /“A handset” holds “storm lantern”/ })).toBeVisible();
  await accessible(page);
  await open.getByRole('button', { name: 'Bake the transform into the points' }).click();
  await expect(page.getByText(/Revision 2: bake the transform into the points/)).toBeVisible();
  await expect(open).toHaveCount(0);
});
