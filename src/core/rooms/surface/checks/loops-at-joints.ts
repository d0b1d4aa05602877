import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { type Found, defineCheck } from '../../../contracts/check';
import type { Elements } from '../../../contracts/finding';
import { lengthText } from '../../../contracts/units';
import type { LoopOnMesh } from '../../../anatomy/joint-loops';
import { NEAR_JOINT, SURFACE } from '../../../contracts/surface';
import { countedLoops, spacingOf } from '../loops';

/** Enough loops of edges across every joint of a limb that bends. */
export const loopsAtJointsCheck = defineCheck({
  id: 'loops-at-joints',
  room: 'surface',
  title: 'Loops across the joints',
  why: 'Where a limb bends, the loops that go round it share the bend among them; with too few, all of it falls on one edge, and the limb folds like a hose.',
  advice:
    'Loops are put in where the mesh was modelled; the report names the joints and how many are missing.',
  waiverReasons: ['It is never bent far.', 'It is covered where it bends.'],
  settings: object({ surface: SURFACE }),
  reads: [...SHAPE_AT_REST, 'names', 'polygons', 'kind'],
  measures(character) {
    const all = countedLoops(character, { nearJointShare: NEAR_JOINT, loopsAtLimbs: 0, loopsAtKnuckles: 0 });
    const least = (isKnuckle: boolean) => {
      const counts = all
        .filter(({ across }) => (across.role === 'knuckle') === isKnuckle)
        .map(({ near }) => near.length);
      return counts.length > 0 ? Math.min(...counts) : null;
    };
    return { 'surface.loopsAtLimbs': least(false), 'surface.loopsAtKnuckles': least(true) };
  },
  run(character, brief) {
    return countedLoops(character, brief.surface)
      .filter(({ near, wanted }) => near.length < wanted)
      .map(({ across, near, above, below, wanted, reach }): Found => {
        const { name } = character.nodes[across.bone];
        const loops = near.length === 1 ? 'one loop goes' : `${near.length || 'no'} loops go`;
        return {
          gravity: 'worth',
          subject: { kind: 'bone', index: across.bone, name },
          message: `At “${name}” ${loops} across the limb within ${lengthText(reach, brief.unit)} of the joint; the brief wants ${wanted}`,
          measured: near.length,
          expected: wanted,
          unit: 'loops',
          count: wanted - near.length,
          elements: [
            { kind: 'bone', node: across.bone, ids: Uint32Array.of(across.bone) },
            ...edgesOf(near.length > 0 ? near : across.loops),
          ],
          evidence: [
            { label: 'Loops near the joint', now: near.length, brief: wanted, unit: 'loops' },
            { label: 'Above it', now: above, brief: '—', unit: 'loops' },
            { label: 'Below it', now: below, brief: '—', unit: 'loops' },
            {
              label: 'Widest way between them',
              now: near.length > 1 ? lengthText(Math.max(...spacingOf(near)), brief.unit) : '—',
              brief: '—',
              unit: '',
            },
          ],
        };
      });
  },
});

/** The edges of loops, by the node that shows their mesh. */
function edgesOf(loops: readonly LoopOnMesh[]): Elements[] {
  const byNode = new Map<number, number[]>();
  for (const { node, vertices } of loops) {
    const own = byNode.get(node) ?? [];
    vertices.forEach((vertex, i) => own.push(vertex, vertices[(i + 1) % vertices.length]));
    byNode.set(node, own);
  }
  return [...byNode].map(([node, ids]) => ({ kind: 'edge', node, ids: Uint32Array.from(ids) }));
}
