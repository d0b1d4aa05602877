/** A character that notes which of its aspects are looked at. */
import type { Character } from '@/core/character/model';
import type { Aspect } from '@/core/contracts/aspect';

/** The aspect that a key of an entry belongs to; null for what says nothing by itself. */
type Keys = Readonly<Record<string, Aspect | null>>;

const OF_NODES: Keys = {
  name: 'names',
  parent: 'tree',
  kind: 'tree',
  translation: 'places',
  rotation: 'places',
  scale: 'places',
  matrix: 'places',
  mesh: 'shows',
  skin: 'shows',
  morphWeights: 'morphs',
  camera: 'carried',
  extras: 'carried',
  extensions: 'carried',
  source: 'source',
};

const OF_MESHES: Keys = {
  name: 'names',
  vertexCount: 'points',
  attributes: null,
  pieces: 'polygons',
  polygonOffsets: 'polygons',
  corners: 'polygons',
  polygonOrigin: 'polygons',
  influences: 'weights',
  influenceStorage: 'weights',
  morphs: 'morphs',
  morphWeights: 'morphs',
  extras: 'carried',
  extensions: 'carried',
};

const OF_SKINS: Keys = {
  name: 'names',
  joints: 'joints',
  skeleton: 'joints',
  inverseBinds: 'binds',
  extras: 'carried',
  extensions: 'carried',
};

/** How many there are: whoever walks a list looks at that. */
const LENGTHS: Readonly<Record<string, Aspect>> = { nodes: 'tree', meshes: 'shows', skins: 'joints' };

/** A view of a character that adds to `seen` what is read of it. Arrays of numbers come as they are. */
export function recorded(character: Character, seen: Set<Aspect>): Character {
  const note = (aspect: Aspect | null | undefined) => {
    if (aspect) seen.add(aspect);
  };
  const entry = (x: object, keys: Keys): object =>
    new Proxy(x, {
      get(target, key) {
        if (typeof key === 'string' && key in keys) note(keys[key]);
        const value = Reflect.get(target, key) as unknown;
        return key === 'attributes' ? attributes(value as object) : value;
      },
      ownKeys(target) {
        for (const key of Object.keys(target)) note(keys[key]);
        return Reflect.ownKeys(target);
      },
    });
  const attributes = (x: object): object =>
    new Proxy(x, {
      get(target, key) {
        if (typeof key === 'string') note(key === 'POSITION' ? 'points' : 'shading');
        return Reflect.get(target, key) as unknown;
      },
      ownKeys(target) {
        note('shading');
        return Reflect.ownKeys(target);
      },
    });
  const list = (name: 'nodes' | 'meshes' | 'skins', keys: Keys) => {
    const entries = character[name].map((x) => entry(x, keys));
    return new Proxy(entries, {
      get(target, key) {
        if (key === 'length') note(LENGTHS[name]);
        return Reflect.get(target, key) as unknown;
      },
    });
  };
  const lists: Record<string, unknown> = {
    nodes: list('nodes', OF_NODES),
    meshes: list('meshes', OF_MESHES),
    skins: list('skins', OF_SKINS),
  };
  const whole: Keys = {
    name: 'names',
    clips: 'clips',
    sets: 'sets',
    carried: 'carried',
    source: 'source',
    added: 'source',
  };
  return new Proxy(character, {
    get(target, key) {
      if (typeof key === 'string') {
        if (key in lists) return lists[key];
        note(whole[key]);
      }
      return Reflect.get(target, key) as unknown;
    },
  });
}
