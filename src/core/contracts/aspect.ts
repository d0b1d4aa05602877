import type { Character, Mesh, SceneNode, Skin } from '../character/model';

/**
 * The aspects of a character that a check can read and a step can change. A check says which it reads, so
 * that it is asked again only when one of them has changed; a remedy says which it may change, so that
 * anything else it changed is named.
 */
export const ASPECTS = [
  'tree',
  'names',
  'places',
  'shows',
  'points',
  'shading',
  'polygons',
  'morphs',
  'weights',
  'joints',
  'binds',
  'clips',
  'sets',
  'kind',
  'carried',
  'source',
] as const;

export type Aspect = (typeof ASPECTS)[number];

/** What an aspect is, in words. */
export const ASPECT_WORDS: Readonly<Record<Aspect, string>> = {
  tree: 'which node hangs under which, and their kinds',
  names: 'names',
  places: 'where nodes stand at rest',
  shows: 'which node shows which mesh',
  points: 'points of meshes',
  shading: 'normals, texture places and colours',
  polygons: 'polygons',
  morphs: 'morph targets',
  weights: 'weights',
  joints: 'which joints a skin lists',
  binds: 'inverse binds',
  clips: 'clips',
  sets: 'sets of bones, points and polygons',
  kind: 'what is said of its body and its bones: kinds, orders of turns',
  carried: 'materials, cameras and what else is carried through',
  source: 'what is noted of the files',
};

/** What the points of every mesh at rest follow from. */
export const SHAPE_AT_REST: readonly Aspect[] = [
  'tree',
  'places',
  'shows',
  'points',
  'morphs',
  'weights',
  'joints',
  'binds',
];

/** What a step changes that adds nodes, each with nothing in it. */
export const NEW_NODES: readonly Aspect[] = [
  'tree',
  'names',
  'places',
  'shows',
  'morphs',
  'carried',
  'source',
  'kind',
];

/**
 * What the landmarks of a figure follow from: names and places of the bones, and which of them carry weight.
 */
export const LANDMARKS: readonly Aspect[] = ['tree', 'names', 'places', 'shows', 'joints', 'weights', 'kind'];

/**
 * The aspects that differ between two states of a character, list by list and place by place: what counts
 * otherwise differs.
 */
export function changedAspects(before: Character, after: Character): Set<Aspect> {
  const changed = new Set<Aspect>();
  if (before.name !== after.name) changed.add('names');
  compareLists(before.nodes, after.nodes, changed, OF_NODES, addNodeAspects);
  compareLists(before.meshes, after.meshes, changed, OF_MESHES, addMeshAspects);
  compareLists(before.skins, after.skins, changed, OF_SKINS, addSkinAspects);
  if (!sameEntries(before.clips, after.clips)) changed.add('clips');
  if (!sameEntries(before.sets, after.sets)) changed.add('sets');
  if (before.bodyKind !== after.bodyKind) changed.add('kind');
  if (before.carried !== after.carried) changed.add('carried');
  if (before.source !== after.source || before.added !== after.added) changed.add('source');
  return changed;
}

/** A list of nodes of another length differs in what new nodes bring. */
const OF_NODES = NEW_NODES;
const OF_MESHES: readonly Aspect[] = [
  'names',
  'points',
  'shading',
  'polygons',
  'morphs',
  'weights',
  'carried',
];
const OF_SKINS: readonly Aspect[] = ['names', 'joints', 'binds', 'carried'];

/**
 * Adds what differs between two entries of a list; all that the list holds where the lists are of different
 * lengths.
 */
function compareLists<T>(
  before: readonly T[],
  after: readonly T[],
  changed: Set<Aspect>,
  all: readonly Aspect[],
  add: (a: T, b: T, changed: Set<Aspect>) => void,
): void {
  if (before === after) return;
  if (before.length !== after.length) {
    for (const aspect of all) changed.add(aspect);
    return;
  }
  before.forEach((x, i) => {
    if (x !== after[i]) add(x, after[i], changed);
  });
}

/** Adds the aspects in which two states of one node differ. */
export function addNodeAspects(a: SceneNode, b: SceneNode, changed: Set<Aspect>): void {
  if (a.parent !== b.parent || a.kind !== b.kind) changed.add('tree');
  if (a.name !== b.name) changed.add('names');
  addPlaceAspects(a, b, changed);
  if (a.mesh !== b.mesh || a.skin !== b.skin) changed.add('shows');
  if (!sameNumbers(a.morphWeights, b.morphWeights)) changed.add('morphs');
  if (a.camera !== b.camera || a.extras !== b.extras || a.extensions !== b.extensions) changed.add('carried');
  if (a.source !== b.source) changed.add('source');
  if (a.boneKind !== b.boneKind || a.turnOrder !== b.turnOrder) changed.add('kind');
}

/** Adds `places` where two states of one node stand otherwise in their parents. */
function addPlaceAspects(a: SceneNode, b: SceneNode, changed: Set<Aspect>): void {
  const same =
    sameNumbers(a.translation, b.translation) &&
    sameNumbers(a.rotation, b.rotation) &&
    sameNumbers(a.scale, b.scale) &&
    sameNumbers(a.matrix, b.matrix);
  if (!same) changed.add('places');
}

/**
 * Adds the aspects in which two states of one mesh differ. Arrays count as different where they are other
 * objects with other numbers.
 */
export function addMeshAspects(a: Mesh, b: Mesh, changed: Set<Aspect>): void {
  if (a.name !== b.name) changed.add('names');
  if (
    a.vertexCount !== b.vertexCount ||
    !sameNumbers(a.attributes.POSITION?.data, b.attributes.POSITION?.data)
  )
    changed.add('points');
  if (!sameShading(a, b)) changed.add('shading');
  const samePolygons =
    a.pieces === b.pieces &&
    a.polygonOrigin === b.polygonOrigin &&
    sameNumbers(a.polygonOffsets, b.polygonOffsets) &&
    sameNumbers(a.corners, b.corners);
  if (!samePolygons) changed.add('polygons');
  if (a.morphs !== b.morphs || !sameNumbers(a.morphWeights, b.morphWeights)) changed.add('morphs');
  if (!sameInfluences(a, b)) changed.add('weights');
  if (a.extras !== b.extras || a.extensions !== b.extensions) changed.add('carried');
}

/** Adds the aspects in which two states of one skin differ. */
export function addSkinAspects(a: Skin, b: Skin, changed: Set<Aspect>): void {
  if (a.name !== b.name) changed.add('names');
  if (!sameNumbers(a.joints, b.joints) || a.skeleton !== b.skeleton) changed.add('joints');
  if (!sameNumbers(a.inverseBinds, b.inverseBinds)) changed.add('binds');
  if (a.extras !== b.extras || a.extensions !== b.extensions) changed.add('carried');
}

function sameShading(a: Mesh, b: Mesh): boolean {
  if (a.attributes === b.attributes) return true;
  const names = new Set([...Object.keys(a.attributes), ...Object.keys(b.attributes)]);
  names.delete('POSITION');
  return [...names].every((name) => sameNumbers(a.attributes[name]?.data, b.attributes[name]?.data));
}

function sameInfluences(a: Mesh, b: Mesh): boolean {
  const influences = a.influences;
  const otherInfluences = b.influences;
  if (influences === otherInfluences) return a.influenceStorage === b.influenceStorage;
  if (!influences || !otherInfluences) return false;
  return (
    sameNumbers(influences.offsets, otherInfluences.offsets) &&
    sameNumbers(influences.joint, otherInfluences.joint) &&
    sameNumbers(influences.weight, otherInfluences.weight)
  );
}

function sameEntries<T>(a: readonly T[], b: readonly T[]): boolean {
  return a === b || (a.length === b.length && a.every((x, i) => x === b[i]));
}

function sameNumbers(a: ArrayLike<number> | undefined, b: ArrayLike<number> | undefined): boolean {
  if (a === b) return true;
  if (!a || !b || a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
  return true;
}
