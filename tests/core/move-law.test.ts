/**
 * A move onto another skeleton brings no finding of Placement or Skeleton that was not there, but those that the
 * target itself has: over the cast, delivered and clean, onto every skeleton of a body that ships, both ways.
 */
import { type Skeleton, characterOfSkeleton, skeletonOf } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { suggest } from '@/core/anatomy/suggest';
import { withoutBoneScales } from '@/core/character/bake-scale';
import { placedMeshes } from '@/core/character/measure';
import { type Character, node, replaceAt } from '@/core/character/model';
import { restLocals, restPlace } from '@/core/character/hierarchy';
import { decompose } from '@/core/geometry/matrix';
import { audit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { finish } from '@/core/motion/example';
import { trialPoses } from '@/core/rooms/crosswalk/poses';
import { priceOf } from '@/core/rooms/crosswalk/deviation-floor';
import { prove } from '@/core/rooms/crosswalk/proof';
import { remap } from '@/core/rooms/crosswalk/remap';
import { castCharacter } from './support/cast';

const brief = briefById('handset')!;
const ROOMS = ['placement', 'skeleton'];
const checksIn = (character: Character) =>
  new Set(
    audit(character, brief).flatMap((finding) => (ROOMS.includes(finding.room) ? [finding.check] : [])),
  );
const moved = (character: Character, target: Skeleton, mode: 'target' | 'mesh') =>
  remap(character, target, suggest(skeletonOf(character), target), { limit: 4, mode, skins: brief.skins });
const scaled = (character: Character) => {
  const locals = restLocals(character.nodes);
  return character.nodes.filter((_, i) =>
    decompose(locals, i * 16).scale.some((x) => Math.abs(x - 1) > 1e-6),
  );
};

const FILES = ['deckhand.glb', 'deckhand-clean.glb', 'stoker.dae'];
const CASES = FILES.flatMap((file) =>
  [QUAY, VRM_HUMANOID].flatMap((target) =>
    (['target', 'mesh'] as const).map((mode) => [file, target.title, mode, target] as const),
  ),
);

it.each(CASES)('%s onto %s, %s: nothing comes that was not there', (file, _title, mode, target) => {
  const before = castCharacter(file);
  const known = new Set([...checksIn(before), ...checksIn(characterOfSkeleton(target))]);
  const after = moved(before, target, mode).character;
  expect([...checksIn(after)].filter((check) => !known.has(check))).toEqual([]);
});

it('no bone and no prop is left with a scale, and every mesh stays where it is', () => {
  const stoker = castCharacter('stoker.dae');
  expect(scaled(stoker).length).toBeGreaterThan(0);
  const { character, sourceNodeOf } = moved(stoker, QUAY, 'target');
  expect(scaled(character)).toEqual([]);
  const old = new Map(placedMeshes(stoker).map((placed) => [placed.node, placed.points]));
  for (const { node: at, points } of placedMeshes(character)) {
    const was = old.get(sourceNodeOf[at]) as Float32Array;
    expect(Math.max(...points.map((x, i) => Math.abs(x - was[i])))).toBeLessThan(1e-4);
  }
});

it('what a scale above the bones was is kept in motion too', () => {
  const stoker = castCharacter('stoker.dae');
  const made = moved(stoker, QUAY, 'target');
  const poses = trialPoses(made.reference);
  const proof = prove(made, poses);
  const price = finish(priceOf(made, poses, proof));
  expect(proof.rms - price.rms).toBeLessThan(0.005);
});

it('a root at the origin comes along where the target has none there', () => {
  const clean = castCharacter('deckhand-clean.glb');
  const { character } = moved(clean, VRM_HUMANOID, 'target');
  const hips = character.nodes.findIndex((node) => node.name === 'hips');
  const root = character.nodes[hips].parent;
  expect(character.nodes[root].kind).toBe('bone');
  expect(Math.hypot(...restPlace(character.nodes, root))).toBeLessThan(1e-6);
});

it('a character without scales is the very same one', () => {
  const clean = castCharacter('deckhand-clean.glb');
  expect(withoutBoneScales(clean)).toBe(clean);
});

it('scales that undo each other are told as what they are', () => {
  const clean = castCharacter('deckhand-clean.glb');
  const root = clean.nodes.findIndex((node) => node.kind === 'bone' && node.parent < 0);
  const holder = clean.nodes.length;
  const nodes = [
    ...replaceAt(
      clean.nodes,
      new Map([[root, { ...clean.nodes[root], parent: holder, scale: [0.8, 0.8, 0.8] }]]),
    ),
    node({ name: 'group', scale: [1.25, 1.25, 1.25] }),
  ];
  const found = audit({ ...clean, nodes }, brief).filter((finding) => finding.check === 'inherited-scale');
  expect(found.map((finding) => finding.message).join()).toMatch(/undoes another scale above it/);
  expect(found.map((finding) => finding.message).join()).not.toMatch(/stand at 1 × 1 × 1/);
});
