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
  },
);

test(
  'joints as a table, the volume over the angle, and weights painted in the pose that shows it',
  { tag: '@pictures' },
  async ({ page, request }) => {
    const id = await bringBy(request, 'Deckhand in motion.glb', { bytes: Buffer.from(clean()) });
    await page.goto(`/c/${id}`);
    await ready(page);
    await page.keyboard.press('5');
    await tried(page);
    await notebook(page).getByRole('button', { name: 'Joints', exact: true }).click();
    const joint = notebook(page).getByRole('button', { name: /^leg_lower_lt/ });
    await joint.click();
    const chart = page.getByRole('img', {
      name: /Volume kept at leg_lower_lt, bend: at the end \d+ % linearly, \d+ % by dual/,
    });
    await expect(chart).toBeVisible();
    await expect(page.getByText(/posed, 1 bone turned/)).toBeVisible();
    await accessible(page);
    const angle = notebook(page).getByRole('slider', { name: /angle/ });
    await angle.focus();
    const bent = await pictureAtRest(page);
    for (let press = 0; press < 12; press++) await page.keyboard.press('ArrowLeft');
    await expect(angle).toHaveValue('123');
    await expectOtherPicture(page, bent, 'the knee is bent less');
    await picture(page, 'trials');
    await notebook(page).getByRole('button', { name: 'Paint its weights in this pose' }).click();
    await expect(page).toHaveURL(/room=weights/);
    await expect(page.getByText(/posed, 1 bone turned/)).toBeVisible();
  },
);
