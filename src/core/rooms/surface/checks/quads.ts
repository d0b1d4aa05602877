import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import type { Subject } from '../../../contracts/finding';
import { type Found, defineCheck } from '../../../contracts/check';
import { SURFACE, type SurfaceBrief } from '../../../contracts/surface';
import { type Placed, placedMeshes } from '../../../character/measure';
import type { Vec3 } from '../../../geometry/matrix';
import { type Bend, bendingJoints, isNear } from '../bends';

/** Share of quads, and whether the other polygons lie near a joint that bends. */
export const quadsCheck = defineCheck({
  id: 'quads',
  room: 'surface',
  title: 'Quads, and where the rest lies',
  why: 'Quads in loops fold evenly over a joint; triangles and n-gons there crease. On a sole or under a cap they do no harm.',
  advice: 'Polygons are mended where they were modelled; note it for the supplier. The report names them.',
  waiverReasons: ['It lies where nothing bends.', 'The mesh was reduced on purpose for this machine.'],
  settings: object({ surface: SURFACE }),
  reads: [...SHAPE_AT_REST, 'names', 'polygons'],
  measures(character) {
    const shares = placedMeshes(character)
      .map((placed) => shapeOf(placed, []))
      .flatMap(({ polygons, share }) => (polygons > 0 ? [share] : []));
    return { 'surface.quadShare': shares.length > 0 ? Math.min(...shares) : null };
  },
  run(character, brief) {
    const bending = bendingJoints(character, brief.surface.nearJointShare);
    return placedMeshes(character).flatMap((placed) => {
      const name = character.nodes[placed.node].name || placed.mesh.name;
      const subject: Subject = { kind: 'mesh', index: character.nodes[placed.node].mesh, name };
      const shape = shapeOf(placed, bending);
      if (shape.polygons === 0) return [];
      return [
        ...(placed.mesh.polygonOrigin === 'recovered'
          ? [recoveredFinding(subject, placed.node, shape, brief)]
          : []),
        ...(shape.share < brief.surface.quadShare ? [shareFinding(subject, placed.node, shape, brief)] : []),
      ];
    });
  },
});

interface Shape {
  readonly polygons: number;
  readonly triangles: number;
  readonly ngons: number;
  /** Share of quads, 0 … 1. */
  readonly share: number;
  /** Polygons that are no quads, and those of them near a bending joint. */
  readonly others: readonly number[];
  readonly near: readonly number[];
}

function shapeOf(placed: Placed, bending: readonly Bend[]): Shape {
  const { polygonOffsets: offsets, corners } = placed.mesh;
  const polygons = offsets.length - 1;
  const others: number[] = [];
  const near: number[] = [];
  let triangles = 0;
  for (let polygon = 0; polygon < polygons; polygon++) {
    const oneCorners = offsets[polygon + 1] - offsets[polygon];
    if (oneCorners === 4) continue;
    if (oneCorners === 3) triangles++;
    others.push(polygon);
    if (
      placed.skin &&
      bending.length > 0 &&
      isNear(bending, middleOf(placed.points, corners, offsets[polygon], oneCorners))
    )
      near.push(polygon);
  }
  const ngons = others.length - triangles;
  return { polygons, triangles, ngons, share: 1 - others.length / polygons, others, near };
}

function recoveredFinding(
  subject: Subject,
  node: number,
  { polygons, share, others }: Shape,
  brief: SurfaceBrief,
): Found {
  const wanted = brief.surface.quadShare * 100;
  return {
    gravity: 'note',
    subject,
    unit: '%',
    count: polygons,
    measured: share * 100,
    expected: 'polygons in the file',
    message: `“${subject.name}” came as triangles; ${polygons - others.length} quads were recovered from triangle pairs`,
    evidence: [{ label: 'Share of quads', now: share * 100, brief: wanted, unit: '%' }],
    remedies: [{ id: 'keep-quads', params: { node } }],
    mark: 'recovered',
  };
}

function shareFinding(subject: Subject, node: number, shape: Shape, brief: SurfaceBrief): Found {
  const { share, triangles, ngons, near, others } = shape;
  const matters = near.length > 0;
  const wanted = brief.surface.quadShare * 100;
  const percent = Math.round(brief.surface.nearJointShare * 100);
  return {
    gravity: matters ? 'worth' : 'note',
    subject,
    unit: '%',
    measured: share * 100,
    expected: wanted,
    message: `“${subject.name}” is ${(share * 100).toFixed(0)} % quads; ${triangles} triangles and ${ngons} n-gons, ${near.length} of them near a bending joint`,
    elements: [{ kind: 'polygon', node, ids: Uint32Array.from(matters ? near : others) }],
    evidence: [
      { label: 'Share of quads', now: share * 100, brief: wanted, unit: '%' },
      { label: 'Triangles', now: triangles, brief: '—', unit: '' },
      { label: 'N-gons', now: ngons, brief: '—', unit: '' },
      {
        label: `Within ${percent} % of the limb’s thickness of a joint`,
        now: near.length,
        brief: 0,
        unit: '',
      },
    ],
    mark: 'share',
  };
}

/** The mean of a polygon's corners. */
function middleOf(points: Float32Array, corners: Uint32Array, start: number, count: number): Vec3 {
  const sum: [number, number, number] = [0, 0, 0];
  for (let k = start; k < start + count; k++)
    for (let axis = 0; axis < 3; axis++) sum[axis] += points[corners[k] * 3 + axis] / count;
  return sum;
}
