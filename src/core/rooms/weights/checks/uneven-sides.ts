import { object } from 'yup';
import { partsOf } from '../../../anatomy/parts';
import { shownMeshes } from '../../../character/measure';
import { pointsOf } from '../../../character/points';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { type Found, defineCheck } from '../../../contracts/check';
import { pointsOfPart } from '../../../anatomy/part-points';
import { SURFACE } from '../../../contracts/surface';
import { oddTwins } from '../sides';

/** Fewer differing points are no matter of sides: other checks look at single points. */
const LEAST = 4;

/** A mesh of which more differs is meant to be another on each side. */
const MOST = 0.5;

/** Weights that are not the same left and right. */
export const unevenSidesCheck = defineCheck({
  id: 'uneven-weights',
  room: 'weights',
  title: 'Weights alike on both sides',
  why: 'Where twin points go with their bones by other shares the two sides bend differently, and a motion that is mirrored shows it at once.',
  waiverReasons: ['The two sides are meant to differ.'],
  settings: object({ surface: SURFACE }),
  reads: [...SHAPE_AT_REST, 'names', 'polygons', 'shading', 'kind', 'sets', 'carried'],
  run(character, brief) {
    const { twins: within } = brief.surface;
    if (within === null) return [];
    return shownMeshes(character).flatMap(({ node, mesh, skin }): Found[] => {
      if (!skin || !mesh.influences) return [];
      const { twins, differing, most } = oddTwins(character, node, within, true);
      const asked = withoutOneSided(character, node, differing);
      const paired = twins.reduce((sum, twin, point) => sum + Number(twin >= 0 && twin !== point), 0);
      if (asked.length < LEAST || asked.length > paired * MOST) return [];
      const { vertexOfPoint } = pointsOf(mesh);
      const name = character.nodes[node].name || mesh.name;
      return [
        {
          gravity: 'worth',
          subject: { kind: 'mesh', index: character.nodes[node].mesh, name },
          unit: 'pts',
          count: asked.length,
          message: `${asked.length} points of “${name}” go with their bones otherwise than their twins on the other side, by up to ${Math.round(most * 100)} %`,
          measured: asked.length,
          expected: 0,
          elements: [{ kind: 'vertex', node, ids: Uint32Array.from(asked, (point) => vertexOfPoint[point]) }],
          evidence: [
            { label: 'Points that differ', now: asked.length, brief: 0, unit: 'pts' },
            { label: 'Largest difference', now: most * 100, brief: 0, unit: '%' },
          ],
          remedies: [
            { id: 'mirror-weights', params: { node, from: 'left' } },
            { id: 'mirror-weights', params: { node, from: 'right' } },
          ],
        },
      ];
    });
  },
});

/** Without the points of parts that need no twin. */
function withoutOneSided(
  character: Parameters<typeof partsOf>[0],
  node: number,
  points: readonly number[],
): number[] {
  const mesh = character.meshes[character.nodes[node].mesh];
  const waived = new Set(
    partsOf(character)
      .filter((part) => part.node === node && part.isOneSided)
      .flatMap((part) => pointsOfPart(mesh, part)),
  );
  return points.filter((point) => !waived.has(point));
}
