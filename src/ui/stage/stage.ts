import {
  Box3,
  BufferAttribute,
  BufferGeometry,
  type Color,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  PerspectiveCamera,
  Raycaster,
  Scene,
  type ShaderMaterial,
  Vector2,
  Vector3,
  WebGLRenderer,
} from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import { MeshBVH, acceleratedRaycast } from 'three-mesh-bvh';
import type { Figure, FigureBone, FigureMesh, Ghost } from '../worker/figure';
import { type Surface, clayMaterial, recolour, showSurface } from './clay';
import { drawsFinely } from './drawing';
import { Surroundings } from './surroundings';
import { linearToken } from './tokens';
import { Twigs } from './twigs';

export type View = 'front' | 'left' | 'top' | 'free';
export interface Hit {
  readonly kind: 'bone' | 'vertex';
  readonly node: number;
  readonly vertex: number;
  readonly point: readonly number[];
}
export interface Marks {
  readonly vertices: ReadonlyMap<number, Uint32Array>;
  readonly polygons: ReadonlyMap<number, Uint32Array>;
  readonly bones: ReadonlySet<number>;
}

/** A place that a measure can begin or end at. */
export interface Snap {
  readonly kind: 'joint' | 'vertex';
  readonly node: number;
  readonly vertex: number;
  readonly point: readonly number[];
}

interface Shown {
  readonly figure: FigureMesh;
  readonly mesh: Mesh<BufferGeometry, ShaderMaterial>;
  readonly edges: LineSegments<BufferGeometry, LineBasicMaterial>;
  bvh: MeshBVH | null;
}

Mesh.prototype.raycast = acceleratedRaycast;

/** The drawing surface: a character of clay with its true edges and its twigs. Draws only when something has changed. */
export class Stage {
  readonly camera = new PerspectiveCamera(22, 1, 0.01, 200);
  private readonly scene = new Scene();
  private readonly renderer: WebGLRenderer;
  private readonly controls: OrbitControls;
  private readonly twigs = new Twigs();
  private readonly body = new Group();
  private readonly around = new Surroundings();
  private shown: Shown[] = [];
  private bones: readonly FigureBone[] = [];
  private box = new Box3(new Vector3(-0.5, 0, -0.2), new Vector3(0.5, 1.8, 0.2));
  private chosen: ReadonlySet<number> = new Set();
  private colours: ((node: number) => string | null) | undefined;
  private isolated: ReadonlySet<number> | null = null;
  private hidden: ReadonlySet<number> = new Set();
  private wanted = false;
  private dead = false;
  private twigSize = 1;
  private showTwigs = true;
  private marks: Marks | null = null;
  private height = 1.8;
  onDraw: (() => void) | null = null;
  onView: ((view: View) => void) | null = null;

  constructor(private readonly canvas: HTMLCanvasElement) {
    this.renderer = new WebGLRenderer({
      canvas,
      antialias: drawsFinely(),
      alpha: false,
      preserveDrawingBuffer: true,
    });
    this.renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2));
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.enableDamping = false;
    this.controls.zoomToCursor = true;
    this.controls.addEventListener('change', () => this.draw());
    this.controls.addEventListener('start', () => {
      this.touched = true;
      this.onView?.('free');
    });
    this.scene.add(this.around.ground, this.around.known, this.body, this.around.ghosts, this.twigs.mesh);
    this.twigs.through(true);
    this.paper();
  }

  /** Takes the house's colours anew, after a change of sheet. */
  paper(): void {
    this.renderer.setClearColor(linearToken('paper'), 1);
    for (const s of this.shown) {
      recolour(s.mesh.material);
      s.edges.material.color = linearToken('ink');
    }
    this.twigs.paint(this.chosen, this.colours);
    this.ground();
    this.draw();
  }

  show(figure: Figure, keepCamera = false): void {
    for (const s of this.shown) {
      s.mesh.geometry.dispose();
      s.edges.geometry.dispose();
      s.mesh.material.dispose();
      s.edges.material.dispose();
    }
    this.body.clear();
    this.shown = figure.meshes.map((m, i) => {
      const g = new BufferGeometry();
      const n = m.points.length / 3;
      g.setAttribute('position', new BufferAttribute(m.points, 3));
      g.setAttribute('normal', new BufferAttribute(m.normals, 3));
      g.setAttribute('value', new BufferAttribute(new Float32Array(n), 1));
      g.setAttribute('marked', new BufferAttribute(new Float32Array(n), 1));
      g.setAttribute('part', new BufferAttribute(new Float32Array(n).fill(i), 1));
      g.setIndex(new BufferAttribute(m.triangles, 1));
      const mesh = new Mesh(g, clayMaterial());
      recolour(mesh.material);
      mesh.frustumCulled = false;
      const e = new BufferGeometry();
      e.setAttribute('position', g.getAttribute('position'));
      e.setIndex(new BufferAttribute(m.edges, 1));
      const edges = new LineSegments(
        e,
        new LineBasicMaterial({
          color: linearToken('ink'),
          transparent: true,
          opacity: 0.2,
          depthWrite: false,
        }),
      );
      edges.frustumCulled = false;
      this.body.add(mesh, edges);
      return { figure: m, mesh, edges, bvh: null };
    });
    this.bones = figure.bones;
    this.box = new Box3();
    const p = new Vector3();
    for (const m of figure.meshes)
      for (let i = 0; i < m.points.length; i += 3)
        this.box.expandByPoint(p.set(m.points[i], m.points[i + 1], m.points[i + 2]));
    if (figure.meshes.length === 0)
      for (const b of figure.bones) {
        this.box.expandByPoint(p.set(b.from[0], b.from[1], b.from[2]));
        this.box.expandByPoint(p.set(b.to[0], b.to[1], b.to[2]));
      }
    if (this.box.isEmpty()) this.box.set(new Vector3(-0.5, 0, -0.2), new Vector3(0.5, 1.8, 0.2));
    const size = this.box.getSize(new Vector3());
    this.height = Math.max(size.x, size.y, size.z) || 1;
    this.rebuildTwigs();
    this.ground();
    this.visibility();
    if (this.marks) this.mark(this.marks);
    this.ghost(null);
    this.tint(this.tints);
    if (!keepCamera) this.look('front');
    this.draw();
  }

  /** New places for the points of a figure that is shown, and for its bones; the rest stays. */
  pose(points: ReadonlyMap<number, Float32Array>, bones: readonly FigureBone[] | null): void {
    for (const s of this.shown) {
      const next = points.get(s.figure.node);
      if (!next || next.length !== s.figure.points.length) continue;
      const a = s.mesh.geometry.getAttribute('position') as BufferAttribute;
      (a.array as Float32Array).set(next);
      a.needsUpdate = true;
      s.mesh.geometry.computeVertexNormals();
      s.bvh = null;
    }
    if (bones) {
      this.bones = bones;
      this.rebuildTwigs();
    }
    this.draw();
  }

  get bounds(): Box3 {
    return this.box;
  }

  /** A shape drawn thinly over the figure: what a step would make of it, or what it was before. */
  ghost(shapes: readonly Ghost[] | null): void {
    this.around.setGhosts(shapes);
    this.draw();
  }

  /** A box of a known side beside the figure, to hold it against; null takes it away. Metres. */
  knownBox(side: number | null): void {
    this.around.setBox(side, this.box, this.height);
    if (!this.touched) this.look(this.view);
    this.draw();
  }
  /** Where the known box has its label; null where there is none. */
  get boxAt(): readonly [number, number, number] | null {
    return this.around.boxAt;
  }

  /** Colours of one's own for what nodes show; others are clay. */
  tint(tints: ReadonlyMap<number, string>): void {
    this.tints = tints;
    for (const s of this.shown) {
      const colour = tints.get(s.figure.node);
      s.mesh.material.uniforms.tinted.value = colour ? 1 : 0;
      if (colour) (s.mesh.material.uniforms.tint.value as Color).set(colour);
    }
    this.draw();
  }
  private tints: ReadonlyMap<number, string> = new Map();

  /** What is locked is seen but not found under the pointer. */
  lock(nodes: ReadonlySet<number>): void {
    this.locked = nodes;
  }
  private locked: ReadonlySet<number> = new Set();

  /** The joint near the pointer, or else the vertex under it. */
  snap(clientX: number, clientY: number): Snap | null {
    const r = this.canvas.getBoundingClientRect();
    let best: Snap | null = null;
    let nearest = 11;
    for (const b of this.list) {
      if (this.locked.has(b.node)) continue;
      const [x, y] = this.project(b.from[0], b.from[1], b.from[2]);
      const d = Math.hypot(x - (clientX - r.left), y - (clientY - r.top));
      if (d < nearest) {
        nearest = d;
        best = { kind: 'joint', node: b.node, vertex: -1, point: b.from };
      }
    }
    if (best) return best;
    const hit = this.pick(clientX, clientY, false);
    return hit?.kind === 'vertex'
      ? { kind: 'vertex', node: hit.node, vertex: hit.vertex, point: hit.point }
      : null;
  }

  private rebuildTwigs(): void {
    const open = this.bones.filter((b) => !this.hidden.has(b.node));
    const list = this.isolated ? open.filter((b) => this.isolated?.has(b.node)) : open;
    this.twigs.build(list, this.twigSize, this.height);
    this.twigs.paint(this.chosen, this.colours);
    this.list = list;
  }
  private list: readonly FigureBone[] = [];

  surface(surface: Surface, edges: boolean, seeThrough: boolean): void {
    for (const s of this.shown) {
      showSurface(s.mesh.material, surface, seeThrough);
      s.edges.material.opacity = surface === 'weights' ? 0.1 : edges ? 0.2 : 0.42;
      s.edges.geometry.setDrawRange(0, edges ? Infinity : s.figure.creases * 2);
    }
    this.edgesOn = edges;
    this.onClay = surface === 'clay' || surface === 'parts';
    this.visibility();
    this.draw();
  }
  private edgesOn = false;
  /** Sharp and open edges are drawn on clay even where the others are not. */
  private onClay = true;

  twigsShown(on: boolean, through: boolean, size: number): void {
    this.showTwigs = on;
    this.twigs.mesh.visible = on;
    this.twigs.through(through);
    if (size !== this.twigSize) {
      this.twigSize = size;
      this.rebuildTwigs();
    }
    this.draw();
  }

  choose(bones: ReadonlySet<number>): void {
    this.chosen = bones;
    this.twigs.paint(bones, this.colours);
    this.draw();
  }

  /** A number at every vertex, 0 … 1, by mesh node. */
  values(values: ReadonlyMap<number, Float32Array>): void {
    for (const s of this.shown) {
      const a = s.mesh.geometry.getAttribute('value') as BufferAttribute;
      const v = values.get(s.figure.node);
      if (v && v.length === a.count) (a.array as Float32Array).set(v);
      else (a.array as Float32Array).fill(0);
      a.needsUpdate = true;
    }
    this.draw();
  }

  /** Lights up the very elements of a finding. */
  mark(marks: Marks | null): void {
    this.marks = marks;
    for (const s of this.shown) {
      const a = s.mesh.geometry.getAttribute('marked') as BufferAttribute;
      const m = a.array as Float32Array;
      m.fill(0);
      const vertices = marks?.vertices.get(s.figure.node);
      if (vertices) for (const v of vertices) m[v] = 1;
      const polygons = marks?.polygons.get(s.figure.node);
      if (polygons) {
        const on = new Set(polygons);
        s.figure.polygonOf.forEach((p, t) => {
          if (on.has(p)) for (let k = 0; k < 3; k++) m[s.figure.triangles[t * 3 + k]] = 1;
        });
      }
      a.needsUpdate = true;
    }
    if (marks) this.choose(marks.bones);
    this.draw();
  }

  isolate(nodes: ReadonlySet<number> | null): void {
    this.isolated = nodes;
    this.rebuildTwigs();
    this.visibility();
    this.draw();
  }
  hide(nodes: ReadonlySet<number>): void {
    this.hidden = nodes;
    this.rebuildTwigs();
    this.visibility();
    this.draw();
  }

  private visibility(): void {
    for (const s of this.shown) {
      const any = this.isolated && this.shown.some((x) => this.isolated?.has(x.figure.node));
      s.mesh.visible = !this.hidden.has(s.figure.node) && (!any || !!this.isolated?.has(s.figure.node));
      s.edges.visible = s.mesh.visible && (this.edgesOn || this.onClay);
    }
  }

  /** Room left at the sides of a whole figure, as a factor. */
  margin = 1.36;
  private touched = false;
  private view: View = 'front';

  look(view: View): void {
    this.touched = false;
    this.view = view;
    // A box that is held beside the figure belongs in the picture.
    const whole = this.boxAt
      ? this.box.clone().expandByPoint(new Vector3(2 * this.boxAt[0] - this.box.max.x, this.boxAt[1], 0))
      : this.box;
    const c = whole.getCenter(new Vector3());
    const direction = {
      front: new Vector3(0, 0.03, 1),
      left: new Vector3(1, 0.03, 0),
      top: new Vector3(0, 1, 0.001),
      free: new Vector3(0.55, 0.22, 1),
    }[view].normalize();
    this.place(c, direction, whole);
  }

  /** Brings elements into the picture, from where the camera stands. */
  frame(points: readonly (readonly number[])[]): void {
    this.touched = points.length > 0;
    if (points.length === 0) {
      this.place(
        this.box.getCenter(new Vector3()),
        this.camera.position.clone().sub(this.controls.target).normalize(),
        this.box,
      );
      return;
    }
    const box = new Box3();
    for (const p of points) box.expandByPoint(new Vector3(p[0], p[1], p[2]));
    const least = this.height * 0.16;
    const size = box.getSize(new Vector3());
    box.expandByVector(
      new Vector3(
        Math.max(0, least - size.x) / 2,
        Math.max(0, least - size.y) / 2,
        Math.max(0, least - size.z) / 2,
      ),
    );
    this.place(
      box.getCenter(new Vector3()),
      this.camera.position.clone().sub(this.controls.target).normalize(),
      box,
    );
  }

  private place(center: Vector3, direction: Vector3, box: Box3): void {
    const size = box.getSize(new Vector3());
    const tan = Math.tan((this.camera.fov * Math.PI) / 360);
    const across =
      Math.hypot(size.x * direction.z, size.z * direction.x) + Math.abs(size.x * direction.y) * 0.2;
    const up = Math.max(size.y, Math.abs(direction.y) * size.z);
    const distance =
      Math.max((up * 0.5 * 1.24) / tan, (across * 0.5 * this.margin) / tan / this.camera.aspect) +
      size.z * Math.abs(direction.z) * 0.5 +
      size.x * Math.abs(direction.x) * 0.5;
    this.controls.target.copy(center);
    this.camera.position.copy(center).addScaledVector(direction, distance);
    this.camera.near = distance / 200;
    this.camera.far = distance * 20 + 50;
    this.camera.updateProjectionMatrix();
    this.controls.update();
    this.draw();
  }

  orbit(yaw: number, pitch: number): void {
    const offset = this.camera.position.clone().sub(this.controls.target);
    const r = offset.length();
    const theta = Math.atan2(offset.x, offset.z) + yaw;
    const phi = Math.min(Math.PI - 0.02, Math.max(0.02, Math.acos(offset.y / r) + pitch));
    this.camera.position.set(
      this.controls.target.x + r * Math.sin(phi) * Math.sin(theta),
      this.controls.target.y + r * Math.cos(phi),
      this.controls.target.z + r * Math.sin(phi) * Math.cos(theta),
    );
    this.controls.update();
    this.touched = true;
    this.onView?.('free');
    this.draw();
  }

  private ground(): void {
    this.around.layGround(this.height, this.box.min.y);
  }

  /** What is under a place of the canvas: a twig first, then the surface. */
  pick(clientX: number, clientY: number, twigs = true): Hit | null {
    const r = this.canvas.getBoundingClientRect();
    const ray = new Raycaster();
    ray.setFromCamera(
      new Vector2(((clientX - r.left) / r.width) * 2 - 1, -(((clientY - r.top) / r.height) * 2 - 1)),
      this.camera,
    );
    if (twigs && this.showTwigs && this.list.length > 0) {
      const hit = ray.intersectObject(this.twigs.mesh, false)[0];
      if (
        hit &&
        hit.faceIndex !== undefined &&
        hit.faceIndex !== null &&
        !this.locked.has(this.list[this.twigs.boneOf[hit.faceIndex]].node)
      )
        return {
          kind: 'bone',
          node: this.list[this.twigs.boneOf[hit.faceIndex]].node,
          vertex: -1,
          point: hit.point.toArray(),
        };
    }
    let best: Hit | null = null;
    let nearest = Infinity;
    for (const s of this.shown) {
      if (!s.mesh.visible || this.locked.has(s.figure.node)) continue;
      if (!s.bvh) {
        s.bvh = new MeshBVH(s.mesh.geometry, { indirect: true });
        (s.mesh.geometry as BufferGeometry & { boundsTree?: MeshBVH }).boundsTree = s.bvh;
      }
      const hit = ray.intersectObject(s.mesh, false)[0];
      if (!hit || hit.distance >= nearest || !hit.face) continue;
      nearest = hit.distance;
      const position = s.mesh.geometry.getAttribute('position');
      let vertex = hit.face.a;
      let least = Infinity;
      for (const v of [hit.face.a, hit.face.b, hit.face.c]) {
        const d = hit.point.distanceToSquared(
          new Vector3(position.getX(v), position.getY(v), position.getZ(v)),
        );
        if (d < least) {
          least = d;
          vertex = v;
        }
      }
      best = {
        kind: 'vertex',
        node: s.figure.node,
        vertex,
        point: [position.getX(vertex), position.getY(vertex), position.getZ(vertex)],
      };
    }
    return best;
  }

  /** A world place in pixels of the canvas. */
  project(x: number, y: number, z: number): [number, number] {
    const v = new Vector3(x, y, z).project(this.camera);
    return [((v.x + 1) / 2) * this.canvas.clientWidth, ((1 - v.y) / 2) * this.canvas.clientHeight];
  }

  resize(): void {
    const { clientWidth: w, clientHeight: h } = this.canvas;
    if (w === 0 || h === 0) return;
    this.renderer.setSize(w, h, false);
    this.camera.aspect = w / h;
    this.camera.updateProjectionMatrix();
    if (!this.touched) this.look(this.view);
    // A canvas of a new size is empty: it is drawn before it can be seen.
    this.render();
  }

  colourBones(colours: ((node: number) => string | null) | undefined): void {
    this.colours = colours;
    this.twigs.paint(this.chosen, colours);
    this.draw();
  }

  draw(): void {
    if (this.wanted || this.dead) return;
    this.wanted = true;
    requestAnimationFrame(() => {
      if (this.wanted) this.render();
    });
  }

  private render(): void {
    this.wanted = false;
    if (this.dead) return;
    this.renderer.render(this.scene, this.camera);
    this.onDraw?.();
  }

  dispose(): void {
    this.dead = true;
    this.controls.dispose();
    this.around.dispose();
    this.renderer.dispose();
  }
}
