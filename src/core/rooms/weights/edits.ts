/** What the remedies that edit weights share: which points they are done to, which bones are locked, who takes what is left over. */
import { ancestorsOf, childrenOf, restPlace } from '../../character/hierarchy';
import { placedMeshes } from '../../character/measure';
import { type Character, type Mesh, replaceAt } from '../../character/model';
import { pointsOf } from '../../character/points';
import { PointWeights, pointsOfVertices, withJoint } from '../../character/point-weights';
import { elementsTo, refsTo } from '../../contracts/params';
import { NothingToDo, type Promised, RemedyError, type Row, promise } from '../../contracts/remedy';
import { type BoneSegment, squaredToSegment } from '../../geometry/heat-weights';
import { type EditRules, type WeightShares, normalisedShares } from '../../geometry/row-edits';

/** Points or polygons of one mesh, as a parameter holds them. */
export type PointChoice = readonly { readonly node: number; readonly ids: ArrayLike<number> }[];

/** All vertices of the meshes that some nodes show. */
export const wholeMeshes = ({ nodes, meshes }: Character, shown: readonly number[]): PointChoice =>
  shown.map((node) => ({
    node,
    ids: new Uint32Array(meshes[nodes[node].mesh].vertexCount).map((_, vertex) => vertex),
  }));

/** The parameter that names the points. */
export const chosenPoints = () => elementsTo('vertices', 'Points').required();

/** The parameter that names bones whose weights must stay. */
export const lockedBones = () => refsTo('bone', 'Locked bones').default([]);

/** A mesh that is bound, by the node that shows it. Throws RemedyError where it is not. */
export function boundMesh(character: Character, node: number) {
  const {
    mesh: meshIndex,
    skin: skinIndex,
    name,
  } = character.nodes[node] ?? { mesh: -1, skin: -1, name: '' };
  const mesh = character.meshes[meshIndex];
  const skin = character.skins[skinIndex];
  if (!mesh?.influences || !skin)
    throw new RemedyError(`“${name || `node ${node}`}” is not bound to bones; bind it first.`);
  return { mesh, skin, meshIndex, skinIndex };
}

/** The joint that takes what nobody else can: the nearest bone above one that the skin lists and that is not locked; −1 for none. */
export function jointAbove(
  character: Character,
  skinIndex: number,
  bone: number,
  locked: ReadonlySet<number>,
): number {
  const { joints } = character.skins[skinIndex];
  for (const ancestor of ancestorsOf(character.nodes, bone)) {
    const joint = joints.indexOf(ancestor);
    if (joint >= 0 && !locked.has(joint)) return joint;
  }
  return -1;
}

/** What an edit of one mesh knows. */
export interface MeshEdit {
  readonly character: Character;
  readonly node: number;
  readonly mesh: Mesh;
  readonly weights: PointWeights;
  /** Joint of every bone that was asked for, in their order. */
  readonly joints: readonly number[];
  readonly locked: ReadonlySet<number>;
}

/** What a remedy does to the rows of a mesh. */
export interface RowEdit {
  /** Bones that the edit names; those that no skin lists are taken in. */
  readonly bones?: readonly number[];
  readonly locked?: readonly number[];
  /** Said where nothing has changed. */
  readonly nothing: string;
  /** Gives the points of a mesh their new rows. */
  edit(mesh: MeshEdit, points: readonly number[]): void;
}

/** Edits the rows of chosen points, mesh by mesh. Throws NothingToDo where no row has changed. */
export function withEditedRows(
  character: Character,
  chosen: PointChoice,
  { bones = [], locked = [], nothing, edit }: RowEdit,
): Character {
  let now = character;
  let changed = 0;
  const byNode = new Map<number, number[]>();
  for (const { node, ids } of chosen) byNode.set(node, [...(byNode.get(node) ?? []), ...Array.from(ids)]);
  for (const [node, vertices] of byNode) {
    const { mesh, meshIndex, skinIndex } = boundMesh(now, node);
    const joints = bones.map((bone) => {
      const [listed, joint] = withJoint(now, skinIndex, bone);
      now = listed;
      return joint;
    });
    const own = now.skins[skinIndex].joints;
    const lockedJoints = new Set(locked.map((bone) => own.indexOf(bone)).filter((joint) => joint >= 0));
    const weights = new PointWeights(mesh);
    edit(
      { character: now, node, mesh, weights, joints, locked: lockedJoints },
      pointsOfVertices(mesh, vertices),
    );
    if (weights.changed === 0) continue;
    changed += weights.changed;
    now = { ...now, meshes: replaceAt(now.meshes, new Map([[meshIndex, weights.made()]])) };
  }
  if (changed === 0) throw new NothingToDo(nothing);
  return now;
}

/** The same where every point is changed by itself. */
export const eachRow =
  (
    bone: number,
    change: (
      row: WeightShares,
      joint: number,
      rules: EditRules,
      at: { readonly point: number; readonly mesh: MeshEdit },
    ) => WeightShares,
  ) =>
  (mesh: MeshEdit, points: readonly number[]): void => {
    const { character, node, weights, joints, locked } = mesh;
    const otherwise = jointAbove(character, character.nodes[node].skin, bone, locked);
    for (const point of points)
      weights.put(
        point,
        change(normalisedShares(weights.rowOf(point)), joints[0], { locked, otherwise }, { point, mesh }),
      );
  };

/** Weights change on what some nodes show, and on whatever shows the same meshes; a skin may list bones that it did not. */
export function promiseOfEdit(character: Character, nodes: Iterable<number>): Promised {
  const meshes = new Set([...nodes].map((node) => character.nodes[node]?.mesh ?? -1));
  return promise(['weights', 'joints', 'binds'], {
    meant: character.nodes.flatMap(({ mesh }, i) => (mesh >= 0 && meshes.has(mesh) ? [i] : [])),
  });
}

export const nodesOf = (chosen: PointChoice): number[] => [...new Set(chosen.map(({ node }) => node))];

/** A share below this moves nothing that anybody sees. */
const SEEN_SHARE = 0.01;

/** How far a place is from a bone: from the ways between its joint and those of the bones below it, metres. */
function reachOf(character: Character): (bone: number, x: number, y: number, z: number) => number {
  const { nodes } = character;
  const children = childrenOf(nodes);
  const ways = new Map<number, readonly BoneSegment[]>();
  return (bone, x, y, z) => {
    let own = ways.get(bone);
    if (!own) {
      const from = restPlace(nodes, bone);
      const below = children[bone].filter((child) => nodes[child].kind === 'bone');
      own = (below.length > 0 ? below.map((child) => restPlace(nodes, child)) : [from]).map((to) => ({
        bone,
        from,
        to,
      }));
      ways.set(bone, own);
    }
    return Math.sqrt(Math.min(...own.map((way) => squaredToSegment(way, x, y, z))));
  };
}

/**
 * What a preview tells of chosen points: how many there are, the mean share of some bones, how many bones pull them, and how far the
 * farthest of these is: an edit that gives weight to a bone far away shows there before it is done.
 */
export function rowsOfChoice(character: Character, chosen: PointChoice, bones: readonly number[]): Row[] {
  let count = 0;
  let farthest = 0;
  const reach = reachOf(character);
  const placed = new Map(placedMeshes(character).map(({ node, points }) => [node, points]));
  const sums = bones.map(() => 0);
  const pulling = new Set<number>();
  for (const node of nodesOf(chosen)) {
    const { mesh, skin } = boundMesh(character, node);
    const weights = new PointWeights(mesh);
    const joints = bones.map((bone) => skin.joints.indexOf(bone));
    const vertices = chosen.filter((some) => some.node === node).flatMap(({ ids }) => Array.from(ids));
    const points = placed.get(node);
    const { vertexOfPoint } = pointsOf(mesh);
    for (const point of pointsOfVertices(mesh, vertices)) {
      const row = normalisedShares(weights.rowOf(point));
      const at = vertexOfPoint[point] * 3;
      count++;
      for (const [joint, share] of row) {
        const bone = skin.joints[joint];
        pulling.add(bone);
        if (points && share >= SEEN_SHARE)
          farthest = Math.max(farthest, reach(bone, points[at], points[at + 1], points[at + 2]));
      }
      joints.forEach((joint, i) => {
        sums[i] += row.get(joint) ?? 0;
      });
    }
  }
  return [
    { label: 'Points', value: count, unit: 'pts' },
    ...bones.map((bone, i) => ({
      label: `Mean weight of “${character.nodes[bone]?.name ?? ''}”`,
      value: count > 0 ? Number((sums[i] / count).toPrecision(4)) : 0,
      unit: '',
    })),
    { label: 'Bones that pull them', value: pulling.size, unit: '' },
    { label: 'Farthest of these from what it pulls', value: Math.round(farthest * 1000), unit: 'mm' },
  ];
}
