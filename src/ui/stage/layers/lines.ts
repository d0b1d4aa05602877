import {
  BufferAttribute,
  BufferGeometry,
  type Group,
  type LineBasicMaterial,
  LineSegments,
  type Material,
  type Mesh,
} from 'three';

export function lineSegments(points: readonly number[], material: LineBasicMaterial): LineSegments {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(Float32Array.from(points), 3));
  const lines = new LineSegments(geometry, material);
  lines.frustumCulled = false;
  return lines;
}

/** Empties a group and gives back what it held of the graphics card. */
export function clearGroup(group: Group): Group {
  for (const child of group.children as (Mesh | LineSegments)[]) {
    child.geometry.dispose();
    (child.material as Material).dispose();
  }
  return group.clear();
}
