import { type Check, type Finding, finding } from '../../audit/types';
import { inUnit } from '../../audit/brief';
import { bonesOf, childrenOf, parentBone, restPlace } from '../../character/hierarchy';
import { placedMeshes } from '../../character/measure';

/** Share of quads, and whether the other polygons lie near a joint that bends. */
export const quadsCheck: Check = {
  id: 'quads',
  room: 'surface',
  title: 'Quads, and where the rest lies',
  why: 'Quads in loops fold evenly over a joint; triangles and n-gons there crease. On a sole or under a cap they do no harm.',
  run(character, brief) {
    const children = childrenOf(character.nodes);
    // A joint bends where a chain goes on through it: a bone above and a bone below.
    const bending = bonesOf(character)
      .filter(
        (b) =>
          parentBone(character.nodes, b) >= 0 && children[b].some((c) => character.nodes[c].kind === 'bone'),
      )
      .map((b) => restPlace(character.nodes, b));
    const out: Finding[] = [];
    for (const p of placedMeshes(character)) {
      const { polygonOffsets: offsets, corners } = p.mesh;
      const polygons = offsets.length - 1;
      const name = character.nodes[p.node].name || p.mesh.name;
      const subject = { kind: 'mesh' as const, index: character.nodes[p.node].mesh, name };
      if (polygons === 0) continue;
      const others: number[] = [];
      const near: number[] = [];
      let triangles = 0;
      let ngons = 0;
      for (let q = 0; q < polygons; q++) {
        const n = offsets[q + 1] - offsets[q];
        if (n === 4) continue;
        if (n === 3) triangles++;
        else ngons++;
        others.push(q);
        if (
          p.skin &&
          bending.length > 0 &&
          nearAny(p.points, corners, offsets[q], n, bending, brief.surface.nearJoint)
        )
          near.push(q);
      }
      const share = 1 - others.length / polygons;
      const made = p.mesh.polygonOrigin;
      if (made === 'recovered') {
        out.push(
          finding(
            quadsCheck,
            {
              gravity: 'note',
              subject,
              unit: '%',
              count: polygons,
              measured: share * 100,
              expected: 'polygons in the file',
              message: `“${name}” came as triangles; ${polygons - others.length} quads were recovered from triangle pairs`,
              evidence: [
                {
                  label: 'Share of quads',
                  now: share * 100,
                  brief: brief.surface.quadShare * 100,
                  unit: '%',
                },
              ],
            },
            'recovered',
          ),
        );
      }
      if (share >= brief.surface.quadShare) continue;
      const matters = near.length > 0;
      out.push(
        finding(
          quadsCheck,
          {
            gravity: matters ? 'worth' : 'note',
            subject,
            unit: '%',
            measured: share * 100,
            expected: brief.surface.quadShare * 100,
            message: `“${name}” is ${(share * 100).toFixed(0)} % quads; ${triangles} triangles and ${ngons} n-gons, ${near.length} of them near a bending joint`,
            elements: [{ kind: 'polygon', node: p.node, ids: Uint32Array.from(matters ? near : others) }],
            evidence: [
              { label: 'Share of quads', now: share * 100, brief: brief.surface.quadShare * 100, unit: '%' },
              { label: 'Triangles', now: triangles, brief: '—', unit: '' },
              { label: 'N-gons', now: ngons, brief: '—', unit: '' },
              {
                label: `Within ${inUnit(brief.surface.nearJoint, 'cm').toFixed(0)} cm of a joint`,
                now: near.length,
                brief: 0,
                unit: '',
              },
            ],
          },
          'share',
        ),
      );
    }
    return out;
  },
};

function nearAny(
  points: Float32Array,
  corners: Uint32Array,
  start: number,
  n: number,
  joints: readonly (readonly number[])[],
  reach: number,
): boolean {
  let x = 0;
  let y = 0;
  let z = 0;
  for (let k = start; k < start + n; k++) {
    x += points[corners[k] * 3];
    y += points[corners[k] * 3 + 1];
    z += points[corners[k] * 3 + 2];
  }
  x /= n;
  y /= n;
  z /= n;
  return joints.some((j) => (j[0] - x) ** 2 + (j[1] - y) ** 2 + (j[2] - z) ** 2 < reach * reach);
}
