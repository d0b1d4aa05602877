import { readFileSync } from 'node:fs';
import { expect } from '@playwright/test';
import { readGltf } from '@/core/formats/gltf/read';
import { writeGlb } from '@/core/formats/gltf/write';
import { remadeMesh } from '@/core/character/remake-mesh';
import { topologyOf } from '@/core/character/topology';
import { test } from './browser';
import { accessible, bringBy, castFile, expectOtherPicture, headOf, pictureAtRest, ready } from './support';

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

test('a body with gaps, loose points, a face twice and a patch wound wrongly comes to a room without findings, half of it by keyboard', async ({
  page,
  request,
}) => {
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
});
