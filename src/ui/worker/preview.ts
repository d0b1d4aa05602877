/** What a step would do, before it is done: numbers before and after, what else would move, and the shape that would come of it. */
import { transfer } from 'comlink';
import { placedMeshes } from '@/core/character/measure';
import type { Character } from '@/core/character/model';
import { checkedBy } from '@/core/contracts/checked';
import type { ChangeEffects } from '@/core/contracts/effects';
import type { Finding, RemedyCall } from '@/core/contracts/finding';
import type { Params } from '@/core/contracts/remedy';
import type { Brief } from '@/core/house/brief';
import { packPatches } from '@/core/house/edit';
import { nodesAfter } from '@/core/house/effects';
import { previewForKind, previewForMany } from '@/core/house/of-kind';
import { type PreviewRow, previewRemedy } from '@/core/house/preview';
import { remedyById } from '@/core/house/registry';
import { type Ghost, trianglesOf, weldedNormals } from './figure';

export type PreviewAnswer =
  | { readonly rows: readonly PreviewRow[]; readonly effects: ChangeEffects; readonly ghost: Ghost[] | null }
  | { readonly refused: string };

/** A preview of many calls as one step; `bundle` holds the patches of the step. */
export type ManyPreview =
  | (Extract<PreviewAnswer, { rows: unknown }> & {
      readonly bundle: Uint8Array;
      readonly done: number;
      readonly left: readonly string[];
    })
  | { readonly refused: string };

/** The shapes that a step would move: what stays where it is needs no ghost. */
function ghostOf(before: Character, after: Character): Ghost[] | null {
  if (before.nodes === after.nodes && before.meshes === after.meshes && before.skins === after.skins)
    return null;
  const back = new Map<number, number>();
  nodesAfter(before, after).forEach((to, from) => {
    if (to >= 0) back.set(to, from);
  });
  const old = new Map(placedMeshes(before).map((placed) => [placed.node, placed.points]));
  const stays = (points: Float32Array, rotation: Float32Array | undefined) =>
    !!rotation &&
    rotation.length === points.length &&
    points.every((x, i) => Math.abs(x - rotation[i]) < 1e-5);
  const moved = placedMeshes(after).filter(
    (placed) => !stays(placed.points, old.get(back.get(placed.node) ?? -1)),
  );
  return moved.length > 0
    ? moved.map((placed) => ({
        points: placed.points.slice(),
        normals: weldedNormals(placed.points, placed.mesh),
        triangles: trianglesOf(placed.mesh),
      }))
    : null;
}

/** The answer for one remedy; or the one sentence that says why not. */
export function previewOf(
  character: Character,
  remedyId: string,
  params: Params,
  brief: Brief,
): PreviewAnswer {
  try {
    const remedy = remedyById(remedyId);
    if (!remedy) throw new Error('The remedy is not known; reload the page.');
    const checked = checkedBy(remedy.params, params) as Params;
    const { rows, effects, after } = previewRemedy(remedy, character, checked, brief);
    return { rows, effects, ghost: ghostOf(character, after) };
  } catch (error) {
    return { refused: error instanceof Error ? error.message : String(error) };
  }
}

/** The answer to go to another thread: its shapes are handed over, not copied. */
export function handedOver(answer: PreviewAnswer): PreviewAnswer {
  const ghosts = 'rows' in answer ? (answer.ghost ?? []) : [];
  return transfer(
    answer,
    ghosts.flatMap(
      ({ points, normals, triangles }) => [points.buffer, normals.buffer, triangles.buffer] as ArrayBuffer[],
    ),
  );
}

/**
 * The same for many calls as one step, with the patches that make it and what is left: over the findings of a kind,
 * or over what a person has chosen.
 */
export function previewOfMany(
  base: Character,
  calls: readonly RemedyCall[],
  of: Pick<Finding, 'check' | 'gravity'> | null,
  brief: Brief,
): ManyPreview {
  try {
    const { rows, effects, patches, left, character } = of
      ? previewForKind(base, calls, of, brief)
      : previewForMany(base, calls, brief);
    return {
      rows,
      effects,
      ghost: ghostOf(base, character),
      bundle: packPatches(patches),
      done: patches.length,
      left,
    };
  } catch (error) {
    return { refused: error instanceof Error ? error.message : String(error) };
  }
}
