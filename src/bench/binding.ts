/** Binding: bodies stripped of their weights and bound anew, against the weights that were made by hand, over poses that nobody tuned to. */
import { readFileSync } from 'node:fs';
import { meaningOf } from '../core/anatomy/bones';
import { usualTurn } from '../core/anatomy/joint-ranges';
import { bonesOf, restWorld } from '../core/character/hierarchy';
import { characterHeight, shownMeshes } from '../core/character/measure';
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
import type { BenchRow } from './row';

/** Poses that two sets of weights are compared in. */
const POSES = 12;

/** How far two sets of weights take the points of a figure apart, in % of its height. */
export interface Deviation {
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
): Deviation {
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

export function bindingRows(): BenchRow[] {
  return boundFigures().map(({ title, heat, near }) => ({
    work: `${title} bound anew by heat, against the weights by hand: RMS ${heat.off.rms.toFixed(3)} % of height, 95th percentile ${heat.off.p95.toFixed(3)} %; nearest bones ${near.off.rms.toFixed(3)} %, ${near.off.p95.toFixed(3)} %`,
    measured: `${(heat.off.rms / near.off.rms).toFixed(2)} × their RMS`,
    budget: '≤ 0.6 ×',
    holds: heat.off.rms <= 0.6 * near.off.rms,
  }));
}
