import { object } from 'yup';
import { meaningOf } from '../../../anatomy/bones';
import { childrenOf, parentBone, restPlace } from '../../../character/hierarchy';
import { placedMeshes } from '../../../character/measure';
import { pointsOf } from '../../../character/points';
import type { Character } from '../../../character/model';
import { lengthOf, refTo } from '../../../contracts/params';
import { RemedyError, defineRemedy } from '../../../contracts/remedy';
import { type Vec3, dot, length, normalise, subtract } from '../../../geometry/matrix';
import { type WeightShares, normalisedShares } from '../../../geometry/row-edits';
import { boundNodes } from '../../../character/held-by';
import { promiseOfEdit, wholeMeshes, withEditedRows } from '../edits';

/** Points that go with the two bones of a joint alone, nearly; others have more to say. */
const ALONE = 0.9;

/** Where a bone and the one above it part: half and half at the joint, over a band of a given width. */
export const setBand = defineRemedy({
  id: 'set-band',
  room: 'weights',
  title: 'Harden or soften a joint',
  does: 'Between the bone and the one above it the weights change over a band of this width, half and half at the joint: narrow for a hard hinge, wide for a soft one. Only points that go with these two, and with the twist bones beside them, are changed.',
  params: object({
    bone: refTo('bone', 'Bone below the joint'),
    width: lengthOf('Width of the band').default(0.08),
  }),
  rows(character, { bone, width }) {
    const { shared, within } = pointsAt(character, bone, width);
    return [
      { label: 'Points that both bones pull', value: shared, unit: 'pts' },
      { label: 'Points within the band', value: within, unit: 'pts' },
    ];
  },
  promises: (character) => promiseOfEdit(character, boundNodes(character)),
  apply(character, { bone, width }) {
    const joint = jointOf(character, bone);
    const chosen = wholeMeshes(character, boundNodes(character));
    const points = new Map(placedMeshes(character).map((placed) => [placed.node, placed.points]));
    return withEditedRows(character, chosen, {
      nothing: 'The weights change over a band of this width already, or no point goes with these two bones.',
      edit({ character: now, node, mesh, weights }, all) {
        const { joints } = now.skins[now.nodes[node].skin];
        const [below, above] = [bone, joint.above].map((one) => slotsOf(character, joints, one));
        if (below.length === 0 || above.length === 0) return;
        const { vertexOfPoint } = pointsOf(mesh);
        for (const point of all) {
          const row = normalisedShares(weights.rowOf(point));
          const [under, over] = [sharesOf(row, below), sharesOf(row, above)];
          const both = under + over;
          if (
            both < ALONE ||
            !reachesBand(under, both, points.get(node)!, vertexOfPoint[point], joint, width)
          )
            continue;
          const share = shareAlong(along(joint, points.get(node)!, vertexOfPoint[point]) / width);
          putShares(row, below, both * share);
          putShares(row, above, both * (1 - share));
          weights.put(point, row);
        }
      },
    });
  },
});

/** Where a skin lists a bone and the twist bones beside it, which go with it at its joint; the bone itself first. */
function slotsOf(character: Character, joints: readonly number[], bone: number): number[] {
  const beside = childrenOf(character.nodes)[bone].filter(
    (child) => meaningOf(character, child).kind === 'twist',
  );
  return [bone, ...beside].map((one) => joints.indexOf(one)).filter((slot) => slot >= 0);
}

const sharesOf = (row: WeightShares, slots: readonly number[]): number =>
  slots.reduce((sum, slot) => sum + (row.get(slot) ?? 0), 0);

/** Gives some bones a share together, in the proportion that they have; all of it to the first where none has any. */
function putShares(row: WeightShares, slots: readonly number[], share: number): void {
  const before = sharesOf(row, slots);
  slots.forEach((slot, i) => {
    const own = before > 0 ? ((row.get(slot) ?? 0) / before) * share : Number(i === 0) * share;
    if (own > 0) row.set(slot, own);
    else row.delete(slot);
  });
}

interface JointAt {
  readonly place: Vec3;
  /** Along the limb, from the root outwards. */
  readonly way: Vec3;
  /** The bone above. */
  readonly above: number;
  /** As far along the limb as the two bones go. */
  readonly up: number;
  readonly down: number;
}

/** Throws RemedyError for a bone that has none above it. */
function jointOf(character: Character, bone: number): JointAt {
  const { nodes } = character;
  const above = parentBone(nodes, bone);
  if (above < 0)
    throw new RemedyError(`“${nodes[bone]?.name ?? ''}” has no bone above it; choose one that has.`);
  const place = restPlace(character.nodes, bone);
  const into = subtract(place, restPlace(character.nodes, above));
  const child = childrenOf(nodes)[bone].find((below) => nodes[below].kind === 'bone');
  const out = child === undefined ? into : subtract(restPlace(character.nodes, child), place);
  const [one, other] = [into, out].map((way): Vec3 => (length(way) > 1e-9 ? normalise(way) : [0, 0, 0]));
  const sum: Vec3 = [one[0] + other[0], one[1] + other[1], one[2] + other[2]];
  if (length(sum) < 1e-6)
    throw new RemedyError('The limb turns back on itself here; no band can be laid across it.');
  return {
    place,
    way: normalise(sum),
    above,
    up: length(into),
    down: Math.max(length(out), length(into) / 2),
  };
}

const along = ({ place, way }: JointAt, points: ArrayLike<number>, vertex: number): number =>
  dot(way, subtract([points[vertex * 3], points[vertex * 3 + 1], points[vertex * 3 + 2]], place));

/** A point that both bones pull now, or that lies in the band. */
function reachesBand(
  below: number,
  both: number,
  points: ArrayLike<number>,
  vertex: number,
  joint: JointAt,
  width: number,
): boolean {
  const isShared = below > 0.001 && both - below > 0.001;
  const far = along(joint, points, vertex);
  return isShared || (Math.abs(far) < width / 2 && far > -joint.up && far < joint.down);
}

/** The share of the bone below, by how far along a band of width one a point lies; 0.5 in its middle. */
function shareAlong(at: number): number {
  const way = Math.min(1, Math.max(0, at + 0.5));
  return way * way * (3 - 2 * way);
}

function pointsAt(character: Character, bone: number, width: number) {
  const joint = jointOf(character, bone);
  let shared = 0;
  let within = 0;
  for (const { mesh, skin, points } of placedMeshes(character)) {
    if (!skin || !mesh.influences) continue;
    const [below, above] = [bone, joint.above].map((one) => new Set(slotsOf(character, skin.joints, one)));
    const { offsets, joint: joints, weight } = mesh.influences;
    const { vertexOfPoint, pointCount } = pointsOf(mesh);
    for (let point = 0; point < pointCount; point++) {
      const vertex = vertexOfPoint[point];
      let [one, other] = [0, 0];
      for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++) {
        if (below.has(joints[k])) one += weight[k];
        if (above.has(joints[k])) other += weight[k];
      }
      if (one > 0.001 && other > 0.001) shared++;
      if (one + other >= ALONE && Math.abs(along(joint, points, vertex)) < width / 2) within++;
    }
  }
  return { shared, within };
}
