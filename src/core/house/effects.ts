import { meshNodesOf } from '../character/hierarchy';
import { placedMeshes } from '../character/measure';
import type { Character, SceneNode, Skin } from '../character/model';
import { sizeOfSet } from '../character/sets';
import { morphedPositions, morphsAt } from '../character/morphs';
import { type Similarity, similarityMatrix } from '../character/similarity';
import { placePositions } from '../character/deform';
import { probedWorld, probesOf } from '../motion/probe';
import type { ChangeEffects } from '../contracts/effects';
import {
  ASPECT_WORDS,
  type Aspect,
  addMeshAspects,
  addNodeAspects,
  addSkinAspects,
} from '../contracts/aspect';
import type { Promised } from '../contracts/remedy';

const label = (text: string, i: number, what: string) => text || `${what} ${i}`;

/**
 * New index of every old node, −1 for one that went: the same index where none went or came in between, else
 * by name in the order of the list.
 */
export function nodesAfter(before: Character, after: Character): Int32Array {
  // Names may have changed places: what stands and hangs as it did is what it was.
  if (isSameTree(before, after)) return Int32Array.from(before.nodes, (_, i) => i);
  const out = new Int32Array(before.nodes.length).fill(-1);
  let k = 0;
  before.nodes.forEach((node, i) => {
    if (before.nodes.length <= after.nodes.length && after.nodes[i]?.name === node.name) {
      out[i] = i;
      return;
    }
    for (let j = k; j < after.nodes.length; j++)
      if (after.nodes[j].name === node.name && after.nodes[j].kind === node.kind) {
        out[i] = j;
        k = j + 1;
        return;
      }
  });
  // Where none went, what has another name stands where it stood, whatever came behind it.
  if (before.nodes.length <= after.nodes.length) {
    const taken = new Set(out);
    before.nodes.forEach(({ kind }, i) => {
      const isItself =
        before.nodes.length === after.nodes.length || (!taken.has(i) && after.nodes[i].kind === kind);
      if (out[i] < 0 && isItself) out[i] = i;
    });
  }
  return out;
}

const isSameTree = (before: Character, after: Character): boolean =>
  before.nodes.length === after.nodes.length &&
  before.nodes.every((node, i) => {
    const now = after.nodes[i];
    return (
      node === now ||
      (node.kind === now.kind &&
        node.parent === now.parent &&
        node.translation === now.translation &&
        node.rotation === now.rotation &&
        node.scale === now.scale &&
        node.matrix === now.matrix)
    );
  });

/**
 * Compares two states of a character, the second made from the first by one step.
 * @param promised what the step said it would change
 */
export function effectsOf(before: Character, after: Character, promised: Promised): ChangeEffects {
  const nodeOf = nodesAfter(before, after);
  const sum = (character: Character) => character.meshes.reduce((sum, mesh) => sum + mesh.vertexCount, 0);
  const joints = new Set(
    after.skins.flatMap((skin, i) =>
      skin === before.skins[i]
        ? []
        : skin.joints
            .filter((_, k) => bindChanged(before.skins[i], skin, k))
            .map((j) => label(after.nodes[j].name, j, 'joint')),
    ),
  );
  return {
    kind: 'changed',
    nodes: before.nodes.flatMap((node, i) =>
      nodeOf[i] >= 0 && after.nodes[nodeOf[i]] !== node && !onlyRenumbered(node, after.nodes[nodeOf[i]])
        ? [label(node.name, i, 'node')]
        : [],
    ),
    meshes: after.meshes.flatMap((mesh, i) =>
      before.meshes.includes(mesh) ? [] : [label(mesh.name, i, 'mesh')],
    ),
    skins: after.skins.filter((skin) => !before.skins.includes(skin)).length,
    joints: [...joints],
    clips: after.clips.flatMap((clip, i) => (clip === before.clips[i] ? [] : [label(clip.name, i, 'clip')])),
    removed: before.nodes.flatMap((node, i) => (nodeOf[i] < 0 ? [label(node.name, i, 'node')] : [])),
    largestMove: largestMoveAtRest(before, after, nodeOf),
    vertices: [sum(before), sum(after)],
    scale: promised.similarity.scale,
    ...setsLost(before, after, promised),
    outside: aspectsOutside(before, after, nodeOf, promised).map((aspect) => ASPECT_WORDS[aspect]),
    others: othersOf(before, after, nodeOf, promised),
  };
}

function largestMoveAtRest(before: Character, after: Character, nodeOf: Int32Array): number {
  let largest = 0;
  const now = new Map(placedMeshes(after).map((placed) => [placed.node, placed]));
  for (const { node, points } of placedMeshes(before)) {
    const rotation = now.get(nodeOf[node])?.points;
    if (!rotation || rotation.length !== points.length || rotation === points) continue;
    for (let i = 0; i < points.length; i += 3) {
      const length = Math.hypot(
        points[i] - rotation[i],
        points[i + 1] - rotation[i + 1],
        points[i + 2] - rotation[i + 2],
      );
      if (length > largest) largest = length;
    }
  }
  return largest;
}

/**
 * The aspects that differ though the step did not promise to change them. Things are compared with what
 * became of them, wherever they count now.
 */
function aspectsOutside(
  before: Character,
  after: Character,
  nodeOf: Int32Array,
  { changes }: Promised,
): Aspect[] {
  const changed = new Set<Aspect>();
  if (before.name !== after.name) changed.add('names');
  const came = after.nodes.length - nodeOf.filter((i) => i >= 0).length;
  before.nodes.forEach((node, i) => {
    const now = after.nodes[nodeOf[i]];
    if (!now) changed.add('tree');
    else addPairAspects(before, after, node, now, nodeOf, changed);
  });
  if (came > 0) changed.add('tree');
  if (before.clips !== after.clips && before.clips.some((clip, i) => clip !== after.clips[i]))
    changed.add('clips');
  if (before.clips.length !== after.clips.length) changed.add('clips');
  if (before.carried !== after.carried) changed.add('carried');
  if (before.source !== after.source || before.added !== after.added) changed.add('source');
  return [...changed].filter((aspect) => !changes.has(aspect));
}

/** Sets that hold less than they held, where the step was not about sets. What a step renumbers they follow by themselves. */
function setsLost(before: Character, after: Character, { changes }: Promised): Pick<ChangeEffects, 'sets'> {
  if (before.sets === after.sets || changes.has('sets')) return {};
  const lost = before.sets.flatMap((set, i) => {
    const now = after.sets[i];
    if (!now) return [`The set “${set.name}” is gone`];
    const had = sizeOfSet(before, set);
    const has = sizeOfSet(after, now);
    return has < had ? [`Of the set “${set.name}” ${had - has} of ${had} things are gone`] : [];
  });
  return lost.length > 0 ? { sets: lost } : {};
}

function addPairAspects(
  before: Character,
  after: Character,
  node: SceneNode,
  now: SceneNode,
  nodeOf: Int32Array,
  changed: Set<Aspect>,
): void {
  const own = { ...now, parent: node.parent, mesh: node.mesh, skin: node.skin };
  addNodeAspects(node, own, changed);
  const parent = node.parent < 0 ? -1 : nodeOf[node.parent];
  if (parent !== now.parent) changed.add('tree');
  if (node.mesh >= 0 !== now.mesh >= 0 || node.skin >= 0 !== now.skin >= 0) changed.add('shows');
  const meshes = [before.meshes[node.mesh], after.meshes[now.mesh]] as const;
  if (meshes[0] && meshes[1] && meshes[0] !== meshes[1]) addMeshAspects(meshes[0], meshes[1], changed);
  const skins = [before.skins[node.skin], after.skins[now.skin]] as const;
  if (!skins[0] || !skins[1] || skins[0] === skins[1]) return;
  const joints = skins[0].joints.map((j) => nodeOf[j]);
  const skeleton = skins[0].skeleton === undefined ? undefined : nodeOf[skins[0].skeleton];
  addSkinAspects({ ...skins[0], joints, skeleton }, skins[1], changed);
}

function bindChanged(before: Skin | undefined, after: Skin, k: number): boolean {
  if (!before || before.inverseBinds.length < (k + 1) * 16) return true;
  for (let entry = k * 16; entry < (k + 1) * 16; entry++)
    if (Math.abs(before.inverseBinds[entry] - after.inverseBinds[entry]) > 1e-9) return true;
  return false;
}

/**
 * True where a node is the same but for its numbers of other things, after something was taken out of the
 * lists.
 */
function onlyRenumbered(a: Character['nodes'][number], b: Character['nodes'][number]): boolean {
  return (Object.keys({ ...a, ...b }) as (keyof typeof a)[]).every(
    (key) => key === 'parent' || key === 'mesh' || key === 'skin' || a[key] === b[key],
  );
}

/**
 * The largest distance between what was not meant to change, carried through the similarity, and where it is
 * now.
 */
function othersOf(
  before: Character,
  after: Character,
  nodeOf: Int32Array,
  promised: Promised,
): ChangeEffects['others'] {
  const { similarity, meant, holds } = promised;
  const watched = meshNodesOf(before).filter(
    (i) => !meant.has(i) && nodeOf[i] >= 0 && after.nodes[nodeOf[i]].mesh >= 0,
  );
  const probes = holds === 'at rest' ? probesOf(before).slice(0, 1) : probesOf(before);
  let largest = 0;
  let where = '';
  const compare = (
    i: number,
    old: Float64Array,
    fresh: Float64Array,
    said: string,
    morphs?: (k: number) => number,
  ) => {
    const distance = apart(
      pointsUnder(before, i, old, morphs),
      pointsUnder(after, nodeOf[i], fresh, morphs),
      similarity,
    );
    if (distance > largest) {
      largest = distance;
      where = `${label(before.nodes[i].name, i, 'node')}, ${said}`;
    }
  };
  for (const probe of probes) {
    const old = probedWorld(before, probe);
    const fresh = probedWorld(after, probe, nodeOf, similarity);
    for (const i of watched) compare(i, old, fresh, probe.label);
    // Morph targets are on by different shares, so that no two of them make up for each other.
    if (probe.label === 'rest')
      for (const i of watched)
        if (before.meshes[before.nodes[i].mesh].morphs.length > 0)
          compare(i, old, fresh, 'morph targets on', (k) => 0.4 + 0.15 * (k % 5));
  }
  return { largest, where, poses: probes.length, meshes: watched.length, holds };
}

/**
 * World points of a mesh node under node worlds, its morph targets as they are at rest or as `morphs` says
 * for each.
 */
function pointsUnder(
  character: Character,
  node: number,
  world: Float64Array,
  morphs?: (k: number) => number,
): Float32Array {
  const sceneNode = character.nodes[node];
  const mesh = character.meshes[sceneNode.mesh];
  const on = morphs ? mesh.morphs.map((_, k) => morphs(k)) : morphsAt(character, node);
  const skin = sceneNode.skin >= 0 && mesh.influences ? character.skins[sceneNode.skin] : null;
  return placePositions(morphedPositions(mesh, on), mesh.influences, skin, node, world);
}

/** Largest distance between S(p) and q, metres; infinite where the counts differ. */
export function apart(points: Float32Array, rotation: Float32Array, similarity: Similarity): number {
  if (points.length !== rotation.length) return Infinity;
  const matrix = similarityMatrix(similarity);
  let worst = 0;
  for (let i = 0; i < points.length; i += 3) {
    const x = points[i];
    const y = points[i + 1];
    const z = points[i + 2];
    const a = matrix[0] * x + matrix[4] * y + matrix[8] * z + matrix[12] - rotation[i];
    const b = matrix[1] * x + matrix[5] * y + matrix[9] * z + matrix[13] - rotation[i + 1];
    const dz = matrix[2] * x + matrix[6] * y + matrix[10] * z + matrix[14] - rotation[i + 2];
    const square = a * a + b * b + dz * dz;
    if (square > worst) worst = square;
  }
  return Math.sqrt(worst);
}
