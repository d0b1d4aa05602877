import type { Character, ElementSet, ElementsOf, Influences, Mesh, SceneNode, Skin } from './model';
import { topDown } from './hierarchy';

/**
 * What every reader guarantees and every remedy keeps. Gives one sentence for each law that is broken; an
 * empty list means that the kernels may run without looking.
 */
export function brokenInvariants(character: Character): string[] {
  const out: string[] = [];
  const say: Say = (sentence) => {
    if (out.length < 50) out.push(sentence);
  };
  character.nodes.forEach((node, i) => sayOfNode(character, node, i, say));
  if (
    character.nodes.every((node) => within(node.parent, character.nodes.length)) &&
    topDown(character.nodes).length !== character.nodes.length
  )
    say('the nodes hold a cycle');
  character.meshes.forEach((mesh, i) => sayOfMesh(mesh, i, say));
  character.skins.forEach((skin, i) => sayOfSkin(character, skin, i, say));
  character.clips.forEach((clip, i) =>
    clip.channels.forEach((ch, k) => {
      if (!within(ch.node, character.nodes.length) || ch.node < 0)
        say(`clip ${i} channel ${k} names node ${ch.node}`);
    }),
  );
  character.sets.forEach((set) => sayOfSet(character, set, say));
  return out;
}

function sayOfSet(character: Character, { name, bones, vertices, polygons }: ElementSet, say: Say): void {
  if (bones.some((bone) => !character.nodes[bone])) say(`the set “${name}” names a node that is not there`);
  const sayOf = (list: readonly ElementsOf[], countOf: (mesh: Mesh) => number) => {
    for (const { node, ids } of list) {
      const mesh = character.meshes[character.nodes[node]?.mesh];
      if (!mesh) say(`the set “${name}” names node ${node}, which shows no mesh`);
      else if (ids.some((id) => id >= countOf(mesh)))
        say(`the set “${name}” names more than the mesh of node ${node} has`);
    }
  };
  sayOf(vertices, (mesh) => mesh.vertexCount);
  sayOf(polygons, (mesh) => mesh.polygonOffsets.length - 1);
}

type Say = (sentence: string) => void;

const within = (i: number, count: number) => Number.isInteger(i) && i >= -1 && i < count;

function sayOfNode(character: Character, node: SceneNode, i: number, say: Say): void {
  if (!within(node.parent, character.nodes.length)) say(`node ${i} names parent ${node.parent}`);
  if (!within(node.mesh, character.meshes.length)) say(`node ${i} names mesh ${node.mesh}`);
  if (!within(node.skin, character.skins.length)) say(`node ${i} names skin ${node.skin}`);
  const numbers = node.matrix ?? [...node.translation, ...node.rotation, ...node.scale];
  if (!numbers.every(Number.isFinite)) say(`node ${i} has a number that is not finite`);
  const influences = node.mesh >= 0 && node.skin >= 0 ? character.meshes[node.mesh]?.influences : null;
  if (!influences) return;
  const joints = character.skins[node.skin]?.joints.length ?? 0;
  const beyond = influences.joint.findIndex((j) => j >= joints);
  if (beyond >= 0) say(`mesh of node ${i} names joint ${influences.joint[beyond]} of ${joints}`);
}

function sayOfMesh(mesh: Mesh, i: number, say: Say): void {
  const position = mesh.attributes.POSITION;
  if (!position || !(position.data instanceof Float32Array)) say(`mesh ${i} has no float positions`);
  for (const [name, attribute] of Object.entries(mesh.attributes))
    if (attribute.data.length !== attribute.size * mesh.vertexCount)
      say(`mesh ${i}: ${name} holds ${attribute.data.length} numbers for ${mesh.vertexCount} vertices`);
  const { polygonOffsets: offsets, corners } = mesh;
  if (offsets[0] !== 0 || offsets[offsets.length - 1] !== corners.length)
    say(`mesh ${i}: polygon rows do not cover the corners`);
  const thin = offsets.findIndex((end, index) => index > 0 && end - offsets[index - 1] < 3);
  if (thin >= 0) say(`mesh ${i}: polygon ${thin - 1} has fewer than three corners`);
  const beyond = corners.findIndex((corner) => corner >= mesh.vertexCount);
  if (beyond >= 0) say(`mesh ${i}: corner ${beyond} names vertex ${corners[beyond]} of ${mesh.vertexCount}`);
  if (mesh.influences) sayOfInfluences(mesh.influences, mesh.vertexCount, i, say);
  let polygons = 0;
  for (const piece of mesh.pieces) {
    if (piece.vertexStart + piece.vertexCount > mesh.vertexCount)
      say(`mesh ${i}: a piece runs past the vertices`);
    polygons += piece.polygonCount;
  }
  if (polygons !== offsets.length - 1)
    say(`mesh ${i}: pieces hold ${polygons} of ${offsets.length - 1} polygons`);
}

function sayOfInfluences(influences: Influences, vertexCount: number, i: number, say: Say): void {
  if (influences.offsets.length !== vertexCount + 1)
    say(`mesh ${i}: ${influences.offsets.length - 1} rows of influences for ${vertexCount} vertices`);
  const last = influences.offsets[influences.offsets.length - 1];
  if (
    influences.offsets[0] !== 0 ||
    last !== influences.joint.length ||
    influences.joint.length !== influences.weight.length
  )
    say(`mesh ${i}: influence rows do not cover their entries`);
  const back = influences.offsets.findIndex((end, index) => index > 0 && end < influences.offsets[index - 1]);
  if (back >= 0) say(`mesh ${i}: influence row ${back - 1} runs backwards`);
  const bad = influences.weight.findIndex((weight) => !Number.isFinite(weight));
  if (bad >= 0) say(`mesh ${i}: weight ${bad} is not finite`);
}

function sayOfSkin(character: Character, skin: Skin, i: number, say: Say): void {
  if (skin.inverseBinds.length !== skin.joints.length * 16)
    say(`skin ${i} has ${skin.inverseBinds.length / 16} inverse binds for ${skin.joints.length} joints`);
  if (new Set(skin.joints).size !== skin.joints.length) say(`skin ${i} lists a joint twice`);
  for (const j of skin.joints)
    if (j < 0 || j >= character.nodes.length) say(`skin ${i} names joint node ${j}`);
}
