/** The straight pieces that a bone is taken for when a mesh is bound to it: from its joint to those of the bones that go on from it. */
import { boneKindsOf } from '../../anatomy/bone-kinds';
import { looksOf } from '../../anatomy/looks';
import { skeletonOf } from '../../anatomy/skeleton';
import { childrenOf, parentBone, restPlace, weightOfNodes } from '../../character/hierarchy';
import { characterHeight } from '../../character/measure';
import type { Character } from '../../character/model';
import type { BoneSegment } from '../../geometry/heat-weights';
import { type Vec3, distance, dot, length, subtract } from '../../geometry/matrix';
import type { TriangleTree } from '../../geometry/triangle-tree';
import { type CarriersBrief, unweightedBones } from './kinds';

/** A bone that ends goes on in its direction to the surface, but not farther than so many times the way to its parent. */
const LONGEST_TIP = 4;

/** Where nothing says how far it goes: so much of the way to its parent. */
const BLIND_TIP = 0.6;

/** A tip stops short of the surface. */
const WITHIN = 0.85;

/** A twist bone lies no farther off the way of its limb than this share of it. */
const BESIDE = 0.12;

/**
 * The bones that a mesh may be bound to: those that deform, as the brief lets them. A bone that carries nothing yet may be just what is
 * missing, so that they are told by names and places, whatever is bound already.
 */
export function bindingBones(character: Character, brief: CarriersBrief): number[] {
  const kinds = boneKindsOf(withoutMeshes(character));
  const whyNot = unweightedBones(withoutMeshes(character), brief);
  const bones = [...kinds].flatMap(([node, { kind }]) =>
    (kind === 'deforming' || kind === 'cloth') && whyNot(node) === null ? [node] : [],
  );
  if (bones.length > 0) return bones;
  return [...kinds].flatMap(([node, { kind }]) =>
    kind !== 'control' && whyNot(node) === null ? [node] : [],
  );
}

/** Tells of bones whether they are of cloth or hair. */
export function clothBones(character: Character): (bone: number) => boolean {
  const [read, bare] = [character, withoutMeshes(character)].map(boneKindsOf);
  return (bone) => read.get(bone)?.kind === 'cloth' || bare.get(bone)?.kind === 'cloth';
}

const bare = new WeakMap<Character, Character>();

/** The figure without its meshes: what bones are for is then read off their names and places. */
function withoutMeshes(character: Character): Character {
  let made = bare.get(character);
  if (!made) {
    const nodes = character.nodes.map((node) =>
      node.mesh < 0 ? node : { ...node, mesh: -1, skin: -1, kind: 'empty' as const },
    );
    const sets = character.sets.map((set) => ({ ...set, vertices: [], polygons: [] }));
    bare.set(character, (made = { ...character, nodes, meshes: [], skins: [], sets }));
  }
  return made;
}

/** The same where no bone carries any weight yet; else the figure as it is. */
const asBare = (character: Character): Character =>
  weightOfNodes(character).some((weight) => weight > 0) ? character : withoutMeshes(character);

/**
 * The segments of bones at rest, world space, metres; `bone` of each is its place in the list.
 * @param tree the surface in which tips end
 * @param isOneSided leaves out ways to bones of the other side, that hang there by mistake
 */
export function boneSegments(
  character: Character,
  bones: readonly number[],
  tree: TriangleTree | null,
  isOneSided = false,
): BoneSegment[] {
  const { nodes } = character;
  const side = sidesOfBones(character);
  const kinds = boneKindsOf(asBare(character));
  const children = childrenOf(nodes);
  const isBound = new Set(bones);
  const placeOf = (node: number): Vec3 => restPlace(nodes, node);
  const goesOn = (node: number): number[] =>
    children[node].filter((child) => nodes[child].kind === 'bone' && isLimb(child, node));
  // Cloth that hangs on a body is no way that the body's own bone goes.
  const isLimb = (child: number, node: number) => {
    const kind = kinds.get(child)?.kind;
    if (isOneSided && (side.get(child) ?? 0) * (side.get(node) ?? 0) < 0) return false;
    return kind === 'end' || (isBound.has(child) && (kind !== 'cloth' || kinds.get(node)?.kind === 'cloth'));
  };
  return bones.flatMap((node, bone): BoneSegment[] => {
    const from = placeOf(node);
    const to = goesOn(node)
      .map(placeOf)
      .filter((place) => distance(place, from) > 1e-6);
    const twist = twistEnd(node, parentBone(nodes, node), goesOn, placeOf);
    if (to.length === 0) return [{ bone, from, to: twist ?? tipOf(character, node, from, tree) }];
    // What a twist bone on the way takes over is not the bone's any more.
    return to.filter((place) => !isBehindTwist(from, place, to)).map((place) => ({ bone, from, to: place }));
  });
}

/** −1, 0 or 1 by the side that every bone is of. */
function sidesOfBones(character: Character): Map<number, number> {
  const skeleton = skeletonOf(character);
  const { side } = looksOf(skeleton);
  return new Map(skeleton.bones.map(({ node }, i) => [node, side[i]]));
}

/** Whether another of the places lies on the way to this one. */
const isBehindTwist = (from: Vec3, place: Vec3, others: readonly Vec3[]): boolean =>
  others.some((other) => other !== place && liesOnWay(from, place, other));

function liesOnWay(from: Vec3, to: Vec3, place: Vec3): boolean {
  const way = subtract(to, from);
  const long = length(way);
  const own = subtract(place, from);
  const along = dot(way, own) / (long * long);
  if (along < 0.1 || along > 0.95) return false;
  const off = Math.sqrt(Math.max(0, dot(own, own) - (along * long) ** 2));
  return off < BESIDE * long;
}

/** A bone that ends on the way from its parent to another goes as far as the next that lies there. */
function twistEnd(
  node: number,
  parent: number,
  goesOn: (node: number) => number[],
  placeOf: (node: number) => Vec3,
): Vec3 | null {
  if (parent < 0) return null;
  const [from, own] = [placeOf(parent), placeOf(node)];
  const beyond = goesOn(parent)
    .filter((other) => other !== node && liesOnWay(from, placeOf(other), own))
    .map(placeOf)
    .sort((a, b) => distance(a, own) - distance(b, own));
  return beyond[0] ?? null;
}

/** Where a bone ends that no other goes on from: in its direction, short of the surface. */
function tipOf(character: Character, node: number, from: Vec3, tree: TriangleTree | null): Vec3 {
  const parent = parentBone(character.nodes, node);
  if (parent < 0) return from;
  const way = subtract(from, restPlace(character.nodes, parent));
  const long = length(way);
  if (long < 1e-6) return from;
  const hit = tree?.firstHit(from, way);
  const share = hit ? Math.min(LONGEST_TIP, hit.distance * WITHIN) : BLIND_TIP;
  return [from[0] + way[0] * share, from[1] + way[1] * share, from[2] + way[2] * share];
}

/** Bones that lie outside of what is to be bound: none of their pieces comes near it. */
export function bonesOutside(
  character: Character,
  bones: readonly number[],
  segments: readonly BoneSegment[],
  isInside: (x: number, y: number, z: number) => boolean,
  trees: readonly TriangleTree[],
): number[] {
  const reach = NEAR * characterHeight(character);
  const isIn = new Uint8Array(bones.length);
  for (const { bone, from, to } of segments)
    // A root on the floor stands for the whole figure, wherever the way to its child leads.
    for (const share of parentBone(character.nodes, bones[bone]) < 0 ? [0] : [0, 0.5, 1]) {
      if (isIn[bone]) break;
      const [x, y, z] = [0, 1, 2].map((k) => from[k] + (to[k] - from[k]) * share);
      if (isInside(x, y, z) || trees.some((tree) => tree.closestPoint(x, y, z, reach))) isIn[bone] = 1;
    }
  return Array.from(isIn, (flag, bone) => (flag ? -1 : bone)).filter((bone) => bone >= 0);
}

/** A bone this near a surface is at it, as a share of the height: flat wings and clothes have no inside. */
const NEAR = 0.02;
