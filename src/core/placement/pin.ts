import { restWorld } from '../character/hierarchy';
import type { Character } from '../character/model';
import { placedMeshes } from '../character/measure';

/** An end of a pinned measure: a joint, or a vertex of what a node shows; by the node's name, so that it is found again on every revision. */
export type PinEnd = { readonly kind: 'joint'; readonly node: string } | { readonly kind: 'vertex'; readonly node: string; readonly vertex: number };

export interface Pin { readonly id: string; readonly label: string; readonly from: PinEnd; readonly to: PinEnd }

/** World place of an end at rest, or under node worlds that are given; null where the revision has no such thing. */
export function placeOfEnd(character: Character, end: PinEnd, world: Float64Array = restWorld(character.nodes)): [number, number, number] | null {
  const node = character.nodes.findIndex((n) => n.name === end.node);
  if (node < 0) return null;
  if (end.kind === 'joint') return [world[node * 16 + 12], world[node * 16 + 13], world[node * 16 + 14]];
  const p = placedMeshes(character).find((x) => x.node === node);
  if (!p || end.vertex < 0 || end.vertex >= p.mesh.vertexCount) return null;
  return [p.points[end.vertex * 3], p.points[end.vertex * 3 + 1], p.points[end.vertex * 3 + 2]];
}

/** Length of a pinned measure at rest, metres; null where one of its ends is not there. */
export function pinLength(character: Character, pin: Pick<Pin, 'from' | 'to'>): number | null {
  const a = placeOfEnd(character, pin.from), b = placeOfEnd(character, pin.to);
  return a && b ? Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]) : null;
}

export const endText = (e: PinEnd): string => (e.kind === 'joint' ? e.node : `${e.node}, vertex ${e.vertex}`);
