import { readFileSync } from 'node:fs';
import path from 'node:path';
import { readGltf } from '@/core/formats/gltf/read';
import { writeGlb } from '@/core/formats/gltf/write';
import { brokenInvariants } from '@/core/character/invariants';
import { audit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { structuralDifferences } from './support/compare';
import { validate } from './support/validator';

const hand = (side: string) => {
  const file = path.join(
    path.dirname(require.resolve('@webxr-input-profiles/assets/package.json')),
    `dist/profiles/generic-hand/${side}.glb`,
  );
  return readGltf([{ name: `${side}.glb`, bytes: new Uint8Array(readFileSync(file)) }]);
};

describe.each(['left', 'right'])('the %s hand of @webxr-input-profiles/assets', (side) => {
  const character = hand(side);

  it('keeps the invariants', () => expect(brokenInvariants(character)).toEqual([]));

  it('comes back the same after export and import', () => {
    const again = readGltf([{ name: `${side}.glb`, bytes: writeGlb(character).bytes }]);
    expect(structuralDifferences(character, again)).toEqual([]);
  });

  it('is written without validator errors', async () => {
    expect(await validate(writeGlb(character).bytes)).toEqual([]);
  });
});

it('the headset brief finds one thing on the left hand: its joints hang flat', () => {
  const findings = audit(hand('left'), briefById('headset')!);
  expect(
    findings
      .filter((finding) => finding.gravity !== 'note')
      .map((finding) => [finding.check, finding.gravity, finding.count, finding.message]),
  ).toEqual([['parents', 'stops', 25, expect.stringContaining('25 of 25 joints hang flat under')]]);
});
