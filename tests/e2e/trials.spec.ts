import { readFileSync } from 'node:fs';
import { type Page, expect } from '@playwright/test';
import { readGltf } from '@/core/formats/gltf/read';
import { writeGlb } from '@/core/formats/gltf/write';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { withJoints } from '../core/support/changed-joints';
import { test } from './browser';
import { accessible, bringBy, castFile, expectOtherPicture, picture, pictureAtRest, ready } from './support';

const clean = () => new Uint8Array(readFileSync(castFile('deckhand-clean.glb')));

/** The clean Deckhand with a forearm that was missed, an elbow whose band is much too wide, and a lantern that hangs too near. */
function brokenDeckhand(): Uint8Array {
  const whole = readGltf([{ name: 'clean.glb', bytes: clean() }]);
  const node = (name: string) => whole.nodes.findIndex((one) => one.name === name);
  let broken = whole;
  for (const mesh of ['body', 'oilskin coat'])
    broken = withJoints(broken, mesh, (bone) =>
      ['arm_lower_lt', 'wrist_twist_lt'].includes(whole.nodes[bone].name) ? node('arm_upper_lt') : bone,
    );
  broken = remedyById('set-band')!.apply(
    broken,
    { bone: node('arm_lower_rt'), width: 0.35 },
    briefById('handset')!,
  );
  const nodes = broken.nodes.map((one) =>
    one.name === 'storm lantern' ? { ...one, translation: [-0.05, 0, 0] as const } : one,
  );
  return writeGlb({ ...broken, nodes }).bytes;
}

const notebook = (page: Page) => page.getByRole('complementary', { name: 'Notebook' });
const finding = (page: Page, text: RegExp) => notebook(page).getByRole('button', { name: text }).first();

/** Waits until every joint was turned. */
const tried = (page: Page) =>
  expect(page.getByRole('status').filter({ hasText: /\d+ motions tried/ })).toBeAttached({
    timeout: 300_000,
  });

/** Presses the remedy that is offered first, and waits for the step and for what the joints do after it. */
async function mend(page: Page, button: string | RegExp, revision: number): Promise<void> {
  await notebook(page).getByRole('button', { name: button }).first().click();
  await expect(page.getByRole('button', { name: new RegExp(`^revision ${revision},`) })).toBeVisible();
  await tried(page);
}

test(
  'a missed joint, an elbow that collapses and a lantern in the coat are found in motion and mended, half of it by keyboard',
  { tag: '@pictures' },
  async ({ page, request }) => {
    const id = await bringBy(request, 'Stiff Deckhand.glb', { bytes: Buffer.from(brokenDeckhand()) });
    await page.goto(`/c/${id}`);
    await ready(page);
    // Of what was not tried nothing is said.
    await expect(page.getByText('✓ ready')).toHaveCount(0);
    await page.keyboard.press('5');
    await tried(page);
    await expect(finding(page, /When “arm_lower_lt” turns, \d+ % of the flesh/)).toBeVisible();
    await expect(finding(page, /“arm_lower_rt” keeps \d+ % of its volume/)).toBeVisible();
    await expect(finding(page, /“storm lantern” goes .* into “oilskin coat”/)).toBeVisible();
    await accessible(page);

    // A finding stands in its pose.
    const rest = await pictureAtRest(page);
    await finding(page, /“arm_lower_rt” keeps/).click();
    await expect(page.getByText(/posed, 1 bone turned/)).toBeVisible();
    await expectOtherPicture(page, rest, 'the elbow bends');
    await mend(page, /^Harden or soften/, 2);
    await expect(finding(page, /“arm_lower_rt” keeps/)).toHaveCount(0);
    // What the step did to the joints stands before their table.
    await notebook(page).getByRole('button', { name: 'Joints', exact: true }).click();
    const since = notebook(page).getByRole('region', { name: 'Since the trial before' });
    await expect(since).toContainText(/Since revision 1 \d+ of \d+ motions are otherwise/);
    await expect(since.getByRole('row', { name: /^arm_lower_rt bend \d+ % → \d+ %/ })).toBeVisible();
    await notebook(page).getByRole('button', { name: 'Findings', exact: true }).click();

    // By keyboard alone: the finding, its first button, the step.
    await finding(page, /When “arm_lower_lt” turns/).focus();
    await page.keyboard.press('Enter');
    const set = notebook(page)
      .getByRole('button', { name: /^Set a bone’s weight/ })
      .first();
    await expect(set).toBeEnabled();
    await set.focus();
    await page.keyboard.press('Enter');
    await expect(page.getByRole('button', { name: /^revision 3,/ })).toBeVisible();
    await tried(page);
    await expect(finding(page, /When “arm_lower_lt” turns/)).toHaveCount(0);

    // What is left is mended by what is offered first, one after the other.
    for (let revision = 4; revision < 12; revision++) {
      const left = notebook(page)
        .getByRole('listitem')
        .getByRole('button', { name: /torn|stretched|inside out|moves \(/ });
      if ((await left.count()) === 0) break;
      await left.first().click();
      await mend(page, /^(Take a bone out|Set a bone’s weight|Harden or soften|Place a part)/, revision);
    }
    await expect(notebook(page).getByText('nothing open', { exact: true })).toBeVisible();

    // What all of it came to: the first revision and the last one turned joint by joint, both shown where they differ most.
    await page.getByRole('button', { name: 'Ledger', exact: true }).click();
    await page
      .getByRole('listitem')
      .filter({ hasText: 'as delivered' })
      .getByRole('button', { name: 'Compare' })
      .click();
    const panel = page.getByRole('complementary', { name: 'Comparison' });
    // Both are fetched and laid beside each other first.
    await panel.getByRole('button', { name: 'Turn every joint of both' }).click({ timeout: 600_000 });
    const both = panel.getByRole('region', { name: 'Both in motion' });
    await expect(both).toContainText(/\d+ of \d+ motions bend otherwise/, { timeout: 300_000 });
    const atRest = await pictureAtRest(page);
    await both.getByRole('button', { name: /^arm_lower_rt in bend/ }).click();
    await expect(both).toContainText(/Both stand in arm_lower_rt, bend/);
    await expect(panel).toContainText(/The farthest point lies/);
    await expectOtherPicture(page, atRest, 'both bend the elbow');
    await accessible(page);
    await both.getByRole('button', { name: 'At rest' }).click();
    await expect(both).not.toContainText('Both stand in');
    await page.keyboard.press('Escape');
    await expect(panel).toHaveCount(0);
  },
);

test('a capture’s clip: what is wrong with it is told at its moment and mended, half of it by keyboard', async ({
  page,
  request,
}) => {
  // A brief for machines asks nothing of how joints bend, but something of clips.
  const id = await bringBy(request, 'deckhand.glb', { brief: 'plain-machine' });
  await page.goto(`/c/${id}?room=trials`);
  await ready(page);
  await notebook(page).getByRole('button', { name: 'Clips', exact: true }).click();
  await notebook(page).getByRole('button', { name: 'patrol loop', exact: true }).click();
  await expect(page.getByText('posed by patrol loop')).toBeVisible();
  await expect(page.getByLabel('Clip', { exact: true })).toHaveValue('1');
  const told = notebook(page).getByRole('list', { name: 'Found in patrol loop' });
  await expect(told.getByRole('button')).toHaveCount(4);
  await accessible(page);
  await told.getByRole('button', { name: /jumps once, most at “L_hand”: 120°/ }).click();
  await expect(page.getByLabel('Moment of the clip')).toHaveValue('1.18');
  await expect(notebook(page).getByRole('row', { name: /^Jumps 1 0$/ })).toBeVisible();
  await notebook(page).getByRole('button', { name: 'Bridge the jumps', exact: true }).click();
  await expect(page.getByRole('button', { name: /^revision 2,/ })).toBeVisible();
  await finding(page, /does not end where it begins/).click();
  await notebook(page).getByRole('button', { name: 'Close the loop', exact: true }).click();
  await expect(page.getByRole('button', { name: /^revision 3,/ })).toBeVisible();
  for (const [i, [text, remedy]] of (
    [
      [/scales a bone, most “R_thumb_3”/, 'Take out the scales of bones'],
      [/has a track that moves nothing/, 'Take out tracks that move nothing'],
    ] as const
  ).entries()) {
    await finding(page, text).focus();
    await page.keyboard.press('Enter');
    const button = notebook(page).getByRole('button', { name: remedy, exact: true });
    await expect(button).toBeEnabled();
    await button.focus();
    await page.keyboard.press('Enter');
    await expect(page.getByRole('button', { name: new RegExp(`^revision ${4 + i},`) })).toBeVisible();
  }
  await expect(notebook(page).getByRole('button', { name: /patrol loop/ })).toHaveCount(0);
  // With nothing chosen the hand finds the remedies of clips, and is asked for which.
  await notebook(page).getByRole('button', { name: 'By hand', exact: true }).click();
  await notebook(page)
    .getByRole('button', { name: /^Keep it in place/ })
    .click();
  await notebook(page).getByRole('combobox', { name: 'Clip' }).selectOption({ label: 'patrol loop' });
  await expect(notebook(page).getByRole('row', { name: /^Way over the ground 1\.400 0 m$/ })).toBeVisible();
});

test(
  'joints as a table, the volume over the angle, and weights painted in the pose that shows it',
  { tag: '@pictures' },
  async ({ page, request }) => {
    const id = await bringBy(request, 'Deckhand in motion.glb', { bytes: Buffer.from(clean()) });
    await page.goto(`/c/${id}`);
    await ready(page);
    await page.keyboard.press('5');
    await tried(page);
    // All motions of all joints in one table: arrows go through it, and the figure stands in each.
    await page.getByRole('button', { name: 'Motions', exact: true }).click();
    const cells = page.getByRole('group', { name: 'Motions of the joints' });
    await expect(cells.getByRole('button').first()).toHaveAccessibleName(
      /^leg_lower_.t, bend, 135°: volume \d+ %$/,
    );
    await cells.getByRole('button').first().click();
    await page.keyboard.press('ArrowRight');
    await expect(cells.getByRole('button', { pressed: true })).toBeFocused();
    await expect(page.getByText(/posed, \d+ bones? turned/)).toBeVisible();
    await page
      .getByRole('group', { name: 'Figure in the cells' })
      .getByRole('button', { name: 'Stretch' })
      .click();
    await expect(cells.getByRole('button').first()).toHaveAccessibleName(/: stretch [\d.]+ ×$/);
    await accessible(page);
    await page.getByRole('button', { name: 'Close the drawer' }).click();
    await notebook(page).getByRole('button', { name: 'Joints', exact: true }).click();
    const joint = notebook(page).getByRole('button', { name: /^leg_lower_lt/ });
    await joint.click();
    const chart = page.getByRole('img', {
      name: /Volume kept at leg_lower_lt, bend: at the end \d+ % linearly, \d+ % by dual/,
    });
    await expect(chart).toBeVisible();
    await expect(page.getByText(/posed, 1 bone turned/)).toBeVisible();
    // What the pose does to the joint stands below the stage, and goes along with the sliders.
    const live = page.getByLabel('The joint in this pose');
    const kept = async () => Number(/volume(\d+) %/.exec((await live.textContent()) ?? '')?.[1]);
    await expect(live).toContainText(/volume\d+ %stretch[\d.]+ ×/);
    const atEnd = await kept();
    expect(atEnd).toBeLessThan(60);
    await page.getByLabel('Degrees about its z axis').fill('40');
    await expect.poll(kept).toBeGreaterThan(atEnd + 15);
    await joint.click();
    await joint.click();
    await expect.poll(kept).toBe(atEnd);
    await accessible(page);
    const angle = notebook(page).getByRole('slider', { name: /angle/ });
    await angle.focus();
    const bent = await pictureAtRest(page);
    for (let press = 0; press < 12; press++) await page.keyboard.press('ArrowLeft');
    await expect(angle).toHaveValue('123');
    await expectOtherPicture(page, bent, 'the knee is bent less');
    await picture(page, 'trials');
    // A turn of the hand is shown with how it is spread along the arm.
    await notebook(page)
      .getByRole('button', { name: / more$/ })
      .click();
    await notebook(page)
      .getByRole('button', { name: /^hand_lt/ })
      .click();
    await notebook(page).getByRole('button', { name: 'turn palm up' }).click();
    await expect(
      page.getByRole('img', {
        name: /^Twist along the arm: \d+° off an even spread at most, \d+ % of the way to the hand, on “oilskin coat”/,
      }),
    ).toBeVisible();
    await expect(page.getByText(/posed, 2 bones turned/)).toBeVisible();
    await accessible(page);
    await joint.click();
    await expect(page.getByText(/posed, 1 bone turned/)).toBeVisible();
    await notebook(page).getByRole('button', { name: 'Paint its weights in this pose' }).click();
    await expect(page).toHaveURL(/room=weights/);
    await expect(page.getByText(/posed, 1 bone turned/)).toBeVisible();
  },
);

test('what bends worse than what was handed over is told with its pose, and is gone where it stands as it was', async ({
  page,
  request,
}) => {
  const id = await bringBy(request, 'deckhand-clean.glb');
  const { head } = (await (await request.get(`/api/characters/${id}`)).json()) as { head: string };
  const handed = await request.post(`/api/characters/${id}/dockets`, {
    data: { revision: head, format: 'glb', by: 'A rigger' },
    headers: { 'sec-fetch-site': 'same-origin' },
    timeout: 600_000,
  });
  expect(await handed.text()).toContain('"stage":"done"');
  const whole = readGltf([{ name: 'clean.glb', bytes: clean() }]);
  const bone = whole.nodes.findIndex(({ name }) => name === 'arm_lower_rt');
  const softened = await request.post(`/api/characters/${id}/steps/remedy`, {
    data: { base: head, remedy: 'set-band', params: { bone, width: 0.2 } },
    headers: { 'sec-fetch-site': 'same-origin' },
  });
  expect(softened.status()).toBe(201);
  await page.goto(`/c/${id}?room=trials`);
  await ready(page);
  await tried(page);
  const worse = finding(page, /“arm_lower_rt” keeps .* when it was handed over it kept/);
  await worse.click();
  await expect(page.getByText(/posed, \d+ bones? turned/)).toBeVisible();
  await accessible(page);
  await page.getByRole('button', { name: 'Ledger', exact: true }).click();
  await page
    .getByRole('listitem')
    .filter({ hasText: 'as delivered' })
    .getByRole('button', { name: 'Go here' })
    .click();
  await expect(page.getByRole('button', { name: /^revision 1,/ })).toBeVisible();
  await expect(worse).toHaveCount(0);
  await expect(notebook(page).getByText('nothing open', { exact: true })).toBeVisible({ timeout: 300_000 });
});

test('the shelf says who was not tried in motion; the house tries them, and stops when it is told to', async ({
  page,
  request,
}) => {
  await bringBy(request, 'Unmoved Deckhand.glb', { bytes: Buffer.from(clean()) });
  await page.goto('/');
  const card = page.getByRole('link', { name: 'Open Unmoved Deckhand', exact: true }).first();
  await expect(card).toContainText('nothing open at rest');
  await expect(card).toContainText('not tried in motion');
  await accessible(page);
  const offer = page.getByRole('button', { name: /^Try (it|them) in motion$/ });
  await offer.click();
  await expect(page.getByRole('progressbar', { name: 'Tried in motion so far' })).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(offer).toBeVisible();
  await expect(page.getByRole('main').getByRole('alert')).toHaveCount(0);
});
