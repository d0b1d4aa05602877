import { restWorld, topDown } from './hierarchy';
import { characterHeight } from './measure';
import { setsAfterNodes } from './sets';
import type { Carried, Character, Json, JsonObject, Piece, SceneNode } from './model';

/** Where what is added goes. */
export interface JoinOptions {
  /** Bones of the addition that stand where a bone of the same name stands already are that bone. */
  readonly shareBones?: boolean;
}

/**
 * Two characters as one: nodes, meshes, skins, clips, materials and pictures of the second behind those of
 * the first. Each keeps its source, with its unit and axes; the first's scene takes the roots of both. What
 * cannot be joined is named in the notes.
 */
export function joinCharacters(base: Character, addition: Character, options: JoinOptions = {}): Character {
  const shared = options.shareBones === false ? new Map<number, number>() : sharedBones(base, addition);
  const notes = [...base.notes, ...addition.notes];
  if (shared.size > 0)
    notes.push(
      `${shared.size} bones of “${addition.name}” stand where bones of the same names stood already, and are those.`,
    );
  const nodeOf: number[] = [];
  let next = base.nodes.length;
  addition.nodes.forEach((_, i) => nodeOf.push(shared.get(i) ?? next++));
  const [meshes, skins, materials, cameras] = [
    base.meshes.length,
    base.skins.length,
    base.carried.materials.length,
    base.carried.cameras.length,
  ];
  const lights = lightsOf(base.carried).length;
  const source = (base.added?.length ?? 0) + 1;
  const moved = addition.nodes.flatMap((node, i): SceneNode[] =>
    shared.has(i)
      ? []
      : [
          {
            ...node,
            parent: node.parent < 0 ? -1 : nodeOf[node.parent],
            mesh: node.mesh < 0 ? -1 : node.mesh + meshes,
            skin: node.skin < 0 ? -1 : node.skin + skins,
            source,
            ...(node.camera === undefined ? {} : { camera: node.camera + cameras }),
            ...(node.extensions ? { extensions: shiftedLight(node.extensions, lights) } : {}),
          },
        ],
  );
  if (addition.carried.extensions[VARIANTS] !== undefined)
    notes.push(`The material variants of “${addition.name}” are not carried; it has its first materials.`);
  return {
    ...base,
    nodes: [...base.nodes, ...moved],
    meshes: [
      ...base.meshes,
      ...addition.meshes.map((mesh) => ({
        ...mesh,
        pieces: mesh.pieces.map((piece) => joinedPiece(piece, materials)),
      })),
    ],
    skins: [
      ...base.skins,
      ...addition.skins.map((skin) => ({
        ...skin,
        joints: skin.joints.map((j) => nodeOf[j]),
        ...(skin.skeleton === undefined || skin.skeleton < 0 ? {} : { skeleton: nodeOf[skin.skeleton] }),
      })),
    ],
    clips: [
      ...base.clips,
      ...addition.clips.map((clip) => ({
        ...clip,
        channels: clip.channels.map((ch) => ({ ...ch, node: nodeOf[ch.node] })),
      })),
    ],
    sets: [...base.sets, ...setsAfterNodes(addition.sets, nodeOf)],
    carried: joinCarried(
      base.carried,
      addition.carried,
      moved.flatMap((node, k) => (node.parent < 0 ? [base.nodes.length + k] : [])),
    ),
    added: [...(base.added ?? []), addition.source, ...(addition.added ?? [])],
    notes,
  };
}

const VARIANTS = 'KHR_materials_variants';

/** A run of polygons whose materials stand behind so many others; of material variants it keeps the first. */
function joinedPiece(piece: Piece, materials: number): Piece {
  const { extensions, material } = piece;
  return {
    ...piece,
    material: material < 0 ? -1 : material + materials,
    ...(extensions ? { extensions: without(extensions, VARIANTS) } : {}),
  };
}

/**
 * Bones of the addition that are bones of the base: the same name, once in both, the same place and axes,
 * under shared bones or none.
 */
function sharedBones(base: Character, addition: Character): Map<number, number> {
  const out = new Map<number, number>();
  const once = (character: Character) => {
    const at = new Map<string, number>();
    character.nodes.forEach((node, i) => {
      if (node.kind === 'bone') at.set(node.name, at.has(node.name) ? -1 : i);
    });
    return at;
  };
  const mine = once(base);
  const theirs = once(addition);
  const [a, b] = [restWorld(base.nodes), restWorld(addition.nodes)];
  const near = characterHeight(base) * 1e-3;
  for (const i of topDown(addition.nodes)) {
    const node = addition.nodes[i];
    const at = mine.get(node.name);
    if (node.kind !== 'bone' || theirs.get(node.name) !== i || at === undefined || at < 0) continue;
    if (node.parent >= 0 && addition.nodes[node.parent].kind === 'bone' && !out.has(node.parent)) continue;
    let apart = 0;
    let turned = 0;
    for (let k = 0; k < 3; k++) {
      apart = Math.max(apart, Math.abs(a[at * 16 + 12 + k] - b[i * 16 + 12 + k]));
      for (let corner = 0; corner < 3; corner++)
        turned = Math.max(turned, Math.abs(a[at * 16 + corner * 4 + k] - b[i * 16 + corner * 4 + k]));
    }
    if (apart <= near && turned <= 1e-3) out.set(i, at);
  }
  return out;
}

const without = (json: JsonObject, key: string): JsonObject =>
  Object.fromEntries(Object.entries(json).filter(([name]) => name !== key));

const lightsOf = (carried: Carried): Json[] => {
  const lights = (carried.extensions.KHR_lights_punctual as JsonObject | undefined)?.lights;
  return Array.isArray(lights) ? lights : [];
};

function shiftedLight(extensions: JsonObject, by: number): JsonObject {
  const light = (extensions.KHR_lights_punctual as JsonObject | undefined)?.light;
  return typeof light === 'number'
    ? {
        ...extensions,
        KHR_lights_punctual: { ...(extensions.KHR_lights_punctual as JsonObject), light: light + by },
      }
    : extensions;
}

/** Texture references of a material, at whatever depth, counted on. */
function shiftedTextures(x: Json, by: number, key = ''): Json {
  if (Array.isArray(x)) return x.map((y) => shiftedTextures(y, by));
  if (!x || typeof x !== 'object') return x;
  return Object.fromEntries(
    Object.entries(x).map(([name, value]) => [
      name,
      name === 'index' && /texture$/i.test(key) && typeof value === 'number'
        ? value + by
        : shiftedTextures(value, by, name),
    ]),
  );
}

function joinCarried(a: Carried, b: Carried, roots: readonly number[]): Carried {
  const images = a.images.length;
  const samplers = a.samplers.length;
  const textures = a.textures.length;
  const counted = (json: JsonObject): JsonObject => ({
    ...json,
    ...(typeof json.source === 'number' ? { source: json.source + images } : {}),
    ...(typeof json.sampler === 'number' ? { sampler: json.sampler + samplers } : {}),
    ...(json.extensions
      ? {
          extensions: Object.fromEntries(
            Object.entries(json.extensions as JsonObject).map(([key, extension]) => {
              const otherJson = extension as JsonObject;
              return [
                key,
                typeof otherJson?.source === 'number'
                  ? { ...otherJson, source: otherJson.source + images }
                  : otherJson,
              ];
            }),
          ),
        }
      : {}),
  });
  const lights = [...lightsOf(a), ...lightsOf(b)];
  const main = Math.max(0, a.scene);
  return {
    ...a,
    materials: [
      ...a.materials,
      ...b.materials.map((material) => shiftedTextures(material, textures) as JsonObject),
    ],
    textures: [...a.textures, ...b.textures.map(counted)],
    samplers: [...a.samplers, ...b.samplers],
    images: [...a.images, ...b.images],
    cameras: [...a.cameras, ...b.cameras],
    scenes:
      a.scenes.length === 0
        ? a.scenes
        : a.scenes.map((scene, i) => (i === main ? { ...scene, roots: [...scene.roots, ...roots] } : scene)),
    extensions: {
      ...without(b.extensions, 'KHR_materials_variants'),
      ...a.extensions,
      ...(lights.length > 0 ? { KHR_lights_punctual: { lights } } : {}),
    },
    extensionsUsed: [
      ...new Set([
        ...a.extensionsUsed,
        ...b.extensionsUsed.filter((text) => text !== 'KHR_materials_variants'),
      ]),
    ],
    extensionsRequired: [...new Set([...a.extensionsRequired, ...b.extensionsRequired])],
  };
}
