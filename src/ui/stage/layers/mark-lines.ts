/**
 * Faces, edges and points of a mesh that a finding speaks of. Edges and points are drawn over all that lies before them: a loose
 * point has no face that could be lit, and a gap in a body is found under its coat. All stand on the mesh's own points and so go
 * along in any pose.
 */
import {
  BufferGeometry,
  BufferAttribute as Attribute,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  Points,
  PointsMaterial,
  type ShaderMaterial,
} from 'three';
import type { FigureMesh } from '../../worker/figure';
import type { Marks } from '../view';
import { litFacesMaterial, recolourLit } from './clay';
import { outlineOfPolygon, trianglesOfPolygon } from './polygon-triangles';
import { linearToken } from './tokens';

/** More points than this are a region, which the lit surface shows better. */
const FEW = 400;

const NONE = new Uint32Array(0);

/** How large a point is drawn, pixels. */
const DOT = 6;

export class MarkLines {
  readonly object = new Group();
  private isOverNumbers = false;
  private readonly lines: LineSegments<BufferGeometry, LineBasicMaterial>;
  private readonly dots: Points<BufferGeometry, PointsMaterial>;
  private readonly faces: Mesh<BufferGeometry, ShaderMaterial>;

  constructor(
    private readonly figure: FigureMesh,
    surface: BufferGeometry,
  ) {
    const over = { depthTest: false, transparent: true } as const;
    const geometries = [new BufferGeometry(), new BufferGeometry(), new BufferGeometry()];
    for (const geometry of geometries) {
      geometry.setAttribute('position', surface.getAttribute('position'));
      geometry.boundingSphere = surface.boundingSphere;
    }
    this.lines = new LineSegments(geometries[0], new LineBasicMaterial(over));
    this.dots = new Points(geometries[1], new PointsMaterial({ ...over, size: DOT, sizeAttenuation: false }));
    geometries[2].setAttribute('normal', surface.getAttribute('normal'));
    this.faces = new Mesh(geometries[2], litFacesMaterial());
    for (const drawn of [this.lines, this.dots, this.faces]) {
      drawn.frustumCulled = false;
      drawn.renderOrder = drawn === this.faces ? 1 : 7;
      this.object.add(drawn);
    }
    this.repaint();
    this.show(null, null);
  }

  /** @param drawn polygons of which alone faces are lit; null: all */
  show(marks: Marks | null, drawn: ReadonlySet<number> | null): void {
    const { node } = this.figure;
    const edges = marks?.edges?.get(node) ?? NONE;
    const vertices = marks?.vertices.get(node) ?? NONE;
    // A region of a million points is not gone through only to be left undrawn.
    const isFew = vertices.length + edges.length <= FEW;
    const points = isFew ? Uint32Array.from(new Set([...vertices, ...edges])) : NONE;
    const polygons = marks?.polygons.get(node) ?? NONE;
    const outlined = polygons.length <= FEW ? polygons : NONE;
    const outlines = [...outlined].flatMap((polygon) => outlineOfPolygon(this.figure, polygon));
    this.lines.geometry.setIndex(new Attribute(Uint32Array.from([...edges, ...outlines]), 1));
    this.dots.geometry.setIndex(new Attribute(points, 1));
    const faces = this.trianglesOf(drawn ? polygons.filter((polygon) => drawn.has(polygon)) : polygons);
    this.faces.geometry.setIndex(new Attribute(faces, 1));
    this.faces.visible = faces.length > 0;
    this.lines.visible = edges.length + outlines.length > 0;
    this.dots.visible = points.length > 0;
  }

  /** Vertices of the triangles that polygons are drawn as, three each. */
  private trianglesOf(polygons: Uint32Array): Uint32Array {
    const { triangles, polygonOf } = this.figure;
    const firsts = new Uint32Array(polygons.length);
    const ends = new Uint32Array(polygons.length);
    let size = 0;
    polygons.forEach((polygon, i) => {
      [firsts[i], ends[i]] = trianglesOfPolygon(polygonOf, polygon);
      size += (ends[i] - firsts[i]) * 3;
    });
    const out = new Uint32Array(size);
    let at = 0;
    for (let i = 0; i < polygons.length; i++)
      for (let corner = firsts[i] * 3; corner < ends[i] * 3; corner++) out[at++] = triangles[corner];
    return out;
  }

  /** Over the picture of a number they are drawn in ink: in their own colour they would read as much of it. */
  setOverNumbers(isOver: boolean): void {
    if (isOver === this.isOverNumbers) return;
    this.isOverNumbers = isOver;
    this.repaint();
  }

  repaint(): void {
    const colour = linearToken(this.isOverNumbers ? 'ink' : 'damson');
    this.lines.material.color = colour;
    this.dots.material.color = colour;
    recolourLit(this.faces.material, this.isOverNumbers);
  }

  dispose(): void {
    for (const { geometry, material } of [this.lines, this.dots, this.faces]) {
      geometry.dispose();
      material.dispose();
    }
  }
}
