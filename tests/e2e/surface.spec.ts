import { readFileSync } from 'node:fs';
import { type Locator, expect } from '@playwright/test';
import { readGltf } from '@/core/formats/gltf/read';
import { writeGlb } from '@/core/formats/gltf/write';
import { remadeMesh } from '@/core/character/remake-mesh';
import { topologyOf } from '@/core/character/topology';
import { test } from './browser';
import {
  accessible,
  bring,
  bringBy,
  castFile,
  expectOtherPicture,
  headOf,
  picture,
  pictureAtRest,
  ready,
} from './support';

/** The clean Deckhand with faults of every kind on the body: two gaps, a face twice, loose points, a patch wound wrongly. */
function brokenDeckhand(): Uint8Array {
  const bytes = new Uint8Array(readFileSync(castFile('deckhand-clean.glb')));
  const clean = readGltf([{ name: 'clean.glb', bytes }]);
  const { mesh: index } = clean.nodes.find(({ name }) => name === 'body')!;
  const body = clean.meshes[index];
  const { polygonOffsets: offsets } = body;
  const face = (i: number) => [...body.corners.subarray(offsets[i], offsets[i + 1])];
  const goneFaces = new Uint8Array(offsets.length - 1);
  for (const share of [0.2, 0.7]) goneFaces[Math.floor(goneFaces.length * share)] = 1;
  const faulty = remadeMesh(body, {
    goneFaces,
    copies: [7, 8, 9],
    added: [{ piece: 0, corners: face(20) }],
  });
  const { twin, polygon } = topologyOf(faulty).halfEdges;
  const first = ((faulty.polygonOffsets.length - 1) / 3) | 0;
  const patch = new Set([first]);
  for (let half = faulty.polygonOffsets[first]; half < faulty.polygonOffsets[first + 1]; half++)
    if (twin[half] >= 0) patch.add(polygon[twin[half]]);
  const corners = faulty.corners.slice();
  for (const i of patch)
    corners.subarray(faulty.polygonOffsets[i] + 1, faulty.polygonOffsets[i + 1]).reverse();
  const meshes = clean.meshes.map((mesh, i) => (i === index ? { ...faulty, corners } : mesh));
  return writeGlb({ ...clean, meshes }).bytes;
}

test(
  'a body with gaps, loose points, a face twice and a patch wound wrongly comes to a room without findings, half of it by keyboard',
  { tag: '@pictures' },
  async ({ page, request }) => {
    const id = await bringBy(request, 'Broken Deckhand.glb', { bytes: Buffer.from(brokenDeckhand()) });
    await page.goto(`/c/${id}`);
    await ready(page);
    await page.keyboard.press('3');
    await expect(page.getByRole('button', { name: /has 2 gaps where faces are missing/ })).toBeVisible();
    // What is concerned is drawn over the figure: gaps of a body under its coat are seen.
    const plain = await pictureAtRest(page);
    await page.getByRole('button', { name: /has 2 gaps where faces are missing/ }).click();
    await expectOtherPicture(page, plain, 'the gaps are shown');
    await accessible(page);
    await page.getByRole('button', { name: 'Fill in missing faces', exact: true }).click();
    await expect(page.getByRole('button', { name: /gaps where faces/ })).toHaveCount(0);
    await page.getByRole('button', { name: /a face too many/ }).click();
    await page.getByRole('button', { name: /^Remove faces without area/ }).click();
    await expect(page.getByRole('button', { name: /a face too many/ })).toHaveCount(0);
    // The rest by keyboard: the chosen finding's first remedy is taken by Enter on its button.
    for (const [finding, remedy] of [
      [/3 points that no face has/, 'Remove loose points'],
      [/are wound the other way than those round them/, 'Turn the faces outward'],
    ] as const) {
      const row = page.getByRole('button', { name: finding });
      await row.focus();
      await page.keyboard.press('Enter');
      const button = page.getByRole('button', { name: remedy, exact: true });
      await expect(button).toBeEnabled();
      await button.focus();
      await page.keyboard.press('Enter');
      await expect(row).toHaveCount(0);
    }
    await expect(page.getByText(/The next room is Weights/)).toBeVisible();
    // What goes out is whole again: as many points and faces as the clean one.
    const file = await page.request.get(`/api/revisions/${await headOf(page)}/file?format=glb`);
    const mended = readGltf([{ name: 'a.glb', bytes: new Uint8Array(await file.body()) }]);
    const clean = readGltf([
      { name: 'b.glb', bytes: new Uint8Array(readFileSync(castFile('deckhand-clean.glb'))) },
    ]);
    const size = ({ meshes, nodes }: typeof clean) => {
      const { vertexCount, polygonOffsets } = meshes[nodes.find(({ name }) => name === 'body')!.mesh];
      return [vertexCount, polygonOffsets.length];
    };
    expect(size(mended)).toEqual(size(clean));
    await request.delete(`/api/characters/${id}`, { headers: { 'sec-fetch-site': 'same-origin' } });
  },
);

for (const hand of ['mouse', 'keyboard'] as const)
  test(`a file of bare triangles with doubled points, a flipped patch and two forgotten parts comes to a room without findings, by ${hand}`, async ({
    page,
  }) => {
    await bring(page, 'deckhand-triangles.glb');
    await page.keyboard.press('3');
    const row = (name: RegExp) => page.getByRole('button', { name });
    const press = async (button: Locator) => {
      await expect(button).toBeEnabled();
      if (hand === 'mouse') await button.click();
      else {
        await button.focus();
        await page.keyboard.press('Enter');
      }
    };
    await expect(row(/is closed in by “body 1”/)).toBeVisible();
    // What is concerned is gone through one by one.
    await press(row(/are wound the other way/));
    if (hand === 'mouse') await page.getByRole('button', { name: 'The next thing (])' }).click();
    else await page.keyboard.press(']');
    await expect(page.getByTestId('walk')).toHaveText('at the 1st');
    await page.keyboard.press(']');
    await expect(page.getByTestId('walk')).toHaveText('at the 2nd');
    await press(page.getByRole('button', { name: 'Turn the faces outward', exact: true }));
    await expect(row(/are wound the other way/)).toHaveCount(0);
    // All quads that were recovered, by one press.
    await press(row(/came as triangles/).first());
    await press(page.getByRole('button', { name: 'All 5 …' }));
    await press(page.getByRole('button', { name: 'Do it for 5 at once' }));
    await expect(row(/came as triangles/)).toHaveCount(0);
    for (const [finding, remedy] of [
      [/is closed in by “body 1”/, 'Remove parts'],
      [/is small and lies far from all other parts/, 'Remove parts'],
      [/merged, \d+ of them would go/, 'Merge coincident points'],
    ] as const) {
      await press(row(finding));
      await press(page.getByRole('button', { name: new RegExp(`^${remedy}`) }).first());
      await expect(row(finding)).toHaveCount(0);
    }
    await expect(page.getByText(/The next room is Weights/)).toBeVisible();
    const file = await page.request.get(`/api/revisions/${await headOf(page)}/file?format=glb`);
    const mended = readGltf([{ name: 'a.glb', bytes: new Uint8Array(await file.body()) }]);
    expect(mended.meshes.every(({ polygonOrigin }) => polygonOrigin === 'encoded')).toBe(true);
  });

test(
  'parts are told, hidden, said to be something; loops and sides have pages with pictures',
  { tag: '@pictures' },
  async ({ page }) => {
    await bring(page, 'deckhand-clean.glb');
    await page.keyboard.press('3');
    await page.getByRole('button', { name: 'Parts', exact: true }).click();
    const parts = page.getByRole('list', { name: 'Parts' });
    await expect(parts.getByRole('listitem')).toHaveCount(19);
    const plain = await pictureAtRest(page);
    await page.getByRole('button', { name: 'Hide oilskin coat 1', exact: true }).click();
    await expectOtherPicture(page, plain, 'the coat is hidden');
    await expect(page.getByRole('button', { name: 'parts hidden: show all' })).toBeVisible();
    await page.getByRole('button', { name: 'Show all parts' }).click();
    await expect(page.getByRole('button', { name: 'parts hidden: show all' })).toHaveCount(0);
    // What a part is, said by hand, stays with the character; by keyboard.
    const lantern = parts.getByRole('button', { name: /^storm lantern 2/ });
    await expect(lantern).toContainText('not known');
    await lantern.focus();
    await page.keyboard.press('Enter');
    const kind = page.getByLabel('Kind of storm lantern 2');
    await kind.selectOption('buckle');
    await expect(lantern).toContainText('buckle');
    await expect(lantern).toContainText('rigid');
    await accessible(page);
    // A part is chosen with it, and what can be done by hand is at hand.
    await page.getByRole('button', { name: 'Separate …' }).click();
    await page
      .getByRole('group', { name: 'Separate parts to a mesh of their own' })
      .getByRole('button', { name: 'Separate parts to a mesh of their own' })
      .click();
    await expect(page.getByText(/Revision \d+: separate parts/)).toBeVisible();
    // Loops across an elbow, drawn over the sleeve, with a chart.
    await page.getByRole('button', { name: 'Loops', exact: true }).click();
    const rest = await pictureAtRest(page);
    await page.getByRole('button', { name: 'arm_lower_lt' }).click();
    await expectOtherPicture(page, rest, 'the loops are shown');
    await expect(
      page.getByRole('img', { name: /^Loops along arm_lower_lt: \d+ near the joint/ }),
    ).toBeVisible();
    await accessible(page);
    await picture(page, 'surface');
    await page.getByRole('button', { name: 'Sides', exact: true }).click();
    await expect(page.getByText(/of the body’s points have a twin/)).toBeVisible();
    await page.getByRole('button', { name: 'Picture of it' }).click();
    await expect(page.getByText('mm from its mirror image')).toBeVisible();
    // It goes with its page.
    await page.getByRole('button', { name: 'Findings', exact: true }).click();
    await expect(page.getByText('mm from its mirror image')).toHaveCount(0);
  },
);

test('the slider of distances tells what would merge and what stays apart, and merges it', async ({
  page,
}) => {
  await bring(page, 'deckhand-triangles.glb');
  await page.keyboard.press('3');
  await page.getByRole('button', { name: 'Doubles', exact: true }).click();
  const slider = page.getByRole('slider', { name: /^Points closer than/ });
  await slider.focus();
  await page.keyboard.press('Home');
  await expect(page.getByText('No two points lie so near to each other.')).toBeVisible();
  await page.getByRole('button', { name: /^as the brief has it: 0.1 mm/ }).click();
  await expect(page.getByRole('button', { name: '48 points together' })).toBeVisible();
  await accessible(page);
  await page.getByRole('button', { name: '48 points together' }).click();
  await page.getByRole('button', { name: 'Merge 24 points' }).click();
  await expect(page.getByText(/^Revision 2: merge points of “boots”/)).toBeVisible();
  await expect(page.getByText('No two points lie so near to each other.')).toBeVisible();
});

test('from a point or a polygon to the part, the loop, both sides: the choice grows by presses', async ({
  page,
}) => {
  await bring(page, 'deckhand-clean.glb');
  await page.keyboard.press('3');
  await page.keyboard.press('s');
  await page
    .getByRole('group', { name: 'What the box gathers' })
    .getByRole('button', { name: 'Polygons' })
    .click();
  const canvas = page.locator('canvas').first();
  const box = (await canvas.boundingBox())!;
  // On the breast of the coat.
  await canvas.click({ position: { x: box.width / 2 + 30, y: box.height * 0.42 } });
  const gathered = page.getByTestId('gathered');
  await expect(gathered).toContainText('1 polygon');
  const steps = page.getByRole('group', { name: 'From the choice' });
  await steps.getByRole('button', { name: 'Grow', exact: true }).click();
  await expect(gathered).toContainText('9 polygons');
  await steps.getByRole('button', { name: 'Shrink', exact: true }).click();
  await expect(gathered).toContainText('1 polygon');
  await steps.getByRole('button', { name: 'Loop', exact: true }).click();
  await expect(page.getByText(/^Loop: Choose two neighbouring points/)).toBeVisible();
  await steps.getByRole('button', { name: 'Part', exact: true }).focus();
  await page.keyboard.press('Enter');
  await expect(gathered).not.toContainText('1 polygon');
  await steps.getByRole('button', { name: 'Its points', exact: true }).click();
  await expect(gathered).toContainText('vertices');
  await accessible(page);
});

test('points, edges and polygons by brush and by box, only what is visible or right through', async ({
  page,
}) => {
  await bring(page, 'deckhand-clean.glb');
  await page.keyboard.press('3');
  await page.keyboard.press('s');
  const of = page.getByRole('group', { name: 'What the box gathers' });
  const how = page.getByRole('group', { name: 'How they are chosen' });
  const gathered = page.getByTestId('gathered');
  const canvas = (await page.locator('canvas').first().boundingBox())!;
  const at = (x: number, y: number) =>
    [canvas.x + canvas.width / 2 + x, canvas.y + canvas.height * y] as const;
  const drag = async (keys: string[] = []) => {
    for (const key of keys) await page.keyboard.down(key);
    await page.mouse.move(...at(-30, 0.38));
    await page.mouse.down();
    await page.mouse.move(...at(30, 0.46), { steps: 5 });
    await page.mouse.up();
    for (const key of keys) await page.keyboard.up(key);
  };
  /** The first number that stands there once it is another than before. */
  const counted = async (unit: string, before: number): Promise<number> => {
    let count = before;
    await expect
      .poll(async () => {
        const found = new RegExp(`([\\d\\s]+) ${unit}`).exec(await gathered.innerText());
        count = found ? Number(found[1].replaceAll(/\s/g, '')) : 0;
        return count;
      })
      .not.toBe(before);
    return count;
  };
  await of.getByRole('button', { name: 'Polygons' }).click();
  await how.getByRole('button', { name: 'Brush' }).click();
  await drag();
  const through = await counted('polygons', 0);
  await how.getByRole('button', { name: 'Visible only' }).click();
  await drag();
  // The back of the coat, and what it covers, are left out.
  const seen = await counted('polygons', through);
  expect(seen).toBeGreaterThan(0);
  expect(seen).toBeLessThan(0.7 * through);
  await page.getByRole('slider', { name: /^Radius/ }).focus();
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowRight');
  await drag(['Shift']);
  expect(await counted('polygons', seen)).toBeGreaterThan(seen);

  await of.getByRole('button', { name: 'Edges' }).click();
  await how.getByRole('button', { name: 'Box' }).click();
  await drag();
  const edges = await counted('edges', 0);
  await how.getByRole('button', { name: 'Visible only' }).click();
  await drag();
  expect(await counted('edges', edges)).toBeGreaterThan(1.5 * edges);
  // One edge begins the loop that it belongs to.
  await page.mouse.click(...at(20, 0.42));
  await expect(gathered).toContainText('1 edge, 2 vertices');
  await page.getByRole('group', { name: 'From the choice' }).getByRole('button', { name: 'Loop' }).click();
  expect(await counted('vertices', 2)).toBeGreaterThan(10);
  await accessible(page);
});
