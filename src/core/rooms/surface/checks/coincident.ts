import { object } from 'yup';
import { inUnit, smallLengthText } from '../../../contracts/units';
import { type Found, defineCheck } from '../../../contracts/check';
import { SURFACE } from '../../../contracts/surface';
import { shownMeshes } from '../../../character/measure';
import { coincidentGroups } from '../coincident';

/** Distances at which points may be apart, metres, the largest first. */
const APART = [1e-3, 1e-4, 1e-5, 1e-6, 1e-7];

/**
 * Different points of one mesh closer together than the brief's distance. Vertices that a seam splits are one
 * point.
 */
export const coincidentCheck = defineCheck({
  id: 'coincident',
  room: 'surface',
  title: 'Coincident points',
  why: 'Points on top of each other tear open when they are weighted apart, stop heat from spreading, and show as dark creases.',
  settings: object({ surface: SURFACE }),
  reads: ['tree', 'names', 'shows', 'points', 'weights', 'polygons'],
  measures(character) {
    const isOn = (distance: number) =>
      shownMeshes(character).some((shown) => coincidentGroups(shown.mesh, distance).points > 0);
    return { 'surface.coincident': APART.find((distance) => !isOn(distance)) ?? 0 };
  },
  run(character, brief) {
    const out: Found[] = [];
    for (const mesh of shownMeshes(character)) {
      const found = coincidentGroups(mesh.mesh, brief.surface.coincident);
      if (found.points === 0) continue;
      const name = character.nodes[mesh.node].name || mesh.mesh.name;
      out.push({
        gravity: 'worth',
        subject: { kind: 'mesh', index: character.nodes[mesh.node].mesh, name },
        unit: 'pts',
        count: found.together,
        elements: [{ kind: 'vertex', node: mesh.node, ids: found.vertices }],
        message: `${found.together} points of “${name}” lie within ${smallLengthText(brief.surface.coincident, brief.unit)} of another; merged, ${found.points} of them would go`,
        measured: found.together,
        expected: 0,
        evidence: [
          { label: 'Points together', now: found.together, brief: 0, unit: 'pts' },
          { label: 'Points that would go', now: found.points, brief: 0, unit: 'pts' },
          {
            label: 'Distance',
            now: inUnit(found.farthest, 'mm'),
            brief: inUnit(brief.surface.coincident, 'mm'),
            unit: 'mm',
          },
        ],
        remedies: [{ id: 'merge-points', params: { node: mesh.node, distance: brief.surface.coincident } }],
      });
    }
    return out;
  },
});
