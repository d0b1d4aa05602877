import { type Weld, weldExact } from '../geometry/weld';
import { type Mesh, positionsOf } from './model';

const cache = new WeakMap<Float32Array, Weld>();

/**
 * The points of a mesh: vertices that a seam split and that lie at one place are one. Computed once for a
 * positions array.
 */
export function pointsOf(mesh: Mesh): Weld {
  const positions = positionsOf(mesh);
  let weld = cache.get(positions);
  if (!weld) {
    weld = weldExact(positions);
    cache.set(positions, weld);
  }
  return weld;
}
