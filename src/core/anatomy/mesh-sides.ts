/** Left and right of one mesh: its points where it was bound, the plane of the figure there, and every point's twin by how the faces hang together. */
import { bindsOf } from '../character/bind';
import { restWorld } from '../character/hierarchy';
import { characterHeight } from '../character/measure';
import { type Character, positionsOf } from '../character/model';
import { pointsOf } from '../character/points';
import { topologyOf } from '../character/topology';
import { pointThrough } from '../geometry/matrix';
import { type MirrorPlane, mirrorTwins } from '../geometry/mirror';
import { twinsByTopology } from '../geometry/mirror-topology';
import { asymmetryOf } from './asymmetry';

export interface MeshSides {
  /** Its normal points to the figure's left (+X). */
  readonly plane: MirrorPlane;
  /** 3 per point, world space, metres: where the mesh was bound. */
  readonly places: Float32Array;
  /** From the mesh's own space to there; 16, column-major. */
  readonly matrix: Float64Array;
  /** Of every point its twin, itself on the middle, −1 for none. */
  readonly twins: Int32Array;
}

/** Twins by place, from which the walk over the faces begins, lie within this share of the height. */
const SEED = 0.001;

const known = new WeakMap<Character, Map<string, MeshSides | null>>();

/**
 * Null where the figure is not the same on both sides of any plane. Made once for a character.
 * @param within how near a point lies to its twin's mirror image where the walk over the faces begins, metres
 * @param isByPlace only such points are twins: an audit need not walk over all faces for the few that are not
 */
export function meshSidesOf(
  character: Character,
  node: number,
  within = SEED * characterHeight(character),
  isByPlace = false,
): MeshSides | null {
  const own = known.get(character) ?? new Map<string, MeshSides | null>();
  known.set(character, own);
  const key = `${character.nodes[node].mesh} ${within} ${isByPlace}`;
  let sides = own.get(key);
  if (sides === undefined) own.set(key, (sides = makeSides(character, node, within, isByPlace)));
  return sides;
}

function makeSides(character: Character, node: number, within: number, isByPlace: boolean): MeshSides | null {
  const mesh = character.meshes[character.nodes[node].mesh];
  const { plane } = asymmetryOf(character, within);
  if (!plane) return null;
  const { skin } = character.nodes[node];
  const matrix =
    skin >= 0 ? bindsOf(character)[skin].common : restWorld(character.nodes).slice(node * 16, node * 16 + 16);
  const { pointCount, vertexOfPoint } = pointsOf(mesh);
  const own = positionsOf(mesh);
  const places = new Float32Array(pointCount * 3);
  for (let point = 0; point < pointCount; point++) {
    const at = vertexOfPoint[point] * 3;
    places.set(pointThrough(matrix, [own[at], own[at + 1], own[at + 2]]), point * 3);
  }
  const facing: MirrorPlane =
    plane.normal[0] < 0
      ? { normal: [-plane.normal[0], -plane.normal[1], -plane.normal[2]], offset: -plane.offset }
      : plane;
  const near = mirrorTwins(places, facing, within);
  const twins = isByPlace ? near : twinsByTopology(topologyOf(mesh).halfEdges, near);
  return { plane: facing, places, matrix, twins };
}
