/** Rows of weights put on meshes: those that are not bound yet become so, as they stand at rest. */
import { restWorld } from '../../character/hierarchy';
import { type Character, type Mesh, type Skin, replaceAt } from '../../character/model';
import { withJoint } from '../../character/point-weights';
import { pointsOf } from '../../character/points';
import { influencesFrom } from '../../geometry/influences';
import { inverseOr, times } from '../../geometry/matrix';
import type { WeightShares } from '../../geometry/row-edits';

/**
 * @param bones nodes; the joints of the rows are places in this list
 * @param rows of every node 1 per point of its mesh
 */
export function withBoundRows(
  character: Character,
  bones: readonly number[],
  rows: ReadonlyMap<number, readonly WeightShares[]>,
): Character {
  let now = character;
  for (const [node, own] of rows) now = withRowsOn(now, node, bones, own);
  return now;
}

function withRowsOn(
  character: Character,
  node: number,
  bones: readonly number[],
  rows: readonly WeightShares[],
): Character {
  const used = new Set(rows.flatMap((row) => [...row.keys()]));
  const wanted = bones.filter((_, i) => used.has(i));
  const { skin: skinIndex, mesh: meshIndex } = character.nodes[node];
  const mesh = character.meshes[meshIndex];
  let now = character;
  let skin = skinIndex;
  if (skin >= 0 && mesh.influences) for (const bone of wanted) [now] = withJoint(now, skin, bone);
  else [now, skin] = withNewSkin(now, node, wanted);
  const { joints } = now.skins[skin];
  const jointOf = bones.map((bone) => joints.indexOf(bone));
  const { pointOfVertex } = pointsOf(mesh);
  const influences = influencesFrom(
    Array.from(pointOfVertex, (point) =>
      [...rows[point]].map(([bone, share]): [number, number] => [jointOf[bone], share]),
    ),
  );
  return withMeshOfNode(now, node, { ...mesh, influences }, skin);
}

/** A skin of these bones, bound as the node stands at rest. */
function withNewSkin(character: Character, node: number, joints: readonly number[]): [Character, number] {
  const world = restWorld(character.nodes);
  const own = world.slice(node * 16, node * 16 + 16);
  const inverseBinds = new Float64Array(joints.length * 16);
  joints.forEach((joint, i) => inverseBinds.set(times(inverseOr(world, joint * 16), own), i * 16));
  const skin: Skin = { name: character.nodes[node].name, joints, inverseBinds };
  return [{ ...character, skins: [...character.skins, skin] }, character.skins.length];
}

/** The node shows this mesh; another that shows the one before keeps it. */
function withMeshOfNode(character: Character, node: number, mesh: Mesh, skin: number): Character {
  const { mesh: index, skin: before } = character.nodes[node];
  const isAlone = character.nodes.every(
    (user, i) => i === node || user.mesh !== index || user.skin === before,
  );
  const isSkinned = before === skin;
  const at = isAlone || isSkinned ? index : character.meshes.length;
  const meshes =
    at === index ? replaceAt(character.meshes, new Map([[index, mesh]])) : [...character.meshes, mesh];
  const changed = new Map(
    character.nodes.flatMap((user, i) =>
      i === node || (at === index && user.mesh === index) ? [[i, { ...user, mesh: at, skin }] as const] : [],
    ),
  );
  return { ...character, meshes, nodes: replaceAt(character.nodes, changed) };
}
