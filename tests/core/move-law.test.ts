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
import { priceOf } from '@/core/rooms/crosswalk/price';
import { prove } from '@/core/rooms/crosswalk/proof';
import { remap } from '@/core/rooms/crosswalk/remap';
import { castCharacter } from './support/cast';

const brief = briefById('handset')!;
const ROOMS = ['placement', 'skeleton'];
const checksIn = (c: Character) =>
  new Set(audit(c, brief).flatMap((f) => (ROOMS.includes(f.room) ? [f.check] : [])));
const moved = (c: Character, target: Skeleton, mode: 'target' | 'mesh') =>
  remap(c, target, suggest(skeletonOf(c), target), { limit: 4, mode, skins: brief.skins });
const scaled = (c: Character) => {
  const locals = restLocals(c.nodes);
  return c.nodes.filter((_, i) => decompose(locals, i * 16).scale.some((x) => Math.abs(x - 1) > 1e-6));
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
  const { character, partner } = moved(stoker, QUAY, 'target');
  expect(scaled(character)).toEqual([]);
  const old = new Map(placedMeshes(stoker).map((p) => [p.node, p.points]));
  for (const { node: at, points } of placedMeshes(character)) {
    const was = old.get(partner[at]) as Float32Array;
    expect(Math.max(...points.map((x, i) => Math.abs(x - was[i])))).toBeLessThan(1e-4);
  }
});

it('what a scale above the bones was is kept in motion too', () => {
  const stoker = castCharacter('stoker.dae');
  const made = moved(stoker, QUAY, 'target');
  const poses = trialPoses(made.model);
  const proof = prove(made, poses);
  const price = finish(priceOf(made, poses, proof));
  expect(proof.rms - price.rms).toBeLessThan(0.005);
});

it('a root at the origin comes along where the target has none there', () => {
  const clean = castCharacter('deckhand-clean.glb');
  const { character } = moved(clean, VRM_HUMANOID, 'target');
  const hips = character.nodes.findIndex((n) => n.name === 'hips');
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
  const root = clean.nodes.findIndex((n) => n.kind === 'bone' && n.parent < 0);
  const holder = clean.nodes.length;
  const nodes = [
    ...replaceAt(
      clean.nodes,
      new Map([[root, { ...clean.nodes[root], parent: holder, scale: [0.8, 0.8, 0.8] }]]),
    ),
    node({ name: 'group', scale: [1.25, 1.25, 1.25] }),
  ];
  const found = audit({ ...clean, nodes }, brief).filter((f) => f.check === 'inherited-scale');
  expect(found.map((f) => f.message).join()).toMatch(/undoes another scale above it/);
  expect(found.map((f) => f.message).join()).not.toMatch(/stand at 1 × 1 × 1/);
});
