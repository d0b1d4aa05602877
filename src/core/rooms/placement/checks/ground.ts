import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { theCharacter } from '../../../contracts/finding';
import { allowedText, inUnit, lengthText, unitSign } from '../../../contracts/units';
import { defineCheck } from '../../../contracts/check';
import { GROUND } from '../settings';
import { bodyMeshes } from '../../../character/measure';
import { groundGap } from '../survey';

/** The lowest point of the body against the ground plane y = 0. */
export const groundCheck = defineCheck({
  id: 'ground',
  room: 'placement',
  title: 'Feet on the ground',
  why: 'The game sets the origin on the floor: feet that are not there float or sink everywhere.',
  settings: object({ ...GROUND }),
  reads: [...SHAPE_AT_REST, 'names'],
  measures(character) {
    const gap = groundGap(character);
    return { groundTolerance: gap === null ? null : Math.abs(gap) };
  },
  run(character, brief) {
    if (brief.groundTolerance === null) return [];
    const body = bodyMeshes(character);
    let lowest = Infinity;
    for (const placed of body)
      for (let i = 1; i < placed.points.length; i += 3)
        if (placed.points[i] < lowest) lowest = placed.points[i];
    if (!Number.isFinite(lowest) || Math.abs(lowest) <= brief.groundTolerance) return [];
    const reach = Math.max(0.01, Math.abs(lowest) * 0.25);
    const elements = body
      .map((placed) => {
        const ids: number[] = [];
        for (let vertex = 0; vertex < placed.mesh.vertexCount; vertex++)
          if (
            lowest < 0
              ? placed.points[vertex * 3 + 1] < -brief.groundTolerance!
              : placed.points[vertex * 3 + 1] < lowest + reach
          )
            ids.push(vertex);
        return { kind: 'vertex' as const, node: placed.node, ids: Uint32Array.from(ids) };
      })
      .filter((elements) => elements.ids.length > 0);
    return [
      {
        gravity: 'stops',
        subject: theCharacter(character),
        unit: unitSign(brief.unit),
        elements,
        message: `The lowest point ${lowest > 0 ? 'hovers' : 'is sunk'} ${lengthText(Math.abs(lowest), brief.unit)} ${lowest > 0 ? 'above' : 'below'} the ground; ${allowedText(brief.groundTolerance, brief.unit)}`,
        measured: inUnit(lowest, brief.unit),
        expected: 0,
        evidence: [
          {
            label: 'Lowest point over the ground',
            now: inUnit(lowest, brief.unit),
            brief: 0,
            unit: unitSign(brief.unit),
          },
        ],
        remedies: [{ id: 'set-on-ground', params: {} }],
      },
    ];
  },
});
