import { Box3, Ray, Raycaster, Scene, Vector3, WebGLRenderer } from 'three';
import type { Touched } from '@/core/rooms/weights/painting';
import type { Figure, FigureBone, Pose } from '../worker/figure';
import { CameraRig } from './camera-rig';
import { drawnPixelRatio, drawsFinely } from './drawing';
import { BodyLayer } from './layers/body';
import type { DrawnMesh } from './layers/drawn-mesh';
import { GhostsLayer } from './layers/ghosts';
import { GroundLayer } from './layers/ground';
import { KnownBoxLayer } from './layers/known-box';
import type { Frame, Layer } from './layers/layer';
import { linearToken } from './layers/tokens';
import { TwigsLayer } from './layers/twigs';
import { type CameraWish, EMPTY_VIEW, type Hit, type PlaceOnFigure, type StageView } from './view';

/** How near a joint catches the pointer, pixels. */
const CATCH = 11;

/** What lies nearer before a place than this share of the figure's height is the surface that it is on. */
const SURFACE = 0.002;

/**
 * So long after its last movement a large figure is drawn whole again, milliseconds: longer than a coarse picture takes in
 * software, or a whole one would come between every two of them.
 */
const AT_REST = 400;

/** What the stage holds of the graphics card. */
export interface GraphicsMemory {
  readonly geometries: number;
  readonly textures: number;
}

/** The drawing surface. It draws the view that it is given, and only when something has changed. */
export class Stage {
  readonly rig: CameraRig;
  private readonly scene = new Scene();
  private readonly renderer: WebGLRenderer;
  private readonly body = new BodyLayer();
  private readonly twigs = new TwigsLayer();
  private readonly known = new KnownBoxLayer();
  private layers: readonly Layer[] = [
    new GroundLayer(),
    this.known,
    this.body,
    new GhostsLayer(),
    this.twigs,
  ];
  private view: StageView = EMPTY_VIEW;
  /** How the figure that is shown stands; null: at rest. */
  private standing: Pose | null = null;
  private frame: Frame = frameOf(null);
  /** What was asked for and is not yet done. */
  private wanted: StageView = EMPTY_VIEW;
  private wantedPose: { readonly figure: Figure; readonly pose: Pose | null } | null = null;
  private wishes: CameraWish[] = [];
  private task: ReturnType<typeof setTimeout> | undefined;
  private isWanted = false;
  private isDead = false;
  private isCoarse = false;
  private whenAtRest: ReturnType<typeof setTimeout> | undefined;
  /** Called after every picture. */
  onDraw: (() => void) | null = null;

  constructor(private readonly canvas: HTMLCanvasElement) {
    this.renderer = new WebGLRenderer({
      canvas,
      antialias: drawsFinely(),
      alpha: false,
      preserveDrawingBuffer: true,
    });
    // Its check asks the graphics card to have compiled before the page goes on.
    this.renderer.debug.checkShaderErrors = false;
    this.renderer.setPixelRatio(drawnPixelRatio());
    this.rig = new CameraRig(canvas, () => this.whole());
    this.rig.onMove = () => {
      this.moves();
      this.draw();
    };
    for (const layer of this.layers) this.scene.add(layer.object);
    for (const layer of this.layers) layer.update(this.view, this.view, this.frame);
    this.repaint();
  }

  /** Takes the house's colours anew, after a change of sheet. */
  repaint(): void {
    this.renderer.setClearColor(linearToken('paper'), 1);
    for (const layer of this.layers) layer.repaint?.();
    this.draw();
  }

  /** Draws one more layer, over those that there are. Returns what takes it off and frees what it holds. */
  addLayer(layer: Layer): () => void {
    this.layers = [...this.layers, layer];
    this.scene.add(layer.object);
    layer.update(this.view, EMPTY_VIEW, this.frame);
    layer.pose?.(this.standing);
    this.draw();
    return () => {
      if (this.isDead) return;
      this.layers = this.layers.filter((other) => other !== layer);
      this.scene.remove(layer.object);
      layer.dispose();
      this.draw();
    };
  }

  /** Draws another view. Many in a row are drawn as one; what did not change is not touched. */
  update(view: StageView): void {
    this.wanted = view;
    this.doSoon();
  }

  /**
   * New places for the points and bones of a figure; nothing happens where another figure is shown. Null: at
   * rest.
   */
  pose(figure: Figure, pose: Pose | null): void {
    this.wantedPose = { figure, pose };
    this.doSoon();
  }

  /** What a stroke touched, written at once where that figure is shown; its own picture follows. */
  touch(figure: Figure, touched: readonly Touched[]): void {
    if (this.task !== undefined) this.catchUp();
    if (figure !== this.view.figure) return;
    for (const some of touched) this.body.touch(some);
    this.draw();
  }

  /** Does what the camera is asked for. */
  obey(wish: CameraWish): void {
    this.wishes.push(wish);
    this.doSoon();
  }

  /** In a task of its own: who asks does not wait for buffers to be written. */
  private doSoon(): void {
    this.task ??= setTimeout(() => this.catchUp());
  }

  private catchUp(): void {
    clearTimeout(this.task);
    this.task = undefined;
    if (this.isDead) return;
    if (this.wanted !== this.view) this.show(this.wanted);
    const { wantedPose, wishes } = this;
    this.wantedPose = null;
    this.wishes = [];
    if (wantedPose && wantedPose.figure === this.view.figure) {
      this.standing = wantedPose.pose;
      this.moves();
      for (const layer of this.layers) layer.pose?.(wantedPose.pose);
    }
    for (const wish of wishes) {
      if (wish.kind === 'look') this.rig.look(wish.view);
      else this.rig.frame(wish.places, this.frame.height);
    }
    this.draw();
  }

  /** The camera or the figure moves: less of a large figure is drawn until it stands. */
  private moves(): void {
    clearTimeout(this.whenAtRest);
    if (!this.view.figure?.meshes.some((mesh) => mesh.coarse)) return;
    this.coarsen(true);
    this.whenAtRest = setTimeout(() => {
      this.coarsen(false);
      this.draw();
    }, AT_REST);
  }

  private coarsen(isCoarse: boolean): void {
    if (this.isCoarse === isCoarse || this.isDead) return;
    this.isCoarse = isCoarse;
    for (const layer of this.layers) layer.coarsen?.(isCoarse);
  }

  private show(view: StageView): void {
    const last = this.view;
    this.view = view;
    this.rig.margin = view.margin;
    if (view.figure !== last.figure) {
      this.coarsen(false);
      this.standing = null;
      this.frame = frameOf(view.figure);
    }
    for (const layer of this.layers) layer.update(view, last, this.frame);
    const isOther = view.subject !== last.subject || (last.figure === null && view.figure !== null);
    if (isOther) this.rig.look('front');
    else if (view.margin !== last.margin || view.boxSide !== last.boxSide) this.rig.settle();
  }

  get bounds(): Box3 {
    return this.frame.box;
  }

  get figure(): Figure | null {
    return this.view.figure;
  }

  /** Where the known box has its label; null where there is none. */
  get knownBoxAt(): readonly [number, number, number] | null {
    return this.known.labelAt;
  }

  /** The twigs that are seen and not locked, as they stand. */
  get openBones(): readonly FigureBone[] {
    return this.twigs.shown.filter((bone) => !this.view.locked.has(bone.node));
  }

  /** The meshes that are seen and not locked. */
  get openMeshes(): readonly DrawnMesh[] {
    return this.body.open;
  }

  /** The ray under a place of the canvas: origin and unit direction, world space. Pixels of the canvas. */
  rayAt(x: number, y: number): { readonly origin: readonly number[]; readonly direction: readonly number[] } {
    const { ray } = this.casterAt(x, y);
    return { origin: ray.origin.toArray(), direction: ray.direction.toArray() };
  }

  private casterAt(x: number, y: number): Raycaster {
    const caster = new Raycaster();
    caster.setFromCamera(this.rig.deviceOf(x, y), this.rig.camera);
    return caster;
  }

  /** What is under a place of the canvas: a twig first, then the surface. Pixels of the canvas. */
  pick(x: number, y: number, of: 'all' | 'surface' = 'all'): Hit | null {
    const ray = this.casterAt(x, y);
    const twig = of === 'all' ? this.twigs.raycast(ray) : null;
    return twig ?? this.body.raycast(ray.ray);
  }

  /**
   * All that lies under a place of the canvas: twigs, then the surface front and back, near ones first. Pixels of the
   * canvas.
   */
  pickAll(x: number, y: number, of: 'all' | 'surface' = 'all'): Hit[] {
    const ray = this.casterAt(x, y);
    return [...(of === 'all' ? this.twigs.raycastAll(ray) : []), ...this.body.raycastAll(ray.ray)];
  }

  /** Whether nothing that is drawn lies before a place in the world. */
  isSeen([x, y, z]: readonly number[]): boolean {
    const place = new Vector3(x, y, z);
    const eye = this.rig.camera.position;
    const away = place.distanceTo(eye);
    const ray = new Ray(eye, place.sub(eye).normalize());
    return this.body.firstDistance(ray) >= away - SURFACE * this.frame.height;
  }

  /** The joint near a place of the canvas, or else the vertex under it. Pixels of the canvas. */
  snap(x: number, y: number): PlaceOnFigure | null {
    const joint = this.jointNear(x, y);
    if (joint) return { kind: 'joint', node: joint.node, vertex: -1, point: joint.from };
    const hit = this.pick(x, y, 'surface');
    return hit && { kind: 'vertex', node: hit.node, vertex: hit.vertex, point: hit.point };
  }

  /** The joint that catches the pointer. Pixels of the canvas. */
  jointNear(x: number, y: number): FigureBone | null {
    let best: FigureBone | null = null;
    let nearest = CATCH;
    for (const bone of this.openBones) {
      const [px, py] = this.rig.project(bone.from[0], bone.from[1], bone.from[2]);
      const length = Math.hypot(px - x, py - y);
      if (length >= nearest) continue;
      nearest = length;
      best = bone;
    }
    return best;
  }

  resize(): void {
    const { clientWidth: width, clientHeight: height } = this.canvas;
    if (width === 0 || height === 0) return;
    if (this.task !== undefined) this.catchUp();
    this.renderer.setSize(width, height, false);
    this.rig.resize(width, height);
    // A canvas of a new size is empty: it is drawn before it can be seen.
    this.render();
  }

  draw(): void {
    if (this.isWanted || this.isDead) return;
    this.isWanted = true;
    requestAnimationFrame(() => {
      if (this.isWanted) this.render();
    });
  }

  get held(): GraphicsMemory {
    const { geometries, textures } = this.renderer.info.memory;
    return { geometries, textures };
  }

  private render(): void {
    this.isWanted = false;
    if (this.isDead) return;
    this.renderer.render(this.scene, this.rig.camera);
    this.onDraw?.();
  }

  /** The figure, and the box that is held beside it. */
  private whole(): Box3 {
    const { labelAt } = this.known;
    const { box } = this.frame;
    if (!labelAt) return box;
    return box.clone().expandByPoint(new Vector3(2 * labelAt[0] - box.max.x, labelAt[1], 0));
  }

  dispose(): void {
    this.isDead = true;
    clearTimeout(this.task);
    clearTimeout(this.whenAtRest);
    this.rig.dispose();
    for (const layer of this.layers) layer.dispose();
    this.renderer.dispose();
    this.renderer.forceContextLoss();
  }
}

/** Where a figure stands: its meshes, or its bones where it has none. */
function frameOf(figure: Figure | null): Frame {
  const box = new Box3();
  const vector = new Vector3();
  for (const { points } of figure?.meshes ?? [])
    for (let i = 0; i < points.length; i += 3)
      box.expandByPoint(vector.set(points[i], points[i + 1], points[i + 2]));
  if (box.isEmpty())
    for (const { from, to } of figure?.bones ?? []) {
      box.expandByPoint(vector.set(from[0], from[1], from[2]));
      box.expandByPoint(vector.set(to[0], to[1], to[2]));
    }
  if (box.isEmpty()) box.set(new Vector3(-0.5, 0, -0.2), new Vector3(0.5, 1.8, 0.2));
  const size = box.getSize(new Vector3());
  return { box, height: Math.max(size.x, size.y, size.z) || 1 };
}
