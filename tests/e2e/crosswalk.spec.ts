import { type Page, expect, test } from '@playwright/test';
import { accessible, openCharacter, picture } from './support';

/** The clean Deckhand in the crosswalk room, onto a skeleton with fewer spine bones and no twists. */
async function openCrosswalk(page: Page): Promise<void> {
  await openCharacter(page, 'Deckhand, clean');
  await page.keyboard.press('6');
  await page.getByLabel('Skeleton to move to').selectOption({ label: 'VRM 1.0 humanoid' });
  await expect(page.getByTestId('proof')).toContainText(/of \d+ poses differ/);
}

const pairs = (page: Page) => page.getByTestId('pairs');
const row = (page: Page, name: RegExp) => pairs(page).getByRole('option', { name });
const told = (page: Page) => page.getByRole('region', { name: 'Pairing' }).getByRole('status').first();

test('what the proof shows to be off wants a look, with the pose; found fine it does not, and Undo brings it back', async ({
  page,
}) => {
  await openCrosswalk(page);
  await expect(told(page)).toHaveText(/^\d+ want a look/);
  const before = Number((await told(page).textContent())?.match(/\d+/)?.[0]);
  await expect(row(page, /^Wants a look, 0 of/)).toBeVisible();
  await row(page, /^spine_5 fold upperChest.* mm off/).click();
  const stageLeft = page.getByRole('img', { name: /Deckhand, clean on the stage/ });
  const atRest = await stageLeft.screenshot();
  await page.getByRole('button', { name: 'Show that pose' }).click();
  await expect(page.getByText('in the pose “spine_5”')).toBeVisible();
  await expect.poll(async () => (await stageLeft.screenshot()).equals(atRest)).toBe(false);
  await picture(page, 'crosswalk-pose');
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
});

test('by keyboard alone: groups, several pairs, the other side, the way back, and a draft that outlives the page', async ({
  page,
}) => {
  await openCrosswalk(page);
  await page.getByLabel('Find a bone').fill('leg_lower');
  await row(page, /^leg_lower_lt/).focus();
  await page.keyboard.press('ArrowDown');
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
