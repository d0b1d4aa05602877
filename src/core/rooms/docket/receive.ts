/** A file as the machine that it is for will hold it: what it changes and drops on arrival, and what is left. */
import { decompose, quatConjugate } from '../../geometry/matrix';
import { type Influences, influencesFrom, limitInfluences, roundRowExactly } from '../../geometry/influences';
import { toHouseAxes, turnFromUp } from '../../character/axes';
import {
  type Attribute,
  type Character,
  type Mesh,
  type SceneNode,
  positionsOf,
} from '../../character/model';
import { hungUnder } from '../../character/rehang';
import { withoutNodes } from '../../character/remove';
import { STILL, underSimilarity } from '../../character/similarity';
import { type Cut, cutIntoDraws } from './cut';
import type { Receiver } from './receivers';

/** One thing that a receiver did, in words. */
export interface ArrivalNotice {
  /** Whether something is lost or moved by it, or it is only done in another way. */
  readonly kind: 'lost' | 'changed' | 'told';
  readonly text: string;
}

/** What arrived. */
export interface Received {
  /** In its own unit, along its own axes. */
  readonly held: Character;
  /** The same brought back to metres with +Y up, so that it compares with what was sent. */
  readonly character: Character;
  /** For every node that arrived, the node of what was sent. */
  readonly from: Int32Array;
  /** For every mesh node that shows only a part: for every vertex, the vertex of what was sent. */
  readonly origins: ReadonlyMap<number, Uint32Array>;
  readonly said: readonly ArrivalNotice[];
}

/**
 * Makes a character anew as a receiver holds it: what it drops is gone, meshes are in its draws, numbers in
 * its floats.
 */
export function receive(sent: Character, receiver: Receiver): Received {
  const said: ArrivalNotice[] = [];
  const say = (kind: ArrivalNotice['kind'], text: string) => said.push({ kind, text });
  const lean = withoutWhatItDrops(sent, receiver, say);
  let out = plainNodes(lean.character, receiver, say);
  out = withinBones(out, receiver, say);
  out = { ...out, meshes: meshesAsStored(out, receiver, say) };
  const { bonesPerDraw, verticesPerDraw } = receiver;
  const cut = cutIntoDraws(out, bonesPerDraw ?? Infinity, verticesPerDraw ?? Infinity);
  tellUnits(receiver, say);
  tellDraws(cut, receiver, say);
  const held = inItsSpace(cut.character, receiver);
  const character = held === cut.character ? held : toHouseAxes(held);
  return { held, character, from: cut.from.map((i) => lean.from[i]), origins: cut.origins, said };
}

/** In its unit and along its axes, all numbers in single floats. */
function inItsSpace(character: Character, { metresPerUnit, up }: Receiver): Character {
  if (metresPerUnit === 1 && up === 'y') return character;
  const rotation = quatConjugate(turnFromUp(up));
  const there = underSimilarity(character, { ...STILL, scale: 1 / metresPerUnit, rotation });
  const single = (x: readonly number[]) => Array.from(Float32Array.from(x));
  return {
    ...there,
    nodes: there.nodes.map((node) => ({
      ...node,
      translation: single(node.translation),
      rotation: single(node.rotation),
      scale: single(node.scale),
      ...(node.matrix && { matrix: single(node.matrix) }),
    })),
    skins: there.skins.map((skin) => ({ ...skin, inverseBinds: Float32Array.from(skin.inverseBinds) })),
    source: { ...there.source, unitMetres: metresPerUnit, upAxis: up },
  };
}

/** Skins that list more bones than it takes: the rest is refused, and what hung on it hangs on what is left. */
function withinBones(character: Character, { bones }: Receiver, say: Say): Character {
  if (bones === null || character.skins.every((skin) => skin.joints.length <= bones)) return character;
  const meshes = [...character.meshes];
  character.skins.forEach((skin, k) => {
    if (skin.joints.length <= bones) return;
    let points = 0;
    character.nodes.forEach((node) => {
      const influences = node.skin === k && node.mesh >= 0 ? meshes[node.mesh].influences : null;
      if (!influences) return;
      const kept = onFirst(influences, bones);
      points += kept.changed;
      meshes[node.mesh] = { ...meshes[node.mesh], influences: kept.influences };
    });
    const name = skin.name ? ` “${skin.name}”` : '';
    say(
      'lost',
      `The skin${name} lists ${skin.joints.length} bones; it takes the first ${bones} and refuses the rest, on which ${plural(points, 'point hangs', 'points hang')}.`,
    );
  });
  const skins = character.skins.map((skin) => ({
    ...skin,
    joints: skin.joints.slice(0, bones),
    inverseBinds: skin.inverseBinds.slice(0, bones * 16),
  }));
  return { ...character, meshes, skins };
}

/** Rows on the first so many joints, scaled to sum to one; a vertex that loses all hangs on the very first. */
function onFirst(influences: Influences, count: number): { influences: Influences; changed: number } {
  let changed = 0;
  const rows = Array.from({ length: influences.offsets.length - 1 }, (_, vertex) => {
    const all = Array.from(
      influences.joint.subarray(influences.offsets[vertex], influences.offsets[vertex + 1]),
      (j, k): [number, number] => [j, influences.weight[influences.offsets[vertex] + k]],
    );
    const kept = all.filter(([j]) => j < count);
    if (kept.length === all.length) return all;
    changed++;
    const sum = kept.reduce((total, [, weight]) => total + weight, 0);
    return sum > 0
      ? kept.map(([j, weight]): [number, number] => [j, weight / sum])
      : [[0, 1] as [number, number]];
  });
  return { influences: influencesFrom(rows), changed };
}

type Say = (kind: ArrivalNotice['kind'], text: string) => void;

const quoted = (names: readonly string[]) => {
  const some = names
    .slice(0, 4)
    .map((name) => `“${name}”`)
    .join(', ');
  return names.length > 4 ? `${some} and ${names.length - 4} more` : some;
};

const plural = (count: number, one: string, many = `${one}s`) => `${count} ${count === 1 ? one : many}`;

/** Bones outside all skins, empties, cameras and lights go; what hangs on them is hung on what is left above. */
function withoutWhatItDrops(
  sent: Character,
  { loneBones, empties }: Receiver,
  say: Say,
): { character: Character; from: Int32Array } {
  const listed = new Set(sent.skins.flatMap((skin) => skin.joints));
  const gone = new Set<number>();
  const lone: string[] = [];
  const empty: string[] = [];
  sent.nodes.forEach((node, i) => {
    if (node.mesh >= 0) return;
    if (node.kind === 'bone') {
      if (loneBones === 'kept' || listed.has(i) || listed.size === 0) return;
      lone.push(node.name);
    } else {
      if (empties === 'kept') return;
      empty.push(node.name);
    }
    gone.add(i);
  });
  if (gone.size === 0) return { character: sent, from: Int32Array.from(sent.nodes, (_, i) => i) };
  if (lone.length > 0)
    say(
      'lost',
      `${plural(lone.length, 'bone')} that no skin lists ${lone.length === 1 ? 'is' : 'are'} dropped: ${quoted(lone)}.`,
    );
  if (empty.length > 0)
    say(
      'lost',
      `${plural(empty.length, 'empty node, camera or light', 'empty nodes, cameras and lights')} ${empty.length === 1 ? 'is' : 'are'} dropped: ${quoted(empty)}.`,
    );
  const nodes = sent.nodes.map((node, i) => {
    let { parent } = node;
    while (parent >= 0 && gone.has(parent)) parent = sent.nodes[parent].parent;
    return gone.has(i) || parent === node.parent ? node : hungUnder(sent, i, parent);
  });
  const clips = clipsWithout(sent, gone);
  const lost =
    sent.clips.reduce((sum, clip) => sum + clip.channels.length, 0) -
    clips.reduce((sum, clip) => sum + clip.channels.length, 0);
  if (lost > 0)
    say(
      'lost',
      `${plural(lost, 'channel')} of clips moved what is dropped, and ${lost === 1 ? 'goes' : 'go'} with it.`,
    );
  const { character, newOf } = withoutNodes({ ...sent, nodes, clips }, gone);
  const from = new Int32Array(character.nodes.length);
  newOf.forEach((to, i) => {
    if (to >= 0) from[to] = i;
  });
  return { character, from };
}

const clipsWithout = ({ clips }: Character, gone: ReadonlySet<number>) =>
  clips.map((clip) => ({ ...clip, channels: clip.channels.filter((ch) => !gone.has(ch.node)) }));

/**
 * Scale that it does not know is evened out or let go; transforms of mesh nodes are forgotten where it
 * forgets them.
 */
function plainNodes(character: Character, { scale, meshNodes }: Receiver, say: Say): Character {
  const scaled: string[] = [];
  const moved: string[] = [];
  const nodes = character.nodes.map((node): SceneNode => {
    if (node.mesh >= 0 && meshNodes === 'ignored' && node.skin < 0) {
      const still =
        node.translation.every((x) => x === 0) && node.rotation[3] === 1 && node.scale.every((x) => x === 1);
      if (!still || node.matrix) {
        moved.push(node.name);
        const { matrix: _, ...rest } = node;
        return { ...rest, translation: [0, 0, 0], rotation: [0, 0, 0, 1], scale: [1, 1, 1] };
      }
    }
    const plain = scaledAs(node, scale);
    if (plain !== node) scaled.push(node.name);
    return plain;
  });
  if (moved.length > 0)
    say(
      'changed',
      `It forgets where the mesh ${moved.length === 1 ? 'node' : 'nodes'} ${quoted(moved)} stood: bake the transform into the points.`,
    );
  if (scaled.length > 0)
    say(
      'changed',
      `It knows ${scale === 'none' ? 'no scale' : 'even scale only'}: ${quoted(scaled)} ${scaled.length === 1 ? 'is' : 'are'} ${scale === 'none' ? 'taken at 1' : 'evened out'}.`,
    );
  return moved.length + scaled.length > 0 ? { ...character, nodes } : character;
}

function scaledAs(node: SceneNode, scale: Receiver['scale']): SceneNode {
  if (scale === 'any') return node;
  const {
    scale: nodeScale,
    translation,
    rotation,
  } = node.matrix ? decompose(Float64Array.from(node.matrix)) : node;
  const [x, y, z] = nodeScale;
  const isEven = Math.max(x, y, z) - Math.min(x, y, z) < 1e-6;
  const isOne = isEven && Math.abs(x - 1) < 1e-6;
  if (node.matrix === undefined && (scale === 'even' ? isEven : isOne)) return node;
  const mean = scale === 'none' ? 1 : Math.cbrt(x * y * z);
  const { matrix: _, ...rest } = node;
  return {
    ...rest,
    translation,
    rotation,
    scale: isEven && scale === 'even' ? nodeScale : [mean, mean, mean],
  };
}

/** Points, weights and morph targets as it stores them. */
function meshesAsStored(character: Character, receiver: Receiver, say: Say): Mesh[] {
  let trimmed = 0;
  let dropped = 0;
  let evened = 0;
  let farthest = 0;
  const meshes = character.meshes.map((mesh): Mesh => {
    const limited = mesh.influences ? limitInfluences(mesh.influences, receiver.influences) : null;
    trimmed += limited?.trimmed.length ?? 0;
    evened += (limited?.changed ?? 0) - (limited?.trimmed.length ?? 0);
    const influences = limited && storedWeights(limited.influences, receiver.weights);
    const kept = receiver.morphs === null ? mesh.morphs : mesh.morphs.slice(0, receiver.morphs);
    dropped += mesh.morphs.length - kept.length;
    const position = storedPlaces(mesh, receiver);
    farthest = Math.max(farthest, farthestOf(positionsOf(mesh), position.data as Float32Array));
    return {
      ...mesh,
      influences,
      morphs: kept,
      ...(mesh.morphWeights && { morphWeights: mesh.morphWeights.slice(0, kept.length) }),
      attributes: { ...mesh.attributes, POSITION: position },
    };
  });
  if (trimmed > 0)
    say(
      'changed',
      `${plural(trimmed, 'point')} ${trimmed === 1 ? 'loses' : 'lose'} bones: it keeps ${receiver.influences} of each, those with the largest weights.`,
    );
  if (evened > 0)
    say(
      'changed',
      `The weights of ${plural(evened, 'point')} do not sum to one, and are scaled until they do.`,
    );
  if (receiver.weights !== 'float' && meshes.some((mesh) => mesh.influences))
    say(
      'told',
      `Weights are stored in ${receiver.weights === 'u8' ? 'bytes: steps of 1/255' : 'shorts: steps of 1/65 535'}.`,
    );
  if (dropped > 0)
    say(
      'lost',
      `${plural(dropped, 'morph target')} over the ${receiver.morphs} that it takes of a mesh ${dropped === 1 ? 'is' : 'are'} dropped.`,
    );
  if (farthest > TOLD)
    say('changed', `Points are stored in steps and shift by up to ${(farthest * 1000).toPrecision(2)} mm.`);
  return meshes;
}

/** From which shift on storing points is worth a word, metres. */
const TOLD = 1e-6;

function farthestOf(a: Float32Array, b: Float32Array): number {
  let far = 0;
  for (let i = 0; i < a.length; i++) far = Math.max(far, Math.abs(a[i] - b[i]));
  return far;
}

/** Weights as whole numbers that sum exactly, and back; those of nothing go. */
function storedWeights(influences: Influences, as: Receiver['weights']): Influences {
  if (as === 'float') return influences;
  const whole = as === 'u8' ? 255 : 65535;
  const weight = new Float32Array(influences.weight.length);
  for (let vertex = 0; vertex + 1 < influences.offsets.length; vertex++)
    roundRowExactly(
      influences.weight,
      influences.offsets[vertex],
      influences.offsets[vertex + 1],
      whole,
      weight,
    );
  for (let k = 0; k < weight.length; k++) weight[k] /= whole;
  return { ...influences, weight };
}

/** Points as they are, or in steps over the mesh's box, and back. */
function storedPlaces(mesh: Mesh, { positions }: Receiver): Attribute {
  const given = positionsOf(mesh);
  const attribute = mesh.attributes.POSITION;
  if (positions === 'float') return attribute;
  const data = new Float32Array(given.length);
  const least = [Infinity, Infinity, Infinity];
  const most = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < given.length; i++) {
    if (given[i] < least[i % 3]) least[i % 3] = given[i];
    if (given[i] > most[i % 3]) most[i % 3] = given[i];
  }
  const step = Math.max(...[0, 1, 2].map((k) => most[k] - least[k])) / 65535;
  for (let i = 0; i < given.length; i++) {
    const from = least[i % 3];
    data[i] = step > 0 ? from + Math.round((given[i] - from) / step) * step : given[i];
  }
  return { ...attribute, data };
}

function tellUnits({ metresPerUnit, up }: Receiver, say: Say): void {
  const units: string[] = [];
  if (metresPerUnit !== 1)
    units.push(
      `one of its units is ${metresPerUnit} m, so every length is multiplied by ${Number((1 / metresPerUnit).toPrecision(6))}`,
    );
  if (up === 'z') units.push('Z points up, so the root is turned by a quarter about X');
  if (units.length > 0) say('told', `${units.join('; ').replace(/^./, (letter) => letter.toUpperCase())}.`);
}

/** What it draws in how many parts, and what it cannot draw. */
function tellDraws({ divided }: Cut, { bonesPerDraw, verticesPerDraw }: Receiver, say: Say): void {
  for (const { mesh, draws } of divided) {
    const { impossible, pieces, added, reason } = draws;
    const parts = draws.draws.length;
    if (impossible > 0)
      say(
        'lost',
        `${plural(impossible, 'face')} of “${mesh.name}” alone ${impossible === 1 ? 'needs' : 'need'} more than ${limitsOf(bonesPerDraw, verticesPerDraw)} of a draw, and cannot be drawn.`,
      );
    if (parts > pieces)
      say(
        'told',
        `“${mesh.name}” is drawn in ${parts} parts instead of ${pieces}: ${reason}; ${added} vertices are doubled.`,
      );
  }
}

const limitsOf = (bones: number | null, vertices: number | null) =>
  [
    ...(bones === null ? [] : [`the ${bones} bones`]),
    ...(vertices === null ? [] : [`the ${vertices} vertices`]),
  ].join(' or ');
