import { type MeshPart, partsOf } from '../anatomy/parts';
import type { Character, ElementSet } from '../character/model';
import type { ElementsParam } from './params';
import { RemedyError } from './remedy';

/** The parts that some polygons belong to. Throws RemedyError where a polygon is not there. */
export function partsOfChoice(character: Character, polygons: readonly ElementsParam[]): MeshPart[] {
  const chosen = new Map<number, Set<number>>();
  for (const { node, ids } of polygons) {
    const mesh = character.meshes[character.nodes[node]?.mesh];
    if (!mesh || Array.from(ids).some((id) => id >= mesh.polygonOffsets.length - 1))
      throw new RemedyError('One of these polygons is not there any more; choose the parts again.');
    const own = chosen.get(node) ?? new Set<number>();
    for (const id of ids) own.add(id);
    chosen.set(node, own);
  }
  return partsOf(character).filter(({ node, polygons: held }) => {
    const own = chosen.get(node);
    return own !== undefined && held.some((polygon) => own.has(polygon));
  });
}

/** The polygons of parts as a parameter takes them, node by node. */
export function polygonsOfParts(parts: readonly MeshPart[]): { node: number; ids: Uint32Array }[] {
  const byNode = new Map<number, number[]>();
  for (const { node, polygons } of parts) {
    const own = byNode.get(node) ?? [];
    for (const polygon of polygons) own.push(polygon);
    byNode.set(node, own);
  }
  return [...byNode].map(([node, ids]) => ({ node, ids: Uint32Array.from(ids).sort() }));
}

/** Two lists of polygons as one, node by node. */
export function joinedPolygons(
  one: ElementSet['polygons'],
  other: ElementSet['polygons'],
): { node: number; ids: Uint32Array }[] {
  const byNode = new Map<number, Set<number>>();
  for (const { node, ids } of [...one, ...other]) {
    const own = byNode.get(node) ?? new Set<number>();
    for (const id of ids) own.add(id);
    byNode.set(node, own);
  }
  return [...byNode].map(([node, ids]) => ({ node, ids: Uint32Array.from(ids).sort() }));
}
