import { ancestorsOf } from '../../character/hierarchy';
import { placedMeshes } from '../../character/measure';
import type { Character, Influences } from '../../character/model';

/**
 * The three ways in which something is driven twice: a bound mesh that also hangs under a node that moves; a
 * rigid part that hangs on a bone and is bound too; a surface that two nodes bind and show.
 */
export type TwiceKind = 'bound and carried' | 'rigid, hung and bound' | 'bound twice';

/** A mesh that two things move at once. */
export interface Twice {
  readonly kind: TwiceKind;
  /** The mesh's node. */
  readonly node: number;
  /** The node that moves it too, or the other node that shows the surface. */
  readonly other: number;
  /** Of a rigid part: the bone that carries all of its weight. */
  readonly bone: number;
}

/** Nodes that can move: bones, and what a clip moves. */
function movers(character: Character): boolean[] {
  const out = character.nodes.map((node) => node.kind === 'bone');
  for (const clip of character.clips)
    for (const ch of clip.channels) if (ch.path !== 'weights') out[ch.node] = true;
  return out;
}

/** The one joint that carries a mesh whole, −1 where there are several. */
function soleJoint(influences: Influences): number {
  let sole = -1;
  for (let vertex = 0; vertex + 1 < influences.offsets.length; vertex++) {
    for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++) {
      if (influences.weight[k] < 1e-4) continue;
      if (sole >= 0 && influences.joint[k] !== sole) return -1;
      sole = influences.joint[k];
    }
  }
  return sole;
}

/** The meshes that are moved twice: bound, and hung on what moves them as well. */
export function drivenTwice(character: Character): Twice[] {
  const { nodes, meshes, skins } = character;
  const moves = movers(character);
  const out: Twice[] = [];
  const bound = nodes.flatMap((node, i) =>
    node.mesh >= 0 && node.skin >= 0 && meshes[node.mesh].influences ? [i] : [],
  );
  for (const i of bound) {
    const above = [i, ...ancestorsOf(nodes, i)].find(
      (a) => moves[a] && (a !== i || nodes[a].kind !== 'bone'),
    );
    if (above === undefined) continue;
    const joint = soleJoint(meshes[nodes[i].mesh].influences as Influences);
    const rigid = joint >= 0 && nodes[above].kind === 'bone';
    out.push({
      kind: rigid ? 'rigid, hung and bound' : 'bound and carried',
      node: i,
      other: above,
      bone: joint >= 0 ? skins[nodes[i].skin].joints[joint] : -1,
    });
  }
  const placed = placedMeshes(character);
  for (let a = 0; a < placed.length; a++) {
    for (let b = a + 1; b < placed.length; b++) {
      const [otherPlaced, second] = [placed[a], placed[b]];
      if (!otherPlaced.skin || !second.skin || !sameSurface(otherPlaced.points, second.points)) continue;
      out.push({ kind: 'bound twice', node: second.node, other: otherPlaced.node, bone: -1 });
    }
  }
  return out;
}

/** Two surfaces with the same vertices at the same places at rest. */
function sameSurface(points: Float32Array, rotation: Float32Array): boolean {
  if (points.length !== rotation.length || points.length === 0) return false;
  const size = Math.max(
    ...[0, 1, 2].map((k) => Math.abs(points[k] - points[Math.floor(points.length / 6) * 3 + k])),
    1e-3,
  );
  for (let i = 0; i < points.length; i++) if (Math.abs(points[i] - rotation[i]) > size * 1e-4) return false;
  return true;
}
