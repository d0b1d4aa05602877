import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DynamicDrawUsage,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  type Ray,
  type ShaderMaterial,
} from 'three';
import { putAreaNormal } from '@/core/geometry/normals';
import { type TriangleBoxes, TriangleTree, type SurfacePlace } from '@/core/geometry/triangle-tree';
import type { Touched } from '@/core/rooms/weights/painting';
import type { ElementSet } from '@/core/character/model';
import type { FigureMesh } from '../../worker/figure';
import type { Kept } from '../../worker/isolation';
import type { Marks, Surface } from '../view';
import { clayMaterial, recolour, showSurface } from './clay';
import { MarkLines } from './mark-lines';
import { outlineOfPolygon, trianglesOfPolygon } from './polygon-triangles';
import { writeRange, writeRows } from './ranges';
import { linearToken } from './tokens';

const NONE = new Uint32Array(0);

/** Where a ray meets a mesh. */
export interface MeshHit {
  readonly vertex: number;
  readonly polygon: number;
  readonly triangle: number;
  /** The place of the vertex. */
  readonly point: readonly number[];
  /** Where the ray meets the surface. */
  readonly place: readonly number[];
  readonly distance: number;
}

/**
 * One mesh of the figure on the stage: copies of its points, which the stage may write, and its true edges.
 */
export class DrawnMesh {
  readonly mesh: Mesh<BufferGeometry, ShaderMaterial>;
  readonly edges: LineSegments<BufferGeometry, LineBasicMaterial>;
  readonly marks: MarkLines;
  private readonly position: BufferAttribute;
  private readonly normal: BufferAttribute;
  private readonly value: BufferAttribute;
  private readonly marked: BufferAttribute;
  /** Colour of the set that a vertex is shown in, and 0 where it is in one, else 1; made when the first set is shown. */
  private inSet: BufferAttribute | null = null;
  /** What a ray is tried on: always the whole mesh, whatever of it is drawn. */
  private search: TriangleTree | null = null;
  private searchedFrom: TriangleBoxes | null = null;
  /** Boxes of the search as they fit the figure at rest. */
  private boundsAtRest: Float32Array | null = null;
  private isMoved = false;
  private isAtRest = true;
  private kept: Kept | null = null;
  /** What is drawn of it at rest. */
  private triangles: BufferAttribute;
  private readonly coarse: BufferAttribute | null;
  private keptPolygons: ReadonlySet<number> | null = null;
  private shown: Marks | null = null;
  /** The vertices that are lit. */
  private lit: Uint32Array = NONE;

  constructor(
    readonly figure: FigureMesh,
    part: number,
    materials: MeshMaterials,
  ) {
    const count = figure.points.length / 3;
    const owned = (array: Float32Array, size: number) =>
      new BufferAttribute(array, size).setUsage(DynamicDrawUsage);
    this.position = owned(figure.points.slice(), 3);
    this.normal = owned(figure.normals.slice(), 3);
    this.value = owned(new Float32Array(count), 1);
    this.marked = owned(new Float32Array(count), 1);
    const surface = new BufferGeometry();
    surface.setAttribute('position', this.position);
    surface.setAttribute('normal', this.normal);
    surface.setAttribute('value', this.value);
    surface.setAttribute('marked', this.marked);
    surface.setAttribute('part', new BufferAttribute(new Float32Array(count).fill(part), 1));
    this.triangles = new BufferAttribute(figure.triangles, 1);
    surface.setIndex(this.triangles);
    // The drawing library sorts by its middle, and would go through all points for each geometry that is drawn.
    surface.computeBoundingSphere();
    this.coarse = figure.coarse && new BufferAttribute(figure.coarse, 1);
    this.mesh = new Mesh(surface, materials.surface);
    recolour(this.mesh.material);
    this.mesh.frustumCulled = false;
    const lines = new BufferGeometry();
    lines.setAttribute('position', this.position);
    lines.setIndex(new BufferAttribute(figure.edges, 1));
    lines.boundingSphere = surface.boundingSphere;
    this.edges = new LineSegments(lines, materials.edges);
    this.edges.frustumCulled = false;
    this.marks = new MarkLines(figure, surface);
  }

  /** Takes the search that the worker built; it is fitted to a pose when a ray next asks. */
  setSearch(boxes: TriangleBoxes | undefined): void {
    if (!boxes || boxes === this.searchedFrom) return;
    this.searchedFrom = boxes;
    this.boundsAtRest = boxes.bounds;
    // Fitted to poses it is another's no more: what was handed over stays as the figure is at rest.
    const own = { ...boxes, bounds: boxes.bounds.slice() };
    this.search = new TriangleTree(this.position.array, this.figure.triangles, own);
    this.isMoved = !this.isAtRest;
  }

  /** @param bounds the boxes of the search as they are there; absent, they are fitted when a ray next asks */
  place(points: Float32Array, normals: Float32Array, bounds?: Float32Array): void {
    if (points.length !== this.position.array.length)
      throw new Error(`A pose holds ${points.length / 3} points for a mesh of ${this.position.count}.`);
    writeRange(this.position, points);
    writeRange(this.normal, normals);
    const own = this.search?.boxes.bounds;
    this.isMoved = !bounds || own?.length !== bounds.length;
    this.isAtRest = false;
    if (bounds && own?.length === bounds.length) own.set(bounds);
  }

  /** Writes what a stroke has touched, and no more of it. */
  touch({ ids, points, normals, weights }: Touched): void {
    // At rest weights move nothing, and the search fits as it is.
    if (writeRows(this.position, ids, points)) {
      this.isMoved = true;
      this.isAtRest = false;
    }
    writeRows(this.normal, ids, normals);
    writeRows(this.value, ids, weights);
  }

  rest(): void {
    this.place(this.figure.points, this.figure.normals, this.boundsAtRest ?? undefined);
    this.isAtRest = true;
  }

  setValues(values: Float32Array | undefined): void {
    const { count } = this.value;
    writeRange(this.value, values && values.length === count ? values : new Float32Array(count));
  }

  setMarks(marks: Marks | null): void {
    this.shown = marks;
    this.marks.show(marks, this.keptPolygons);
    const now = marks?.vertices.get(this.figure.node) ?? NONE;
    // Only what was lit and what is to be: a choice grows many times a second under a brush.
    const { array } = this.marked;
    let [first, last] = [Infinity, -1];
    const write = (ids: Uint32Array, value: 0 | 1) => {
      for (const id of ids) {
        array[id] = value;
        if (id < first) first = id;
        if (id > last) last = id;
      }
    };
    write(this.lit, 0);
    write(now, 1);
    this.lit = now;
    if (last < 0) return;
    this.marked.addUpdateRange(first, last - first + 1);
    this.marked.needsUpdate = true;
  }

  /** Shows sets in their colours. */
  setSets(sets: readonly ElementSet[]): void {
    const { node } = this.figure;
    const of = (list: ElementSet['vertices']) => list.find((elements) => elements.node === node)?.ids;
    const isIn = sets.some(({ vertices, polygons }) => of(vertices) ?? of(polygons));
    if (!isIn && !this.inSet) return;
    const colours = new Float32Array(this.position.count * 4);
    for (let vertex = 0; vertex < this.position.count; vertex++) colours[vertex * 4 + 3] = 1;
    const paint = (vertex: number, { r, g, b }: Color) => colours.set([r, g, b, 0], vertex * 4);
    for (const { tint, vertices, polygons } of sets) {
      const colour = new Color(tint ?? '#888888');
      for (const vertex of of(vertices) ?? []) paint(vertex, colour);
      const on = new Set(of(polygons));
      if (on.size === 0) continue;
      this.figure.polygonOf.forEach((polygon, index) => {
        if (on.has(polygon)) for (let k = 0; k < 3; k++) paint(this.figure.triangles[index * 3 + k], colour);
      });
    }
    if (this.inSet) writeRange(this.inSet, colours);
    else {
      this.inSet = new BufferAttribute(colours, 4).setUsage(DynamicDrawUsage);
      this.mesh.geometry.setAttribute('inSet', this.inSet);
    }
  }

  /** Only a part of it is drawn and found; null: all. */
  setKept(kept: Kept | null): void {
    if (kept === this.kept) return;
    this.kept = kept;
    const { figure } = this;
    this.triangles = new BufferAttribute(kept?.triangles ?? figure.triangles, 1);
    this.mesh.geometry.setIndex(this.triangles);
    this.edges.geometry.setIndex(new BufferAttribute(kept?.edges ?? figure.edges, 1));
    this.keptPolygons = kept ? polygonsOf(kept, figure) : null;
    if (this.shown?.polygons.has(figure.node)) this.marks.show(this.shown, this.keptPolygons);
  }

  /** Draws a coarser surface without edges; whatever was chosen out of it is always drawn whole. */
  coarsen(isCoarse: boolean): void {
    const coarse = isCoarse && !this.kept ? this.coarse : null;
    this.mesh.geometry.setIndex(coarse ?? this.triangles);
    this.edges.material.visible = coarse === null;
  }

  setSurface(surface: Surface, edges: boolean, sheer: boolean): void {
    showSurface(this.mesh.material, surface, sheer);
    this.marks.setOverNumbers(surface === 'weights' || surface === 'owners' || surface === 'difference');
    this.edges.material.opacity = edgeOpacity(surface, edges);
    // Sharp and open edges are drawn on clay even where the others are not.
    const all = edges || this.kept !== null;
    this.edges.geometry.setDrawRange(0, all ? Infinity : this.figure.creases * 2);
  }

  setTint(colour: string | undefined): void {
    const { tinted, tint } = this.mesh.material.uniforms;
    tinted.value = colour ? 1 : 0;
    if (colour) (tint.value as Color).set(colour);
  }

  repaint(): void {
    recolour(this.mesh.material);
    this.edges.material.color = linearToken('ink');
    this.marks.repaint();
  }

  /** The nearest place where a ray meets what is drawn. */
  raycast({ origin, direction }: Ray): MeshHit | null {
    const hit = this.fitted()?.firstHit(origin.toArray(), direction.toArray(), (triangle) =>
      this.isDrawn(triangle),
    );
    return hit ? this.hitAt(hit) : null;
  }

  /** Every place where a ray meets what is drawn, near ones first. */
  raycastAll({ origin, direction }: Ray): MeshHit[] {
    const hits = this.fitted()?.allHits(origin.toArray(), direction.toArray()) ?? [];
    return hits.filter(({ triangle }) => this.isDrawn(triangle)).map((hit) => this.hitAt(hit));
  }

  private fitted(): TriangleTree | null {
    if (this.isMoved) this.search?.refit();
    if (this.search) this.isMoved = false;
    return this.search;
  }

  private isDrawn(triangle: number): boolean {
    return !this.keptPolygons || this.keptPolygons.has(this.figure.polygonOf[triangle]);
  }

  private hitAt({ triangle, point, distance }: SurfacePlace): MeshHit {
    const vertex = this.nearestVertex(triangle, point);
    return {
      vertex,
      polygon: this.figure.polygonOf[triangle],
      triangle,
      point: this.pointAt(vertex),
      place: point,
      distance,
    };
  }

  /** Calls `tell` with every triangle that is drawn and comes as near as a radius to a place. */
  eachTriangleNear(place: readonly number[], radius: number, tell: (triangle: number) => void): void {
    this.fitted()?.within(place[0], place[1], place[2], radius, (triangle) => {
      if (this.isDrawn(triangle)) tell(triangle);
    });
  }

  verticesOf(triangle: number): readonly number[] {
    return [0, 1, 2].map((k) => this.figure.triangles[triangle * 3 + k]);
  }

  /** Whether a triangle faces somebody who looks in a direction. */
  faces(triangle: number, direction: readonly number[]): boolean {
    const { array } = this.position;
    const normal = [0, 0, 0];
    putAreaNormal(array, this.figure.triangles, triangle * 3, triangle * 3 + 3, normal);
    return normal.reduce((sum, x, k) => sum + x * direction[k], 0) < 0;
  }

  distanceTo(vertex: number, [x, y, z]: readonly number[]): number {
    const { array } = this.position;
    return Math.hypot(array[vertex * 3] - x, array[vertex * 3 + 1] - y, array[vertex * 3 + 2] - z);
  }

  distanceToEdge(from: number, to: number, place: readonly number[]): number {
    const [a, b] = [this.pointAt(from), this.pointAt(to)];
    const way = [0, 1, 2].map((k) => b[k] - a[k]);
    const squared = way[0] ** 2 + way[1] ** 2 + way[2] ** 2;
    const along = [0, 1, 2].reduce((sum, k) => sum + way[k] * (place[k] - a[k]), 0);
    const share = squared > 0 ? Math.max(0, Math.min(1, along / squared)) : 0;
    return Math.hypot(...[0, 1, 2].map((k) => place[k] - a[k] - share * way[k]));
  }

  /** The edges of the polygon that a triangle is of, two vertices each. */
  outlineOf(triangle: number): Uint32Array {
    return Uint32Array.from(outlineOfPolygon(this.figure, this.figure.polygonOf[triangle]));
  }

  /** The edges that are drawn and both of whose ends are among some vertices, two vertices each. */
  edgesAmong(vertices: readonly number[]): Uint32Array {
    const isIn = new Uint8Array(this.position.count);
    for (const vertex of vertices) isIn[vertex] = 1;
    const edges = this.kept?.edges ?? this.figure.edges;
    const out: number[] = [];
    for (let i = 0; i < edges.length; i += 2)
      if (isIn[edges[i]] && isIn[edges[i + 1]]) out.push(edges[i], edges[i + 1]);
    return Uint32Array.from(out);
  }

  /** The middle of some vertices as they stand. */
  middleOf(vertices: ArrayLike<number>): readonly [number, number, number] {
    const sum: [number, number, number] = [0, 0, 0];
    for (let i = 0; i < vertices.length; i++)
      for (let k = 0; k < 3; k++) sum[k] += this.position.array[vertices[i] * 3 + k] / vertices.length;
    return sum;
  }

  /** The middle of a polygon as it stands. */
  middleOfPolygon(polygon: number): readonly [number, number, number] {
    const [from, to] = trianglesOfPolygon(this.figure.polygonOf, polygon);
    return this.middleOf(this.figure.triangles.subarray(from * 3, to * 3));
  }

  /** Calls `tell` with the place of every vertex that is drawn. */
  eachVertex(tell: (vertex: number, x: number, y: number, z: number) => void): void {
    const { array } = this.position;
    const drawn = this.kept ? new Set(this.kept.triangles) : null;
    for (let vertex = 0; vertex < this.position.count; vertex++)
      if (!drawn || drawn.has(vertex))
        tell(vertex, array[vertex * 3], array[vertex * 3 + 1], array[vertex * 3 + 2]);
  }

  /** Calls `tell` with the middle of every polygon that is drawn. */
  eachPolygon(tell: (polygon: number, x: number, y: number, z: number) => void): void {
    const { polygonOf, triangles } = this.figure;
    const { array } = this.position;
    for (let triangle = 0; triangle < polygonOf.length;) {
      const polygon = polygonOf[triangle];
      const middle = [0, 0, 0];
      let corners = 0;
      for (; triangle < polygonOf.length && polygonOf[triangle] === polygon; triangle++)
        for (let k = 0; k < 3; k++, corners++)
          for (let entry = 0; entry < 3; entry++)
            middle[entry] += array[triangles[triangle * 3 + k] * 3 + entry];
      if (!this.keptPolygons || this.keptPolygons.has(polygon))
        tell(polygon, middle[0] / corners, middle[1] / corners, middle[2] / corners);
    }
  }

  private nearestVertex(triangle: number, at: readonly number[]): number {
    let nearest = -1;
    let least = Infinity;
    for (let k = 0; k < 3; k++) {
      const vertex = this.figure.triangles[triangle * 3 + k];
      const [x, y, z] = this.pointAt(vertex);
      const length = Math.hypot(x - at[0], y - at[1], z - at[2]);
      if (length >= least) continue;
      least = length;
      nearest = vertex;
    }
    return nearest;
  }

  private pointAt(vertex: number): number[] {
    return [this.position.getX(vertex), this.position.getY(vertex), this.position.getZ(vertex)];
  }

  dispose(): void {
    this.mesh.geometry.dispose();
    this.edges.geometry.dispose();
    this.marks.dispose();
  }
}

/** What a mesh is drawn with. */
export interface MeshMaterials {
  readonly surface: ShaderMaterial;
  readonly edges: LineBasicMaterial;
}

export const meshMaterials = (): MeshMaterials => ({
  surface: clayMaterial(),
  edges: new LineBasicMaterial({
    color: linearToken('ink'),
    transparent: true,
    opacity: 0.2,
    depthWrite: false,
  }),
});

function edgeOpacity(surface: Surface, edges: boolean): number {
  if (surface === 'weights' || surface === 'owners') return 0.1;
  return edges ? 0.2 : 0.42;
}

/** The polygons whose triangles stay. */
function polygonsOf(kept: Kept, figure: FigureMesh): Set<number> {
  const key = (triangles: Uint32Array, i: number) =>
    `${triangles[i]} ${triangles[i + 1]} ${triangles[i + 2]}`;
  const on = new Set<string>();
  for (let i = 0; i < kept.triangles.length; i += 3) on.add(key(kept.triangles, i));
  const polygons = new Set<number>();
  figure.polygonOf.forEach((polygon, index) => {
    if (on.has(key(figure.triangles, index * 3))) polygons.add(polygon);
  });
  return polygons;
}
