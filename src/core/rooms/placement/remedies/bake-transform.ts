import { object } from 'yup';
import { refTo } from '../../../contracts/params';
import { RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { childrenOf, localOf } from '../../../character/hierarchy';
import { type Character, type SceneNode, replaceAt } from '../../../character/model';
import { withLocal } from '../../../character/rehang';
import { type Vec3, composeMatrix, decompose, inverseOr, times } from '../../../geometry/matrix';
import { bakedMesh } from '../../../character/baked';

const degrees = (rotation: readonly number[]) =>
  (2 * Math.acos(Math.min(1, Math.abs(rotation[3]))) * 180) / Math.PI;

/**
 * What stays on the node: its place for a rigid mesh, whose pivot it is; nothing for a bound one, whose node
 * does not count.
 */
function left(node: SceneNode): Vec3 {
  return node.skin >= 0 ? [0, 0, 0] : decompose(localOf(node)).translation;
}

/**
 * Puts rotation and scale of one mesh node into its points (normals, tangents and winding follow) and leaves
 * the node unturned. What hangs below it keeps its place. The node of a bound mesh is set to nothing: glTF
 * 2.0 ignores it, other programs do not.
 */
export const bakeTransform = defineRemedy({
  id: 'bake-transform',
  room: 'placement',
  title: 'Bake rotation and scale',
  does: 'The mesh’s points take the node’s rotation and scale, and the node reads 0° and 1; nothing moves.',
  params: object({ node: refTo('mesh', 'Mesh') }),
  rows(character, { node }) {
    const { rotation, scale } = decompose(localOf(character.nodes[node]));
    return [
      { label: 'Rotation of the node', value: degrees(rotation), unit: '°' },
      {
        label: 'Scale of the node',
        value: scale.map((factor) => Number(factor.toPrecision(4))).join(' × '),
        unit: '×',
      },
    ];
  },
  apply(character, { node }) {
    const sceneNode = character.nodes[node];
    if (!sceneNode || sceneNode.mesh < 0)
      throw new RemedyError('There is no mesh on that node; run the audit again.');
    if (character.clips.some((clip) => clip.channels.some((ch) => ch.node === node && ch.path !== 'weights')))
      throw new RemedyError(
        `“${sceneNode.name}” is moved by a clip; what is baked would be turned again. Bake its parent, or take it out of the clip.`,
      );
    const local = localOf(sceneNode);
    const place = left(sceneNode);
    const stays = composeMatrix(place, [0, 0, 0, 1], [1, 1, 1]);
    const into = times(inverseOr(stays), local);
    const changed = new Map<number, SceneNode>();
    for (const child of childrenOf(character.nodes)[node])
      changed.set(child, withLocal(character.nodes[child], times(into, localOf(character.nodes[child]))));
    const { matrix: _matrix, ...rest } = sceneNode;
    const meshes = [...character.meshes];
    let mesh = sceneNode.mesh;
    if (sceneNode.skin < 0 || !character.meshes[sceneNode.mesh].influences) {
      const baked = bakedMesh(character.meshes[sceneNode.mesh], into);
      mesh =
        character.nodes.filter((node) => node.mesh === sceneNode.mesh).length === 1
          ? sceneNode.mesh
          : meshes.push(baked) - 1;
      meshes[mesh] = baked;
    }
    changed.set(node, { ...rest, mesh, translation: place, rotation: [0, 0, 0, 1], scale: [1, 1, 1] });
    return followBake(
      { ...character, meshes, nodes: replaceAt(character.nodes, changed) },
      character,
      changed,
      node,
    );
  },
  promises: () => promise(['places', 'points', 'shading', 'polygons', 'morphs', 'shows']),
});

/** Clips of the children whose place is counted from the node: through what was baked, as their rest. */
function followBake(
  after: Character,
  before: Character,
  changed: ReadonlyMap<number, SceneNode>,
  node: number,
): Character {
  if (
    !before.clips.some((clip) =>
      clip.channels.some((ch) => changed.has(ch.node) && ch.node !== node && ch.path !== 'weights'),
    )
  )
    return after;
  const name = before.nodes[node].name;
  throw new RemedyError(
    `What hangs under “${name}” is moved by a clip; bake the scale of “${name}” instead, which takes clips along.`,
  );
}
