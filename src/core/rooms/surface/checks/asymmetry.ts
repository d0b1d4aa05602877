import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { type Found, defineCheck } from '../../../contracts/check';
import { theCharacter } from '../../../contracts/finding';
import { inUnit, smallLengthText } from '../../../contracts/units';
import { SURFACE } from '../../../contracts/surface';
import { type Difference, asymmetryOf } from '../../../anatomy/asymmetry';

/** A finer tolerance than anybody asks for, as what is measured is told in; metres. */
const STEPS = [1e-5, 1e-4, 5e-4, 1e-3, 2e-3, 5e-3, 1e-2];

/** Left and right alike, limb by limb. */
export const asymmetryCheck = defineCheck({
  id: 'asymmetry',
  room: 'surface',
  title: 'Left and right alike',
  why: 'What differs between the sides bends differently, and weights that are mirrored from one to the other land on the wrong points.',
  waiverReasons: ['It is meant to differ there.', 'It is hidden under clothes.'],
  kinds: ['two-legged', 'four-legged', 'winged', 'finned'],
  settings: object({ surface: SURFACE }),
  reads: [...SHAPE_AT_REST, 'names', 'polygons', 'sets', 'carried', 'kind'],
  measures(character) {
    const least = STEPS.find((step) => {
      const { plane, differences } = asymmetryOf(character, step);
      return plane !== null && differences.every(({ isLimb }) => !isLimb);
    });
    return { 'surface.twins': least ?? null };
  },
  run(character, brief) {
    const { twins } = brief.surface;
    if (twins === null) return [];
    const { plane, differences } = asymmetryOf(character, twins);
    if (!plane && character.meshes.some(({ influences }) => influences))
      return [
        {
          gravity: 'note',
          subject: theCharacter(character),
          message: 'The body is not the same on both sides of any plane; left and right were not compared',
          measured: 'no plane',
          expected: 'a plane',
          evidence: [{ label: 'Plane of symmetry', now: 'none', brief: 'one', unit: '' }],
        },
      ];
    return differences.map((difference): Found => found(character, difference, twins, brief.unit));
  },
});

function found(
  character: Parameters<typeof asymmetryOf>[0],
  { node, region, isLimb, vertices, points, farthest }: Difference,
  twins: number,
  unit: Parameters<typeof smallLengthText>[1],
): Found {
  const name = character.nodes[node].name;
  return {
    gravity: isLimb ? 'worth' : 'note',
    subject: { kind: 'mesh', index: character.nodes[node].mesh, name },
    message: `${vertices.length} of ${points} points of ${isLimb ? `the ${region} of “${name}”` : `“${region}”`} have no twin within ${smallLengthText(twins, unit)} on the other side`,
    measured: vertices.length,
    expected: 0,
    unit: 'pts',
    count: vertices.length,
    elements: [{ kind: 'vertex', node, ids: vertices }],
    evidence: [
      { label: 'Points without a twin', now: vertices.length, brief: 0, unit: 'pts' },
      { label: 'Farthest off', now: inUnit(farthest, 'mm'), brief: inUnit(twins, 'mm'), unit: 'mm' },
    ],
    remedies: [{ id: 'match-sides', params: { node, from: 'both' } }],
    mark: region,
  };
}
