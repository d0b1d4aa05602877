import { restWorld, topDown } from './hierarchy';
import { characterHeight } from './measure';
import type { Carried, Character, Json, JsonObject, SceneNode } from './model';

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
  const moved = addition.nodes.flatMap((n, i): SceneNode[] =>
    shared.has(i)
      ? []
      : [
          {
            ...n,
            parent: n.parent < 0 ? -1 : nodeOf[n.parent],
            mesh: n.mesh < 0 ? -1 : n.mesh + meshes,
            skin: n.skin < 0 ? -1 : n.skin + skins,
            source,
            ...(n.camera === undefined ? {} : { camera: n.camera + cameras }),
            ...(n.extensions ? { extensions: shiftedLight(n.extensions, lights) } : {}),
          },
        ],
  );
  const variants = addition.carried.extensions.KHR_materials_variants !== undefined;
  if (variants)
    notes.push(`The material variants of “${addition.name}” are not carried; it has its first materials.`);
  return {
    ...base,
    nodes: [...base.nodes, ...moved],
    meshes: [
      ...base.meshes,
      ...addition.meshes.map((m) => ({
        ...m,
        pieces: m.pieces.map((p) => ({
          ...p,
          material: p.material < 0 ? -1 : p.material + materials,
          ...(variants && p.extensions
            ? { extensions: without(p.extensions, 'KHR_materials_variants') }
            : {}),
        })),
      })),
    ],
    skins: [
      ...base.skins,
      ...addition.skins.map((s) => ({
        ...s,
        joints: s.joints.map((j) => nodeOf[j]),
        ...(s.skeleton === undefined || s.skeleton < 0 ? {} : { skeleton: nodeOf[s.skeleton] }),
      })),
    ],
    clips: [
      ...base.clips,
      ...addition.clips.map((c) => ({
        ...c,
        channels: c.channels.map((ch) => ({ ...ch, node: nodeOf[ch.node] })),
      })),
    ],
    sets: [...base.sets, ...addition.sets.map((s) => ({ ...s, bones: s.bones.map((b) => nodeOf[b]) }))],
    carried: joinCarried(
      base.carried,
      addition.carried,
      moved.flatMap((n, k) => (n.parent < 0 ? [base.nodes.length + k] : [])),
    ),
    added: [...(base.added ?? []), addition.source, ...(addition.added ?? [])],
    notes,
  };
}

/**
 * Bones of the addition that are bones of the base: the same name, once in both, the same place and axes,
 * under shared bones or none.
 */
function sharedBones(base: Character, addition: Character): Map<number, number> {
  const out = new Map<number, number>();
  const once = (c: Character) => {
    const at = new Map<string, number>();
    c.nodes.forEach((n, i) => {
      if (n.kind === 'bone') at.set(n.name, at.has(n.name) ? -1 : i);
    });
    return at;
  };
  const mine = once(base);
  const theirs = once(addition);
  const [a, b] = [restWorld(base.nodes), restWorld(addition.nodes)];
  const near = characterHeight(base) * 1e-3;
  for (const i of topDown(addition.nodes)) {
    const n = addition.nodes[i];
    const at = mine.get(n.name);
    if (n.kind !== 'bone' || theirs.get(n.name) !== i || at === undefined || at < 0) continue;
    if (n.parent >= 0 && addition.nodes[n.parent].kind === 'bone' && !out.has(n.parent)) continue;
    let apart = 0;
    let turned = 0;
    for (let k = 0; k < 3; k++) {
      apart = Math.max(apart, Math.abs(a[at * 16 + 12 + k] - b[i * 16 + 12 + k]));
      for (let c = 0; c < 3; c++)
        turned = Math.max(turned, Math.abs(a[at * 16 + c * 4 + k] - b[i * 16 + c * 4 + k]));
    }
    if (apart <= near && turned <= 1e-3) out.set(i, at);
  }
  return out;
}

const without = (o: JsonObject, key: string): JsonObject =>
  Object.fromEntries(Object.entries(o).filter(([k]) => k !== key));

const lightsOf = (c: Carried): Json[] => {
  const l = (c.extensions.KHR_lights_punctual as JsonObject | undefined)?.lights;
  return Array.isArray(l) ? l : [];
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
    Object.entries(x).map(([k, v]) => [
      k,
      k === 'index' && /texture$/i.test(key) && typeof v === 'number' ? v + by : shiftedTextures(v, by, k),
    ]),
  );
}

function joinCarried(a: Carried, b: Carried, roots: readonly number[]): Carried {
  const images = a.images.length;
  const samplers = a.samplers.length;
  const textures = a.textures.length;
  const counted = (t: JsonObject): JsonObject => ({
    ...t,
    ...(typeof t.source === 'number' ? { source: t.source + images } : {}),
    ...(typeof t.sampler === 'number' ? { sampler: t.sampler + samplers } : {}),
    ...(t.extensions
      ? {
          extensions: Object.fromEntries(
            Object.entries(t.extensions as JsonObject).map(([k, v]) => {
              const e = v as JsonObject;
              return [k, typeof e?.source === 'number' ? { ...e, source: e.source + images } : e];
            }),
          ),
        }
      : {}),
  });
  const lights = [...lightsOf(a), ...lightsOf(b)];
  const main = Math.max(0, a.scene);
  return {
    ...a,
    materials: [...a.materials, ...b.materials.map((m) => shiftedTextures(m, textures) as JsonObject)],
    textures: [...a.textures, ...b.textures.map(counted)],
    samplers: [...a.samplers, ...b.samplers],
    images: [...a.images, ...b.images],
    cameras: [...a.cameras, ...b.cameras],
    scenes:
      a.scenes.length === 0
        ? a.scenes
        : a.scenes.map((s, i) => (i === main ? { ...s, roots: [...s.roots, ...roots] } : s)),
    extensions: {
      ...without(b.extensions, 'KHR_materials_variants'),
      ...a.extensions,
      ...(lights.length > 0 ? { KHR_lights_punctual: { lights } } : {}),
    },
    extensionsUsed: [
      ...new Set([...a.extensionsUsed, ...b.extensionsUsed.filter((x) => x !== 'KHR_materials_variants')]),
    ],
    extensionsRequired: [...new Set([...a.extensionsRequired, ...b.extensionsRequired])],
  };
}
