/**
 * What a character consists of when it is handed over: meshes, props, skeletons, clips, cameras and lights,
 * each with its size, and the character with only what was chosen of them.
 */
import { bonesOf } from '../../character/hierarchy';
import type { Character, Clip, Mesh } from '../../character/model';
import { allNamed } from '../../character/named';
import { withoutNodes } from '../../character/remove';
import { withoutUnusedPictures } from './pictures';

export type ItemKind = 'mesh' | 'prop' | 'skeleton' | 'clip' | 'camera' | 'light';

/** One thing that goes out or stays. */
export interface Item {
  /** Its kind, name and place among its namesakes; the same on every revision that has it. */
  readonly id: string;
  readonly kind: ItemKind;
  readonly name: string;
  /** What it holds, in words. */
  readonly about: string;
  /** Bytes of its arrays. */
  readonly bytes: number;
  /** Items that go along with it, by their ids. */
  readonly needs: readonly string[];
}

/** The items of a character, meshes first, then skeletons, clips, and the rest. */
export function itemsOf(character: Character): Item[] {
  const { nodes, clips } = character;
  const nodeItems = itemsOfNodes(character);
  const names = allNamed(clips.map((clip) => clip.name));
  const clipItems = clips.map((clip, i): Item => ({
    id: `clip/${names[i].name}/${names[i].nth}`,
    kind: 'clip',
    name: clip.name || `clip ${i + 1}`,
    about: `${count(clip.channels.length, 'channel')} over ${count(new Set(clip.channels.map((channel) => channel.node)).size, 'node')}`,
    bytes: bytesOfClip(clip),
    needs: [],
  }));
  const order: readonly ItemKind[] = ['mesh', 'prop', 'skeleton', 'clip', 'camera', 'light'];
  return [...nodeItems.list(nodes.map((_, i) => i)), ...clipItems].sort(
    (a, b) => order.indexOf(a.kind) - order.indexOf(b.kind),
  );
}

/** The character with what was chosen and all that this needs; and what then goes out and what is left out. */
export function withItems(
  character: Character,
  chosen: ReadonlySet<string>,
): { character: Character; taken: Item[]; leftOut: Item[] } {
  const items = itemsOf(character);
  const wanted = withNeeds(items, chosen);
  const taken = items.filter((item) => wanted.has(item.id));
  const leftOut = items.filter((item) => !wanted.has(item.id));
  if (leftOut.length === 0) return { character, taken, leftOut };
  const { ofNode } = itemsOfNodes(character);
  const isKept = keptNodes(character, (node) => {
    const item = ofNode[node];
    return item === null ? null : wanted.has(item);
  });
  const gone = new Set(character.nodes.flatMap((_, i) => (isKept[i] ? [] : [i])));
  const names = allNamed(character.clips.map((clip) => clip.name));
  const clips = character.clips.filter((_, i) => wanted.has(`clip/${names[i].name}/${names[i].nth}`));
  const left = withoutNodes({ ...character, clips }, gone).character;
  return { character: withoutUnusedPictures(left), taken, leftOut };
}

/** What was chosen, and all that goes along with it. */
export function withNeeds(items: readonly Item[], chosen: ReadonlySet<string>): Set<string> {
  const byId = new Map(items.map((item) => [item.id, item]));
  const out = new Set<string>();
  const open = [...chosen];
  for (let id = open.pop(); id !== undefined; id = open.pop()) {
    const item = byId.get(id);
    if (!item || out.has(id)) continue;
    out.add(id);
    open.push(...item.needs);
  }
  return out;
}

/** The item that every node belongs to, null for nodes that are none; and the items in the order of their nodes. */
function itemsOfNodes(character: Character) {
  const { nodes } = character;
  const names = allNamed(nodes.map((node) => node.name));
  const isBone = new Set(bonesOf(character));
  const rootOf = nodes.map((_, i) => rootBone(character, isBone, i));
  const idOf = (kind: ItemKind, i: number) => `${kind}/${names[i].name}/${names[i].nth}`;
  const kindOf = (i: number): ItemKind | null => {
    const node = nodes[i];
    if (isBone.has(i)) return 'skeleton';
    if (node.mesh >= 0) return node.skin >= 0 ? 'mesh' : 'prop';
    return node.kind === 'camera' || node.kind === 'light' ? node.kind : null;
  };
  const kinds = nodes.map((_, i) => kindOf(i));
  const ofNode = nodes.map((_, i) => {
    const kind = kinds[i];
    if (kind === null) return null;
    return kind === 'skeleton' ? idOf('skeleton', rootOf[i]) : idOf(kind, i);
  });
  const needsOf = (i: number): string[] => {
    const needs = new Set<string>();
    for (let ancestor = nodes[i].parent; ancestor >= 0; ancestor = nodes[ancestor].parent)
      needs.add(ofNode[ancestor] ?? '');
    for (const j of character.skins[nodes[i].skin]?.joints ?? []) needs.add(ofNode[j] ?? '');
    needs.delete('');
    return [...needs];
  };
  const itemAt = (i: number): Item[] => {
    const kind = kinds[i];
    if (kind === null || (kind === 'skeleton' && rootOf[i] !== i)) return [];
    const id = ofNode[i] as string;
    const name = nodes[i].name || `node ${i}`;
    if (kind === 'skeleton') {
      const bones = nodes.flatMap((_, k) => (rootOf[k] === i && isBone.has(k) ? [k] : []));
      const about = count(bones.length, 'bone');
      // A mesh in the middle of a skeleton goes along with it.
      const needs = [...new Set(bones.flatMap(needsOf))].filter((name) => name !== id);
      return [{ id, kind, name, about, bytes: bytesOfBinds(character, new Set(bones)), needs }];
    }
    const mesh = character.meshes[nodes[i].mesh];
    const about = mesh ? aboutMesh(mesh) : '';
    const needs = needsOf(i).filter((need) => need !== id);
    return [{ id, kind, name, about, bytes: mesh ? bytesOfMesh(mesh) : 0, needs }];
  };
  return { ofNode, list: (order: readonly number[]): Item[] => order.flatMap(itemAt) };
}

/** The farthest bone above a node, itself where it is a bone; −1 for none. */
function rootBone({ nodes }: Character, isBone: ReadonlySet<number>, i: number): number {
  let root = -1;
  for (let ancestor = i; ancestor >= 0; ancestor = nodes[ancestor].parent)
    if (isBone.has(ancestor)) root = ancestor;
  return root;
}

/**
 * Which nodes stay: those of what goes out, what they hang under, and nodes that belong to no item and hang under
 * something that stays. A node that only held together what is left out goes with it.
 */
function keptNodes({ nodes }: Character, isWanted: (node: number) => boolean | null): boolean[] {
  const wanted = nodes.map((_, i) => isWanted(i));
  const holds = nodes.map(() => false);
  const holdsWanted = nodes.map(() => false);
  nodes.forEach((_, i) => {
    if (wanted[i] === null) return;
    for (let ancestor = nodes[i].parent; ancestor >= 0; ancestor = nodes[ancestor].parent) {
      holds[ancestor] = true;
      if (wanted[i]) holdsWanted[ancestor] = true;
    }
  });
  const known: (boolean | undefined)[] = nodes.map(() => undefined);
  const isKept = (i: number): boolean => {
    if (i < 0) return true;
    const told = known[i];
    if (told !== undefined) return told;
    const isLoose = wanted[i] === null && !holds[i] && isKept(nodes[i].parent);
    const kept = wanted[i] === true || holdsWanted[i] || isLoose;
    known[i] = kept;
    return kept;
  };
  return nodes.map((_, i) => isKept(i));
}

const count = (count2: number, word: string) => `${count2} ${count2 === 1 ? word : `${word}s`}`;

function aboutMesh({ vertexCount, polygonOffsets, morphs }: Mesh): string {
  const targets = morphs.length > 0 ? `, ${count(morphs.length, 'morph target')}` : '';
  return `${count(vertexCount, 'vertex').replace('vertexs', 'vertices')}, ${count(polygonOffsets.length - 1, 'polygon')}${targets}`;
}

function bytesOfMesh({ attributes, morphs, influences, polygonOffsets, corners }: Mesh): number {
  let bytes = polygonOffsets.byteLength + corners.byteLength;
  for (const set of [attributes, ...morphs.map((morph) => morph.attributes)])
    for (const { data } of Object.values(set)) bytes += data.byteLength;
  if (influences)
    bytes += influences.offsets.byteLength + influences.joint.byteLength + influences.weight.byteLength;
  return bytes;
}

const bytesOfClip = ({ channels }: Clip): number =>
  channels.reduce((sum, channel) => sum + channel.times.byteLength + channel.values.byteLength, 0);

const bytesOfBinds = ({ skins }: Character, bones: ReadonlySet<number>): number =>
  skins.reduce((sum, skin) => sum + skin.joints.filter((j) => bones.has(j)).length * 64, 0);
