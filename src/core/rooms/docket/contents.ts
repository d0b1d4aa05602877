/** What a character holds, thing by thing, as short sums: two that differ tell where. */
import { addressOf } from '../../character/bundle';
import type { Carried, Character, Clip, ElementSet, Mesh, SceneNode, Skin } from '../../character/model';
import { allNamed } from '../../character/named';
import canonicalize from 'canonicalize';

/** One thing of a character: what it is of, which of its sides, and the sha-256 of that. */
export interface Content {
  readonly of: string;
  readonly what: string;
  readonly sha256: string;
}

/** The sums of everything that a hand-off is about. */
export function contentsOf({ nodes, meshes, skins, clips, sets, carried }: Character): Content[] {
  const nodeNames = allNamed(nodes.map((node) => node.name)).map(({ name, nth }) => named(name, nth));
  return [
    ...nodes.map((node, i) => content(`node ${nodeNames[i]}`, 'place', placeOf(node, nodeNames))),
    ...called('mesh', meshes).flatMap(([of, mesh]) => ofMesh(of, mesh)),
    ...called('skin', skins).flatMap(([of, skin]) => ofSkin(of, skin, nodeNames)),
    ...called('clip', clips).map(([of, clip]) => content(of, 'motion', motionOf(clip, nodeNames))),
    ...called('set', sets).map(([of, set]) =>
      content(of, 'bones, points and polygons', setOf(set, nodeNames)),
    ),
    ...ofCarried(carried),
  ];
}

/** How two lists of sums differ. */
export interface ContentDifference {
  readonly of: string;
  readonly what: string;
  /** gone: only the first has it; new: only the second; changed: both, and they differ. */
  readonly how: 'gone' | 'new' | 'changed';
}

export function compareContents(first: readonly Content[], second: readonly Content[]): ContentDifference[] {
  const key = ({ of, what }: Content) => `${of}\n${what}`;
  const before = new Map(first.map((content) => [key(content), content]));
  const after = new Map(second.map((content) => [key(content), content]));
  const lost = first.flatMap(({ of, what, ...content }): ContentDifference[] => {
    const now = after.get(key({ of, what, ...content }));
    if (!now) return [{ of, what, how: 'gone' }];
    return now.sha256 === content.sha256 ? [] : [{ of, what, how: 'changed' }];
  });
  const fresh = second.flatMap(({ of, what, ...content }): ContentDifference[] =>
    before.has(key({ of, what, ...content })) ? [] : [{ of, what, how: 'new' }],
  );
  return [...lost, ...fresh];
}

const named = (name: string, nth: number) => (nth > 0 ? `“${name}” (${nth + 1})` : `“${name}”`);

function called<T extends { readonly name: string }>(word: string, things: readonly T[]): [string, T][] {
  const names = allNamed(things.map((thing) => thing.name));
  return things.map((thing, i) => [`${word} ${named(names[i].name, names[i].nth)}`, thing]);
}

const text = (value: unknown) => new TextEncoder().encode(canonicalize(value) ?? 'null');

const content = (of: string, what: string, ...parts: readonly unknown[]): Content => {
  const sums = parts.map((part) => addressOf(ArrayBuffer.isView(part) ? bytesOf(part) : text(part)));
  return { of, what, sha256: sums.length === 1 ? sums[0] : addressOf(text(sums)) };
};

const bytesOf = (view: ArrayBufferView) => new Uint8Array(view.buffer, view.byteOffset, view.byteLength);

const placeOf = (node: SceneNode, names: readonly string[]) => ({
  parent: node.parent < 0 ? null : names[node.parent],
  kind: node.kind,
  place: node.matrix ?? [node.translation, node.rotation, node.scale],
  shows: [node.mesh >= 0, node.skin >= 0],
});

function ofMesh(of: string, mesh: Mesh): Content[] {
  const { POSITION, ...others } = mesh.attributes;
  const names = Object.keys(others).sort();
  const influences = mesh.influences;
  return [
    content(of, 'points', POSITION?.data ?? null),
    content(of, 'polygons', mesh.polygonOffsets, turnedCorners(mesh)),
    content(of, 'normals, texture places and colours', names, ...names.map((name) => others[name].data)),
    ...(influences ? [content(of, 'weights', influences.offsets, influences.joint, influences.weight)] : []),
    ...mesh.morphs.map((morph, i) => {
      const fields = Object.keys(morph.attributes).sort();
      return content(
        of,
        `morph target ${i + 1}`,
        fields,
        ...fields.map((field) => morph.attributes[field].data),
      );
    }),
  ];
}

/**
 * The corners of every polygon from its least one on: where a file begins to go round is nothing that anybody
 * sees.
 */
function turnedCorners({ polygonOffsets, corners }: Mesh): Uint32Array {
  const out = new Uint32Array(corners.length);
  for (let polygon = 0; polygon + 1 < polygonOffsets.length; polygon++) {
    const from = polygonOffsets[polygon];
    const size = polygonOffsets[polygon + 1] - from;
    let least = 0;
    for (let k = 1; k < size; k++) if (corners[from + k] < corners[from + least]) least = k;
    for (let k = 0; k < size; k++) out[from + k] = corners[from + ((least + k) % size)];
  }
  return out;
}

const ofSkin = (of: string, { joints, inverseBinds }: Skin, names: readonly string[]): Content[] => [
  content(
    of,
    'joints',
    joints.map((j) => names[j]),
  ),
  content(of, 'bind', inverseBinds),
];

const motionOf = ({ channels }: Clip, names: readonly string[]) =>
  channels.map(({ node, path, interpolation, times, values }) => ({
    node: names[node],
    path,
    interpolation,
    times: addressOf(bytesOf(times)),
    values: addressOf(bytesOf(values)),
  }));

const setOf = ({ tint, bones, vertices, polygons }: ElementSet, names: readonly string[]) => ({
  tint: tint ?? null,
  bones: bones.map((bone) => names[bone]),
  vertices: vertices.map(({ node, ids }) => [names[node], addressOf(bytesOf(ids))]),
  polygons: polygons.map(({ node, ids }) => [names[node], addressOf(bytesOf(ids))]),
});

function ofCarried({ materials, textures, images }: Carried): Content[] {
  return [
    ...materials.map((material, i) => content(`material ${i + 1}`, 'settings', material)),
    ...textures.map((texture, i) => content(`texture ${i + 1}`, 'settings', texture)),
    ...images.map(({ bytes }, i) => content(`picture ${i + 1}`, 'bytes', bytes ?? null)),
  ];
}
