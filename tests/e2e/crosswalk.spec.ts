import { readFileSync } from 'node:fs';
import { type Page, expect } from '@playwright/test';
import { test } from './browser';
import { accessible, bring, castFile, openCharacter, picture, ready } from './support';

/** The clean Deckhand in the crosswalk room, onto a skeleton with fewer spine bones and no twists. */
async function openCrosswalk(page: Page): Promise<void> {
  await openCharacter(page, 'Deckhand, clean');
  await page.keyboard.press('6');
  await page.getByLabel('Skeleton to move to').selectOption({ label: 'VRM 1.0 humanoid' });
  // By the rules alone, so that what is shown stays as it is.
  await page.getByRole('button', { name: 'Plain', exact: true }).click();
  // Rows move among the groups when what was tried comes.
  await expect(page.getByText(/trying it on/)).toHaveCount(0);
  await expect(page.getByTestId('proof')).toContainText(/of \d+ poses differ/);
}

const pairs = (page: Page) => page.getByTestId('pairs');
const row = (page: Page, name: RegExp) => pairs(page).getByRole('option', { name });
const told = (page: Page) => page.getByRole('region', { name: 'Pairing' }).getByRole('status').first();

test(
  'what the proof shows to be off wants a look, with the pose; found fine it does not, and Undo brings it back',
  { tag: '@pictures' },
  async ({ page }) => {
    await openCrosswalk(page);
    await expect(told(page)).toHaveText(/^\d+ want a look/);
    const before = Number((await told(page).textContent())?.match(/\d+/)?.[0]);
    await expect(row(page, /^Wants a look, 0 of/)).toBeVisible();
    await row(page, /^spine_5 fold upperChest.* mm off/).click();
    const stageLeft = page.getByRole('img', { name: /Deckhand, clean on the stage/ });
    const atRest = await stageLeft.screenshot();
    // The pose that shows it worst stands with the pair, and is the one that is shown.
    const words = await page.getByRole('group', { name: 'The chosen pair' }).innerText();
    const [, pose] = /off in “(.+?)”/.exec(words)!;
    await page.getByRole('button', { name: 'Show that pose' }).click();
    await expect(page.getByText(`in the pose “${pose}”`, { exact: true })).toBeVisible();
    await expect.poll(async () => (await stageLeft.screenshot()).equals(atRest)).toBe(false);
    await accessible(page);
    await page
      .getByRole('group', { name: 'The chosen pair' })
      .getByRole('button', { name: 'Back to rest' })
      .click();
    await expect(page.getByText('in the pose')).toHaveCount(0);
    await page.keyboard.press('f');
    await expect(told(page)).toHaveText(new RegExp(`^${before - 1} want`));
    await expect(row(page, /^Wants a look, 1 of/)).toBeVisible();
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await expect(told(page)).toHaveText(new RegExp(`^${before} want`));
  },
);

test('by keyboard alone: groups, several pairs, the other side, the way back, and a draft that outlives the page', async ({
  page,
}) => {
  await openCrosswalk(page);
  await page.getByLabel('Find a bone').fill('leg_lower');
  await row(page, /^leg_lower_lt/).focus();
  // At once one after the other: an arrow leads on from where the last one leads.
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await expect(row(page, /^leg_lower_rt/)).toBeFocused();
  await page.keyboard.press('ArrowUp');
  await expect(row(page, /^Right leg/)).toBeFocused();
  await page.keyboard.press('ArrowUp');
  await expect(row(page, /^leg_lower_lt/)).toBeFocused();
  await expect(row(page, /^leg_lower_lt/)).toHaveAttribute('aria-selected', 'true');
  const pair = page.getByRole('group', { name: 'The chosen pair' });
  await pair.getByLabel('Its counterpart').selectOption({ label: 'leftFoot' });
  await row(page, /^leg_lower_lt/).focus();
  await page.keyboard.press('r');
  await expect(row(page, /^leg_lower_rt \w+ rightFoot.*locked/)).toBeVisible();
  await page.keyboard.press('u');
  await expect(row(page, /^leg_lower_rt carry rightLowerLeg/)).toBeVisible();
  await page.keyboard.press('Shift+U');
  await expect(row(page, /^leg_lower_rt \w+ rightFoot/)).toBeVisible();
  // Several: a range with Shift, then one rule for all of them.
  await page.getByLabel('Find a bone').fill('ring_');
  await row(page, /^ring_1_lt/).click();
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Shift+ArrowDown');
  await expect(page.getByText('3 bones chosen')).toBeVisible();
  const several = page.getByRole('group', { name: 'The chosen pairs' });
  await several.getByLabel('Where they go').selectOption({ label: 'leftIndexProximal' });
  await several.getByRole('button', { name: 'Carry in order' }).click();
  await expect(row(page, /^ring_3_lt carry leftIndexDistal/)).toBeVisible();
  await page.keyboard.press('u');
  await expect(row(page, /^ring_3_lt carry leftRingDistal/)).toBeVisible();
  // Groups close and open by the arrows.
  await page.getByLabel('Find a bone').fill('');
  await row(page, /^ring_3_lt/).focus();
  await page.keyboard.press('Home');
  await expect(row(page, /^Wants a look/)).toBeFocused();
  await page.keyboard.press('ArrowLeft');
  await expect(row(page, /^Wants a look.*closed/)).toBeVisible();
  await expect(row(page, /^spine_5/)).toHaveCount(0);
  await page.keyboard.press('ArrowRight');
  await expect(row(page, /^spine_5/)).toBeVisible();
  // A row that the proof moves among those that want a look, far up, takes the focus along.
  await page.getByLabel('Find a bone').fill('ring_3');
  await row(page, /^ring_3_lt/).click();
  await page.getByLabel('Find a bone').fill('');
  await pair.getByLabel('Its counterpart').selectOption({ label: 'leftFoot' });
  await row(page, /^ring_3_lt/).focus();
  await expect(row(page, /^ring_3_lt .* mm off/)).toBeFocused();
  // Leaving loses nothing.
  await page.reload();
  await expect(page.getByText('What you set here before and did not save is back.')).toBeVisible();
  await expect(page.getByLabel('Skeleton to move to')).toHaveValue('vrm');
  await page.getByLabel('Find a bone').fill('leg_lower');
  await expect(row(page, /^leg_lower_rt \w+ rightFoot.*locked/)).toBeVisible();
  await page.getByRole('button', { name: 'Begin anew' }).click();
  await expect(row(page, /^leg_lower_rt carry rightLowerLeg/)).toBeVisible();
});

test('a pair made by pointing at one bone on each figure, with threads to the limb that is chosen', async ({
  page,
}) => {
  await openCrosswalk(page);
  await page.getByLabel('Find a bone').fill('arm_lower_rt');
  await row(page, /^arm_lower_rt/).click();
  const threads = (of: 'As it is' | 'As it will be') =>
    page.locator(`[aria-label="${of}"]`).locator('svg[aria-hidden] > path');
  await expect(threads('As it is')).not.toHaveCount(0);
  await expect(threads('As it will be')).not.toHaveCount(0);
  // The joints, as the threads show them.
  const jointOf = async (of: 'As it is' | 'As it will be') => {
    const area = page.locator(`[aria-label="${of}"]`);
    const box = await area.locator('canvas').first().boundingBox();
    const ring = area.locator('svg[aria-hidden] > circle[r="4"]').first();
    const [x, y] = await Promise.all(['cx', 'cy'].map(async (a) => Number(await ring.getAttribute(a))));
    return { x: box!.x + x, y: box!.y + y };
  };
  const elbow = await jointOf('As it is');
  await page.getByLabel('Find a bone').fill('hand_rt');
  await row(page, /^hand_rt/).click();
  const hand = await jointOf('As it will be');
  await page.keyboard.press('a');
  await expect(page.getByText('Point at a bone on either figure')).toBeVisible();
  await page.mouse.click(elbow.x, elbow.y);
  await expect(page.getByText('now point at its counterpart on the right figure')).toBeVisible();
  await page.mouse.click(hand.x, hand.y);
  await page.getByLabel('Find a bone').fill('arm_lower_rt');
  await expect(row(page, /^arm_lower_rt carry rightHand.*locked/)).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByLabel('Find a bone').press('Escape');
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(row(page, /^arm_lower_rt carry rightLowerArm/)).toBeVisible();
});

/** What the room works out behind what it shows takes as long as this machine needs. */
const LONG = { timeout: 400_000 };

test(
  'from the first look to the proof and the receiver: by example, both in motion, the worst places, on arrival',
  { tag: '@pictures' },
  async ({ page }) => {
    await openCharacter(page, 'Deckhand, clean');
    await page.keyboard.press('6');
    await page.getByLabel('Skeleton to move to').selectOption({ label: 'VRM 1.0 humanoid' });
    const arrives = page.getByTestId('arrives');
    await expect(page.getByRole('progressbar', { name: 'Weights by example' })).toBeVisible(LONG);
    await expect(arrives).toContainText('This move adds', LONG);
    await expect(arrives).toContainText(/By example [\d\s]+ points got other weights/);
    // The motion of another one of the shelf is an example as well; one that has none is refused by name.
    const also = page.getByLabel('examples also from');
    await also.selectOption({ label: 'Quay skeleton' });
    await expect(page.getByText('“Quay skeleton” holds no motion')).toBeVisible();
    await page.getByRole('button', { name: 'Close this message' }).click();
    await also.selectOption({ label: 'Stoker' });
    await expect(page.getByRole('progressbar', { name: 'Weights by example' })).toBeVisible(LONG);
    await expect(arrives).toContainText('This move adds', LONG);
    await expect(also).toHaveValue(/.+/);
    const shown = page.getByRole('group', { name: 'What the right picture shows' });
    await shown.getByRole('button', { name: 'Differences' }).click();

    // Every pose, by the keys alone.
    const poses = page.getByRole('listbox', { name: /^Largest difference in each of \d+ poses/ });
    await poses.focus();
    await page.keyboard.press('End');
    await page.keyboard.press('ArrowLeft');
    await page.keyboard.press('Enter');
    await expect(page.getByText(/^in the pose “/)).toBeVisible();
    await expect(poses.getByRole('option', { selected: true })).toHaveText(/: [\d.]+ mm/);
    await accessible(page);

    // The worst places, by the mouse.
    await page.getByRole('button', { name: 'Worst places' }).click();
    const worst = page.getByRole('list', { name: 'Places that lie farthest off' }).getByRole('button');
    const stage = page.getByRole('img', { name: "The character on the target's skeleton" });
    const whole = await stage.screenshot();
    await worst.first().click();
    await expect(worst.first()).toHaveAttribute('aria-pressed', 'true');
    await expect.poll(async () => (await stage.screenshot()).equals(whole)).toBe(false);
    await picture(page, 'crosswalk-worst');
    await worst.first().click();
    await expect(page.getByText(/^in the pose “/)).toHaveCount(0);

    // Turned by hand on the right, and both do it.
    await page.getByLabel('Find a bone').fill('leg_lower_lt');
    await row(page, /^leg_lower_lt carry/).click();
    await page.getByRole('button', { name: 'In motion', exact: true }).click();
    await page.getByRole('button', { name: 'Right', exact: true }).click();
    const left = page.getByRole('img', { name: /Deckhand, clean on the stage/ });
    const [before, after] = [await left.screenshot(), await stage.screenshot()];
    await page.getByLabel('About its x axis, degrees').focus();
    for (let k = 0; k < 40; k++) await page.keyboard.press('ArrowRight');
    await expect(page.getByTestId('proof')).toContainText(/mm apart at the farthest point/);
    await expect.poll(async () => (await left.screenshot()).equals(before)).toBe(false);
    await expect.poll(async () => (await stage.screenshot()).equals(after)).toBe(false);
    await page.getByRole('button', { name: 'Back to rest' }).click();

    // A clip on both.
    await page.getByLabel('Moment of the clip').focus();
    for (let k = 0; k < 8; k++) await page.keyboard.press('ArrowRight');
    await expect(page.getByTestId('proof')).toContainText(/mm apart at the farthest point/);

    // As the game will hold it, and with another setting.
    await page.getByRole('button', { name: 'On arrival' }).click();
    await page.getByLabel('Receiver', { exact: true }).selectOption({ label: 'A strict old one' });
    const said = page.getByRole('list', { name: 'What the receiver says' });
    await expect(said).toContainText('it keeps 2 of each');
    await page.getByRole('button', { name: 'Its settings' }).click();
    await page.getByLabel('Bones a point', { exact: true }).fill('3');
    await expect(said).toContainText('it keeps 3 of each');
    await accessible(page);
    await page.getByRole('button', { name: 'As they were' }).click();
    await expect(said).toContainText('it keeps 2 of each');
  },
);

test('the mesh goes to the rest pose of the skeleton, and a bone is shared over a chain by hand', async ({
  page,
}) => {
  await openCharacter(page, 'Stoker');
  await page.keyboard.press('6');
  const proof = page.getByTestId('proof');
  await expect(proof).toContainText('none beyond what is allowed');
  await row(page, /^SpineLower share spine_1, spine_2/).click();
  const over = page.getByRole('group', { name: 'It is shared over as well' });
  await over.getByRole('button', { name: 'spine_2' }).click();
  await expect(row(page, /^SpineLower carry spine_1/)).toBeVisible();
  const pair = page.getByRole('group', { name: 'The chosen pair' });
  await pair.getByRole('button', { name: 'share', exact: true }).click();
  await expect(row(page, /^SpineLower share spine_1, spine_2.*locked/)).toBeVisible();
  // Shared over bones that others lead: those go on leading.
  await row(page, /^SpineMiddle carry spine_3/).click();
  await pair.getByRole('button', { name: 'fold', exact: true }).click();
  await pair.getByLabel('Its counterpart').selectOption('spine_1');
  await pair.getByRole('button', { name: 'share', exact: true }).click();
  await expect(row(page, /^SpineMiddle share spine_1, pelvis/)).toBeVisible();
  await expect(row(page, /^SpineLower share spine_1/)).toBeVisible();
  for (let k = 0; k < 3; k++) await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(row(page, /^SpineMiddle carry spine_3/)).toBeVisible();
  await page.getByRole('button', { name: 'Plain', exact: true }).click();
  await page.getByRole('button', { name: 'Mesh to rest pose' }).click();
  await expect(proof).toContainText('bound anew in another pose', LONG);
  await page.getByRole('button', { name: 'the skeleton’s' }).click();
  await expect(proof).toContainText('none beyond what is allowed', LONG);
  await accessible(page);
});

test('an A-posed body goes to the T-pose of other bones, its rest shape by example, and the brief lets it', async ({
  page,
}) => {
  await bring(page, 'Deckhand in A', readFileSync(castFile('deckhand-clean.glb')));
  const id = /[0-9a-f-]{36}/.exec(page.url())?.[0];
  const record = (await (await page.request.get(`/api/characters/${id}`)).json()) as {
    revisions: readonly { id: string }[];
  };
  const base = record.revisions[record.revisions.length - 1].id;
  const made = await page.request.post(`/api/characters/${id}/steps/remedy`, {
    data: { base, remedy: 'set-stance', params: { arms: 60, bend: 180, legs: 90 } },
  });
  expect(made.status()).toBe(201);
  await page.reload();
  await ready(page);
  await page.keyboard.press('6');
  await page.getByLabel('Skeleton to move to').selectOption({ label: 'VRM 1.0 humanoid' });
  const arrives = page.getByTestId('arrives');
  await page.getByRole('button', { name: 'Mesh to rest pose' }).click();
  // As posed it says nothing of a rest shape.
  const shape = page.getByTestId('rest-shape');
  const rest = page.getByRole('group', { name: 'Its shape at rest' });
  await rest.getByRole('button', { name: 'as posed' }).click();
  await expect(page.getByRole('progressbar', { name: 'Weights by example' })).toBeVisible(LONG);
  await expect(shape).toHaveCount(0);
  await rest.getByRole('button', { name: 'by example' }).click();
  await expect(page.getByRole('progressbar', { name: 'Rest shape and weights' })).toBeVisible(LONG);
  await expect(shape).toContainText(/At rest [\d\s]+ points stand otherwise than the posed mesh/, LONG);
  await expect(shape.getByRole('list', { name: 'Bones whose points moved at rest' })).toContainText(
    'leftUpperArm',
  );
  const added = arrives.getByRole('row', { name: /^This move adds/ });
  await expect(added).toBeVisible(LONG);
  // What it adds is within the brief, and the mesh comes nearer in the mean than as posed.
  await expect(added.getByRole('cell').last()).toHaveClass(/text-fine/);
  const mean = await arrives
    .getByRole('row', { name: /^In the mean over all points/ })
    .getByRole('cell')
    .last()
    .innerText();
  const [posed, shaped] = mean.split('→').map((word) => parseFloat(word));
  expect(shaped).toBeLessThan(0.8 * posed);
  await accessible(page);
  await page.getByRole('button', { name: 'Move the weights' }).click();
  await expect(page.getByText(/^revision 3/)).toBeVisible(LONG);
});

test('several characters of the shelf go onto one skeleton, and a table tells what came of each', async ({
  page,
}) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'Move several' }).click();
  const dialog = page.getByRole('dialog', { name: 'Move several onto one skeleton' });
  await expect(dialog.getByRole('button', { name: 'Move 0' })).toBeDisabled();
  await dialog.getByRole('checkbox', { name: /^Stoker/ }).check();
  await dialog.getByRole('checkbox', { name: /^Quay skeleton/ }).check();
  await dialog.getByLabel('Skeleton to move to').selectOption({ label: 'VRM 1.0 humanoid' });
  await dialog.getByLabel('Where the weights come from').selectOption('rules');
  await dialog.getByRole('button', { name: 'Move 2' }).click();
  // The page of what is at work tells what came of it, also when it was closed meanwhile.
  await expect(page).toHaveURL(/\/work\?job=/);
  const line = page.getByRole('listitem').filter({ hasText: '2 characters onto VRM 1.0 humanoid' });
  await page.goto('/');
  await page.getByRole('link', { name: 'At work', exact: true }).click();
  await expect(line.getByText(/^done, /)).toBeVisible(LONG);
  await expect(line.locator('tbody tr')).toHaveCount(2);
  await expect(
    line.getByRole('row', { name: /^Stoker suggested 5\d of 53 .* (\d+|—) → \d+$/ }),
  ).toBeVisible();
  await accessible(page);
  await picture(page, 'move-several');
  // Each is a step of its own, and is taken back.
  for (const name of ['Stoker', 'Quay skeleton']) {
    await openCharacter(page, name);
    await expect(page.getByText('revision 2, “moved to VRM 1.0 humanoid”')).toBeVisible();
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await expect(page.getByRole('button', { name: /^revision 1, “/ })).toBeVisible();
  }
});

test('one wrong pair set by hand is named as the cause, one press puts it right, and after the move the focus is there', async ({
  page,
}) => {
  await bring(page, 'deckhand-clean.glb');
  await page.keyboard.press('6');
  await page.getByLabel('Skeleton to move to').selectOption({ label: 'Quay skeleton' });
  await page.getByRole('button', { name: 'Plain', exact: true }).click();
  const proof = page.getByTestId('proof');
  await expect(proof).toContainText('none beyond what is allowed');
  await page.getByLabel('Find a bone').fill('arm_lower_lt');
  await row(page, /^arm_lower_lt carry/).click();
  await page.getByLabel('Its counterpart').selectOption({ label: 'leg_upper_rt' });
  await expect(proof).toContainText(/poses differ by more than allowed/);
  await proof.getByRole('button', { name: 'likely from one pair' }).click();
  const causes = proof.getByRole('list', { name: 'Pairs that it is likely to come from' });
  await expect(causes).toContainText(
    'Most of it comes from one pair: arm_lower_lt onto leg_upper_rt, set by hand',
  );
  await expect(proof.getByRole('list', { name: 'Places that lie farthest off' })).toBeVisible();
  await accessible(page);
  await causes.getByRole('button', { name: 'Pair so' }).click();
  await expect(proof).toContainText('none beyond what is allowed');
  await expect(causes).toHaveCount(0);
  await page.getByRole('button', { name: 'Move the weights', exact: true }).click();
  await expect(page.getByText(/the weights now stand on Quay skeleton/)).toBeVisible();
  await expect(page.getByRole('region', { name: 'Pairing' })).toBeFocused();
});
