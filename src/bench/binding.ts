/** Binding: bodies stripped of their weights and bound anew, against the weights that were made by hand, over poses that nobody tuned to. */
import { readFileSync } from 'node:fs';
import { meaningOf } from '../core/anatomy/bones';
import { usualTurn } from '../core/anatomy/joint-ranges';
import { bonesOf, restWorld } from '../core/character/hierarchy';
import { characterHeight, placedMeshes, shownMeshes } from '../core/character/measure';
import { type Character, positionsOf } from '../core/character/model';
import { placePositions } from '../core/character/deform';
import { readCharacter } from '../core/formats/index';
import { quatAbout } from '../core/geometry/matrix';
import { makeRandom } from '../core/geometry/random';
import { briefById } from '../core/house/briefs';
import { posedWorld } from '../core/motion/pose';
import { bindMeshes } from '../core/rooms/weights/binding';
import { bindingBones } from '../core/rooms/weights/bone-segments';
import { withBoundRows } from '../core/rooms/weights/bound-rows';
import { copiedRows } from '../core/rooms/weights/copying';
import { copyWeights } from '../core/rooms/weights/remedies/copy-weights';
import { placesOfPoints } from '../core/character/point-places';
import { fanned } from '../core/geometry/fan';
import { BufferAttribute, BufferGeometry, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { refineTo } from './refine';
import type { BenchRow } from './row';

/** Poses that two sets of weights are compared in. */
const POSES = 12;

/** How far two sets of weights take the points of a figure apart, in % of its height. */
export interface WeightsApart {
  readonly rms: number;
  readonly p95: number;
}

/** Every bone that pulls something turned by chance. */
function randomPoses(character: Character, seed: number): Float64Array[] {
  const random = makeRandom(seed);
  const bones = bonesOf(character);
  return Array.from({ length: POSES }, () => {
    const turns = new Map(
      bones.map((bone): [number, readonly number[]] => {
        const axis = [random() - 0.5, random() - 0.5, random() - 0.5];
        const long = Math.hypot(...axis) || 1;
        // As far as such a joint turns in life; what nobody knows a little.
        const most = usualTurn(meaningOf(character, bone));
        const angle = random() < 0.5 ? random() * most : 0;
        return [bone, quatAbout([axis[0] / long, axis[1] / long, axis[2] / long], angle)];
      }),
    );
    return posedWorld(character, turns);
  });
}

/** The points of both, pose by pose, node by node. */
export function deviationOf(
  hand: Character,
  other: Character,
  nodes: readonly number[],
  seed = 7,
): WeightsApart {
  const height = characterHeight(hand);
  const all: number[] = [];
  for (const world of randomPoses(hand, seed))
    for (const node of nodes) {
      const [one, two] = [hand, other].map((character) => {
        const { mesh, skin } = shownMeshes(character).find((shown) => shown.node === node)!;
        return placePositions(positionsOf(mesh), mesh.influences, skin, node, world);
      });
      for (let i = 0; i < one.length; i += 3)
        all.push(Math.hypot(one[i] - two[i], one[i + 1] - two[i + 1], one[i + 2] - two[i + 2]) / height);
    }
  all.sort((a, b) => a - b);
  const rms = Math.sqrt(all.reduce((sum, x) => sum + x * x, 0) / all.length);
  return { rms: rms * 100, p95: all[Math.floor(all.length * 0.95)] * 100 };
}

/** The same figure with meshes that nothing binds, where its bones are at rest. */
export function stripped(character: Character, nodes: readonly number[]): Character {
  const world = restWorld(character.nodes);
  return {
    ...character,
    meshes: character.meshes.map((mesh, i) =>
      nodes.some((node) => character.nodes[node].mesh === i)
        ? {
            ...mesh,
            influences: null,
            influenceStorage: null,
            attributes: {
              ...mesh.attributes,
              POSITION: { ...mesh.attributes.POSITION, data: placedData(character, i, world) },
            },
          }
        : mesh,
    ),
    nodes: character.nodes.map((own, i) =>
      nodes.includes(i)
        ? {
            ...own,
            skin: -1,
            parent: -1,
            translation: [0, 0, 0],
            rotation: [0, 0, 0, 1],
            scale: [1, 1, 1],
            matrix: undefined,
          }
        : own,
    ),
  };
}

function placedData(character: Character, meshIndex: number, world: Float64Array): Float32Array {
  const { node, mesh, skin } = shownMeshes(character).find(
    (shown) => character.nodes[shown.node].mesh === meshIndex,
  )!;
  return Float32Array.from(placePositions(positionsOf(mesh), mesh.influences, skin, node, world));
}

/** The figures that are bound anew. */
const FIGURES: readonly (readonly [string, string])[] = [
  ['the clean Deckhand', 'dist/demo/deckhand-clean.glb'],
  ['the Stoker', 'dist/demo/stoker.dae'],
  ['a published left hand', 'node_modules/@webxr-input-profiles/assets/dist/profiles/generic-hand/left.glb'],
  [
    'a published right hand',
    'node_modules/@webxr-input-profiles/assets/dist/profiles/generic-hand/right.glb',
  ],
];

export function boundFigures(only = '') {
  const brief = briefById('handset')!;
  return FIGURES.filter(([title]) => title.includes(only)).map(([title, file]) => {
    const hand = readCharacter([
      { name: file.split('/').at(-1)!, bytes: new Uint8Array(readFileSync(file)) },
    ]);
    const nodes = shownMeshes(hand).flatMap(({ node, skin }) => (skin ? [node] : []));
    const bare = stripped(hand, nodes);
    const bones = bindingBones(bare, brief);
    const by = (method: 'heat' | 'near', falloff = 8) => {
      const began = performance.now();
      const { rows, look } = bindMeshes(bare, nodes, bones, {
        limit: 4,
        falloff,
        method,
        ways: new Map(),
      })!;
      const seconds = (performance.now() - began) / 1000;
      const bound = withBoundRows(bare, look.bones, rows);
      return {
        bound,
        look,
        seconds,
        off: deviationOf(hand, bound, nodes),
        of: (some: readonly number[]) => deviationOf(hand, bound, some),
      };
    };
    return { title, hand, nodes, bones, heat: by('heat'), near: by('near'), alone: by('near', 1000) };
  });
}

function boundRows(): BenchRow[] {
  return boundFigures().flatMap(({ title, heat, near, alone }) => {
    const row = (whose: string, other: WeightsApart): BenchRow => ({
      work: `${title} bound anew by heat, against the weights by hand: RMS ${heat.off.rms.toFixed(3)} % of height, 95th percentile ${heat.off.p95.toFixed(3)} %; ${whose} ${other.rms.toFixed(3)} %, ${other.p95.toFixed(3)} %`,
      measured: `${(heat.off.rms / other.rms).toFixed(2)} × their RMS`,
      budget: '≤ 0.6 ×',
      holds: heat.off.rms <= 0.6 * other.rms,
    });
    return [row('the nearest bone alone', alone.off), row('nearest bones that fade', near.off)];
  });
}

/** Garments whose weights are copied from the body, against those by hand and the nearest bones. */
function copiedRowsOf(title: string, file: string): BenchRow[] {
  const brief = briefById('handset')!;
  const hand = readCharacter([{ name: file.split('/').at(-1)!, bytes: new Uint8Array(readFileSync(file)) }]);
  const worn = hand.nodes.flatMap(({ mesh, skin }, i) => (mesh >= 0 && skin >= 0 ? [i] : []));
  const body = worn.find((node) => hand.nodes[node].name.includes('body')) as number;
  return worn
    .filter((node) => node !== body)
    .map((node): BenchRow => {
      const bare = stripped(hand, [node]);
      const params = copyWeights.params.cast({ node, from: body }) as never;
      const copied = deviationOf(hand, copyWeights.apply(bare, params, brief), [node]);
      const { rows, look } = bindMeshes(bare, [node], bindingBones(bare, brief), {
        limit: 4,
        falloff: 8,
        method: 'near',
        ways: new Map(),
      })!;
      const near = deviationOf(hand, withBoundRows(bare, look.bones, rows), [node]);
      return {
        work: `${hand.nodes[node].name} of ${title} copied from the body, against the weights by hand: RMS ${copied.rms.toFixed(3)} %, 95th percentile ${copied.p95.toFixed(3)} %; nearest bones ${near.rms.toFixed(3)} %`,
        measured: `${(copied.rms / near.rms).toFixed(2)} × their RMS`,
        budget: '≤ 0.3 ×',
        holds: copied.rms <= 0.3 * near.rms,
      };
    });
}

/** Points of one body copied onto from a finer one, against building three-mesh-bvh and asking it for every point. */
function copyTimeRow(deckhand: Character): BenchRow {
  const source = refineTo(deckhand, 100_000);
  const from = largestOf(source);
  const to = largestOf(refineTo(deckhand, 180_000));
  // However far: what is filled in has no counterpart in the reference.
  const settings = { distance: Infinity, angle: 180, limit: 4 };
  const triangles = fanned(from.mesh.polygonOffsets, from.mesh.corners);
  const places = placesOfPoints(to.mesh, to.points);
  const rounds = Array.from({ length: 3 }, () => {
    let began = performance.now();
    copiedRows(from, to, settings);
    const mine = performance.now() - began;
    began = performance.now();
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(Float32Array.from(from.points), 3));
    geometry.setIndex(new BufferAttribute(triangles.slice(), 1));
    const tree = new MeshBVH(geometry);
    const at = new Vector3();
    const found = { point: new Vector3(), distance: 0, faceIndex: 0 };
    for (let i = 0; i < places.length; i += 3)
      tree.closestPointToPoint(at.set(places[i], places[i + 1], places[i + 2]), found);
    return (performance.now() - began) / mine;
  }).sort((a, b) => a - b);
  return {
    work: `weights copied onto ${places.length / 3} points from ${triangles.length / 3} triangles, against building three-mesh-bvh and its closest points`,
    measured: `${rounds[1].toFixed(1)} × as fast`,
    budget: '≥ 4 ×',
    holds: rounds[1] >= 4,
  };
}

const largestOf = (character: Character) =>
  placedMeshes(character).reduce((most, shown) => (shown.points.length > most.points.length ? shown : most));

export const bindingRows = (deckhand: Character): BenchRow[] => [
  copyTimeRow(deckhand),
  ...boundRows(),
  ...copiedRowsOf('the clean Deckhand', 'dist/demo/deckhand-clean.glb'),
  ...copiedRowsOf('the Stoker', 'dist/demo/stoker.dae'),
];
