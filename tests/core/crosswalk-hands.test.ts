import { readFileSync } from 'node:fs';
import path from 'node:path';
import { readGltf } from '@/core/formats/gltf/read';
import { writeGlb } from '@/core/formats/gltf/write';
import { suggest } from '@/core/anatomy/suggest';
import { remap } from '@/core/rooms/crosswalk/remap';
import { posesFor, trialPoses } from '@/core/rooms/crosswalk/poses';
import { prove } from '@/core/rooms/crosswalk/proof';
import { skeletonOf } from '@/core/anatomy/skeleton';
import { SKELETONS } from '@/core/anatomy/skeletons';
import { WEBXR_HAND_LEFT } from '@/core/anatomy/skeletons/webxr-hand';
import { brokenInvariants } from '@/core/character/invariants';
import { below } from './support/matchers';
import { validate } from './support/validator';

const hand = (side: string) =>
  readGltf([
    {
      name: `${side}.glb`,
      bytes: new Uint8Array(
        readFileSync(
          path.join(
            path.dirname(require.resolve('@webxr-input-profiles/assets/package.json')),
            `dist/profiles/generic-hand/${side}.glb`,
          ),
        ),
      ),
    },
  ]);

it('maps 25 of 25 joints from the left hand to the right, loses no weight and deforms as before', async () => {
  const left = hand('left');
  const right = skeletonOf(hand('right'));
  const crosswalk = suggest(skeletonOf(left), right);
  const carried = crosswalk.filter((rule) => rule.kind === 'carry');
  expect(carried.length).toBe(25);
  for (const rule of carried)
    expect(right.bones[rule.target].name).toBe(skeletonOf(left).bones[rule.source].name);
  const out = remap(left, right, crosswalk, { limit: 4 });
  expect(out.report.weight.after).toBeCloseTo(out.report.weight.before, 3);
  expect(out.report.vertices.unweighted).toBe(0);
  const proof = prove(out, trialPoses(left));
  expect(proof.poses.length).toBeGreaterThan(20);
  expect(proof.max).toBeLessThan(1e-5);
  expect(await validate(writeGlb(out.character).bytes)).toEqual([]);
});

it('a mesh that two skins share keeps deforming under both', () => {
  const left = hand('left');
  const nodeIndex = left.nodes.findIndex((node) => node.mesh >= 0);
  const twice = {
    ...left,
    nodes: [
      ...left.nodes.map((node) => node),
      { ...left.nodes[nodeIndex], name: 'again', skin: 1, parent: left.nodes[nodeIndex].parent },
    ],
    skins: [left.skins[0], { ...left.skins[0], name: 'second' }],
  };
  const crosswalk = suggest(skeletonOf(twice), WEBXR_HAND_LEFT);
  const out = remap(twice, WEBXR_HAND_LEFT, crosswalk, { limit: 4 });
  expect(brokenInvariants(out.character)).toEqual([]);
  expect(prove(out, trialPoses(twice).slice(0, 1)).max).toBeLessThan(1e-6);
});

it('hangs the flat left hand into the WebXR chains and keeps the skin at rest', () => {
  const left = hand('left');
  const out = remap(left, WEBXR_HAND_LEFT, suggest(skeletonOf(left), WEBXR_HAND_LEFT), { limit: 4 });
  const proof = prove(out, trialPoses(left).slice(0, 1));
  expect(proof.max).toBeLessThan(1e-6);
  const tip = out.character.nodes.find((node) => node.name === 'index-finger-tip')!;
  expect(out.character.nodes[tip.parent].name).toBe('index-finger-phalanx-distal');
});

it.each(['left', 'right'] as const)(
  'the flat %s hand onto chains moves as it did, whichever joint turns',
  (side) => {
    const flat = hand(side);
    for (const target of SKELETONS) {
      const crosswalk = suggest(skeletonOf(flat), target);
      const proof = prove(remap(flat, target, crosswalk, { limit: 4 }), posesFor(flat, crosswalk));
      expect(proof.poses.length).toBeGreaterThan(20);
      expect([target.title, proof.max]).toEqual([target.title, below(1e-6)]);
    }
  },
);
