import { childrenOf, topDown } from '../../character/hierarchy';
import { bodyNodes } from '../../character/measure';
import type { Character, JsonObject } from '../../character/model';

export type Belonging = 'body' | 'prop' | 'bone' | 'holder' | 'stray';

/** Why a node belongs to nobody. */
export type StrayKind = 'empty node' | 'camera' | 'light' | 'hidden leftover' | 'mesh without polygons';

/** What every node of a scene belongs to, and which of them stray. */
export interface SceneGroup {
  readonly of: readonly Belonging[];
  readonly strays: ReadonlyMap<number, StrayKind>;
}

const isHidden = (extensions: JsonObject | undefined) =>
  (extensions?.KHR_node_visibility as JsonObject | undefined)?.visible === false;

/**
 * What every node is to the character: body (bound to bones), prop (a mesh that hangs on a bone or stands
 * beside a body), bone, holder (something hangs on it that counts) or stray (belongs to nobody).
 */
export function sceneOf(character: Character): SceneGroup {
  const { nodes, meshes } = character;
  const children = childrenOf(nodes);
  const strays = new Map<number, StrayKind>();
  const body = new Set(bodyNodes(character));
  const order = topDown(nodes);
  const hidden = new Uint8Array(nodes.length);
  for (const i of order) {
    const { parent, extensions } = nodes[i];
    if (isHidden(extensions) || (parent >= 0 && hidden[parent] === 1)) hidden[i] = 1;
  }
  const of = nodes.map((node, i): Belonging => {
    if (node.kind === 'bone') return 'bone';
    const stray = (kind: StrayKind): Belonging => {
      strays.set(i, kind);
      return 'stray';
    };
    if (hidden[i] === 1) return stray('hidden leftover');
    if (node.mesh >= 0) {
      if (
        meshes[node.mesh].polygonOffsets.length < 2 &&
        meshes[node.mesh].pieces.every((piece) => !piece.carriedIndices?.length)
      )
        return stray('mesh without polygons');
      return body.has(i) ? 'body' : 'prop';
    }
    if (node.kind === 'camera') return stray('camera');
    if (node.kind === 'light') return stray('light');
    return 'holder';
  });
  // A holder with nothing below it that counts is an empty node; from the leaves up.
  const counts = of.map((belonging) => belonging !== 'holder' && belonging !== 'stray');
  for (const i of order.reverse()) {
    if (children[i].some((child) => counts[child])) counts[i] = true;
    if (of[i] !== 'holder' || counts[i]) continue;
    of[i] = 'stray';
    strays.set(i, 'empty node');
  }
  return { of, strays };
}

/**
 * What is left over from a bind that is gone: skins and meshes that nothing shows, weights of meshes without
 * a skin.
 */
export function leftoverData(character: Character): {
  readonly skins: readonly number[];
  readonly meshes: readonly number[];
  readonly influences: readonly number[];
} {
  const used = (list: 'mesh' | 'skin', i: number) => character.nodes.some((node) => node[list] === i);
  return {
    skins:
      character.meshes.length === 0 ? [] : character.skins.flatMap((_, i) => (used('skin', i) ? [] : [i])),
    meshes: character.meshes.flatMap((_, i) => (used('mesh', i) ? [] : [i])),
    influences: character.meshes.flatMap((mesh, i) =>
      mesh.influences && used('mesh', i) && !character.nodes.some((node) => node.mesh === i && node.skin >= 0)
        ? [i]
        : [],
    ),
  };
}
