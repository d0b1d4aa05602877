import { restWorld } from '@/core/character/hierarchy';
import type { Character } from '@/core/character/model';
import { decompose, quatAbout, quatMultiply, quatRotate } from '@/core/geometry/matrix';
import type { Stage } from '../../stage/stage';
import { dragTool } from '../../stage/tools/drag';
import type { Tool } from '../../stage/tools/tool';
import { beginGesture, putPatch } from '../../state/draft';
import { restForPlaces } from '../../state/pose';
import { desk } from '../../state/store';
import { choosePart } from './place-settings';
import type { Stand } from '../../worker/edit-session';

/** True for what can be placed: a mesh that is not bound to bones. */
export const isLoose = ({ nodes }: Character, node: number): boolean =>
  !!nodes[node] && nodes[node].mesh >= 0 && nodes[node].skin < 0;

/**
 * Where a part stands now, with what the hand has done; null where it cannot be placed. World space, metres.
 */
export function standOfPart(node: number): Stand | null {
  const { character, draft } = desk();
  if (!character || !isLoose(character, node)) return null;
  const moved = draft?.stands.get(node);
  if (moved) return moved;
  const { translation, rotation } = decompose(restWorld(character.nodes), node * 16);
  return { place: [translation[0], translation[1], translation[2]], turn: rotation };
}

const put = (node: number, { place, turn }: Stand): Promise<void> =>
  putPatch({ remedy: 'place-part', params: { node, place: [...place], turn: [...turn] } });

/** Puts a part at a world place, metres, turned as it is. */
export function putPart(node: number, place: readonly number[]): void {
  const stand = standOfPart(node);
  if (stand) void put(node, { place: [place[0], place[1], place[2]], turn: stand.turn });
}

/** Turns a part where it stands, about an axis of the world or its own (0 x, 1 y, 2 z). */
export function turnPart(node: number, axis: 0 | 1 | 2, degrees: number, own: boolean): void {
  const stand = standOfPart(node);
  if (!stand) return;
  const unit = [0, 1, 2].map((k) => Number(k === axis));
  const about = own ? quatRotate(stand.turn, unit) : unit;
  const turn = quatMultiply(quatAbout(about, (degrees * Math.PI) / 180), stand.turn);
  void put(node, { place: stand.place, turn });
}

/** Moves a loose part by dragging it in the plane of the picture. */
export function makePlaceTool(stage: Stage): Tool {
  restForPlaces();
  return dragTool(stage, {
    id: 'place',
    find: (x, y) => {
      const hit = stage.pick(x, y, 'surface');
      const stand = hit && standOfPart(hit.node);
      return hit && stand && { node: hit.node, place: stand.place };
    },
    begin: (part) => {
      beginGesture();
      const { character } = desk();
      if (character) choosePart(character, part);
    },
    drag: putPart,
  });
}
