import { Box3, PerspectiveCamera, Raycaster, Vector2, Vector3 } from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { Ray } from '@/core/geometry/drag';
import type { View } from './view';

const DIRECTIONS: Readonly<Record<View, readonly [number, number, number]>> = {
  front: [0, 0.03, 1],
  left: [1, 0.03, 0],
  top: [0, 1, 0.001],
  free: [0.55, 0.22, 1],
};

/** Air above and below a whole figure, as a factor. */
const AIR = 1.24;

/** The least part of a figure that is brought into the picture, as a share of its height. */
const LEAST = 0.16;

/** The camera and the hand that turns it. World space, metres. */
export class CameraRig {
  readonly camera = new PerspectiveCamera(22, 1, 0.01, 200);
  private readonly controls: OrbitControls;
  private readonly raycaster = new Raycaster();
  /** The camera stands where a person has put it: it is not set anew when the canvas changes. */
  private isTouched = false;
  private view: View = 'front';
  margin = 1.36;
  /** Size of the canvas, pixels; asking the page for it again and again would have it laid out every time. */
  private size: readonly [number, number] = [1, 1];
  onMove: (() => void) | null = null;
  onTurned: (() => void) | null = null;

  constructor(
    canvas: HTMLCanvasElement,
    private readonly wholeOf: () => Box3,
  ) {
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.enableDamping = false;
    this.controls.zoomToCursor = true;
    this.controls.addEventListener('change', () => this.onMove?.());
    this.controls.addEventListener('start', () => this.turned());
  }

  /** While a tool has the pointer the camera stands still. */
  hold(isHeld: boolean): void {
    this.controls.enabled = !isHeld;
  }

  look(view: View): void {
    this.isTouched = false;
    this.view = view;
    const whole = this.wholeOf();
    this.place(whole.getCenter(new Vector3()), new Vector3(...DIRECTIONS[view]).normalize(), whole);
  }

  /** Looks at the whole again, unless a person has put the camera somewhere. */
  settle(): void {
    if (!this.isTouched) this.look(this.view);
  }

  /** Brings places into the picture, from where the camera stands; none at all: the whole figure. */
  frame(places: readonly (readonly number[])[], height: number): void {
    this.isTouched = places.length > 0;
    const box = new Box3();
    for (const [x, y, z] of places) box.expandByPoint(new Vector3(x, y, z));
    if (places.length === 0) box.copy(this.wholeOf());
    else widen(box, height * LEAST);
    const direction = this.camera.position.clone().sub(this.controls.target).normalize();
    this.place(box.getCenter(new Vector3()), direction, box);
  }

  orbit(yaw: number, pitch: number): void {
    const offset = this.camera.position.clone().sub(this.controls.target);
    const distance = offset.length();
    const theta = Math.atan2(offset.x, offset.z) + yaw;
    const phi = Math.min(Math.PI - 0.02, Math.max(0.02, Math.acos(offset.y / distance) + pitch));
    offset.setFromSphericalCoords(distance, phi, theta);
    this.camera.position.copy(this.controls.target).add(offset);
    this.controls.update();
    this.turned();
    this.onMove?.();
  }

  resize(width: number, height: number): void {
    this.size = [width, height];
    this.camera.aspect = width / height;
    this.camera.updateProjectionMatrix();
    this.settle();
  }

  /** A world place in pixels of the canvas. */
  project(x: number, y: number, z: number): [number, number] {
    const vector = new Vector3(x, y, z).project(this.camera);
    return [((vector.x + 1) / 2) * this.size[0], ((1 - vector.y) / 2) * this.size[1]];
  }

  /** Pixels of the canvas as the camera counts them, −1 … 1. */
  deviceOf(x: number, y: number): Vector2 {
    return new Vector2((x / this.size[0]) * 2 - 1, 1 - (y / this.size[1]) * 2);
  }

  /**
   * The world place under a pixel, at the depth of another place: what a drag in the plane of the picture
   * leads to.
   */
  unproject(x: number, y: number, depthOf: readonly number[]): [number, number, number] {
    const depth = new Vector3(depthOf[0], depthOf[1], depthOf[2]).project(this.camera).z;
    const at = this.deviceOf(x, y);
    const vector = new Vector3(at.x, at.y, depth).unproject(this.camera);
    return [vector.x, vector.y, vector.z];
  }

  /** The ray of a pixel into the picture. */
  rayOf(x: number, y: number): Ray {
    this.raycaster.setFromCamera(this.deviceOf(x, y), this.camera);
    const { origin, direction } = this.raycaster.ray;
    return { origin: [origin.x, origin.y, origin.z], direction: [direction.x, direction.y, direction.z] };
  }

  private turned(): void {
    this.isTouched = true;
    this.onTurned?.();
  }

  private place(center: Vector3, direction: Vector3, box: Box3): void {
    const size = box.getSize(new Vector3());
    const tan = Math.tan((this.camera.fov * Math.PI) / 360);
    const across =
      Math.hypot(size.x * direction.z, size.z * direction.x) + Math.abs(size.x * direction.y) * 0.2;
    const up = Math.max(size.y, Math.abs(direction.y) * size.z);
    const distance =
      Math.max((up * 0.5 * AIR) / tan, (across * 0.5 * this.margin) / tan / this.camera.aspect) +
      size.z * Math.abs(direction.z) * 0.5 +
      size.x * Math.abs(direction.x) * 0.5;
    this.controls.target.copy(center);
    this.camera.position.copy(center).addScaledVector(direction, distance);
    this.camera.near = distance / 200;
    this.camera.far = distance * 20 + 50;
    this.camera.updateProjectionMatrix();
    this.controls.update();
    this.onMove?.();
  }

  dispose(): void {
    this.controls.dispose();
  }
}

/** A box that is nowhere smaller than `least`. */
function widen(box: Box3, least: number): void {
  const size = box.getSize(new Vector3());
  const missing = (x: number) => Math.max(0, least - x) / 2;
  box.expandByVector(new Vector3(missing(size.x), missing(size.y), missing(size.z)));
}
