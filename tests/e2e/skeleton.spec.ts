import { readFileSync } from 'node:fs';
import { expect } from '@playwright/test';
import { joinCharacters } from '../../src/core/character/join';
import { readGltf } from '../../src/core/formats/gltf/read';
import { writeGlb } from '../../src/core/formats/gltf/write';
import { test } from './browser';
import { accessible, bring, bringBy, castFile, picture, ready } from './support';

test('the tree as a picture: what is wrong in it, one choice with the stage, along chains, by name, by keyboard', async ({
  page,
}) => {
  await bring(page, 'deckhand.glb', readFileSync(castFile('deckhand.glb')));
  await page.keyboard.press('2');
  const panel = page.getByRole('region', { name: 'The tree' });
  const tree = panel.getByRole('tree', { name: 'Tree of the bones' });
  const bone = (name: RegExp) => tree.getByRole('treeitem', { name });
  await expect(bone(/^base, middle, /)).toBeVisible();
  await accessible(page);

  // A finding chooses its bones in the tree as well, and is marked there.
  await page.getByRole('button', { name: /hangs under “R_foot”/ }).click();
  await expect(bone(/^L_toes, left, .*stops hand-off$/)).toHaveAttribute('aria-selected', 'true');

  // A bud opens, and is folded again from the keyboard.
  const bud = bone(/^15 folded, left/).first();
  await bud.click();
  await expect(bone(/^L_index_1, left/)).toBeVisible();
  await bone(/^L_hand, left/).click();
  await expect(bone(/^L_hand, left/)).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('Space');
  await expect(bone(/^L_index_1, left/)).toHaveCount(0);

  // Arrows go where they point.
  await page.keyboard.press('ArrowLeft');
  await expect(bone(/^L_forearm, left/)).toHaveAttribute('aria-selected', 'true');
  await expect(bone(/^L_forearm, left/)).toBeFocused();

  // The choice goes on along the tree, to the other side, to all others.
  const choice = panel.getByRole('status').last();
  await panel.getByRole('button', { name: 'Other side' }).click();
  await expect(choice).toHaveText('R_forearm');
  await panel.getByRole('button', { name: 'Below' }).click();
  await expect(choice).toHaveText(/^1\d bones$/);
  await panel.getByRole('button', { name: 'Invert' }).click();
  await expect(choice).toHaveText(/^[89]\d bones$/);

  // By name, all of them at once; then only those are shown.
  await panel.getByRole('textbox', { name: 'Find bones by name' }).fill('*_coat_?_3');
  await expect(panel.getByText('10 of 105')).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(choice).toHaveText('10 bones');
  await panel
    .getByRole('combobox', { name: 'Which bones are shown' })
    .selectOption({ label: '30 of cloth and hair' });
  await expect(bone(/^L_coat_a_3, left/)).toBeVisible();
  await expect(bone(/^L_forearm, left/)).toHaveCount(0);
  await accessible(page);

  // What was chosen there is what can be worked on.
  await page.getByRole('button', { name: 'By hand', exact: true }).click();
  await expect(page.getByText('10 bones:')).toBeVisible();
  await page.getByRole('button', { name: /^Put before or after names/ }).click();
  await page.getByRole('textbox', { name: 'Letters' }).fill('crew_');
  await page
    .getByRole('group', { name: 'Put before or after names' })
    .getByRole('button', { name: 'Put before or after names' })
    .click();
  await expect(page.getByText(/^revision 2/)).toBeVisible();
  await expect(bone(/^crew_L_coat_a_3, left/)).toBeVisible();
});

test('a hand whose axes are half a turn off its twin’s, and a joint that was nudged: found, mended, what bones are for is said of thirty at once', async ({
  page,
}) => {
  await bring(page, 'deckhand.glb', readFileSync(castFile('deckhand.glb')));
  await page.keyboard.press('2');
  await page.getByRole('button', { name: /“R_hand” has other axes than its twin “L_hand”/ }).click();
  const chosen = page.getByRole('region', { name: 'The tree' }).getByRole('treeitem', { selected: true });
  await expect(chosen.first()).toHaveAccessibleName(/^[LR]_hand, /);
  await page.getByRole('button', { name: 'Make them mirror images of their twins', exact: true }).click();
  await expect(page.getByText(/^revision 2/)).toBeVisible();
  await expect(page.getByRole('button', { name: /has other axes than its twin/ })).toHaveCount(0);
  await page.getByRole('button', { name: /“R_pinky_2” stands elsewhere than the mirror image/ }).click();
  await expect(page.getByRole('row', { name: /^R_pinky_2, apart/ })).toBeVisible();
  await page.getByRole('button', { name: 'Make them mirror images of their twins', exact: true }).click();
  await expect(page.getByText(/^revision 3/)).toBeVisible();
  await expect(page.getByRole('button', { name: /stands elsewhere than the mirror image/ })).toHaveCount(0);

  const panel = page.getByRole('region', { name: 'The tree' });
  await panel
    .getByRole('combobox', { name: 'Which bones are shown' })
    .selectOption({ label: '30 of cloth and hair' });
  await panel.getByRole('button', { name: 'Choose them' }).click();
  await page.getByRole('button', { name: 'By hand', exact: true }).click();
  await page.getByRole('button', { name: /^Say what bones are for/ }).click();
  const offer = page.getByRole('group', { name: 'Say what bones are for' });
  await offer.getByRole('button', { name: 'control', exact: true }).click();
  await offer.getByRole('button', { name: 'Say what bones are for' }).click();
  await expect(page.getByText(/^revision 4/)).toBeVisible();
  await expect(
    panel
      .getByRole('combobox', { name: 'Which bones are shown' })
      .locator('option', { hasText: '35 that are controls' }),
  ).toHaveCount(1);
  await page.keyboard.press('u');
  await expect(page.getByText(/^revision 3/)).toBeVisible();
});

test('two skeletons become one: the smaller is grafted on a bone of the other, and told to follow', async ({
  page,
}) => {
  const read = (file: string) => readGltf([{ name: file, bytes: readFileSync(castFile(file)) }]);
  const both = joinCharacters(read('deckhand-clean.glb'), read('capstan.glb'));
  await bring(page, 'two.glb', Buffer.from(writeGlb(both).bytes));
  await page.keyboard.press('2');
  await page.getByRole('button', { name: /The skeleton has 2 roots/ }).click();
  const graft = page.getByRole('button', { name: 'Graft a skeleton on a bone', exact: true });
  await expect(page.getByRole('row', { name: /^Left behind where .* 0 m$/ })).toBeVisible();
  const tree = page.getByRole('tree', { name: 'Tree of the bones' });
  await expect(tree.getByRole('treeitem', { level: 1 })).toHaveCount(2);
  await graft.click();
  await expect(page.getByText(/^revision 2/)).toBeVisible();
  await expect(page.getByRole('button', { name: /The skeleton has 2 roots/ })).toHaveCount(0);
  await expect(tree.getByRole('treeitem', { level: 1 })).toHaveCount(1);
});

test('the Heron: from two skeletons and a wing mirrored by half to one that passes, the second half by keyboard', async ({
  page,
}) => {
  const id = await bringBy(page.request, 'heron.glb', { brief: 'winged' });
  await page.goto(`/c/${id}`);
  await ready(page);
  await expect(page.getByText('2 stop hand-off')).toBeVisible();
  await page.keyboard.press('2');
  const tree = page.getByRole('tree', { name: 'Tree of the bones' });
  await expect(tree.getByRole('treeitem', { level: 1 })).toHaveCount(2);
  await page.getByRole('button', { name: /The skeleton has 2 roots/ }).click();
  await expect(page.getByRole('row', { name: /^Left behind where spine_2 .* 0 m$/ })).toBeVisible();
  await page.getByRole('button', { name: 'Graft a skeleton on a bone', exact: true }).click();
  await expect(page.getByText('1 stops hand-off')).toBeVisible();
  await expect(tree.getByRole('treeitem', { level: 1 })).toHaveCount(1);

  await picture(page, 'skeleton');

  // The wing in one step: names, parent, axes, lengths.
  await page.keyboard.press('/');
  await page.keyboard.type('hangs under “collar_lt”');
  await page.keyboard.press('Enter');
  const mirror = page.getByRole('button', { name: 'Mirror it to the other side', exact: true }).first();
  await expect(mirror).toBeEnabled();
  await expect(page.getByRole('row', { name: /^Axes off, most 180 0 °$/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /^Hanging under collar_lt collar_rt$/ })).toBeVisible();
  await mirror.focus();
  await page.keyboard.press('Enter');
  await expect(page.getByText(/stops? hand-off/)).toHaveCount(0);
  await expect(tree.getByRole('treeitem', { name: /^wing_lower_rt, right/ })).toBeVisible();

  await page.keyboard.press('/');
  await page.keyboard.type('end bone “wing_end_rt”');
  await page.keyboard.press('Enter');
  const give = page.getByRole('button', { name: 'Give its weight to the parent', exact: true });
  await expect(give).toBeEnabled();
  await give.focus();
  await page.keyboard.press('Enter');
  await expect(page.getByText(/^revision 4/)).toBeVisible();
  await page.keyboard.press('7');
  await expect(page.getByText('nothing open; ready to hand over')).toBeVisible();
  await accessible(page);
});

test('the table of bones is edited in place: a name, a kind, what it hangs under; bones go into a set at a press', async ({
  page,
}) => {
  await bring(page, 'deckhand.glb');
  await page.keyboard.press('2');
  await page.keyboard.press('b');
  const table = page.getByRole('listbox', { name: 'Bones' });
  await page.getByRole('textbox', { name: 'Find a bone' }).fill('L_toes');
  await table.getByRole('option', { name: /^L_toes, deforming, under R_foot, left, .*open$/ }).click();
  await page.keyboard.press('F2');
  await expect(page.getByRole('textbox', { name: 'Name', exact: true })).toBeFocused();
  await accessible(page);
  // A parent that is not there is told, and nothing is done.
  await page.getByLabel('Hangs under', { exact: true }).fill('L_feet');
  await page.keyboard.press('Enter');
  await expect(page.getByText('No bone is called “L_feet”.')).toBeVisible();
  await page.getByLabel('Hangs under', { exact: true }).fill('L_foot');
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('L_toes_all');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/^revision 3/)).toBeVisible();
  await page.getByRole('textbox', { name: 'Find a bone' }).fill('L_toes');
  const row = table.getByRole('option', { name: /^L_toes_all, deforming, under L_foot, left/ });
  await row.dblclick();
  await page.getByRole('combobox', { name: 'It is' }).selectOption({ label: 'helper' });
  await page.keyboard.press('Escape');
  await expect(row).toBeVisible();
  await row.dblclick();
  await page.getByRole('combobox', { name: 'It is' }).selectOption({ label: 'helper' });
  await page.getByRole('textbox', { name: 'Name', exact: true }).press('Enter');
  await expect(table.getByRole('option', { name: /^L_toes_all, helper, / })).toBeVisible();

  // The chosen bones as a set, one more put into it and taken out again.
  await page.getByRole('button', { name: 'By hand', exact: true }).click();
  await table.getByRole('option', { name: /^L_toes_all, / }).click();
  await page.getByRole('button', { name: /^Keep as a set/ }).click();
  const keep = page.getByRole('group', { name: 'Keep as a set' });
  await keep.getByRole('textbox', { name: 'Name', exact: true }).fill('feet');
  await page.getByRole('button', { name: 'Keep as the set “feet”' }).click();
  await page.getByRole('textbox', { name: 'Find a bone' }).fill('R_foot');
  await table.getByRole('option', { name: /^R_foot, / }).click();
  // A set's bones are hidden and shown again at a press.
  await page.getByRole('button', { name: 'Hide the bones of “feet”' }).click();
  await expect(page.getByTestId('read-out')).toContainText('hidden: show all');
  await page.getByRole('button', { name: 'Show the bones of “feet”' }).click();
  await expect(page.getByTestId('read-out')).not.toContainText('hidden: show all');
  await page.getByRole('button', { name: 'Put “R_foot” into “feet”' }).click();
  await expect(page.getByRole('button', { name: /^feet 2 bones$/ })).toBeVisible();
  await page.getByRole('button', { name: 'Take “R_foot” out of “feet”' }).click();
  await expect(page.getByRole('button', { name: /^feet 1 bone$/ })).toBeVisible();
});

test('a bone swept about an axis, and what its twin does by the same turn', async ({ page }) => {
  await bring(page, 'deckhand-clean.glb');
  await page.keyboard.press('2');
  await page
    .getByRole('tree', { name: 'Tree of the bones' })
    .getByRole('treeitem', { name: /^arm_upper_lt, / })
    .click();
  await page.keyboard.press(',');
  const twin = page.getByLabel('Turned alike with its twin');
  await expect(twin).toHaveText(
    /mirror image of arm_upper_rt by.*x (same|opposite) turn.*y .*turn.*z .*turn$/,
  );
  await expect(twin).not.toHaveText(/off/);
  const degrees = page.getByLabel('Degrees about its z axis');
  const sweep = page.getByRole('button', { name: 'Sweep about z' });
  await sweep.click();
  await expect.poll(async () => Math.abs(Number(await degrees.inputValue()))).toBeGreaterThan(10);
  // It ends by itself where it began.
  await expect(sweep).toHaveAttribute('aria-pressed', 'false');
  await expect(degrees).toHaveValue('0');
  await accessible(page);
});
