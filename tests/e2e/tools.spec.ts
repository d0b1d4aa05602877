import { type Page, expect } from '@playwright/test';
import { readGltf } from '../../src/core/formats/gltf/read';
import { test } from './browser';
import {
  accessible,
  bring,
  expectOtherPicture,
  headOf,
  openCharacter,
  picture,
  pictureAtRest,
  ready,
} from './support';

/** Brings a member of the cast in as a character of its own and opens it in a room. */
async function bringTo(page: Page, file: string, room: number): Promise<void> {
  await bring(page, file);
  await page.keyboard.press(String(room));
  // In Skeleton the stage is narrower once the tree stands beside it: places on it are true from then on.
  if (room === 2) await expect(page.getByRole('tree', { name: 'Tree of the bones' })).toBeVisible();
}

const stageBox = async (page: Page) => (await page.locator('canvas').first().boundingBox())!;

const revisionButton = (page: Page, number: number) =>
  page.getByRole('button', { name: new RegExp(`^revision ${number},`) });

const DIGITS = /-?\d+(\.\d+)?/;

const farthest = async (page: Page) =>
  Number(
    DIGITS.exec(await page.getByRole('region', { name: 'Not kept yet' }).locator('.mono').innerText())![0],
  );

test('choosing with a box: bones, points and polygons; a single point tells all that it carries', async ({
  page,
}) => {
  await bringTo(page, 'deckhand-clean.glb', 3);
  const box = await stageBox(page);
  const sweep = async () => {
    await page.mouse.move(box.x + box.width * 0.35, box.y + box.height * 0.2);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.4, { steps: 4 });
    await page.mouse.move(box.x + box.width * 0.65, box.y + box.height * 0.55, { steps: 4 });
    await page.mouse.up();
  };
  const gathered = page.getByTestId('gathered');
  await page.getByRole('button', { name: 'Choose by box or brush' }).click();
  await sweep();
  await expect(gathered).toContainText(/\d+ bones/);
  // The camera stood still while the box was dragged: the view is still the front.
  await expect(page.getByRole('button', { name: 'Front', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  await page.getByRole('button', { name: 'Points', exact: true }).click();
  await sweep();
  await expect(gathered).toContainText(/vertices/);
  await page.getByRole('button', { name: 'Polygons', exact: true }).click();
  await sweep();
  await expect(gathered).toContainText(/polygons/);
  await page.getByRole('button', { name: 'Pick a single point' }).click();
  await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.42);
  await page.mouse.click(box.x + box.width * 0.5, box.y + box.height * 0.42);
  await expect(gathered).toContainText('mesh');
  const weights = (await gathered.locator('dd').allInnerTexts()).slice(3).map(Number);
  expect(weights.reduce((a, b) => a + b, 0)).toBeGreaterThan(0.97);
  await accessible(page);
  // Escape puts the tool down; turned by hand, the figure is not seen from the front any more.
  await page.keyboard.press('Escape');
  await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.5);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.6, box.y + box.height * 0.5, { steps: 4 });
  await page.mouse.up();
  await expect(page.getByRole('button', { name: 'Front', exact: true })).toHaveAttribute(
    'aria-pressed',
    'false',
  );
});

test('what is chosen can be worked on though nothing is wrong with it: many bones are one step, by keyboard too', async ({
  page,
}) => {
  await bringTo(page, 'deckhand-clean.glb', 2);
  const box = await stageBox(page);
  await page.keyboard.press('s');
  await page.mouse.move(box.x + box.width * 0.2, box.y + box.height * 0.5);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.6, { steps: 4 });
  await page.mouse.move(box.x + box.width * 0.8, box.y + box.height * 0.75, { steps: 4 });
  await page.mouse.up();
  await page.keyboard.press('.');
  const list = page.getByRole('list', { name: 'What can be done with it' });
  await expect(page.getByText(/^\d+ bones:/)).toBeVisible();
  await expect(list.getByRole('button', { name: /^Hang under the right parent \d+/ })).toBeVisible();
  // Found by words as well; it opens on the page.
  await page.keyboard.press('/');
  await page.keyboard.type('by hand give its weight');
  await expect(page.getByRole('option', { name: /^Give its weight to the parent by hand/ })).toBeVisible();
  await page.keyboard.press('Enter');
  const offer = list.getByRole('listitem').filter({ hasText: 'Give its weight to the parent' });
  await expect(offer.getByRole('row', { name: /Weight of/ }).first()).toBeVisible();
  await accessible(page);
  const press = offer.getByRole('button', { name: /^Do it for \d+ at once$/ });
  await press.focus();
  await page.keyboard.press('Enter');
  await expect(page.getByText(/^Revision 2: give its weight to the parent, \d+ times/)).toBeVisible();
  await page.keyboard.press('u');
  await expect(revisionButton(page, 1)).toBeVisible();
});

test(
  'what is chosen is kept as a set, shown in its colour, chosen again at once, and goes out with the file',
  { tag: '@pictures' },
  async ({ page }) => {
    await bringTo(page, 'deckhand-clean.glb', 3);
    const box = await stageBox(page);
    await page.keyboard.press('s');
    await page.getByRole('button', { name: 'Points', exact: true }).click();
    await page.mouse.move(box.x + box.width * 0.26, box.y + box.height * 0.2);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width * 0.42, box.y + box.height * 0.35, { steps: 4 });
    await page.mouse.up();
    await page.keyboard.press('.');
    const chosen = page.getByText(/^[\d\u202f]+ points:/);
    await expect(chosen).toBeVisible();
    const list = page.getByRole('list', { name: 'What can be done with it' });
    await list.getByRole('button', { name: /^Keep as a set/ }).click();
    await list.getByLabel('Name', { exact: true }).fill('right sleeve');
    await list.getByRole('button', { name: 'Keep as the set “right sleeve”' }).click();
    await expect(revisionButton(page, 2)).toBeVisible();
    const sets = page.getByRole('region', { name: 'Sets' });
    await expect(sets).toContainText(/[\d\u202f]+ points/);
    await page.keyboard.press('Escape');
    const plain = await pictureAtRest(page);
    await sets.getByRole('switch', { name: 'Show “right sleeve” in its colour' }).click();
    await expectOtherPicture(page, plain, 'a set is shown');
    await sets.getByRole('button', { name: /^right sleeve/ }).click();
    await expect(page.getByText(/^set “right sleeve”, [\d\u202f]+ points:/)).toBeVisible();
    await accessible(page);
    await picture(page, 'by-hand');
    // It stays chosen in another room.
    await page.keyboard.press('4');
    await page.keyboard.press('.');
    await expect(page.getByText(/^set “right sleeve”/)).toBeVisible();
    const file = await page.request.get(`/api/revisions/${await headOf(page)}/file?format=glb`);
    const { sets: read } = readGltf([{ name: 'a.glb', bytes: new Uint8Array(await file.body()) }]);
    expect(read.map(({ name }) => name)).toEqual(['right sleeve']);
    expect(read[0].vertices.length).toBeGreaterThan(0);
  },
);

test('what lies behind one another is chosen one after the other', async ({ page }) => {
  await bringTo(page, 'deckhand-clean.glb', 2);
  const box = await stageBox(page);
  await page.keyboard.press('e');
  const at = [box.x + box.width * 0.5, box.y + box.height * 0.42] as const;
  await page.mouse.move(...at);
  await page.mouse.click(...at);
  const stacked = page.getByTestId('stacked');
  await expect(stacked).toContainText(/^1 of \d+/);
  const gathered = page.getByTestId('gathered');
  const first = await gathered.innerText();
  await page.mouse.click(...at);
  await expect(stacked).toContainText(/^2 of \d+/);
  await expect(gathered).not.toHaveText(first);
  const count = Number(/of (\d+)/.exec(await stacked.innerText())?.[1]);
  for (let i = 2; i <= count; i++) await page.mouse.click(...at);
  await expect(stacked).toContainText(/^1 of/);
  expect(await gathered.innerText()).toBe(first);
});

test(
  'a bone’s weight is painted on a posed figure, taken back in place, and kept as one step that comes back with the page',
  { tag: '@pictures' },
  async ({ page }) => {
    await bringTo(page, 'deckhand-clean.glb', 4);
    await page.keyboard.press('/');
    await page.keyboard.type('bone spine_3');
    await page.keyboard.press('Enter');
    // Posed: the arm on the left hangs down.
    await page.getByRole('button', { name: 'Pose: turn a bone' }).click();
    const degrees = page.getByLabel('Degrees about its z axis');
    await degrees.fill('12');
    await page.keyboard.press('Enter');
    await expect(page.getByTestId('read-out')).toContainText('posed');
    await page.getByRole('button', { name: 'Brush a bone’s weight' }).click();
    const panel = page.getByRole('region', { name: 'Brush', exact: true });
    await expect(panel).toContainText('spine_3');
    await accessible(page);
    const before = await pictureAtRest(page);
    const box = await stageBox(page);
    await page.mouse.move(box.x + box.width * 0.46, box.y + box.height * 0.36);
    await page.mouse.down();
    for (let i = 1; i <= 8; i++)
      await page.mouse.move(box.x + box.width * (0.46 + i * 0.01), box.y + box.height * (0.36 + i * 0.01));
    await page.mouse.up();
    const draft = page.getByRole('region', { name: 'Not kept yet' });
    const painted = page.getByTestId('painted');
    await expect(painted).toContainText(/[1-9][\d\u202f]* points? brushed/);
    await page.mouse.move(box.x + box.width * 0.95, box.y + box.height * 0.9);
    await expectOtherPicture(page, before, 'weights are painted');
    await draft.getByRole('button', { name: 'Take the last one back' }).click();
    await expect(draft).toContainText('all taken back');
    await draft.getByRole('button', { name: 'Do it again' }).click();
    await expect(painted).toContainText('brushed');
    const words = await painted.innerText();
    await picture(page, 'paint');
    // What is not kept is there again when the page is.
    await page.waitForTimeout(600);
    await page.reload();
    await ready(page);
    await expect(painted).toHaveText(words);
    await draft.getByRole('button', { name: 'Keep as one step' }).click();
    await expect(page.getByText(/Revision 2: weights by the brush/)).toBeVisible();
    await expect(revisionButton(page, 2)).toBeVisible();
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await expect(revisionButton(page, 1)).toBeVisible();
  },
);

test(
  'a pose belongs to the desk: several bones turned, kept by name, the same in every room, back to rest by one key',
  { tag: '@pictures' },
  async ({ page }) => {
    await bringTo(page, 'deckhand-clean.glb', 4);
    const rest = await pictureAtRest(page);
    await page.keyboard.press(',');
    const panel = page.getByRole('region', { name: 'Pose: turn a bone' });
    const choose = async (name: string) => {
      // Where a number is typed, a stroke is a stroke.
      await page.locator('canvas').first().focus();
      await page.keyboard.press('/');
      await page.keyboard.type(`bone ${name}`);
      await page.getByRole('option', { name, exact: true }).click();
    };
    await choose('arm_upper_lt');
    await panel.getByLabel('Other side', { exact: true }).selectOption('as mirror image');
    await panel.getByLabel('Degrees about its y axis').fill('40');
    const readOut = page.getByTestId('read-out');
    await expect(readOut).toContainText('posed, 2 bones turned: back to rest');
    await expectOtherPicture(page, rest, 'turning a bone');
    // The same turn about the twin's own axes is what the test of a pair asks for.
    await panel.getByLabel('Other side', { exact: true }).selectOption('by the same turn');
    await panel.getByLabel('Degrees about its y axis').fill('41');
    await choose('arm_upper_rt');
    await expect(panel.getByLabel('Degrees about its y axis')).toHaveValue('41');
    await choose('arm_upper_lt');
    await panel.getByLabel('Degrees about its y axis').fill('40');
    await panel.getByLabel('Other side', { exact: true }).selectOption('stays');
    await choose('arm_lower_lt');
    await panel.getByLabel('Degrees about its z axis').fill('-30');
    await expect(readOut).toContainText('posed, 3 bones turned');
    // The numbers are those of the bone that is chosen.
    await choose('arm_upper_lt');
    await expect(panel.getByLabel('Degrees about its y axis')).toHaveValue('40');
    await panel.getByLabel('Name of the pose').fill('reach');
    await page.keyboard.press('Enter');
    await expect(panel.getByRole('button', { name: 'reach', exact: true })).toBeVisible();
    await accessible(page);
    // Another room shows the same; one key puts it to rest, another takes that back.
    await page.locator('canvas').first().focus();
    await page.keyboard.press('2');
    await expect(readOut).toContainText('posed, 3 bones turned');
    await page.keyboard.press('0');
    await expect(readOut).not.toContainText('posed');
    await page.keyboard.press('u');
    await expect(readOut).toContainText('posed, 3 bones turned');
    await page.keyboard.press('0');
    // It stands with the character.
    await page.reload();
    await ready(page);
    await page.keyboard.press('5');
    await page.getByRole('button', { name: 'reach', exact: true }).click();
    await expect(readOut).toContainText('posed, 3 bones turned');
  },
);

test(
  'a moment of another character’s motion is struck, kept as a pose of its own, and stands in every room',
  { tag: '@pictures' },
  async ({ page }) => {
    await bringTo(page, 'deckhand-clean.glb', 5);
    const rest = await pictureAtRest(page);
    const lender = page.getByLabel('motion of');
    await lender.selectOption({ label: 'Stoker' });
    await expect(lender).toBeEnabled();
    await expect(lender).not.toHaveValue('');
    const slider = page.getByLabel('Moment of the clip');
    await slider.fill('1');
    const readOut = page.getByTestId('read-out');
    await expect(readOut).toContainText('posed by a motion of Stoker');
    await expectOtherPicture(page, rest, 'another’s motion');
    await accessible(page);
    await page.getByLabel('Name of the pose').fill('hail');
    await page.keyboard.press('Enter');
    await expect(page.getByRole('button', { name: 'hail', exact: true })).toBeVisible();
    await page.locator('canvas').first().focus();
    await page.keyboard.press('0');
    await expect(readOut).not.toContainText('posed');
    await page.getByRole('button', { name: 'hail', exact: true }).click();
    await expect(readOut).toContainText(/posed, \d+ bones turned/);
    await page.locator('canvas').first().focus();
    await page.keyboard.press('2');
    await expect(readOut).toContainText(/posed, \d+ bones turned/);
  },
);

test('a bone dragged round its joint turns with the pointer; what plays can be put to rest, and turned bones stay on it', async ({
  page,
}) => {
  await bringTo(page, 'deckhand-clean.glb', 3);
  await page.keyboard.press(',');
  const box = await stageBox(page);
  const readOut = page.getByTestId('read-out');
  // The arms lie level: down the picture beside the trunk, until the pointer is over one.
  const x = box.x + box.width / 2 + 100;
  const arm = await (async () => {
    for (let y = box.y + box.height * 0.2; y < box.y + box.height * 0.5; y += 2) {
      await page.mouse.move(x, y);
      if (/^here\s*arm_/.test(await readOut.innerText())) return y;
    }
    return null;
  })();
  expect(arm).not.toBeNull();
  await page.mouse.down();
  await page.mouse.move(x, arm! + 30, { steps: 4 });
  await page.mouse.move(x - 10, arm! + 70, { steps: 6 });
  await page.mouse.up();
  await expect(readOut).toContainText('posed, 1 bone turned');
  const panel = page.getByRole('region', { name: 'Pose: turn a bone' });
  await expect(panel.getByRole('group', { name: 'Turn the chosen bone' }).getByText(/^arm_/)).toBeVisible();
  // Down on the figure's left is a turn against the world's z, which points to who looks.
  await panel.getByRole('button', { name: 'World’s' }).click();
  expect(Number(await panel.getByLabel('Degrees about its z axis').inputValue())).toBeLessThan(-15);
  // A minus typed letter by letter is no number until the rest has come.
  const field = panel.getByLabel('Degrees about its x axis');
  await field.fill('');
  await field.pressSequentially('-25');
  await expect(field).toHaveValue('-25');
  await page.keyboard.press('Enter');
  await page.locator('canvas').first().focus();
  await page.keyboard.press('5');
  await page.getByRole('button', { name: 'Play' }).click();
  await expect(readOut).toContainText('posed by hail the quay, 1 bone turned');
  await page.locator('canvas').first().focus();
  await page.keyboard.press('0');
  await expect(page.getByRole('button', { name: 'Play' })).toBeVisible();
  await expect(readOut).not.toContainText('posed');
});

test(
  'how the chosen bone turns over a clip is drawn, follows the clock, and a press on it goes to that moment',
  { tag: '@pictures' },
  async ({ page }) => {
    await bringTo(page, 'deckhand-clean.glb', 5);
    await page.keyboard.press('b');
    await page.getByLabel('Find a bone').fill('arm_lower_rt');
    await page.getByRole('option', { name: /^arm_lower_rt/ }).click();
    const moment = page.getByLabel('Moment of the clip');
    await moment.fill('0.25');
    // The clip bends it by 40° ± 12° about the world’s y.
    const chart = page.getByRole('img', { name: /^Turn of arm_lower_rt over the clip: x .*, y .*, z / });
    await expect(chart).toBeVisible();
    const ranges = (await chart.getAttribute('aria-label'))!.match(/-?\d+(?=°)/g)!.map(Number);
    const spans = [0, 2, 4].map((k) => ranges[k + 1] - ranges[k]);
    expect(Math.max(...spans)).toBeGreaterThanOrEqual(23);
    expect(Math.max(...spans)).toBeLessThanOrEqual(25);
    const held = await chart.screenshot();
    await page.getByRole('button', { name: 'Play' }).click();
    await expect.poll(async () => (await chart.screenshot()).equals(held)).toBe(false);
    await page.getByRole('button', { name: 'Hold' }).click();
    const box = (await chart.boundingBox())!;
    await chart.click({ position: { x: box.width * 0.75, y: box.height / 2 } });
    await expect.poll(async () => Number(await moment.inputValue())).toBeGreaterThan(1.3);
    expect(Number(await moment.inputValue())).toBeLessThan(1.6);
    await expect(page.getByTestId('read-out')).toContainText('posed by hail the quay');
    await accessible(page);
  },
);

test('a joint moved by hand: dragged, typed, taken back, snapped to its limb, kept as one step', async ({
  page,
}) => {
  await bringTo(page, 'deckhand-clean.glb', 2);
  await page.keyboard.press('b');
  await page.getByLabel('Find a bone').fill('arm_lower_lt');
  await page
    .getByRole('option', { name: /^arm_lower_lt/ })
    .first()
    .click();
  await page.keyboard.press('b');
  await page.getByRole('button', { name: 'Move a joint', exact: true }).click();
  const panel = page.getByRole('region', { name: 'Move a joint' });
  const draft = page.getByRole('region', { name: 'Not kept yet' });
  await expect(panel).toContainText('arm_lower_lt');
  // Typed.
  const locator = panel.getByLabel('y, m', { exact: true });
  const before = Number(await locator.inputValue());
  await locator.fill(String(before + 0.03));
  await page.keyboard.press('Enter');
  await expect.poll(() => farthest(page)).toBeCloseTo(30, 0);
  await page.keyboard.press('Tab');
  await draft.getByRole('button', { name: 'Take the last one back' }).click();
  await expect(draft).toContainText('all taken back');
  await draft.getByRole('button', { name: 'Do it again' }).click();
  await expect(draft).toContainText('move a joint');
  await panel.getByLabel('What hangs below comes along').uncheck();
  await panel.getByRole('button', { name: 'Into its limb' }).click();
  // In T-pose the arm lies level: its middle is near where the joint was. What hangs below stays where the
  // first move brought it.
  await expect.poll(async () => Math.abs(Number(await locator.inputValue()) - before)).toBeLessThan(0.02);
  expect(await farthest(page)).toBeCloseTo(30, 0);
  // Steps along its chain’s axes: an elbow’s y runs down the arm, which lies level in T-pose, away from the middle.
  await panel.getByLabel('Axes').selectOption('chain’s');
  await panel.getByLabel('Step', { exact: true }).fill('0.02');
  const sideways = panel.getByLabel('x, m', { exact: true });
  const beside = Number(await sideways.inputValue());
  await panel.getByRole('button', { name: 'One step along y' }).press('Enter');
  await expect.poll(async () => Number(await sideways.inputValue()) - beside).toBeCloseTo(0.02, 3);
  await panel.getByRole('button', { name: 'One step back along y' }).press('Enter');
  await expect.poll(async () => Number(await sideways.inputValue())).toBeCloseTo(beside, 3);
  await picture(page, 'move-a-joint');
  await accessible(page);
  // A step beside it waits; the draft is kept as one step.
  await draft.getByRole('button', { name: 'Keep as one step' }).click();
  await expect(page.getByText(/Revision 2: move a joint/)).toBeVisible();
  await expect(revisionButton(page, 2)).toBeVisible();
  await expect(draft).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(revisionButton(page, 1)).toBeVisible();
});

test('a joint dragged on the stage goes where the pointer goes', async ({ page }) => {
  await bringTo(page, 'deckhand-clean.glb', 2);
  await page.keyboard.press('h');
  const panel = page.getByRole('region', { name: 'Move a joint' });
  // Along one axis alone, wherever the pointer goes.
  await panel.getByLabel('Drag').selectOption('along x');
  const box = await stageBox(page);
  // Joints stand along the middle of the figure: the first that catches the pointer is dragged.
  const draft = page.getByRole('region', { name: 'Not kept yet' });
  for (let share = 0.2; share < 0.5 && (await draft.count()) === 0; share += 0.02) {
    const at = { x: box.x + box.width / 2, y: box.y + box.height * share };
    await page.mouse.move(at.x, at.y);
    await page.mouse.down();
    await page.mouse.move(at.x + 10, at.y, { steps: 2 });
    await page.mouse.move(at.x + 40, at.y + 25, { steps: 4 });
    await page.waitForTimeout(150);
    await page.mouse.up();
    await page.waitForTimeout(150);
  }
  await expect(draft).toBeVisible();
  const gone = await farthest(page);
  expect(gone).toBeGreaterThan(5);
  // However the pointer went, the other two numbers are what they were.
  const across = () =>
    Promise.all(['y, m', 'z, m'].map((name) => panel.getByLabel(name, { exact: true }).inputValue()));
  const dragged = await across();
  const along = await panel.getByLabel('x, m', { exact: true }).inputValue();
  await draft.getByRole('button', { name: 'Take the last one back' }).click();
  await expect(panel.getByLabel('x, m', { exact: true })).not.toHaveValue(along);
  expect(await across()).toEqual(dragged);
  await draft.getByRole('button', { name: 'Do it again' }).click();
  await expect(panel.getByLabel('x, m', { exact: true })).toHaveValue(along);
  // Nothing is lost by leaving the page before it is kept.
  await page.waitForTimeout(400);
  await page.reload();
  await expect(draft).toBeVisible();
  expect(await farthest(page)).toBe(gone);
  await draft.getByRole('button', { name: 'Take all back' }).click();
  await expect(draft).toHaveCount(0);
});

test('a lamp placed by hand: a quarter turn about its own axis, into the hand, beside the chest', async ({
  page,
}) => {
  await bringTo(page, 'deckhand-clean.glb', 1);
  await page.getByRole('button', { name: 'Place a part', exact: true }).click();
  const panel = page.getByRole('region', { name: 'Place a part' });
  const draft = page.getByRole('region', { name: 'Not kept yet' });
  await panel.getByLabel('Part', { exact: true }).selectOption({ label: 'storm lantern' });
  const locator = panel.getByLabel('y, m', { exact: true });
  const before = Number(await locator.inputValue());
  await panel.getByRole('button', { name: 'Its own' }).click();
  await panel.getByRole('button', { name: 'about x' }).click();
  await expect(draft).toContainText('place a part');
  // A turn leaves its place.
  expect(Number(await locator.inputValue())).toBeCloseTo(before, 4);
  await locator.fill(String(before + 0.3));
  await page.keyboard.press('Enter');
  await expect.poll(() => farthest(page)).toBeGreaterThan(250);
  await draft.getByRole('button', { name: 'Keep as one step' }).click();
  await expect(page.getByText(/Revision 2: place a part/)).toBeVisible();
});

test('after applying the focus goes to what comes next; a list is one stop for Tab; names are cut in the middle', async ({
  page,
}) => {
  await bringTo(page, 'deckhand.glb', 4);
  const rows = page.getByRole('complementary', { name: 'Notebook' }).locator('li > button');
  await expect.poll(() => rows.count()).toBeGreaterThan(3);
  const count = await rows.count();
  await rows.first().focus();
  await page.keyboard.press('ArrowDown');
  await expect(rows.nth(1)).toBeFocused();
  await page.keyboard.press('j');
  await expect(rows.nth(2)).toBeFocused();
  await page.keyboard.press('k');
  await expect(rows.nth(1)).toBeFocused();
  // One stop: the next Tab is past the list.
  await page.keyboard.press('Tab');
  for (let i = 0; i < count; i++) await expect(rows.nth(i)).not.toBeFocused();
  await page.getByRole('button', { name: /hold up to 6 bones/ }).click();
  const leaf = page.getByRole('region', { name: 'The chosen finding' });
  // It opens in its row: the sentence stands once, the button of the remedy is in sight.
  await expect(page.getByText(/hold up to 6 bones/)).toHaveCount(1);
  await expect(leaf.getByRole('button', { name: 'Limit and normalise' })).toBeInViewport();
  const limit = leaf.getByRole('button', { name: 'Limit and normalise' });
  await expect(limit).toBeEnabled();
  await limit.focus();
  await page.keyboard.press('Enter');
  await expect(page.getByText(/Revision 2: limit and normalise/)).toBeVisible();
  await expect(page.locator('button[aria-pressed=true]:focus')).toHaveCount(1);
  // The notebook never scrolls sideways, in no room.
  for (const key of ['1', '2', '3', '4', '5', '7']) {
    await page.keyboard.press(key);
    const wide = await page
      .locator('aside')
      .evaluate((a) => [
        a.scrollWidth - a.clientWidth,
        ...[...a.querySelectorAll('table')].map((element) => element.scrollWidth - a.clientWidth),
      ]);
    expect(Math.max(...wide), `room ${key}`).toBeLessThanOrEqual(0);
  }
  await page.keyboard.press('2');
  await page.keyboard.press('b');
  const options = page.getByRole('listbox', { name: 'Bones' }).getByRole('option');
  // It opens where the chosen bone is.
  await options.first().focus();
  await page.keyboard.press('Home');
  await expect(page.getByRole('option', { name: /^base, / })).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('option', { name: /^hips_c, / })).toBeFocused();
  expect(await page.getByRole('listbox', { name: 'Bones' }).locator('[tabindex="0"]').count()).toBe(1);
});

test('the browser’s way back leads to the room before; a page made anew in the middle of a step ends on the newest revision', async ({
  page,
}) => {
  await bringTo(page, 'deckhand.glb', 2);
  const heading = (name: string) => page.getByRole('heading', { name, exact: true });
  await expect(heading('Skeleton')).toBeVisible();
  await page.keyboard.press('4');
  await expect(heading('Weights')).toBeVisible();
  await page.goBack();
  await expect(heading('Skeleton')).toBeVisible();
  await page.goForward();
  await expect(heading('Weights')).toBeVisible();
  await page.goBack();
  await page.keyboard.press('1');
  await page.getByRole('button', { name: /hovers/ }).click();
  const asked = page.waitForRequest((request) => request.url().endsWith('/steps/remedy'));
  await page.getByRole('button', { name: 'Set on the ground', exact: true }).click();
  await asked;
  await page.reload();
  await expect(revisionButton(page, 2)).toBeVisible();
  await expect(page.getByRole('button', { name: /hovers/ })).toHaveCount(0);
});

test('arrivals fold together', async ({ page }) => {
  await page.goto('/');
  const input = page.locator('input[type=file]');
  await input.setInputFiles({ name: 'a.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from('no') });
  await input.setInputFiles({ name: 'b.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from('no') });
  await expect(page.getByText('2 arrivals: 2 not taken in')).toBeVisible();
  await expect(page.getByText('was not taken in')).toHaveCount(2);
  await page.getByRole('button', { name: /^2 arrivals/ }).click();
  await expect(page.getByText('was not taken in')).toHaveCount(0);
  await page.getByRole('button', { name: 'Put away what is done' }).click();
  await expect(page.getByText(/arrivals/)).toHaveCount(0);
});

test('the crosswalk opened and left twenty times holds no more of the graphics card than once', async ({
  page,
}) => {
  await openCharacter(page, 'Quay skeleton');
  const held = async () => {
    const canvas = page.locator('canvas').first();
    return canvas.evaluate((c) => [c.dataset.geometries, c.dataset.textures]);
  };
  const count = () => page.locator('canvas[data-geometries]').count();
  const visit = async () => {
    await page.keyboard.press('6');
    await expect(page.locator('canvas[data-geometries]')).toHaveCount(2);
    await page.keyboard.press('3');
    await expect(page.locator('canvas[data-geometries]')).toHaveCount(1);
  };
  const lost: string[] = [];
  page.on('console', (message) => {
    if (/context/i.test(message.text())) lost.push(message.text());
  });
  for (let i = 0; i < 2; i++) await visit();
  const before = await held();
  // More often than a browser keeps contexts, which is sixteen times.
  for (let i = 0; i < 20; i++) await visit();
  await page.keyboard.press('v');
  expect([await held(), await count()]).toEqual([before, 1]);
  // A browser that has too many contexts takes the oldest away, and says so.
  expect(lost.filter((text) => /too many|oldest/i.test(text))).toEqual([]);
});
