import { number, object } from 'yup';
import { placedMeshes } from '../../../character/measure';
import type { Character } from '../../../character/model';
import { pointsOf } from '../../../character/points';
import { pointsOfVertices } from '../../../character/point-weights';
import { angleOf, choiceOf, elementsTo, lengthOf, refTo } from '../../../contracts/params';
import { RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { type WeightShares, normalisedShares } from '../../../geometry/row-edits';
import { withBoundRows } from '../bound-rows';
import {
  type CopiedRows,
  FILLED,
  FOUND,
  GUESSED,
  copiedByOrder,
  copiedByTexture,
  copiedRows,
} from '../copying';
import { boundMesh } from '../edits';
import { rowsOfMesh } from '../steps';

const BY = {
  surface: 'the closest place of the surface',
  order: 'the order of their points',
  uv: 'their texture places',
} as const;

/** Weights of one mesh on another: a garment, hair, a prop, a new version of the body. */
export const copyWeights = defineRemedy({
  id: 'copy-weights',
  room: 'weights',
  takesSeconds: true,
  title: 'Copy weights from another mesh',
  does: 'Every point takes the weights of the closest place of the other mesh, where that is near enough and faces the same way; the rest is filled in smoothly from there. A mesh that is not bound yet becomes so.',
  params: object({
    node: refTo('mesh', 'Onto'),
    from: refTo('mesh', 'From'),
    by: choiceOf('By', BY).default('surface'),
    distance: lengthOf('No farther than').default(0.05),
    angle: angleOf('Facing within').min(0).max(180).default(70),
    limit: number()
      .integer()
      .min(1)
      .max(64)
      .default(4)
      .meta({ quantity: 'count', label: 'Bones a point may keep' }),
    vertices: elementsTo('vertices', 'Only these points'),
  }),
  rows(character, { node, from, by, distance, angle, limit }) {
    const isBound =
      character.nodes[node]?.skin >= 0 && character.meshes[character.nodes[node].mesh].influences;
    const { found, filled, guessed } = countsOf(
      copied(character, { node, from, by, distance, angle, limit }),
    );
    return [
      { label: 'Bound', value: isBound ? 'yes' : 'no', unit: '' },
      { label: 'Points found on the other mesh', value: found, unit: 'pts' },
      { label: 'Filled in from those round them', value: filled, unit: 'pts' },
      { label: 'Guessed: nothing of their part is near', value: guessed, unit: 'pts' },
    ];
  },
  promises: (character, { node }) =>
    promise(['weights', 'joints', 'binds', 'shows'], {
      meant: character.nodes.flatMap(({ mesh }, i) =>
        mesh >= 0 && mesh === character.nodes[node]?.mesh ? [i] : [],
      ),
      holds: 'at rest',
    }),
  apply(character, { node, from, by, distance, angle, limit, vertices }) {
    const { rows } = copied(character, { node, from, by, distance, angle, limit });
    const { skin } = boundMesh(character, from);
    const only = (vertices ?? []).filter((some) => some.node === node);
    if (only.length === 0) return withBoundRows(character, skin.joints, new Map([[node, rows]]));
    return onlyOn(
      character,
      node,
      skin.joints,
      rows,
      only.flatMap(({ ids }) => Array.from(ids)),
    );
  },
});

export interface CopyAsked {
  readonly node: number;
  readonly from: number;
  readonly by: keyof typeof BY;
  readonly distance: number;
  readonly angle: number;
  readonly limit: number;
}

/** How many points of a copy are found, filled in and guessed. */
export interface CopyCounts {
  readonly found: number;
  readonly filled: number;
  readonly guessed: number;
}

const countsOf = ({ how }: CopiedRows): CopyCounts => {
  const count = (kind: number) => how.reduce((sum, own) => sum + Number(own === kind), 0);
  return { found: count(FOUND), filled: count(FILLED), guessed: count(GUESSED) };
};

/** How every vertex would get its weights, by the node onto which they are copied: 0 found, 0.5 filled in, 1 guessed. */
export function pictureOfCopy(character: Character, asked: CopyAsked) {
  const made = copied(character, asked);
  const { pointOfVertex } = pointsOf(character.meshes[character.nodes[asked.node].mesh]);
  const values = Float32Array.from(pointOfVertex, (point) => (FOUND - made.how[point]) / FOUND);
  return { values: new Map([[asked.node, values]]), counts: countsOf(made) };
}

const cache = new WeakMap<Character, { readonly asked: string; readonly made: CopiedRows }>();

/** The copied rows; the last answer is kept, since a preview asks for it thrice. */
function copied(character: Character, asked: CopyAsked): CopiedRows {
  const key = JSON.stringify(asked);
  const known = cache.get(character);
  if (known?.asked === key) return known.made;
  const { node, from, by, ...settings } = asked;
  if (node === from)
    throw new RemedyError('A mesh cannot take its weights from itself; choose another to copy from.');
  boundMesh(character, from);
  const placed = placedMeshes(character);
  const [source, target] = [from, node].map((own) => placed.find((shown) => shown.node === own));
  if (!source || !target) throw new RemedyError('The mesh is not there any more; choose it again.');
  const made =
    by === 'surface'
      ? copiedRows(source, target, settings)
      : exactly(by, source.mesh, target.mesh, asked.limit);
  cache.set(character, { asked: key, made });
  return made;
}

function exactly(
  by: 'order' | 'uv',
  from: Character['meshes'][number],
  to: Character['meshes'][number],
  limit: number,
): CopiedRows {
  if (by === 'order') {
    if (from.vertexCount !== to.vertexCount)
      throw new RemedyError(
        `“${from.name}” has ${from.vertexCount} vertices and “${to.name}” ${to.vertexCount}; copy by the surface instead.`,
      );
    return copiedByOrder(from, to, limit);
  }
  const made = copiedByTexture(from, to, limit);
  if (!made) throw new RemedyError('One of the meshes has no texture places; copy by the surface instead.');
  return made;
}

/** The rows on some points alone; the others keep what they have, as bones of the other mesh's list. */
function onlyOn(
  character: Character,
  node: number,
  bones: readonly number[],
  rows: readonly WeightShares[],
  vertices: readonly number[],
): Character {
  const { mesh, skin } = boundMesh(character, node);
  const chosen = new Set(pointsOfVertices(mesh, vertices));
  const all = [...new Set([...bones, ...skin.joints])];
  const placeOf = new Map(all.map((bone, i) => [bone, i]));
  const kept = rowsOfMesh(mesh);
  const { pointCount } = pointsOf(mesh);
  const made = Array.from({ length: pointCount }, (_, point) => {
    const row = chosen.has(point) ? rows[point] : kept[point];
    const from = chosen.has(point) ? bones : skin.joints;
    return normalisedShares(
      new Map([...row].map(([joint, share]) => [placeOf.get(from[joint]) as number, share])),
    );
  });
  return withBoundRows(character, all, new Map([[node, made]]));
}
