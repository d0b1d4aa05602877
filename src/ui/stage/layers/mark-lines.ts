/**
 * Edges and points of a mesh that a finding speaks of, drawn over all that lies before them: a loose point has no face that
 * could be lit, and a gap in a body is found under its coat. They stand on the mesh's own points and so go along in any pose.
 */
import {
  type BufferAttribute,
  BufferGeometry,
  BufferAttribute as Attribute,
  Group,
  LineBasicMaterial,
  LineSegments,
  Points,
  PointsMaterial,
} from 'three';
import type { FigureMesh } from '../../worker/figure';
import type { Marks } from '../view';
import { outlineOfPolygon } from './polygon-triangles';
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

  constructor(
    private readonly figure: FigureMesh,
    position: BufferAttribute,
  ) {
    const over = { depthTest: false, transparent: true } as const;
    const geometries = [new BufferGeometry(), new BufferGeometry()];
    for (const geometry of geometries) geometry.setAttribute('position', position);
    this.lines = new LineSegments(geometries[0], new LineBasicMaterial(over));
    this.dots = new Points(geometries[1], new PointsMaterial({ ...over, size: DOT, sizeAttenuation: false }));
    for (const drawn of [this.lines, this.dots]) {
      drawn.frustumCulled = false;
      drawn.renderOrder = 7;
      this.object.add(drawn);
    }
    this.repaint();
    this.show(null);
  }

  show(marks: Marks | null): void {
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
    this.lines.visible = edges.length + outlines.length > 0;
    this.dots.visible = points.length > 0;
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
  }

  dispose(): void {
    for (const { geometry, material } of [this.lines, this.dots]) {
      geometry.dispose();
      material.dispose();
    }
  }
}
