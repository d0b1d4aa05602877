/** Weights of a bound mesh by points: what a seam split has one row, which is written to all of its vertices. */
import { InfluenceRows } from '../geometry/influence-rows';
import type { Influences } from '../geometry/influences';
import { type WeightShares, sameShares } from '../geometry/row-edits';
import { inverseOr, times } from '../geometry/matrix';
import { bindsOf } from './bind';
import { restWorld } from './hierarchy';
import { type Character, type Mesh, type Skin, replaceAt } from './model';
import { pointsOf } from './points';

const empty = (vertexCount: number): Influences => ({
  offsets: new Uint32Array(vertexCount + 1),
  joint: new Uint16Array(0),
  weight: new Float32Array(0),
});

export class PointWeights {
  readonly pointCount: number;
  readonly vertexOfPoint: ArrayLike<number>;
  private readonly rows: InfluenceRows;
  private readonly firsts: Uint32Array;
  private readonly members: Uint32Array;
  /** Points whose rows are not what they were. */
  changed = 0;

  constructor(readonly mesh: Mesh) {
    const { pointCount, vertexOfPoint, pointOfVertex } = pointsOf(mesh);
    this.pointCount = pointCount;
    this.vertexOfPoint = vertexOfPoint;
    this.rows = new InfluenceRows(mesh.influences ?? empty(mesh.vertexCount));
    [this.firsts, this.members] = verticesOfPoints(pointOfVertex, pointCount);
  }

  /** The weights of a point as they stand, entries of one joint added up; they need not sum to one. */
  rowOf(point: number): WeightShares {
    const vertex = this.vertexOfPoint[point];
    const row: WeightShares = new Map();
    for (let k = 0; k < this.rows.countOf(vertex); k++) {
      const weight = this.rows.weightAt(vertex, k);
      if (!(weight > 0)) continue;
      const joint = this.rows.jointAt(vertex, k);
      row.set(joint, (row.get(joint) ?? 0) + weight);
    }
    return row;
  }

  /** Gives all vertices of a point a row. One that is as it was is not written. */
  put(point: number, row: WeightShares): void {
    const joint = [...row.keys()];
    const weight = [...row.values()];
    if (!sameShares(this.rowOf(point), row)) this.changed++;
    for (let k = this.firsts[point]; k < this.firsts[point + 1]; k++)
      this.rows.put(this.members[k], joint, weight, joint.length);
  }

  /** The mesh with the weights as they are now; the same object where none has changed. */
  made(): Mesh {
    return this.changed > 0 ? { ...this.mesh, influences: this.rows.toInfluences() } : this.mesh;
  }
}

/** The vertices of every point: point p has members[firsts[p]] … members[firsts[p + 1] − 1]. */
export function verticesOfPoints(pointOfVertex: Uint32Array, pointCount: number): [Uint32Array, Uint32Array] {
  const firsts = new Uint32Array(pointCount + 1);
  for (const point of pointOfVertex) firsts[point + 1]++;
  for (let point = 0; point < pointCount; point++) firsts[point + 1] += firsts[point];
  const at = firsts.slice(0, pointCount);
  const members = new Uint32Array(pointOfVertex.length);
  pointOfVertex.forEach((point, vertex) => {
    members[at[point]++] = vertex;
  });
  return [firsts, members];
}

/** The points of some vertices, each once, in the order in which they are met. */
export function pointsOfVertices(mesh: Mesh, vertices: Iterable<number>): number[] {
  const { pointOfVertex } = pointsOf(mesh);
  const points = new Set<number>();
  for (const vertex of vertices) if (vertex < mesh.vertexCount) points.add(pointOfVertex[vertex]);
  return [...points];
}

/** The joint of a skin that a bone is; where it is none yet it becomes the last, bound as it stands at rest. */
export function withJoint(character: Character, skinIndex: number, bone: number): [Character, number] {
  const skin = character.skins[skinIndex];
  const at = skin.joints.indexOf(bone);
  if (at >= 0) return [character, at];
  const world = restWorld(character.nodes);
  const { common } = bindsOf(character)[skinIndex];
  const bind = times(inverseOr(world, bone * 16), common);
  const inverseBinds = new Float64Array(skin.inverseBinds.length + 16);
  inverseBinds.set(skin.inverseBinds);
  inverseBinds.set(bind, skin.inverseBinds.length);
  const made: Skin = { ...skin, joints: [...skin.joints, bone], inverseBinds };
  return [
    { ...character, skins: replaceAt(character.skins, new Map([[skinIndex, made]])) },
    skin.joints.length,
  ];
}
