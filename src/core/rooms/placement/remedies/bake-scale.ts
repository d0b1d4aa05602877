import { object } from 'yup';
import { refTo } from '../../../contracts/params';
import { type Aspect } from '../../../contracts/aspect';
import { RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { ScaleError, bakeNodeScale, hasEvenScales } from '../../../character/bake-scale';
import { localOf } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { decompose } from '../../../geometry/matrix';

/**
 * Puts the scale of one node, and of all that hangs below it, into the points: nodes end at scale 1,
 * everything stays where it is. Below an even scale the deformation in every pose stays the same; below an
 * uneven one it is the same at rest. Normals go with the inverse transpose, a mirror turns the faces back
 * outside, inverse binds and clips follow; where all joints of a skin then carry the same scale in their
 * binds, that too goes into the points.
 */
export const bakeScale = defineRemedy({
  id: 'bake-scale',
  room: 'placement',
  title: 'Bake the scale into the points',
  does: 'The node and all below it read 1; points, normals, inverse binds and clips take the scale, so that nothing moves.',
  params: object({ node: refTo('node', 'Node') }),
  rows(character, { node }) {
    const scales = character.nodes.map((node) => decompose(localOf(node)).scale);
    return [
      { label: 'Scale of the node', value: scaleText(scales[node] ?? []), unit: '×' },
      {
        label: 'Nodes with a scale',
        value: scales.filter((scale) => scale.some((x) => Math.abs(x - 1) > 1e-4)).length,
        unit: 'nodes',
      },
    ];
  },
  apply: (character, { node }) => bakedOrSay(character, node),
  promises: (character, { node }) =>
    promise(BAKED_ASPECTS, { holds: hasEvenScales(character, node) ? 'in every pose' : 'at rest' }),
});

/** What baking a scale changes; a mesh that several nodes show becomes one of its own for this one. */
export const BAKED_ASPECTS: readonly Aspect[] = [
  'places',
  'points',
  'shading',
  'polygons',
  'morphs',
  'binds',
  'clips',
  'shows',
];

const scaleText = (scale: readonly number[]) => scale.map((x) => Number(x.toPrecision(4))).join(' × ');

/** The work of {@link bakeScale}, for remedies that bake along with something else. Throws RemedyError. */
export function bakedOrSay(character: Character, top: number): Character {
  if (!character.nodes[top]) throw new RemedyError(`There is no node ${top} to bake; run the audit again.`);
  try {
    return bakeNodeScale(character, top);
  } catch (error) {
    if (error instanceof ScaleError) throw new RemedyError(error.message);
    throw error;
  }
}
