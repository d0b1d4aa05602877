import { readFileSync, existsSync } from 'node:fs';
import { expect } from '@playwright/test';
import { unzipSync } from 'fflate';
import { Box3, Vector3, type Mesh, type SkinnedMesh } from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { readCharacter } from '../../src/core/formats';
import { test } from './browser';
import {
  accessible,
  bring,
  castFile,
  expectOtherPicture,
  fillsTheWindow,
  openCharacter,
  picture,
  pictureAtRest,
  ready,
} from './support';

/** A picture's fingerprint: two pictures are compared by it, so that a failure stays readable. */
const bytesOf = async (d: { path(): Promise<string> }) => new Uint8Array(readFileSync(await d.path()));

/** A box of 40 cm beside the figure, in centimetres. */
const CRATE =
  'o crate\nv 60 0 0\nv 100 0 0\nv 100 40 0\nv 60 40 0\nv 60 0 40\nv 100 0 40\nv 100 40 40\nv 60 40 40\nf 1 4 3 2\nf 5 6 7 8\nf 1 2 6 5\nf 3 4 8 7\nf 1 5 8 4\nf 2 3 7 6\n';

test('the Stoker, from first look to a placement room without findings, in under ten clicks; three.js measures the file right', async ({
  page,
}) => {
  let clicks = 0;
  const click = async (name: string) => {
    await page.getByRole('button', { name, exact: true }).click();
    clicks++;
    await expect(page.getByText(new RegExp(`Revision \\d+: ${name.toLowerCase()}`))).toBeVisible({
      timeout: 240_000,
    });
  };
  await page.goto('/');
  await page.getByRole('link', { name: 'Open Stoker', exact: true }).first().click();
  clicks++;
  await ready(page);
  await expect(page.getByRole('heading', { name: 'Placement', exact: true })).toBeVisible();
  await expect(page.getByText('5 stop hand-off')).toBeVisible();
  await accessible(page);
  await picture(page, 'placement');
  await click('Read in another unit');
  await click('Bake the scale into the points');
  await click('Rescale everything');
  await expect(
    page.getByText(/Nothing else changed but for the factor 1\.0\d+: 0 mm over 8 trial poses/),
  ).toBeVisible();
  await click('Rescale this part alone');
  await click('Bring to the brief’s stance');
  await expect(page.getByText('Size, place, stance and binds are as the brief wants them.')).toBeVisible();
  expect(clicks).toBeLessThan(10);
  await expect(page.getByRole('button', { name: 'Placement, clean' })).toBeVisible();

  await page.getByRole('button', { name: 'Measures', exact: true }).click();
  await expect(page.getByRole('row', { name: /Height of the body 1\.760 m 1\.760 ± 0\.050/ })).toBeVisible();
  await accessible(page);
  await picture(page, 'measures');

  await page.getByRole('button', { name: 'Docket' }).first().click();
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: /^The file/ }).click(),
  ]);
  const bytes = await bytesOf(file);
  const { scene } = await new GLTFLoader().parseAsync(bytes.buffer as ArrayBuffer, '');
  scene.updateMatrixWorld(true);
  const box = new Box3();
  const lamp = new Box3();
  const vector = new Vector3();
  scene.traverse((o) => {
    const m = o as SkinnedMesh & Mesh;
    if (!m.isMesh) return;
    for (let i = 0; i < m.geometry.getAttribute('position').count; i++) {
      m.getVertexPosition(i, vector).applyMatrix4(m.matrixWorld);
      if (m.isSkinnedMesh) box.expandByPoint(vector);
    }
    if (!m.isSkinnedMesh) lamp.setFromBufferAttribute(m.geometry.getAttribute('position') as never);
    expect(m.scale.toArray()).toEqual([1, 1, 1]);
  });
  expect(box.max.y - box.min.y).toBeCloseTo(1.76, 3);
  expect(Math.abs(box.min.y)).toBeLessThan(0.01);
  expect(Math.max(...lamp.getSize(vector).toArray())).toBeCloseTo(0.32, 3);
});

test('a file without a unit asks for it, with the height under every choice', async ({ page }) => {
  const obj = 'v -30 0 0\nv 30 0 0\nv 30 0 176\nv -30 0 176\nv 0 20 90\nf 1 2 3 4\nf 1 2 5\n';
  await page.goto('/');
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles({ name: 'board.obj', mimeType: 'text/plain', buffer: Buffer.from(obj) });
  await expect(page.getByText(/does not say its unit nor which way is up/)).toBeVisible();
  await page.getByRole('radio', { name: /^z is up/ }).click();
  await expect(page.getByRole('radio', { name: /^centimetres 1\.76 m/ })).toBeVisible();
  await expect(page.getByRole('radio', { name: /^metres 176 m/ })).toBeVisible();
  await accessible(page);
  await page.getByRole('radio', { name: /^centimetres/ }).click();
  await page.getByRole('button', { name: 'Take it in like this' }).click();
  await page.getByRole('link', { name: 'Open board' }).first().click();
  await ready(page);
  await page.keyboard.press('1');
  await page.getByRole('button', { name: 'Measures', exact: true }).click();
  await expect(page.getByRole('row', { name: /Height of the body 1\.760 m/ })).toBeVisible();
  await fillsTheWindow(page);
});

test(
  'a motion capture opens as a skeleton with its motion, measured and playable',
  { tag: '@pictures' },
  async ({ page }) => {
    const file = '/usr/share/assimp/models/BVH/01_01.bvh';
    test.skip(!existsSync(file), 'the sample models are not installed');
    await page.goto('/');
    await page.locator('input[type=file]').first().setInputFiles(file);
    // No unit with a name is right for this capture: a free factor beside it is.
    await page.getByRole('radio', { name: /^inches/ }).click();
    await page.getByLabel('times').fill('');
    await expect(page.getByRole('button', { name: 'Take it in like this' })).toBeDisabled();
    await page.getByLabel('times').fill('2');
    await expect(page.getByText('→ 1.303 m')).toBeVisible();
    await page.getByRole('button', { name: 'So that it stands 1.76 m' }).click();
    await expect(page.getByText('→ 1.76 m')).toBeVisible();
    await page.getByRole('button', { name: 'Take it in like this' }).click();
    await page.getByRole('link', { name: 'Open 01_01' }).first().click({ timeout: 240_000 });
    await ready(page);
    await page.keyboard.press('1');
    await page.getByRole('button', { name: 'Measures', exact: true }).click();
    await expect(page.getByRole('row', { name: /Height of the skeleton 1\.760/ })).toBeVisible();
    await expect(page.getByRole('row', { name: /Knee above the ground 30/ })).toBeVisible();
    await page.keyboard.press('5');
    await page.getByLabel('Moment of the clip').fill('2');
    const still = await pictureAtRest(page);
    await page.getByRole('button', { name: 'Play' }).click();
    await expectOtherPicture(page, still, 'playing');
  },
);

test(
  'the scene as groups: hide, lock, isolate, tint; a prop added in its own unit keeps its source',
  { tag: '@pictures' },
  async ({ page }) => {
    await bring(page, 'deckhand-clean.glb');
    await page.keyboard.press('1');
    await page.getByRole('button', { name: 'Scene', exact: true }).click();
    await expect(page.getByRole('region', { name: 'Bodies' }).getByText('oilskin coat')).toBeVisible();
    await accessible(page);
    let last = await pictureAtRest(page);
    for (const name of ['Hide oilskin coat', 'Tint body', 'Hide all bones', 'Isolate boots']) {
      await page.getByRole('button', { name, exact: true }).click();
      await expectOtherPicture(page, last, name);
      last = await pictureAtRest(page);
    }
    await page.getByRole('button', { name: 'Isolate boots', exact: true }).click();
    await page.getByRole('button', { name: 'Show oilskin coat', exact: true }).click();
    // Locked, the coat is seen but not found under the pointer: what lies behind it is.
    const over = async () => {
      await page.mouse.move(300, 700);
      await page.mouse.move(535, 380);
    };
    const readOut = page.getByTestId('read-out');
    await over();
    await expect(readOut).toContainText('oilskin coat');
    await page.getByRole('button', { name: 'Lock oilskin coat', exact: true }).click();
    await over();
    await expect(readOut).toContainText(/vertex|_/);
    await expect(readOut).not.toContainText('oilskin coat');

    await page
      .getByLabel('Files to add')
      .setInputFiles({ name: 'crate.obj', mimeType: 'text/plain', buffer: Buffer.from(CRATE) });
    // A part is asked how large it would be beside the figure, never to stand as tall.
    await expect(
      page.getByText(/how large it would be; the figure that it comes to is 1\.\d+ m tall/),
    ).toBeVisible();
    await expect(page.getByRole('button', { name: /^So that it stands/ })).toHaveCount(0);
    await page.getByRole('radio', { name: /^centimetres/ }).click();
    await page.getByRole('button', { name: 'Take it in like this' }).click();
    await expect(page.getByText(/^Added crate\./)).toBeVisible({ timeout: 240_000 });
    await expect(page.getByText(/crate\.obj, centimetres, y up/)).toBeVisible();
    await page.keyboard.press('u');
    await expect(page.getByText('Undone: back at revision 1, “as delivered”.')).toBeVisible();

    // What was hidden and locked is so when the page is opened again, and what is hidden is said.
    await page.reload();
    await page.getByRole('button', { name: 'Scene', exact: true }).click();
    await expect(page.getByRole('button', { name: 'Lock oilskin coat', exact: true })).toHaveAttribute(
      'aria-pressed',
      'true',
    );
    await page.getByRole('button', { name: '91 hidden: show all' }).click();
    await expect(page.getByRole('button', { name: /hidden: show all/ })).toHaveCount(0);
    await expect(page.getByRole('button', { name: 'Hide all bones', exact: true })).toBeVisible();
  },
);

test('two points measured on the stage stay pinned, stand in the report, and rescale everything', async ({
  page,
}) => {
  await bring(page, 'deckhand-clean.glb');
  await page.keyboard.press('1');
  await page.keyboard.press('m');
  await expect(page.getByRole('button', { name: 'Findings', exact: true })).toBeVisible();
  const canvas = (await page.locator('canvas').first().boundingBox())!;
  const middle = canvas.x + canvas.width / 2 + 8;
  const readOut = page.getByTestId('read-out');
  for (const share of [0.22, 0.5]) {
    const said = await readOut.innerText();
    await page.mouse.move(middle, canvas.y + canvas.height * share);
    await expect(readOut).not.toHaveText(said);
    await page.mouse.click(middle, canvas.y + canvas.height * share);
  }
  const pinned = page.getByRole('region', { name: 'Pinned measures' });
  await expect(pinned.getByRole('listitem')).toHaveCount(1);
  const length = Number(/(\d\.\d+) m/.exec(await pinned.getByRole('listitem').innerText())![1]);
  expect(length).toBeGreaterThan(0.2);
  await pinned.getByRole('button', { name: /^Name the measure/ }).click();
  await pinned.getByRole('textbox').fill('collar to belt');
  await page.keyboard.press('Enter');
  await expect(pinned.getByText('collar to belt')).toBeVisible();
  await page.reload();
  await ready(page);
  await page.keyboard.press('1');
  await page.getByRole('button', { name: 'Measures', exact: true }).click();
  await expect(pinned.getByRole('listitem')).toHaveCount(1);
  await pinned.getByRole('button', { name: 'rescale by it' }).click();
  await page.getByLabel('Length wanted').fill(String(length * 1.02));
  await page.getByRole('button', { name: 'Rescale everything', exact: true }).click();
  await expect(page.getByText(/Revision 2: rescale everything/)).toBeVisible();
  await expect(pinned.getByText(`${(length * 1.02).toFixed(3)} m`)).toBeVisible();
  await page.getByRole('button', { name: 'Docket' }).first().click();
  const [report] = await Promise.all([
    page.waitForEvent('popup'),
    page.getByRole('link', { name: /^The report one page/ }).click(),
  ]);
  await expect(report.getByText('Pinned measure: collar to belt')).toBeVisible();
});

test(
  'the ledger: labels, notes, branches, comparing any two, saving under a new name',
  { tag: '@pictures' },
  async ({ page }) => {
    await bring(page, 'deckhand.glb');
    await page.keyboard.press('1');
    await page.getByRole('button', { name: /hovers/ }).click();
    await page.getByRole('button', { name: 'Set on the ground', exact: true }).click();
    await expect(page.getByText(/Revision 2: set on the ground/)).toBeVisible();
    await page.keyboard.press('l');
    await page.getByRole('button', { name: 'Label and note of revision 2' }).click();
    await page.getByLabel('Label', { exact: true }).fill('on its feet');
    await page.getByLabel('Note', { exact: true }).fill('before the arms');
    await page.getByRole('button', { name: 'Keep the words' }).click();
    await expect(page.getByRole('button', { name: 'revision 2, “on its feet”' })).toBeVisible();
    await expect(page.getByText('before the arms')).toBeVisible();
    // Back to the first, and another step from there: a branch.
    await page.getByRole('button', { name: 'Go here' }).first().click();
    await expect(page.getByRole('button', { name: 'revision 1, “as delivered”' })).toBeVisible();
    await page.getByRole('button', { name: /reads 1 but stands at 0\.8/ }).click();
    await page.getByRole('button', { name: 'Detach, dropping to its own size', exact: true }).click();
    await expect(page.getByText(/Revision 3: detach/)).toBeVisible();
    await page
      .getByRole('listitem')
      .filter({ hasText: 'on its feet' })
      .getByRole('button', { name: 'Compare' })
      .click();
    const panel = page.getByRole('complementary', { name: 'Comparison' });
    await expect(panel.getByText(/The farthest point lies/)).toBeVisible({ timeout: 240_000 });
    await expect(panel.getByRole('row', { name: /Lowest point over the ground 0 m 0\.032 m/ })).toBeVisible();
    await accessible(page);
    await picture(page, 'compare');
    const before = await pictureAtRest(page);
    await panel.getByRole('button', { name: 'First', exact: true }).click();
    await expectOtherPicture(page, before, 'First');
    await page.keyboard.press('Escape');
    await expect(panel).toHaveCount(0);
    await page.getByRole('button', { name: 'Save revision 2 under a new name' }).click();
    await page.getByRole('textbox', { name: 'Name' }).fill('Deckhand before the arms');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await page.getByRole('link', { name: 'Open Deckhand before the arms' }).click();
    await ready(page);
    await expect(page.getByRole('button', { name: /revision 1, “from deckhand, revision 2”/ })).toBeVisible();
    await page.keyboard.press('1');
    await expect(page.getByRole('button', { name: /hovers/ })).toHaveCount(0);
  },
);

test('a new delivery gets the line’s steps again, and is told which no longer fit', async ({ page }) => {
  await bring(page, 'deckhand.glb');
  await page.keyboard.press('1');
  for (const [finding, name] of [
    [/hovers/, 'Set on the ground'],
    [/reads 1 but stands at 0\.8/, 'Bake the scale into the points'],
  ] as const) {
    await page.getByRole('button', { name: finding }).click();
    await page.getByRole('button', { name, exact: true }).click();
    await expect(page.getByText(new RegExp(`Revision \\d: ${name.toLowerCase()}`))).toBeVisible();
  }
  await page.keyboard.press('l');
  await page.getByLabel('Files of a new delivery').setInputFiles(castFile('deckhand.glb'));
  const dialog = page.getByRole('dialog', { name: 'A new delivery' });
  await expect(dialog.getByText('done', { exact: true })).toHaveCount(2, { timeout: 240_000 });
  await dialog.getByRole('button', { name: 'Go on with it' }).click();
  await expect(
    page.getByRole('button', { name: 'revision 6, “bake the scale into the points”' }),
  ).toBeVisible();
  await page.keyboard.press('1');
  await expect(page.getByRole('button', { name: /hovers/ })).toHaveCount(0);
  // The supplier has renamed the hook: that step no longer fits, the other is done.
  const glb = readFileSync(castFile('deckhand.glb'));
  const renamed = Buffer.from(glb.toString('latin1').replace('"lantern hook"', '"lantern rope"'), 'latin1');
  await page
    .getByLabel('Files of a new delivery')
    .setInputFiles({ name: 'deckhand-2.glb', mimeType: 'model/gltf-binary', buffer: renamed });
  await expect(dialog.getByText('does not fit')).toBeVisible({ timeout: 240_000 });
  await expect(dialog.getByText(/there is no node “lantern hook” in the new delivery/)).toBeVisible();
  await expect(dialog.getByText('done', { exact: true })).toHaveCount(1);
});

test('the file goes out as COLLADA and, posed, as OBJ', async ({ page }) => {
  await openCharacter(page, 'Deckhand, clean');
  await page.keyboard.press('7');
  const [dae] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: /COLLADA/ }).click(),
  ]);
  const parts = unzipSync(await bytesOf(dae));
  const character = readCharacter(Object.entries(parts).map(([name, bytes]) => ({ name, bytes })));
  expect([
    character.source.format,
    character.meshes.length,
    character.clips.length,
    character.carried.images.length,
  ]).toEqual(['COLLADA 1.4.1', 5, 1, 1]);
  await page.getByLabel('Pose of the OBJ').selectOption({ label: 'hail the quay' });
  await page.getByLabel('Moment of the pose').fill('0.5');
  const [obj] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: /The shape as OBJ/ }).click(),
  ]);
  expect(new TextDecoder().decode(Object.values(unzipSync(await bytesOf(obj)))[0]).slice(0, 200)).toContain(
    'posed',
  );
});

test('an arrival can be cancelled, and leaves nothing behind', async ({ page, request }) => {
  const count = async () =>
    ((await (await request.get('/api/characters')).json()) as { characters: unknown[] }).characters.length;
  await page.goto('/');
  const before = await count();
  // A grid of 600 000 vertices takes long enough.
  const n = 775;
  const lines = ['o grid'];
  for (let y = 0; y < n; y++)
    for (let x = 0; x < n; x++) lines.push(`v ${x / n} ${(y / n) * 1.8} ${((x * y) % 7) / 1000}`);
  for (let y = 1; y < n; y++)
    for (let x = 1; x < n; x++) {
      const a = (y - 1) * n + x;
      lines.push(`f ${a} ${a + 1} ${a + n + 1} ${a + n}`);
    }
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles({ name: 'grid.obj', mimeType: 'text/plain', buffer: Buffer.from(lines.join('\n')) });
  await page.getByRole('button', { name: 'Take it in like this' }).click({ timeout: 240_000 });
  await expect(page.getByRole('progressbar')).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByText('Cancelled; nothing was saved.')).toBeVisible();
  const isAtWork = async () => {
    const { jobs } = (await (await request.get('/api/jobs')).json()) as { jobs: { state: string }[] };
    return jobs.some(({ state }) => state === 'asked' || state === 'running');
  };
  await expect.poll(isAtWork).toBe(false);
  expect(await count()).toBe(before);
});

test('cancelled when it had been taken in already, the page says so and shows it', async ({ page }) => {
  // A server that has kept it when the word to stop comes.
  await page.addInitScript(() => {
    const given = window.fetch.bind(window);
    const asked = { lists: 0 };
    Object.assign(window, { asked });
    window.fetch = (input, init) => {
      const { pathname } = new URL(String(input), location.href);
      if (pathname.startsWith('/api/jobs/') && init?.method === 'DELETE')
        return Promise.resolve(new Response(JSON.stringify({ state: 'done' })));
      if (pathname !== '/api/characters') return given(input, init);
      if (init?.method !== 'POST') {
        asked.lists++;
        return given(input, init);
      }
      const line = (stage: string) => new TextEncoder().encode(`${JSON.stringify({ stage, share: 0.9 })}\n`);
      const body = new ReadableStream({
        start(controller) {
          for (const stage of ['received', 'saving']) controller.enqueue(line(stage));
          init.signal?.addEventListener('abort', () =>
            controller.error(new DOMException('aborted', 'AbortError')),
          );
        },
      });
      return Promise.resolve(new Response(body));
    };
  });
  await page.goto('/');
  await page.locator('input[type=file]').first().setInputFiles(castFile('capstan.glb'));
  await expect(page.getByText('saving')).toBeVisible();
  const lists = () => page.evaluate(() => (window as unknown as { asked: { lists: number } }).asked.lists);
  const before = await lists();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(
    page.getByText('It was taken in before it could be cancelled; it stands on the shelf.'),
  ).toBeVisible();
  // What others do meanwhile may have it asked for once more.
  await expect.poll(lists).toBeGreaterThan(before);
});
