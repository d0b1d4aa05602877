import { withLocal } from '../../character/rehang';
import { withoutBoneScales } from '../../character/bake-scale';
import { restWorld, topDown } from '../../character/hierarchy';
import { placedMeshes } from '../../character/measure';
import type { Character, Influences, Mesh, SceneNode, Skin } from '../../character/model';
import { node } from '../../character/model';
import { setsAfterNodes } from '../../character/sets';
import { type Vec3, compose, inverseOr, times } from '../../geometry/matrix';
import { limitInfluences, limitRemapped, remapInfluences, totalWeight } from '../../geometry/influences';
import { type ByExample, type ExampleTask, byExample, finish, withInfluences } from '../../motion/example';
import { type RestMoved, reshapedAtRest } from '../../motion/rest-shape';
import { type Crosswalk, arrivalOf, counterparts, hasTarget } from '../../anatomy/crosswalk';
import type { SkinBones } from '../../contracts/brief';
import { fitTarget } from './fit';
import { type Lengths, posedFor } from './mesh-mode';
import { type Skeleton, skeletonOf } from '../../anatomy/skeleton';
import { borrowedWorlds } from './borrowed';
import { carryClips } from './clips';
import { NEAR_AND_FAR, exampleWorlds, sidePlaneOf } from './poses';
import { type WeightTarget, type SpanOf, shareRows, spansOf } from './share';

/** What a remap keeps to. */
export interface RemapOptions {
  /** Most influences a vertex may keep. */
  readonly limit: number;
  /** Which of the target's bones a skin lists; all of them where nothing is said. */
  readonly skins?: SkinBones;
  /**
   * Weights by the rules alone, or solved by example so that the mesh goes as it went; by the rules where nothing is
   * said.
   */
  readonly weights?: WeightsBy;
  /** Whether the target's joints move to the mesh, or the mesh into the target's rest pose; the joints by default. */
  readonly mode?: RemapMode;
  /** In mesh mode: the lengths of the bones; kept by default. */
  readonly lengths?: Lengths;
  /**
   * In mesh mode, where lengths are kept: whether the rest shape is solved so that the mesh goes as it went, or left as
   * the weights pose it; posed by default.
   */
  readonly rest?: RestBy;
  /** Characters whose clips are examples as well, beside those that are made and its own. */
  readonly motions?: readonly Character[];
}

/** Which of the two moves to the other. */
export const REMAP_MODES = ['target', 'mesh'] as const;

export type RemapMode = (typeof REMAP_MODES)[number];

/** Where the rest shape of a mesh that is brought to another rest pose comes from. */
export const REST_BY = ['example', 'posed'] as const;

export type RestBy = (typeof REST_BY)[number];

/** Whether a move solves the rest shape: lengths that are taken over say themselves where every point is to be. */
export const isRestSolved = ({
  mode,
  lengths,
  rest,
}: Pick<RemapOptions, 'mode' | 'lengths' | 'rest'>): boolean =>
  mode === 'mesh' && lengths !== 'taken' && rest === 'example';

/** Where the weights of a remap come from. */
export const WEIGHTS_BY = ['example', 'rules'] as const;

export type WeightsBy = (typeof WEIGHTS_BY)[number];

/** What moving the weights did. */
export interface RemapReport {
  /** Sum of all weights before and after. */
  readonly weight: { readonly before: number; readonly after: number };
  readonly vertices: {
    readonly total: number;
    readonly changed: number;
    readonly trimmed: number;
    readonly unweighted: number;
  };
  /** For every mesh node of the new character, the vertices that lost an influence. */
  readonly trimmed: readonly { readonly node: number; readonly vertices: Uint32Array }[];
  /** Bones that the largest skin lists, and those of them that carry weight. */
  readonly skin: { readonly listed: number; readonly needed: number };
  /** What solving by example changed; null where it was not asked for or had nothing to do. */
  readonly example: Pick<ByExample, 'changed' | 'bones' | 'limited'> | null;
  /** How far the points moved at rest from the posed mesh, so that it goes as it went; null where they might not. */
  readonly rest: RestMoved | null;
  readonly notes: readonly string[];
}

/** A character on its new skeleton, and what became of every bone. */
export interface Remapped {
  readonly character: Character;
  /** For every node of the new character, the node of the old one that it stands for; −1 for none. */
  readonly sourceNodeOf: Int32Array;
  /** The same without clips, every skin listing all bones. */
  readonly withoutClips: Character;
  /**
   * What its motion is taken from: the character as it was, or as it stands in the target's rest pose; its nodes are
   * those of the old one.
   */
  readonly motionSource: Character;
  /** What it is held against: the character as it was, or the driver where that has other lengths. */
  readonly reference: Character;
  /** Whether points could move at rest: where the mesh was brought to another rest pose and keeps its lengths. */
  readonly isRestFree: boolean;
  readonly report: RemapReport;
}

/**
 * Moves every vertex group from the skeleton a character has to the target's: the target's joints move to
 * the mesh, or the mesh is first brought to the target's rest pose. influences(V×S) · M(S×T), rows of M sum
 * to 1, those of shares by vertex; then limit and normalise, or weights by example. The mesh stays where it
 * is at rest. Kept bones, props, lights and cameras are hung where their parents' counterparts are; clips
 * are carried over so that the mesh goes as it went.
 */
export const remap = (
  character: Character,
  target: Skeleton,
  crosswalk: Crosswalk,
  options: RemapOptions,
): Remapped => finish(remapping(character, target, crosswalk, options));

/** The same, bit by bit: yields how much is done, 0 … 1; whoever drives it may stop at any such moment. */
export function* remapping(
  as: Character,
  target: Skeleton,
  crosswalk: Crosswalk,
  options: RemapOptions,
): Generator<number, Remapped> {
  checkLength(skeletonOf(as), crosswalk);
  // The target's joints have no scale: what stood scaled by its ancestors keeps its size by its points first.
  const given = withoutBoneScales(as);
  const lengths = options.lengths ?? 'kept';
  const character = options.mode === 'mesh' ? posedFor(given, target, crosswalk, lengths) : given;
  const rules = byRules(character, target, crosswalk, options.limit);
  const reference = lengths === 'taken' ? character : given;
  const isRestFree = isRestSolved(options);
  const solved =
    options.weights === 'example' || isRestFree
      ? yield* solve({ source: character, reference, isRestFree }, crosswalk, rules, options)
      : null;
  const { sourceNodeOf, newOf, moved } = rules;
  const shell = solved ? solvedShell(rules.shell, solved) : rules.shell;
  const motionSource = solved ? withRestOf(character, shell, sourceNodeOf, solved.shapes) : character;
  const { skins, meshes, skin } = packSkins(rules, shell, options.skins ?? 'whole');
  const packed = { ...shell, skins, meshes };
  const { trimmed } = moved.report;
  return {
    character: {
      ...packed,
      clips: carryClips(motionSource, packed, sourceNodeOf, newOf, trimmed, reference),
    },
    sourceNodeOf,
    withoutClips: shell,
    motionSource,
    reference: lengths === 'taken' ? motionSource : given,
    isRestFree,
    report: {
      ...moved.report,
      skin,
      example: solved && solved.changed > 0 ? told(solved) : null,
      rest: solved?.rest ?? null,
      notes: rules.notes,
    },
  };
}

const told = ({ changed, bones, limited }: ByExample): RemapReport['example'] => ({
  changed,
  bones,
  limited,
});

/** The character on its new bones with the weights and the rest shape that were solved for. */
function solvedShell(shell: Character, { influences, shapes }: ByExample): Character {
  const meshes = shell.meshes.map((mesh, i) => reshapedAtRest(mesh, shapes.get(i)));
  return withInfluences({ ...shell, meshes }, influences);
}

/** The driver with the same rest shape as the character on its new bones. */
function withRestOf(
  motionSource: Character,
  shell: Character,
  sourceNodeOf: Int32Array,
  shapes: ByExample['shapes'],
): Character {
  if (shapes.size === 0) return motionSource;
  const meshes = [...motionSource.meshes];
  shell.nodes.forEach(({ mesh }, index) => {
    const own = sourceNodeOf[index] >= 0 ? motionSource.nodes[sourceNodeOf[index]].mesh : -1;
    const places = shapes.get(mesh);
    if (places && own >= 0) meshes[own] = reshapedAtRest(motionSource.meshes[own], places);
  });
  return { ...motionSource, meshes };
}

/** A character on its new bones by the rules alone; every skin lists all of them. */
interface Ruled {
  readonly shell: Character;
  readonly sourceNodeOf: Int32Array;
  readonly newOf: Int32Array;
  readonly boneCount: number;
  readonly moved: MovedInfluences;
  readonly notes: readonly string[];
}

function checkLength({ bones }: Skeleton, { length }: Crosswalk): void {
  if (length !== bones.length)
    throw new Error(
      `The crosswalk has ${length} rules for ${bones.length} bones; make it anew for this skeleton.`,
    );
}

function byRules(character: Character, target: Skeleton, crosswalk: Crosswalk, limit: number): Ruled {
  const source = skeletonOf(character);
  const notes: string[] = [];
  const rebuilt = rebuildNodes(character, source, target, crosswalk, notes);
  const { nodes, newOf, boneNode, keptNode, sourceNodeOf } = rebuilt;
  const arrivals = arrivalNodes(source, target, crosswalk, rebuilt);
  const listed = [...boneNode, ...keptNode.filter((node) => node >= 0)];
  const world = restWorld(nodes);
  const placeOf = (bone: number): Vec3 => {
    const offset = boneNode[bone] * 16 + 12;
    return [world[offset], world[offset + 1], world[offset + 2]];
  };
  const spanOf = spansOf(target, crosswalk, placeOf);
  const moved = moveInfluences(character, source, rebuilt, arrivals, listed, spanOf, limit);
  if (moved.groups.length === 0 && character.skins.length > 0)
    moved.groups.push({ skin: 0, mesh: -1, busy: new Uint8Array(listed.length).fill(1) });
  const oneRoot =
    target.bones.filter((bone) => bone.parent < 0).length === 1 &&
    keptNode.every((node) => node < 0 || underBone(nodes, node, boneNode[0]));
  const skins = moved.groups.map(({ skin }): Skin => {
    const { skeleton: _skeleton, ...rest } = character.skins[skin];
    const inverseBinds = bindsFor(character, character.skins[skin], listed, world, sourceNodeOf);
    return { ...rest, joints: listed, inverseBinds, ...(oneRoot ? { skeleton: boneNode[0] } : {}) };
  });
  const shell = shellOf(character, { nodes, meshes: moved.meshes, skins }, newOf, boneNode);
  return { shell, sourceNodeOf, newOf, boneCount: boneNode.length, moved, notes };
}

/** Weights by example, where any motion tells. */
function* solve(
  {
    source,
    reference,
    isRestFree,
  }: Pick<ExampleTask, 'source' | 'isRestFree'> & { readonly reference: Character },
  crosswalk: Crosswalk,
  { shell, sourceNodeOf, moved }: Ruled,
  { limit, weights, motions = [] }: RemapOptions,
): Generator<number, ByExample | null> {
  const rules = new Map([...moved.arrives].map(([node, rows]) => [node, rows()]));
  const solved = yield* byExample({
    source,
    reference,
    target: shell,
    sourceNodeOf,
    rules,
    trimmed: moved.report.trimmed,
    worlds: [
      ...exampleWorlds(reference, crosswalk, isRestFree ? NEAR_AND_FAR : undefined),
      ...motions.flatMap((motion) => borrowedWorlds(motion, reference)),
    ],
    limit,
    areWeightsKept: weights !== 'example',
    isRestFree,
    plane: isRestFree ? sidePlaneOf(source) : null,
  });
  return solved.changed > 0 || isRestFree ? solved : null;
}

/** Skins that list all of the target's bones, or those that a mesh needs; bones that came along only where needed. */
function packSkins(
  { boneCount, moved }: Ruled,
  shell: Character,
  bones: SkinBones,
): Pick<Character, 'skins' | 'meshes'> & Pick<RemapReport, 'skin'> {
  const meshes = [...shell.meshes];
  let largest = { listed: 0, needed: 0 };
  const skins = moved.groups.map((group, i): Skin => {
    const skin = shell.skins[i];
    const busy = meshes[group.mesh]?.influences ? busyOf(meshes[group.mesh], skin) : group.busy;
    const on = skin.joints.flatMap((_n, k) => (busy[k] || (bones === 'whole' && k < boneCount) ? [k] : []));
    const packed = on.length > 0 ? on : skin.joints.map((_n, k) => k);
    const needed = packed.filter((k) => busy[k]).length;
    if (packed.length > largest.listed) largest = { listed: packed.length, needed };
    if (meshes[group.mesh]?.influences)
      meshes[group.mesh] = withJointsOf(meshes[group.mesh], packed, skin.joints.length);
    const inverseBinds = new Float64Array(packed.length * 16);
    packed.forEach((k, at) => inverseBinds.set(skin.inverseBinds.subarray(k * 16, k * 16 + 16), at * 16));
    return { ...skin, joints: packed.map((k) => skin.joints[k]), inverseBinds };
  });
  return { skins, meshes, skin: largest };
}

/** 1 for every joint of a skin that carries weight in a mesh. */
function busyOf({ influences }: Mesh, { joints }: Skin): Uint8Array {
  const busy = new Uint8Array(joints.length);
  for (const j of influences?.joint ?? []) busy[j] = 1;
  return busy;
}

/** Node of the new character at which the weight of every source bone arrives. */
function arrivalNodes(
  source: Skeleton,
  target: Skeleton,
  crosswalk: Crosswalk,
  { boneNode, keptNode }: Rebuilt,
): number[] {
  const meets = (bone: number) => hasTarget(crosswalk[bone]);
  const keptAbove = (bone: number): number | undefined => {
    if (meets(bone)) return undefined;
    for (
      let ancestor = source.bones[bone].parent;
      ancestor >= 0 && !meets(ancestor);
      ancestor = source.bones[ancestor].parent
    )
      if (keptNode[ancestor] >= 0) return keptNode[ancestor];
    return undefined;
  };
  return source.bones.map((_, index) => {
    if (keptNode[index] >= 0) return keptNode[index];
    return keptAbove(index) ?? boneNode[arrivalOf(source, target, crosswalk, index)];
  });
}

/**
 * A mesh and the skin that it had: they get one skin of their own, which lists only the bones that carry
 * something in it.
 */
interface SkinGroup {
  readonly skin: number;
  mesh: number;
  /** 1 for every listed bone that carries weight in the mesh. */
  readonly busy: Uint8Array;
}

interface MovedInfluences {
  readonly meshes: readonly Mesh[];
  readonly groups: SkinGroup[];
  /** By mesh node of the new character: its weights by the rules before any limit, joints being listed bones. */
  readonly arrives: ReadonlyMap<number, () => Influences>;
  readonly report: Omit<RemapReport, 'notes' | 'skin' | 'example' | 'rest'>;
}

/**
 * Sends the weights of every bound mesh to the listed bones, limits and normalises them. Points nodes at
 * their new skins.
 */
function moveInfluences(
  character: Character,
  source: Skeleton,
  { nodes, newOf }: Rebuilt,
  arrivals: readonly number[],
  listed: readonly number[],
  spanOf: SpanOf | null,
  limit: number,
): MovedInfluences {
  const boneOfNode = new Map(source.bones.map((bone, index) => [bone.node, index]));
  const slot = new Map(listed.map((node, k) => [node, k]));
  const weight = { before: 0, after: 0 };
  const vertices = { total: 0, changed: 0, trimmed: 0, unweighted: 0 };
  const trimmed: { node: number; vertices: Uint32Array }[] = [];
  const meshes: Mesh[] = [...character.meshes];
  const groups: SkinGroup[] = [];
  const groupOf = new Map<string, number>();
  const arrives = new Map<number, () => Influences>();
  character.nodes.forEach((node, i) => {
    const mesh = node.mesh >= 0 ? character.meshes[node.mesh] : null;
    if (!mesh?.influences || node.skin < 0) return;
    const key = `${node.skin}:${node.mesh}`;
    const known = groupOf.get(key);
    if (known !== undefined) {
      nodes[newOf[i]] = { ...nodes[newOf[i]], skin: known, mesh: groups[known].mesh };
      return;
    }
    // A mesh that two skins share is doubled, since its rows name the joints of one of them.
    const at = meshes[node.mesh] === mesh ? node.mesh : meshes.push(mesh) - 1;
    const busy = new Uint8Array(listed.length);
    const group = groups.push({ skin: node.skin, mesh: at, busy }) - 1;
    groupOf.set(key, group);
    nodes[newOf[i]] = { ...nodes[newOf[i]], skin: group, mesh: at };
    const sent = character.skins[node.skin].joints.map((j): WeightTarget => {
      const bone = boneOfNode.get(j) as number;
      const at = slot.get(arrivals[bone]) as number;
      return { to: at, span: spanOf?.(bone, at) };
    });
    const to = sent.map((arrival) => arrival.to);
    const isShared = sent.some((arrival) => arrival.span);
    const rows = () =>
      isShared
        ? sharedRows(character, i, sent, limit)
        : remapInfluences(mesh.influences as Influences, to, listed.length);
    arrives.set(newOf[i], rows);
    const limited = isShared
      ? limitInfluences(rows(), limit)
      : limitRemapped(mesh.influences, to, listed.length, limit);
    const influences = limited.influences;
    weight.before += totalWeight(mesh.influences);
    weight.after += totalWeight(influences);
    vertices.total += mesh.vertexCount;
    vertices.changed += isShared
      ? countShared(mesh.influences, sent)
      : changedRows(mesh.influences, influences, to);
    vertices.trimmed += limited.trimmed.length;
    for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
      if (influences.offsets[vertex + 1] === influences.offsets[vertex]) vertices.unweighted++;
    for (let k = 0; k < influences.joint.length; k++) busy[influences.joint[k]] = 1;
    trimmed.push({ node: newOf[i], vertices: limited.trimmed });
    meshes[at] = { ...mesh, influences };
  });
  return { meshes, groups, arrives, report: { weight, vertices, trimmed } };
}

/**
 * Inverse binds (16 per joint) that leave the mesh where it is: a joint with a counterpart takes that one's
 * bind.
 */
function bindsFor(
  character: Character,
  skin: Skin,
  joints: readonly number[],
  newWorld: Float64Array,
  sourceNodeOf: Int32Array,
): Float64Array {
  const oldWorld = restWorld(character.nodes);
  const out = new Float64Array(joints.length * 16);
  joints.forEach((joint, k) => {
    const own = sourceNodeOf[joint] >= 0 ? Math.max(0, skin.joints.indexOf(sourceNodeOf[joint])) : 0;
    const bind = times(oldWorld, skin.inverseBinds, skin.joints[own] * 16, own * 16);
    out.set(times(inverseOr(newWorld, joint * 16), bind), k * 16);
  });
  return out;
}

/** The mesh with its rows counting in a skin that lists only `packed` of all the listed bones. */
function withJointsOf(mesh: Mesh, packed: readonly number[], listedCount: number): Mesh {
  const influences = mesh.influences as Influences;
  const place = new Uint16Array(listedCount);
  packed.forEach((k, slotInSkin) => {
    place[k] = slotInSkin;
  });
  const joint = new Uint16Array(influences.joint.length);
  for (let k = 0; k < joint.length; k++) joint[k] = place[influences.joint[k]];
  const storage = mesh.influenceStorage;
  return {
    ...mesh,
    influences: { ...influences, joint },
    influenceStorage: storage && { ...storage, joints: packed.length > 256 ? 'u16' : 'u8' },
  };
}

/** The character on its new nodes, before its clips: sets and scenes name what is there now. */
function shellOf(
  character: Character,
  made: Pick<Character, 'nodes' | 'meshes' | 'skins'>,
  newOf: Int32Array,
  boneNode: readonly number[],
): Character {
  const { scenes, scene } = character.carried;
  const { nodes } = made;
  const newRoots = nodes.flatMap((node, i) => (node.parent < 0 && boneNode.includes(i) ? [i] : []));
  const rootsOf = (oneScene: (typeof scenes)[number]) => [
    ...oneScene.roots.map((root) => newOf[root]).filter((root) => root >= 0 && nodes[root].parent < 0),
    ...(oneScene === scenes[Math.max(0, scene)] ? newRoots : []),
  ];
  return {
    ...character,
    ...made,
    clips: [],
    sets: setsAfterNodes(character.sets, newOf),
    carried: {
      ...character.carried,
      scenes: scenes.map((scene) => ({ ...scene, roots: [...new Set(rootsOf(scene))] })),
    },
  };
}

function underBone(nodes: readonly SceneNode[], node: number, root: number): boolean {
  for (let ancestor = nodes[node].parent; ancestor >= 0; ancestor = nodes[ancestor].parent)
    if (ancestor === root) return true;
  return false;
}

interface Rebuilt {
  nodes: SceneNode[];
  newOf: Int32Array;
  boneNode: number[];
  keptNode: number[];
  sourceNodeOf: Int32Array;
}

function rebuildNodes(
  character: Character,
  source: Skeleton,
  target: Skeleton,
  crosswalk: Crosswalk,
  notes: string[],
): Rebuilt {
  const fitted = fitTarget(source, target, crosswalk);
  const boneOfNode = new Map(source.bones.map((bone, index) => [bone.node, index]));
  const keeps = (node: number) => {
    const bone = boneOfNode.get(node);
    return bone === undefined || crosswalk[bone].kind === 'keep';
  };
  const newOf = new Int32Array(character.nodes.length).fill(-1);
  let count = 0;
  character.nodes.forEach((_, i) => {
    if (keeps(i)) newOf[i] = count++;
  });
  const boneNode = target.bones.map(() => count++);
  const keptNode = source.bones.map((bone, index) =>
    crosswalk[index].kind === 'keep' ? newOf[bone.node] : -1,
  );

  const world = target.bones.map((_, index) => {
    const matrix = new Float64Array(16);
    compose(matrix, 0, fitted.places[index], fitted.rotations[index], [1, 1, 1]);
    return matrix;
  });
  const oldWorld = restWorld(character.nodes);
  const root = topDown(character.nodes).find((i) => boneOfNode.has(i));
  // A root that comes along and held all of the skeleton holds the target's as well.
  const holdsAll =
    root !== undefined && keeps(root) && source.bones.filter((bone) => bone.parent < 0).length === 1;
  const above = root === undefined ? -1 : character.nodes[root].parent;
  const holder = holdsAll ? root : above;
  const holderWorld = holder >= 0 ? inverseOr(oldWorld, holder * 16) : null;

  const nodes: SceneNode[] = new Array(count);
  const taken = new Set(target.bones.map((bone) => bone.name));
  target.bones.forEach((bone, index) => {
    const parentWorld = bone.parent >= 0 ? inverseOr(world[bone.parent]) : holderWorld;
    const holderNode = holder >= 0 ? newOf[holder] : -1;
    nodes[boneNode[index]] = {
      ...withLocal(
        node({ name: bone.name, kind: 'bone' }),
        parentWorld ? times(parentWorld, world[index]) : world[index],
      ),
      parent: bone.parent >= 0 ? boneNode[bone.parent] : holderNode,
    };
  });
  character.nodes.forEach((node, i) => {
    if (newOf[i] < 0) return;
    if (node.parent < 0 || newOf[node.parent] >= 0) {
      nodes[newOf[i]] = { ...node, parent: node.parent < 0 ? -1 : newOf[node.parent] };
    } else {
      const arrival = arrivalOf(source, target, crosswalk, boneOfNode.get(node.parent) as number);
      nodes[newOf[i]] = {
        ...withLocal(node, times(inverseOr(world[arrival]), oldWorld.slice(i * 16, i * 16 + 16))),
        parent: boneNode[arrival],
      };
    }
    if (node.kind === 'bone' && taken.has(node.name)) {
      let name = `${node.name}_kept`;
      for (let k = 2; taken.has(name); k++) name = `${node.name}_kept_${k}`;
      notes.push(
        `The kept bone “${node.name}” is now “${name}”, since ${target.title} has a bone of that name.`,
      );
      taken.add(name);
      nodes[newOf[i]] = { ...nodes[newOf[i]], name };
    }
  });
  const sourceNodeOf = new Int32Array(count).fill(-1);
  const counterpart = counterparts(target, crosswalk);
  character.nodes.forEach((_, i) => {
    if (newOf[i] >= 0) sourceNodeOf[newOf[i]] = i;
  });
  boneNode.forEach((node, index) => {
    sourceNodeOf[node] = counterpart[index] >= 0 ? source.bones[counterpart[index]].node : -1;
  });
  return { nodes, newOf, boneNode, keptNode, sourceNodeOf };
}

/** The rows of a mesh by the rules where some are shared, before any limit. */
function sharedRows(
  character: Character,
  node: number,
  arrivals: readonly WeightTarget[],
  limit: number,
): Influences {
  const given = character.meshes[character.nodes[node].mesh].influences as Influences;
  const places =
    placedMeshes(character).find((placed) => placed.node === node)?.points ?? new Float32Array(0);
  return shareRows(given, places, arrivals, limit);
}

/** Vertices with weight on a joint that is shared. */
function countShared(influences: Influences, arrivals: readonly WeightTarget[]): number {
  let count = 0;
  for (let vertex = 0; vertex + 1 < influences.offsets.length; vertex++) {
    let k = influences.offsets[vertex];
    while (k < influences.offsets[vertex + 1] && !arrivals[influences.joint[k]].span) k++;
    if (k < influences.offsets[vertex + 1]) count++;
  }
  return count;
}

/** Vertices whose list of weights is another than a mere renaming of joints would give. */
function changedRows(before: Influences, after: Influences, to: readonly number[]): number {
  let changed = 0;
  for (let vertex = 0; vertex + 1 < before.offsets.length; vertex++) {
    const a = before.offsets[vertex];
    const count = before.offsets[vertex + 1] - a;
    const b = after.offsets[vertex];
    let same = after.offsets[vertex + 1] - b === count;
    for (let k = 0; same && k < count; k++)
      same = to[before.joint[a + k]] === after.joint[b + k] && before.weight[a + k] === after.weight[b + k];
    if (!same) changed++;
  }
  return changed;
}
