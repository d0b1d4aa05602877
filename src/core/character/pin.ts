import { restWorld } from './hierarchy';
import type { Character } from './model';
import { placedMeshes } from './measure';
import { findNamed, namedIn } from './named';

/**
 * An end of a pinned measure: a joint, or a vertex of what a node shows. By the node's name, and which of
 * several of that name (the first where it does not say), so that it is found again on every revision.
 */
export type PinEnd = { readonly node: string; readonly nth?: number } & (
  { readonly kind: 'joint' } | { readonly kind: 'vertex'; readonly vertex: number }
);

/** A measure that was pinned to a character, by the names of what it ends at. */
export interface Pin {
  readonly id: string;
  readonly label: string;
  readonly from: PinEnd;
  readonly to: PinEnd;
}

/**
 * World place of an end at rest, or under node worlds that are given; null where the revision has no such
 * thing.
 */
export function placeOfEnd(
  character: Character,
  end: PinEnd,
  world: Float64Array = restWorld(character.nodes),
): [number, number, number] | null {
  const node = findNamed(
    character.nodes.map((node) => node.name),
    { name: end.node, nth: end.nth ?? 0 },
  );
  if (node < 0) return null;
  if (end.kind === 'joint') return [world[node * 16 + 12], world[node * 16 + 13], world[node * 16 + 14]];
  const placed = placedMeshes(character).find((mesh) => mesh.node === node);
  if (!placed || end.vertex < 0 || end.vertex >= placed.mesh.vertexCount) return null;
  return [
    placed.points[end.vertex * 3],
    placed.points[end.vertex * 3 + 1],
    placed.points[end.vertex * 3 + 2],
  ];
}

/** Length of a pinned measure at rest, metres; null where one of its ends is not there. */
export function pinLength(character: Character, pin: Pick<Pin, 'from' | 'to'>): number | null {
  const a = placeOfEnd(character, pin.from);
  const b = placeOfEnd(character, pin.to);
  return a && b ? Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]) : null;
}

/** The end that a joint (vertex −1) or a vertex of a node is. */
export function endOf(character: Character, node: number, vertex: number): PinEnd {
  const { name, nth } = namedIn(
    character.nodes.map((node) => node.name),
    node,
  );
  const named = nth > 0 ? { node: name, nth } : { node: name };
  return vertex < 0 ? { kind: 'joint', ...named } : { kind: 'vertex', ...named, vertex };
}

/** An end of a measure in words. */
export function endText(end: PinEnd): string {
  const name = `${end.node || 'a node without a name'}${end.nth ? `, number ${end.nth + 1}` : ''}`;
  return end.kind === 'joint' ? name : `${name}, vertex ${end.vertex}`;
}
