/**
 * A mesh under the brush, as it stands in a pose. Dabs are appended; each changes rows of weights in place, and only the
 * points that it touched, and the normals beside them, are made anew. What a stroke changed is kept as the rows before and
 * after of its points, so that it is taken back and done again without another copy of the mesh.
 */
import FlatQueue from 'flatqueue';
import { type Character, type Mesh, positionsOf } from '../../character/model';
import { verticesOfPoints } from '../../character/point-weights';
import { pointsOf } from '../../character/points';
import { ancestorsOf } from '../../character/hierarchy';
import { fanned } from '../../geometry/fan';
import { InfluenceRows, type WeightRow } from '../../geometry/influence-rows';
import { type PointPolygons, polygonsOfPoints } from '../../geometry/half-edges';
import { areaNormals, normalsOfPoints, putAreaNormal } from '../../geometry/normals';
import { skinMatrices } from '../../geometry/skinning';
import { type SurfacePlace, type TriangleBoxes, TriangleTree } from '../../geometry/triangle-tree';
import {
  type WeightShares,
  limitedShares,
  meanShares,
  normalisedShares,
  sameShares,
  towardsShares,
} from '../../geometry/row-edits';
import { type BrushEdge, felt, touchRow } from '../../geometry/weight-brush';
import { meshSidesOf } from '../../anatomy/mesh-sides';
import { topologyOf } from '../../character/topology';
import { pointsOfVertices } from '../../character/point-weights';
import { twinNodesOf } from './sides';

/** A brush that sets one bone's weight. */
export interface WeightBrush {
  /** Node of the bone. */
  readonly bone: number;
  /** Metres. */
  readonly radius: number;
  /** How much of the way a dab goes, 0 … 1. */
  readonly strength: number;
  /** The weight that it goes towards, 0 … 1. */
  readonly target: number;
  /** Share of the radius in which all of it is felt, 0 … 1. */
  readonly hardness: number;
  /** Most influences a point may have. */
  readonly limit: number;
  /** What it does; sets the weight, where nothing is said. */
  readonly does?: BrushWork;
  readonly edge?: BrushEdge;
  readonly reach?: BrushReach;
  /** Bones whose weights stay, as nodes. */
  readonly locked?: readonly number[];
  /** Vertices of the mesh that it is kept to; null for all. */
  readonly kept?: Uint32Array | null;
  /** The twins on the other side get the same, with the twin of the bone. */
  readonly isBothSides?: boolean;
}

/** What a brush does to the weights under it. */
export const BRUSH_WORK = {
  set: 'set',
  add: 'add',
  take: 'take away',
  smooth: 'smooth',
  even: 'even out',
} as const;

export type BrushWork = keyof typeof BRUSH_WORK;

/** How far a brush reaches: what faces the eye, whatever lies within its radius, or as far as the surface leads. */
export const BRUSH_REACH = {
  seen: 'what is seen',
  through: 'right through',
  skin: 'along the surface',
} as const;

export type BrushReach = keyof typeof BRUSH_REACH;

/** Where a dab lies, and from where it is looked at. */
interface Dab {
  readonly place: readonly number[];
  /** The triangle that was met; −1 where that is not known. */
  readonly triangle: number;
  /** The way of the eye; null where it is not known. */
  readonly way: readonly number[] | null;
}

/** What of a mesh has changed, by vertex; what a seam split is all in it. */
export interface Touched {
  readonly node: number;
  readonly ids: Uint32Array;
  /** 3 per id, world space, metres. */
  readonly points: Float32Array;
  readonly normals: Float32Array;
  /** The painted bone's weight, 1 per id. */
  readonly weights: Float32Array;
}

/** Rows of weights of some points, one behind the other. Point i has the entries offsets[i] … offsets[i + 1]. */
export interface PackedRows {
  readonly offsets: Uint32Array;
  /** Joints of the skin. */
  readonly joint: Uint32Array;
  readonly weight: Float32Array;
}

/** What a stroke changed: the points, by a vertex of each, and their rows before and after. */
export interface WeightDelta {
  readonly node: number;
  readonly vertices: Uint32Array;
  readonly before: PackedRows;
  readonly after: PackedRows;
}

/** Where a normal goes so far with the eye, the brush has come out on the other side. */
const FACES_AWAY = 0.2;

/** A way along the edges of quads is about so much longer than the straight one. */
const ZIGZAG = 0.85;

/** Dabs stand so far apart along a stroke, as a share of the radius. */
const SPACING = 0.2;

export class PaintedMesh {
  readonly points: Float32Array;
  readonly normals: Float32Array;
  private readonly rows: InfluenceRows;
  private readonly base: Float32Array;
  private readonly matrices: Float32Array;
  private readonly pointOfVertex: Uint32Array;
  /** The vertices of every point: point p has members[firsts[p]] … members[firsts[p + 1] − 1]. */
  private readonly firsts: Uint32Array;
  private readonly members: Uint32Array;
  private readonly around: PointPolygons;
  private readonly tree: TriangleTree;
  /** How far any point has gone since the tree was fitted, metres. */
  private slack = 0;
  /** Marks of what was met in this dab, or of what is to be told, by a number that grows. */
  private readonly seen: Uint32Array;
  private mark = 0;
  /** Points that were touched since they were told last. */
  private readonly touched: MarkedList;
  /** Area normals of the polygons as they stand, 3 each. */
  private readonly areas: Float32Array;
  private readonly polygonsBeside: MarkedList;
  private readonly pointsBeside: MarkedList;
  private stroke: StrokeRecord | null = null;
  private last: readonly number[] | null = null;
  private joint = -1;
  private locked: ReadonlySet<number> = new Set();
  /** Points that the stroke is kept to; null for all. */
  private mask: Uint8Array | null = null;
  /** On both sides: the twin of every point, and the twin of the bone. */
  private sides: { readonly twins: Int32Array; readonly joint: number } | null = null;
  /** How far along the surface the points of a dab are. */
  private ways: Float32Array | null = null;
  /** The stroke has reached what faces away from the eye. */
  reachedBehind = false;

  /**
   * @param world 16 per node, column-major: how the character stands
   * @param base 3 per vertex, the mesh's own space, with the morph targets on that the pose has on
   * @param boxes those of the mesh's triangles in whatever pose, which are fitted to this one and not shared
   */
  constructor(
    private readonly character: Character,
    readonly node: number,
    world: Float64Array,
    { base, boxes }: { readonly base?: Float32Array; readonly boxes?: TriangleBoxes | null } = {},
  ) {
    const { mesh, skin } = this.bound;
    const { pointOfVertex, pointCount } = pointsOf(mesh);
    const { polygonOffsets, corners } = mesh;
    this.base = base ?? positionsOf(mesh);
    this.rows = new InfluenceRows(mesh.influences!);
    this.matrices = skinMatrices(skin, world);
    this.pointOfVertex = pointOfVertex;
    [this.firsts, this.members] = verticesOfPoints(pointOfVertex, pointCount);
    this.around = polygonsOfPoints(polygonOffsets, corners, pointOfVertex, pointCount);
    this.points = new Float32Array(this.base.length);
    for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
      this.rows.putSkinned(vertex, this.base, this.matrices, this.points);
    const perPoint = normalsOfPoints(this.points, polygonOffsets, corners, pointOfVertex, pointCount);
    this.normals = new Float32Array(this.base.length);
    pointOfVertex.forEach((point, vertex) => {
      for (let k = 0; k < 3; k++) this.normals[vertex * 3 + k] = perPoint[point * 3 + k];
    });
    const triangles = fanned(mesh.polygonOffsets, mesh.corners);
    this.tree = new TriangleTree(this.points, triangles, boxes ?? undefined);
    if (boxes) this.tree.refit();
    this.seen = new Uint32Array(pointCount);
    this.areas = areaNormals(this.points, polygonOffsets, corners);
    this.touched = new MarkedList(pointCount);
    this.pointsBeside = new MarkedList(pointCount);
    this.polygonsBeside = new MarkedList(polygonOffsets.length - 1);
  }

  private get bound() {
    const { mesh: meshIndex, skin: skinIndex } = this.character.nodes[this.node];
    const mesh: Mesh = this.character.meshes[meshIndex];
    return { mesh, skin: this.character.skins[skinIndex] };
  }

  /** Where a ray first meets the mesh as it stands. */
  hit(origin: ArrayLike<number>, direction: ArrayLike<number>): SurfacePlace | null {
    return this.fittedTree().firstHit(origin, direction);
  }

  private fittedTree(): TriangleTree {
    if (this.slack > 0) this.tree.refit();
    this.slack = 0;
    return this.tree;
  }

  /** The pointer left the surface: the stroke goes on wherever it comes back. */
  lift(): void {
    this.last = null;
  }

  /** Begins a stroke with a bone. Without that bone among the joints of the skin, or where it is locked, nothing can be painted: false. */
  begin(bone: number, { locked = [], kept = null, isBothSides = false }: Partial<WeightBrush> = {}): boolean {
    const { mesh, skin } = this.bound;
    this.joint = skin.joints.indexOf(bone);
    this.locked = new Set(locked.map((own) => skin.joints.indexOf(own)).filter((joint) => joint >= 0));
    this.mask = null;
    if (kept) {
      this.mask = new Uint8Array(this.firsts.length - 1);
      for (const point of pointsOfVertices(mesh, kept)) this.mask[point] = 1;
    }
    this.sides = isBothSides ? this.otherSide(bone) : null;
    this.stroke = new StrokeRecord(this.firsts.length - 1);
    this.last = null;
    this.reachedBehind = false;
    return this.joint >= 0 && !this.locked.has(this.joint);
  }

  private otherSide(bone: number): PaintedMesh['sides'] {
    const sides = meshSidesOf(this.character, this.node);
    const joint = this.bound.skin.joints.indexOf(twinNodesOf(this.character)(bone));
    return sides && joint >= 0 && !this.locked.has(joint) ? { twins: sides.twins, joint } : null;
  }

  /**
   * Goes on with the stroke to a place of the surface, with dabs along the way.
   * @param pressure 0 … 1
   * @param met the triangle that was met there, and the way of the eye
   */
  strokeTo(
    place: readonly number[],
    brush: WeightBrush,
    pressure: number,
    { triangle = -1, way = null }: Partial<Omit<Dab, 'place'>> = {},
  ): void {
    const { last } = this;
    const step = Math.max(brush.radius * SPACING, 1e-9);
    const far = last ? Math.hypot(place[0] - last[0], place[1] - last[1], place[2] - last[2]) : 0;
    // Hits on two limbs are two dabs, not a line through the air between them.
    if (!last || far > brush.radius * 4) {
      this.dab({ place, triangle, way }, brush, pressure);
      this.last = place;
      return;
    }
    let at = last;
    for (let done = step; done <= far; done += step) {
      const share = done / far;
      at = last.map((x, k) => x + (place[k] - x) * share);
      this.dab({ place: at, triangle, way }, brush, pressure);
    }
    this.last = at;
  }

  /** One dab with all of its strength on some vertices, wherever they are: a brush that is led by a choice. */
  dabOn(vertices: Iterable<number>, brush: WeightBrush): void {
    const points = pointsOfVertices(this.bound.mesh, vertices).filter((point) => this.mask?.[point] !== 0);
    this.work(
      points,
      points.map(() => brush.strength),
      brush,
    );
  }

  private dab({ place, triangle, way }: Dab, brush: WeightBrush, pressure: number): void {
    const { triangles } = this.tree;
    const { points, seen, pointOfVertex, normals, mask } = this;
    const [x, y, z] = place;
    const mark = ++this.mark;
    const { reach = 'through', edge = 'smooth', hardness, strength, radius } = brush;
    const within: number[] = [];
    const shares: number[] = [];
    const ways = reach === 'skin' ? this.waysFrom(place, triangle, radius) : null;
    this.tree.near(x, y, z, radius + this.slack, (near) => {
      for (let corner = 0; corner < 3; corner++) {
        const vertex = triangles[near * 3 + corner];
        const point = pointOfVertex[vertex];
        if (seen[point] === mark) continue;
        seen[point] = mark;
        if (mask && !mask[point]) continue;
        const i = vertex * 3;
        const through = Math.sqrt((points[i] - x) ** 2 + (points[i + 1] - y) ** 2 + (points[i + 2] - z) ** 2);
        const far = ways ? ways[point] : through;
        const share = felt(far / radius, hardness, edge) * strength * pressure;
        if (!(share > 0)) continue;
        const facing = way ? normals[i] * way[0] + normals[i + 1] * way[1] + normals[i + 2] * way[2] : -1;
        if (facing > 0 && reach === 'seen') continue;
        if (facing > FACES_AWAY && !ways) this.reachedBehind = true;
        within.push(point);
        shares.push(share);
      }
    });
    this.work(within, shares, brush);
    if (ways) this.clearWays();
  }

  /** Does what the brush does to some points, each by its share, and to their twins. */
  private work(within: readonly number[], shares: readonly number[], brush: WeightBrush): void {
    const { sides, joint } = this;
    const touchAll = (points: readonly number[], own: number, bone: number) => {
      if (brush.does === 'smooth' || brush.does === 'even') this.smooth(points, shares, brush);
      else {
        const touch = {
          joint: own,
          target: brush.target,
          limit: brush.limit,
          otherwise: this.otherwise(bone),
          does: brush.does,
          locked: this.locked,
        };
        points.forEach((point, i) => {
          if (point >= 0) this.touchPoint(point, shares[i], touch);
        });
      }
    };
    touchAll(within, joint, brush.bone);
    if (!sides) return;
    const isIn = new Set(within);
    const twins = within.map((point) => sides.twins[point]);
    const { joints } = this.bound.skin;
    // A row that is smoothed as a whole is smoothed once; one bone's weight, and its twin's, are each set on a point that lies under
    // the brush together with its twin.
    const isOfOne = brush.does !== 'smooth' && brush.does !== 'even' && sides.joint !== joint;
    const others = isOfOne ? twins : twins.map((twin) => (isIn.has(twin) ? -1 : twin));
    touchAll(others, sides.joint, joints[sides.joint]);
  }

  /** Brings the rows of points towards those round them, or towards their mean. */
  private smooth(within: readonly number[], shares: readonly number[], { does, limit }: WeightBrush): void {
    const { offsets, neighbours } = topologyOf(this.bound.mesh).neighbours;
    const rowAt = (point: number): WeightShares => {
      const vertex = this.members[this.firsts[point]];
      const row: WeightShares = new Map();
      for (let k = 0; k < this.rows.countOf(vertex); k++)
        if (this.rows.weightAt(vertex, k) > 0)
          row.set(this.rows.jointAt(vertex, k), this.rows.weightAt(vertex, k));
      return normalisedShares(row);
    };
    const points = within.filter((point) => point >= 0);
    const mean = does === 'even' ? meanShares(points.map(rowAt)) : null;
    const rows = within.map((point, i): WeightShares | null => {
      if (point < 0) return null;
      const round = [...neighbours.subarray(offsets[point], offsets[point + 1])];
      const aim = mean ?? meanShares(round.map(rowAt));
      if (aim.size === 0) return null;
      const row = rowAt(point);
      const made = limitedShares(towardsShares(row, aim, shares[i], this.locked), limit, this.locked);
      return sameShares(row, made) ? null : made;
    });
    rows.forEach((row, i) => {
      if (row) this.putRow(within[i], row);
    });
  }

  private putRow(point: number, row: WeightShares): void {
    const { rows, members, firsts, stroke } = this;
    const first = members[firsts[point]];
    stroke?.keep(point, rows, first);
    rows.put(first, [...row.keys()], [...row.values()], row.size);
    stroke?.change(point);
    this.share(point);
  }

  private readonly reached: number[] = [];

  /** How far it is along the edges from a place on a triangle to the points round it, up to a distance; Infinity beyond. */
  private waysFrom(place: readonly number[], triangle: number, radius: number): Float32Array {
    this.ways ??= new Float32Array(this.firsts.length - 1).fill(Infinity);
    const { ways, points, members, firsts, pointOfVertex, reached } = this;
    const { offsets, neighbours } = topologyOf(this.bound.mesh).neighbours;
    const start =
      triangle >= 0 ? triangle : (this.tree.closestPoint(place[0], place[1], place[2])?.triangle ?? -1);
    if (start < 0) return ways;
    const queue = new FlatQueue<number>();
    const offer = (point: number, far: number) => {
      if (far >= ways[point] || far > radius) return;
      if (ways[point] === Infinity) reached.push(point);
      ways[point] = far;
      queue.push(point, far);
    };
    const apart = (i: number, x: number, y: number, z: number) =>
      Math.sqrt((points[i] - x) ** 2 + (points[i + 1] - y) ** 2 + (points[i + 2] - z) ** 2);
    for (let corner = 0; corner < 3; corner++) {
      const vertex = this.tree.triangles[start * 3 + corner];
      offer(pointOfVertex[vertex], apart(vertex * 3, place[0], place[1], place[2]));
    }
    for (let far = queue.peekValue(); far !== undefined; far = queue.peekValue()) {
      const point = queue.pop() as number;
      if (far > ways[point]) continue;
      const i = members[firsts[point]] * 3;
      for (let k = offsets[point]; k < offsets[point + 1]; k++) {
        const other = members[firsts[neighbours[k]]] * 3;
        offer(neighbours[k], far + apart(other, points[i], points[i + 1], points[i + 2]));
      }
    }
    // The straight way counts where edges zigzag: what can be reached is nearer than the way along them.
    for (const point of reached) {
      const straight = apart(members[firsts[point]] * 3, place[0], place[1], place[2]);
      ways[point] = Math.max(straight, ways[point] * ZIGZAG);
    }
    return ways;
  }

  private clearWays(): void {
    for (const point of this.reached) if (this.ways) this.ways[point] = Infinity;
    this.reached.length = 0;
  }

  private touchPoint(point: number, share: number, touch: Parameters<typeof touchRow>[3]): void {
    const { rows, members, firsts, stroke } = this;
    const first = members[firsts[point]];
    stroke?.keep(point, rows, first);
    if (!touchRow(rows, first, share, touch)) return;
    stroke?.change(point);
    this.share(point);
  }

  /** Gives the row of a point's first vertex to all of them, and sees to their places. */
  private share(point: number): void {
    const { rows, members, firsts } = this;
    const first = members[firsts[point]];
    const end = firsts[point + 1];
    if (end - firsts[point] > 1) {
      const row = rows.rowOf(first);
      for (let k = firsts[point] + 1; k < end; k++) rows.set(members[k], row);
    }
    const i = first * 3;
    const x = this.points[i];
    const y = this.points[i + 1];
    const z = this.points[i + 2];
    for (let k = firsts[point]; k < end; k++)
      rows.putSkinned(members[k], this.base, this.matrices, this.points);
    const way = Math.sqrt(
      (this.points[i] - x) ** 2 + (this.points[i + 1] - y) ** 2 + (this.points[i + 2] - z) ** 2,
    );
    if (way > this.slack) this.slack = way;
    this.touched.add(point);
  }

  /** The joint that takes what a bone loses where nobody else is there: its nearest ancestor in the skin. */
  private otherwise(bone: number): number {
    const { skin } = this.bound;
    for (const ancestor of ancestorsOf(this.character.nodes, bone)) {
      const joint = skin.joints.indexOf(ancestor);
      if (joint >= 0) return joint;
    }
    return -1;
  }

  /** Ends the stroke; null where it changed nothing. */
  end(): WeightDelta | null {
    const { stroke } = this;
    this.stroke = null;
    const order = stroke?.changed() ?? [];
    if (!stroke || order.length === 0) return null;
    const vertices = Uint32Array.from(order, (i) => this.members[this.firsts[stroke.points[i]]]);
    return {
      node: this.node,
      vertices,
      before: packedRows(order.map((i) => stroke.rowAt(i))),
      after: packedRows(Array.from(vertices, (vertex) => this.rows.rowOf(vertex))),
    };
  }

  /** Puts rows of points in place: a stroke taken back, or done again. */
  put(vertices: Uint32Array, rows: PackedRows): void {
    vertices.forEach((vertex, i) => {
      const from = rows.offsets[i];
      const to = rows.offsets[i + 1];
      this.rows.set(
        this.members[this.firsts[this.pointOfVertex[vertex]]],
        { joint: rows.joint.subarray(from, to), weight: rows.weight.subarray(from, to) },
        to - from,
      );
      this.share(this.pointOfVertex[vertex]);
    });
  }

  /** All that has changed since it was asked last; null for nothing. `bone`: whose weights are told. */
  takeTouched(bone: number): Touched | null {
    const { touched, members, firsts } = this;
    if (touched.length === 0) return null;
    const fresh = this.freshNormals();
    const joint = this.bound.skin.joints.indexOf(bone);
    let count = 0;
    for (let i = 0; i < fresh.length; i++) count += firsts[fresh.at(i) + 1] - firsts[fresh.at(i)];
    const ids = new Uint32Array(count);
    const points = new Float32Array(count * 3);
    const normals = new Float32Array(count * 3);
    const weights = new Float32Array(count);
    let at = 0;
    for (let i = 0; i < fresh.length; i++)
      for (let k = firsts[fresh.at(i)]; k < firsts[fresh.at(i) + 1]; k++, at++) {
        const vertex = members[k];
        ids[at] = vertex;
        for (let axis = 0; axis < 3; axis++) {
          points[at * 3 + axis] = this.points[vertex * 3 + axis];
          normals[at * 3 + axis] = this.normals[vertex * 3 + axis];
        }
        weights[at] = joint < 0 ? 0 : this.rows.weightOf(vertex, joint);
      }
    touched.clear();
    return { node: this.node, ids, points, normals, weights };
  }

  /** Normals of the touched points and of those beside them; gives all of these. */
  private freshNormals(): MarkedList {
    const { around, areas, normals, members, firsts, pointOfVertex, touched } = this;
    const { polygonsBeside, pointsBeside } = this;
    const { polygonOffsets, corners } = this.bound.mesh;
    polygonsBeside.clear();
    pointsBeside.clear();
    for (let i = 0; i < touched.length; i++) {
      const point = touched.at(i);
      pointsBeside.add(point);
      for (let k = around.offsets[point]; k < around.offsets[point + 1]; k++)
        polygonsBeside.add(around.polygons[k]);
    }
    for (let i = 0; i < polygonsBeside.length; i++) {
      const polygon = polygonsBeside.at(i);
      const from = polygonOffsets[polygon];
      const to = polygonOffsets[polygon + 1];
      putAreaNormal(this.points, corners, from, to, areas, polygon * 3);
      for (let corner = from; corner < to; corner++) pointsBeside.add(pointOfVertex[corners[corner]]);
    }
    for (let i = 0; i < pointsBeside.length; i++) {
      const point = pointsBeside.at(i);
      let x = 0;
      let y = 0;
      let z = 0;
      for (let k = around.offsets[point]; k < around.offsets[point + 1]; k++) {
        const at = around.polygons[k] * 3;
        x += areas[at];
        y += areas[at + 1];
        z += areas[at + 2];
      }
      const length = Math.sqrt(x * x + y * y + z * z) || 1;
      for (let k = firsts[point]; k < firsts[point + 1]; k++) {
        const at = members[k] * 3;
        normals[at] = x / length;
        normals[at + 1] = y / length;
        normals[at + 2] = z / length;
      }
    }
    return pointsBeside;
  }

  /** A bone's weight at every vertex. */
  weightsOf(bone: number): Float32Array {
    const joint = this.bound.skin.joints.indexOf(bone);
    const out = new Float32Array(this.pointOfVertex.length);
    return joint < 0 ? out : out.map((_, vertex) => this.rows.weightOf(vertex, joint));
  }

  /** The weights as they stand. */
  influences() {
    return this.rows.toInfluences();
  }
}

/** Numbers of things in the order in which they came, each once. Emptied without a walk over all there are. */
class MarkedList {
  private readonly list: Uint32Array;
  private readonly marks: Uint32Array;
  private mark = 1;
  length = 0;

  constructor(count: number) {
    this.list = new Uint32Array(count);
    this.marks = new Uint32Array(count);
  }

  add(id: number): void {
    if (this.marks[id] === this.mark) return;
    this.marks[id] = this.mark;
    this.list[this.length++] = id;
  }

  at(i: number): number {
    return this.list[i];
  }

  clear(): void {
    this.length = 0;
    this.mark++;
  }
}

/** What points were before a stroke: their rows, one behind the other, in the order in which they were touched. */
class StrokeRecord {
  readonly points: number[] = [];
  private readonly ends: number[] = [];
  private readonly joints: number[] = [];
  private readonly weights: number[] = [];
  private readonly isKept: Uint8Array;
  private readonly isChanged: Uint8Array;

  constructor(pointCount: number) {
    this.isKept = new Uint8Array(pointCount);
    this.isChanged = new Uint8Array(pointCount);
  }

  /** Keeps the row of a point's vertex, unless it is kept already. */
  keep(point: number, rows: InfluenceRows, vertex: number): void {
    if (this.isKept[point]) return;
    this.isKept[point] = 1;
    this.points.push(point);
    for (let k = 0; k < rows.countOf(vertex); k++) {
      this.joints.push(rows.jointAt(vertex, k));
      this.weights.push(rows.weightAt(vertex, k));
    }
    this.ends.push(this.joints.length);
  }

  /** The row of a point is not what it was any more. */
  change(point: number): void {
    this.isChanged[point] = 1;
  }

  /** Those of the points that are kept whose rows have changed, by their places in the list, lowest point first. */
  changed(): number[] {
    const places = this.points.flatMap((point, i) => (this.isChanged[point] ? [i] : []));
    return places.sort((a, b) => this.points[a] - this.points[b]);
  }

  rowAt(i: number): WeightRow {
    const from = i > 0 ? this.ends[i - 1] : 0;
    return { joint: this.joints.slice(from, this.ends[i]), weight: this.weights.slice(from, this.ends[i]) };
  }
}

/** Rows one behind the other. */
export function packedRows(rows: readonly WeightRow[]): PackedRows {
  const offsets = new Uint32Array(rows.length + 1);
  rows.forEach(({ joint }, i) => {
    offsets[i + 1] = offsets[i] + joint.length;
  });
  const joint = new Uint32Array(offsets[rows.length]);
  const weight = new Float32Array(offsets[rows.length]);
  rows.forEach((row, i) => {
    joint.set(row.joint, offsets[i]);
    weight.set(row.weight, offsets[i]);
  });
  return { offsets, joint, weight };
}
