/** Every way of moving a mesh onto other bones, deformed as three.js deforms it. */
import { skeletonOf } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { suggest } from '@/core/anatomy/suggest';
import { placedPoints } from '@/core/character/deform';
import { shownMeshes } from '@/core/character/measure';
import type { Character } from '@/core/character/model';
import { receive } from '@/core/rooms/docket/receive';
import { receiverById } from '@/core/rooms/docket/receivers';
import { MotionFit } from '@/core/motion/fit';
import { posesFor } from '@/core/rooms/crosswalk/poses';
import { remap } from '@/core/rooms/crosswalk/remap';
import { castCharacter } from './support/cast';
import { threeDeformed } from './support/three';

const clean = castCharacter('deckhand-clean.glb');
const stoker = castCharacter('stoker.dae');
const onto = (character: Character, target: typeof QUAY, more: object) =>
  remap(character, target, suggest(skeletonOf(character), target), { limit: 4, ...more });

it.each([
  ['by the rules alone', () => onto(clean, VRM_HUMANOID, {})],
  ['by example', () => onto(clean, VRM_HUMANOID, { weights: 'example' })],
  ['shared over a longer chain', () => onto(stoker, QUAY, {})],
  ['brought to the rest pose', () => onto(stoker, QUAY, { mode: 'mesh' })],
  ['brought there with its lengths', () => onto(stoker, QUAY, { mode: 'mesh', lengths: 'taken' })],
])('%s, as it is and as a handset holds it (three.js SkinnedMesh.getVertexPosition)', (_, make) => {
  const { motionSource, character, sourceNodeOf, report } = make();
  const fit = new MotionFit({
    source: motionSource,
    target: character,
    sourceNodeOf,
    trimmed: report.trimmed,
  });
  const { world } = posesFor(motionSource, suggest(skeletonOf(motionSource), skeletonOf(motionSource))).at(
    -1,
  )!;
  const moved = fit.pose(world);
  const received = receive(character, { ...receiverById('handset')!, loneBones: 'kept', empties: 'kept' });
  let checked = 0;
  for (const otherCharacter of [character, received.character])
    for (const { node, mesh, skin } of shownMeshes(otherCharacter)) {
      if (!skin) continue;
      const mine = placedPoints(mesh, skin, node, moved);
      const theirs = threeDeformed(otherCharacter, node, moved);
      let far = 0;
      for (let i = 0; i < mine.length; i++) far = Math.max(far, Math.abs(mine[i] - theirs[i]));
      expect(far).toBeLessThan(2e-5);
      checked += mesh.vertexCount;
    }
  expect(checked).toBeGreaterThan(12_000);
});
