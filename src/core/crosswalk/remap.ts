import { withLocal } from '../character/rehang';
import { restWorld, topDown } from '../character/hierarchy';
import type { Channel, Character, Clip, Influences, Mesh, SceneNode, Skin } from '../character/model';
import { node } from '../character/model';
import { decompose, compose, inverseOr, times } from '../geometry/matrix';
import { limitRemapped, totalWeight } from '../geometry/influences';
import { clipWorld, transferPose } from '../trials/pose';
import { type Crosswalk, arrivalOf, counterparts } from './crosswalk';
import { fitTarget } from './fit';
import { type Skeleton, skeletonOf } from './skeleton';

export interface RemapOptions {
  /** Most influences a vertex may keep. */
  readonly limit: number;
}

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
  readonly notes: readonly string[];
}

export interface Remapped {
  readonly character: Character;
  /** For every node of the new character, the node of the old one that it stands for; −1 for none. */
  readonly partner: Int32Array;
  readonly report: RemapReport;
}

/**
 * Moves every vertex group from the skeleton a character has to the target's, in target mode: the target's joints move to
 * the mesh. influences(V×S) · M(S×T), rows of M sum to 1; then limit and normalise. The mesh stays where it is at rest. Kept
 * bones, props, lights and cameras are hung where their parents' counterparts are; clips are carried over as world rotations.
 */
export function remap(
  character: Character,
  target: Skeleton,
  crosswalk: Crosswalk,
  options: RemapOptions,
): Remapped {
  const source = skeletonOf(character);
  if (crosswalk.length !== source.bones.length)
    throw new Error(
      `The crosswalk has ${crosswalk.length} rules for ${source.bones.length} bones; make it anew for this skeleton.`,
    );
  const notes: string[] = [];
  const rebuilt = rebuildNodes(character, source, target, crosswalk, notes);
  const { nodes, newOf, boneNode, keptNode, partner } = rebuilt;

  /** Node in the new character at which the weight of a source bone arrives. */
  const arrival = source.bones.map((b, s) =>
    keptNode[s] >= 0 ? keptNode[s] : (keptAbove(s) ?? boneNode[arrivalOf(source, target, crosswalk, s)]),
  );
  function keptAbove(s: number): number | undefined {
    const r = crosswalk[s];
    if (r.kind === 'carry' || r.kind === 'fold') return undefined;
    for (let p = source.bones[s].parent; p >= 0; p = source.bones[p].parent) {
      if (keptNode[p] >= 0) return keptNode[p];
      if (crosswalk[p].kind === 'carry' || crosswalk[p].kind === 'fold') return undefined;
    }
    return undefined;
  }

  const boneOfNode = new Map(source.bones.map((b, s) => [b.node, s]));
  const listed = [...boneNode, ...keptNode.filter((n) => n >= 0)];
  const slot = new Map(listed.map((n, k) => [n, k]));
  let before = 0;
  let after = 0;
  let changed = 0;
  let trimmedCount = 0;
  let unweighted = 0;
  let total = 0;
  const trimmed: { node: number; vertices: Uint32Array }[] = [];
  const meshes: Mesh[] = [...character.meshes];
  // Every bound mesh gets a skin of its own, which lists only the bones that carry something in it.
  const groups: { skin: number; mesh: number; busy: Uint8Array }[] = [];
  const groupOf = new Map<string, number>();
  character.nodes.forEach((n, i) => {
    const mesh = n.mesh >= 0 ? character.meshes[n.mesh] : null;
    if (!mesh?.influences || n.skin < 0) return;
    const known = groupOf.get(`${n.skin}:${n.mesh}`);
    const group =
      known ?? groups.push({ skin: n.skin, mesh: n.mesh, busy: new Uint8Array(listed.length) }) - 1;
    groupOf.set(`${n.skin}:${n.mesh}`, group);
    // A mesh that two skins share is doubled, since its rows name the joints of one of them.
    const at =
      known !== undefined ? groups[group].mesh : meshes[n.mesh] === mesh ? n.mesh : meshes.push(mesh) - 1;
    groups[group].mesh = at;
    nodes[newOf[i]] = { ...nodes[newOf[i]], skin: group, mesh: at };
    if (known !== undefined) return;
    const to = character.skins[n.skin].joints.map(
      (j) => slot.get(arrival[boneOfNode.get(j) as number]) as number,
    );
    const limited = limitRemapped(mesh.influences, to, listed.length, options.limit);
    const f = limited.influences;
    before += totalWeight(mesh.influences);
    after += totalWeight(f);
    total += mesh.vertexCount;
    changed += changedRows(mesh.influences, f, to);
    trimmedCount += limited.trimmed.length;
    for (let v = 0; v < mesh.vertexCount; v++) if (f.offsets[v + 1] === f.offsets[v]) unweighted++;
    for (let k = 0; k < f.joint.length; k++) groups[group].busy[f.joint[k]] = 1;
    trimmed.push({ node: newOf[i], vertices: limited.trimmed });
    meshes[at] = { ...mesh, influences: f };
  });

  const newWorld = restWorld(nodes);
  const oldWorld = restWorld(character.nodes);
  const oneRoot =
    target.bones.filter((b) => b.parent < 0).length === 1 &&
    keptNode.every((n) => n < 0 || underBone(nodes, n, boneNode[0]));
  if (groups.length === 0)
    character.skins
      .slice(0, 1)
      .forEach((_, skin) => groups.push({ skin, mesh: -1, busy: new Uint8Array(listed.length).fill(1) }));
  const packed = groups.map(({ busy }) => {
    const on = listed.flatMap((_n, k) => (busy[k] ? [k] : []));
    return on.length > 0 ? on : listed.map((_n, k) => k);
  });
  const skins = groups.map(({ skin }, i): Skin => {
    const s = character.skins[skin];
    const joints = packed[i].map((k) => listed[k]);
    const inverseBinds = new Float64Array(joints.length * 16);
    const bind = (k: number) => times(oldWorld, s.inverseBinds, s.joints[k] * 16, k * 16);
    joints.forEach((n, k) => {
      const own = partner[n] >= 0 ? s.joints.indexOf(partner[n]) : -1;
      inverseBinds.set(times(inverseOr(newWorld, n * 16), bind(own >= 0 ? own : 0)), k * 16);
    });
    const { skeleton: _skeleton, ...rest } = s;
    return { ...rest, joints, inverseBinds, ...(oneRoot ? { skeleton: boneNode[0] } : {}) };
  });
  groups.forEach(({ mesh: at }, i) => {
    const mesh = meshes[at];
    const f = mesh?.influences;
    const list = packed[i];
    if (!f) return;
    const place = new Uint16Array(listed.length);
    list.forEach((k, slotInSkin) => {
      place[k] = slotInSkin;
    });
    const joint = new Uint16Array(f.joint.length);
    for (let k = 0; k < joint.length; k++) joint[k] = place[f.joint[k]];
    meshes[at] = {
      ...mesh,
      influences: { ...f, joint },
      influenceStorage: mesh.influenceStorage
        ? { ...mesh.influenceStorage, joints: list.length > 256 ? 'u16' : 'u8' }
        : null,
    };
  });

  const shell: Character = {
    ...character,
    nodes,
    meshes,
    skins,
    clips: [],
    sets: character.sets.map((set) => ({
      ...set,
      bones: set.bones.map((b) => newOf[b]).filter((b) => b >= 0),
    })),
    carried: {
      ...character.carried,
      scenes: character.carried.scenes.map((s) => ({
        ...s,
        roots: [
          ...new Set([
            ...s.roots.map((r) => newOf[r]).filter((r) => r >= 0 && nodes[r].parent < 0),
            ...(s === character.carried.scenes[Math.max(0, character.carried.scene)]
              ? nodes.flatMap((n, i) => (n.parent < 0 && boneNode.includes(i) ? [i] : []))
              : []),
          ]),
        ],
      })),
    },
  };
  const clips = character.clips.map((clip) => carryClip(character, clip, shell, partner, newOf));
  return {
    character: { ...shell, clips },
    partner,
    report: {
      weight: { before, after },
      vertices: { total, changed, trimmed: trimmedCount, unweighted },
      trimmed,
      notes,
    },
  };
}

function underBone(nodes: readonly SceneNode[], node: number, root: number): boolean {
  for (let p = nodes[node].parent; p >= 0; p = nodes[p].parent) if (p === root) return true;
  return false;
}

interface Rebuilt {
  nodes: SceneNode[];
  newOf: Int32Array;
  boneNode: number[];
  keptNode: number[];
  partner: Int32Array;
}

function rebuildNodes(
  character: Character,
  source: Skeleton,
  target: Skeleton,
  crosswalk: Crosswalk,
  notes: string[],
): Rebuilt {
  const fitted = fitTarget(source, target, crosswalk);
  const boneOfNode = new Map(source.bones.map((b, s) => [b.node, s]));
  const keeps = (n: number) => {
    const s = boneOfNode.get(n);
    return s === undefined || crosswalk[s].kind === 'keep';
  };
  const newOf = new Int32Array(character.nodes.length).fill(-1);
  let count = 0;
  character.nodes.forEach((_, i) => {
    if (keeps(i)) newOf[i] = count++;
  });
  const boneNode = target.bones.map(() => count++);
  const keptNode = source.bones.map((b, s) => (crosswalk[s].kind === 'keep' ? newOf[b.node] : -1));

  const world = target.bones.map((_, t) => {
    const m = new Float64Array(16);
    compose(m, 0, fitted.places[t], fitted.rotations[t], [1, 1, 1]);
    return m;
  });
  const oldWorld = restWorld(character.nodes);
  const root = topDown(character.nodes).find((i) => boneOfNode.has(i));
  const holder = root === undefined ? -1 : character.nodes[root].parent;
  const holderWorld = holder >= 0 ? inverseOr(oldWorld, holder * 16) : null;

  const nodes: SceneNode[] = new Array(count);
  const taken = new Set(target.bones.map((b) => b.name));
  target.bones.forEach((b, t) => {
    const local =
      b.parent >= 0
        ? times(inverseOr(world[b.parent]), world[t])
        : holderWorld
          ? times(holderWorld, world[t])
          : world[t];
    nodes[boneNode[t]] = {
      ...withLocal(node({ name: b.name, kind: 'bone' }), local),
      parent: b.parent >= 0 ? boneNode[b.parent] : holder >= 0 ? newOf[holder] : -1,
    };
  });
  character.nodes.forEach((n, i) => {
    if (newOf[i] < 0) return;
    const above =
      n.parent < 0
        ? -1
        : newOf[n.parent] >= 0
          ? newOf[n.parent]
          : boneNode[arrivalOf(source, target, crosswalk, boneOfNode.get(n.parent) as number)];
    if (n.parent < 0 || newOf[n.parent] >= 0) {
      nodes[newOf[i]] = { ...n, parent: above };
    } else {
      const t = boneNode.indexOf(above);
      nodes[newOf[i]] = {
        ...withLocal(n, times(inverseOr(world[t]), oldWorld.slice(i * 16, i * 16 + 16))),
        parent: above,
      };
    }
    if (n.kind === 'bone' && taken.has(n.name)) {
      let name = `${n.name}_kept`;
      for (let k = 2; taken.has(name); k++) name = `${n.name}_kept_${k}`;
      notes.push(
        `The kept bone “${n.name}” is now “${name}”, since ${target.title} has a bone of that name.`,
      );
      taken.add(name);
      nodes[newOf[i]] = { ...nodes[newOf[i]], name };
    }
  });
  const partner = new Int32Array(count).fill(-1);
  const counterpart = counterparts(target, crosswalk);
  character.nodes.forEach((_, i) => {
    if (newOf[i] >= 0) partner[newOf[i]] = i;
  });
  boneNode.forEach((n, t) => {
    partner[n] = counterpart[t] >= 0 ? source.bones[counterpart[t]].node : -1;
  });
  return { nodes, newOf, boneNode, keptNode, partner };
}

/** Vertices whose list of weights is another than a mere renaming of joints would give. */
function changedRows(before: Influences, after: Influences, to: readonly number[]): number {
  let changed = 0;
  for (let v = 0; v + 1 < before.offsets.length; v++) {
    const a = before.offsets[v];
    const n = before.offsets[v + 1] - a;
    const b = after.offsets[v];
    let same = after.offsets[v + 1] - b === n;
    for (let k = 0; same && k < n; k++)
      same = to[before.joint[a + k]] === after.joint[b + k] && before.weight[a + k] === after.weight[b + k];
    if (!same) changed++;
  }
  return changed;
}

/** A clip as world rotations on the new bones; channels of nodes that came along unchanged stay as they are. */
function carryClip(
  source: Character,
  clip: Clip,
  target: Character,
  partner: Int32Array,
  newOf: Int32Array,
): Clip {
  const bones = new Set(target.nodes.flatMap((n, i) => (n.kind === 'bone' ? [i] : [])));
  const stays = (ch: Channel) =>
    newOf[ch.node] >= 0 &&
    (source.nodes[ch.node].kind !== 'bone' || ch.path === 'weights' || ch.path === 'scale');
  const channels: Channel[] = clip.channels.filter(stays).map((ch) => ({ ...ch, node: newOf[ch.node] }));
  const moving = clip.channels.filter(
    (ch) => source.nodes[ch.node].kind === 'bone' && (ch.path === 'rotation' || ch.path === 'translation'),
  );
  if (moving.length === 0) return { ...clip, channels };
  const times_ = Float32Array.from([...new Set(moving.flatMap((ch) => [...ch.times]))].sort((a, b) => a - b));
  const affected = [...bones].filter((i) => partner[i] >= 0);
  const rotations = new Map(affected.map((i) => [i, new Float32Array(times_.length * 4)]));
  const translations = new Map(affected.map((i) => [i, new Float32Array(times_.length * 3)]));
  times_.forEach((time, k) => {
    const world = transferPose(source, clipWorld(source, clip, time), target, partner);
    for (const i of affected) {
      const p = target.nodes[i].parent;
      const { rotation, translation } = decompose(
        p < 0 ? world.subarray(i * 16, i * 16 + 16) : times(inverseOr(world, p * 16), world, 0, i * 16),
      );
      const row = rotations.get(i) as Float32Array;
      const flip =
        k > 0 && [0, 1, 2, 3].reduce((s, x) => s + row[(k - 1) * 4 + x] * rotation[x], 0) < 0 ? -1 : 1;
      row.set(
        rotation.map((x) => x * flip),
        k * 4,
      );
      translations.get(i)?.set(translation, k * 3);
    }
  });
  const still = (values: Float32Array, size: number, rest: readonly number[]) =>
    values.every((x, i) => Math.abs(x - rest[i % size]) < 1e-6);
  for (const [i, values] of rotations)
    if (!still(values, 4, target.nodes[i].rotation))
      channels.push({ node: i, path: 'rotation', interpolation: 'LINEAR', times: times_, values });
  for (const [i, values] of translations)
    if (!still(values, 3, target.nodes[i].translation))
      channels.push({ node: i, path: 'translation', interpolation: 'LINEAR', times: times_, values });
  return { ...clip, channels };
}
