import { expect } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { AnimationMixer, type Bone, type SkinnedMesh, Vector3 } from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { readGltf } from '../../src/core/formats/gltf/read';
import { test } from './browser';
import { castFile, picture, ready } from './support';

/** A file as three.js' own loader reads it; pictures are left out, since there is no page here. */
async function load(bytes: Uint8Array) {
  const loader = new GLTFLoader();
  loader.register(() => ({ name: 'no pictures', loadTexture: async () => null }) as never);
  (globalThis as { self?: unknown }).self ??= globalThis;
  return loader.parseAsync(bytes.slice().buffer as ArrayBuffer, '');
}

/** Places of every n-th vertex of a skinned mesh under a turn of one bone, by three.js' skinning. */
function deformed(
  scene: Awaited<ReturnType<typeof load>>['scene'],
  meshName: string,
  bone: string | null,
  degrees: number,
): Vector3[] {
  scene.updateMatrixWorld(true);
  let mesh: SkinnedMesh | null = null;
  let joint: Bone | null = null;
  const parts: SkinnedMesh[] = [];
  scene.traverse((o) => {
    if ((o as SkinnedMesh).isSkinnedMesh && (o.name === meshName || o.parent?.name === meshName))
      parts.push(o as SkinnedMesh);
    if (bone && o.name === bone) joint = o as Bone;
  });
  mesh = parts[0];
  const held = joint as Bone | null;
  if (bone && !held) throw new Error(`no bone ${bone}`);
  const before = held?.quaternion.clone();
  if (held) {
    const world = held.getWorldQuaternion(held.quaternion.clone());
    const axis = new Vector3(0, 0, 1).applyQuaternion(world.invert());
    held.rotateOnAxis(axis, (degrees * Math.PI) / 180);
  }
  scene.updateMatrixWorld(true);
  const out: Vector3[] = [];
  const count = mesh.geometry.attributes.position.count;
  for (let vertex = 0; vertex < count; vertex += 37)
    out.push(mesh.localToWorld(mesh.getVertexPosition(vertex, new Vector3())));
  if (held && before) held.quaternion.copy(before);
  return out;
}

test('from the faulty file to the clean one: drop, findings, two remedies, one undone, crosswalk, download', async ({
  page,
}) => {
  await page.goto('/');
  await expect(page.getByRole('heading', { name: 'Characters' })).toBeVisible();
  await page.locator('input[type=file]').setInputFiles(castFile('deckhand.glb'));
  await expect(page.getByText('is on the shelf')).toBeVisible();
  await expect(page.getByText('Everything that the file holds was carried over.')).toBeVisible();
  await page.getByRole('link', { name: 'Open deckhand', exact: true }).first().click();
  await ready(page);
  await expect(page.getByText('8 stop hand-off')).toBeVisible();

  // First remedy: bake the scale that the lantern inherits.
  await page.getByRole('button', { name: /lantern hook.*scaled evenly/ }).click();
  await page.getByRole('button', { name: 'Bake the scale into the points' }).click();
  await expect(page.getByText('7 stop hand-off')).toBeVisible();
  await expect(page.getByText(/Nothing else changed: 0 mm over/)).toBeVisible();

  // Second remedy: limit and normalise.
  await page
    .getByRole('button', { name: /^Weights/ })
    .first()
    .click();
  await page.getByRole('button', { name: /hold up to 6 bones/ }).click();
  await expect(page.getByText('Vertices over the limit')).toBeVisible();
  await page.getByRole('button', { name: 'Limit and normalise' }).click();
  await expect(page.getByText('5 stop hand-off')).toBeVisible();

  // One undone, and done again.
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(page.getByText('7 stop hand-off')).toBeVisible();
  await page.getByRole('button', { name: 'Redo', exact: true }).click();
  await expect(page.getByText('5 stop hand-off')).toBeVisible();

  // The toes go back under their own foot, and the bald crown is filled, so that motion can be compared.
  await page
    .getByRole('button', { name: /^Skeleton/ })
    .first()
    .click();
  await page.getByRole('button', { name: /L_toes.*hangs under/ }).click();
  await page.getByRole('button', { name: 'Hang under the right parent' }).click();
  await expect(page.getByText('4 stop hand-off')).toBeVisible();
  await page
    .getByRole('button', { name: /^Weights/ })
    .first()
    .click();
  await page.getByRole('button', { name: /carry no weight/ }).click();
  await page.getByRole('button', { name: 'Fill from the neighbours' }).click();
  await expect(page.getByText('3 stop hand-off')).toBeVisible();
  const [before] = await Promise.all([
    page.waitForEvent('download'),
    page
      .getByRole('button', { name: 'Docket' })
      .first()
      .click()
      .then(() => page.getByRole('link', { name: /^The file/ }).click()),
  ]);
  const beforeBytes = new Uint8Array(readFileSync(await before.path()));

  // Crosswalk.
  await page
    .getByRole('button', { name: /^Crosswalk/ })
    .first()
    .click();
  await expect(page.getByTestId('arrives')).toContainText('Weight before, and after');
  await expect(page.getByTestId('proof')).toContainText('none beyond what is allowed');
  await picture(page, 'crosswalk');
  await page.getByRole('button', { name: 'Differences' }).click();
  await page.getByRole('button', { name: 'Move the weights' }).click();
  await expect(page.getByText(/the weights now stand on Quay skeleton/)).toBeVisible();

  // Docket.
  await page.getByRole('button', { name: 'Docket' }).first().click();
  await expect(page.getByText('moves as before to')).toBeVisible();
  await page.keyboard.press('o');
  await picture(page, 'docket');
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: /^The file/ }).click(),
  ]);
  expect(file.suggestedFilename()).toMatch(/^deckhand-r\d+\.glb$/);
  const bytes = new Uint8Array(readFileSync(await file.path()));
  const [crosswalk] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: /^The crosswalk/ }).click(),
  ]);
  const rules = JSON.parse(readFileSync(await crosswalk.path(), 'utf8')) as {
    kind: string;
    rules: { source: string; rule: string; target: string | null }[];
  };
  expect(rules.kind).toBe('young-bough-crosswalk');
  expect(rules.rules.find((rule) => rule.source === 'L_forearm')).toMatchObject({
    rule: 'carry',
    target: 'arm_lower_lt',
  });
  const [report] = await Promise.all([
    page.waitForEvent('popup'),
    page.getByRole('link', { name: /^The report one page/ }).click(),
  ]);
  await expect(report.getByRole('heading', { name: 'Findings' })).toBeVisible();
  await picture(report, 'report');
  await report.close();

  // three.js' own loader reads both files; the arm turned by 50° moves every point of the coat alike.
  expect(readGltf([{ name: 'out.glb', bytes }]).nodes.some((node) => node.name === 'arm_upper_lt')).toBe(
    true,
  );
  const [a, b] = [await load(beforeBytes), await load(bytes)];
  for (const [was, is] of [
    ['L_upperarm', 'arm_upper_lt'],
    ['R_thigh', 'leg_upper_rt'],
    [null, null],
  ] as const) {
    const vectors = deformed(a.scene, 'oilskin_coat', was, 50);
    const otherVectors = deformed(b.scene, 'oilskin_coat', is, 50);
    expect(vectors.length).toBeGreaterThan(50);
    expect(otherVectors.length).toBe(vectors.length);
    expect(Math.max(...vectors.map((vector, i) => vector.distanceTo(otherVectors[i])))).toBeLessThan(0.0015);
  }
  expect(b.animations[0].tracks.length).toBeGreaterThan(10);
  new AnimationMixer(b.scene).clipAction(b.animations[0]).play();
});

test('a crosswalk edited by hand is saved and taken up again; locks survive a new suggestion', async ({
  page,
}) => {
  await page.goto('/');
  await page.getByRole('link', { name: 'Open Deckhand, clean', exact: true }).click();
  await ready(page);
  await page
    .getByRole('button', { name: /^Crosswalk/ })
    .first()
    .click();
  await page.getByLabel('Skeleton to move to').selectOption({ label: 'VRM 1.0 humanoid' });
  await expect(page.getByTestId('proof')).toContainText('poses');
  await page.getByLabel('Find a bone').fill('spine_3');
  await page
    .getByTestId('pairs')
    .getByRole('option', { name: /spine_3/ })
    .click();
  await page.getByRole('group', { name: 'Its rule' }).getByRole('button', { name: 'keep' }).click();
  await expect(page.getByText('1 locked')).toBeVisible();
  await page.getByRole('button', { name: 'Suggest again' }).click();
  await expect(page.getByTestId('pairs').getByRole('option', { name: /spine_3.*keep/ })).toBeVisible();
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText(/Saved for these two skeletons before/)).toBeVisible();
  await page.reload();
  await ready(page);
  await page.getByLabel('Skeleton to move to').selectOption({ label: 'VRM 1.0 humanoid' });
  await expect(page.getByText(/taken up again/)).toBeVisible();
  await page.getByLabel('Find a bone').fill('spine_3');
  await expect(page.getByTestId('pairs').getByRole('option', { name: /spine_3.*keep/ })).toBeVisible();
  // What is set for one side is set for the other by one press, onto the other side’s counterpart.
  await page.getByLabel('Find a bone').fill('toe_');
  await page
    .getByTestId('pairs')
    .getByRole('option', { name: /toe_lt/ })
    .click();
  await page.getByLabel('Its counterpart').selectOption({ label: 'leftFoot' });
  await page.getByRole('button', { name: 'Set toe_rt alike' }).click();
  await expect(page.getByTestId('pairs').getByRole('option', { name: /toe_rt .* rightFoot/ })).toBeVisible();
});
