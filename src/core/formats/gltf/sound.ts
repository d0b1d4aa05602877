/**
 * What the standard says of a glTF's own words, held against the file before it is read: a value of another
 * kind, or one that names what is not there, is left out and told. What the reader itself cannot do without
 * (positions, parents, joints …) it refuses in its own place.
 */
import type { Json, JsonObject } from '../../character/model';
import { printable } from '../errors';

/** What may stand somewhere. */
type Rule =
  | 'text'
  | 'number'
  | 'whole'
  | 'flag'
  | 'extensions'
  | { readonly numbers: number }
  | { readonly names: List }
  | { readonly one: Fields; readonly needs?: string }
  | { readonly many: Fields; readonly whole?: Whole };

type Fields = Readonly<Record<string, Rule>>;

type ManyRule = Extract<Rule, { readonly many: Fields }>;

/** What a thing of a list is without which it is none; others count in the list, so that a plain one takes its place. */
interface Whole {
  readonly is: (thing: JsonObject) => boolean;
  readonly else: JsonObject;
  readonly word: string;
}

/** The lists of a glTF that others count in. */
type List =
  'cameras' | 'materials' | 'meshes' | 'nodes' | 'samplers' | 'scenes' | 'skins' | 'textures' | 'images';

const TEXTURE: Fields = { index: { names: 'textures' }, texCoord: 'whole', extensions: 'extensions' };

const MATERIAL: Fields = {
  name: 'text',
  pbrMetallicRoughness: {
    one: {
      baseColorFactor: { numbers: 4 },
      baseColorTexture: { one: TEXTURE, needs: 'index' },
      metallicFactor: 'number',
      roughnessFactor: 'number',
      metallicRoughnessTexture: { one: TEXTURE, needs: 'index' },
    },
  },
  normalTexture: { one: { ...TEXTURE, scale: 'number' }, needs: 'index' },
  occlusionTexture: { one: { ...TEXTURE, strength: 'number' }, needs: 'index' },
  emissiveTexture: { one: TEXTURE, needs: 'index' },
  emissiveFactor: { numbers: 3 },
  alphaMode: 'text',
  alphaCutoff: 'number',
  doubleSided: 'flag',
  extensions: 'extensions',
};

const CAMERA: Fields = {
  name: 'text',
  type: 'text',
  perspective: { one: { aspectRatio: 'number', yfov: 'number', zfar: 'number', znear: 'number' } },
  orthographic: { one: { xmag: 'number', ymag: 'number', zfar: 'number', znear: 'number' } },
  extensions: 'extensions',
};

const isObject = (x: Json | undefined): x is JsonObject => !!x && typeof x === 'object' && !Array.isArray(x);

const isAbove = (x: Json | undefined, least: number) => typeof x === 'number' && x > least;

/** What glTF 2.0 (5.12 to 5.14) demands of a camera. */
const WHOLE_CAMERA: Whole = {
  is: ({ type, perspective, orthographic }) => {
    if (type === 'perspective')
      return isObject(perspective) && isAbove(perspective.yfov, 0) && isAbove(perspective.znear, 0);
    if (type !== 'orthographic' || !isObject(orthographic)) return false;
    const { xmag, ymag, zfar, znear } = orthographic;
    const near = typeof znear === 'number' && znear >= 0 ? znear : Infinity;
    return typeof xmag === 'number' && typeof ymag === 'number' && xmag * ymag !== 0 && isAbove(zfar, near);
  },
  else: { type: 'perspective', perspective: { yfov: 0.8, znear: 0.1 } },
  word: 'camera',
};

/** What KHR_lights_punctual says of lights. */
const LIGHTS: Fields = {
  lights: {
    many: {
      name: 'text',
      color: { numbers: 3 },
      intensity: 'number',
      type: 'text',
      range: 'number',
      spot: { one: { innerConeAngle: 'number', outerConeAngle: 'number' } },
    },
    whole: {
      is: ({ type, spot }) =>
        type === 'directional' || type === 'point' || (type === 'spot' && isObject(spot)),
      else: { type: 'point' },
      word: 'light',
    },
  },
};

/** Extensions whose words are known here. */
const EXTENSIONS: Readonly<Record<string, Fields | undefined>> = { KHR_lights_punctual: LIGHTS };

/** What glTF 2.0 (appendix A of the specification) says of the values that are carried or read in passing. */
const GLTF: Fields = {
  asset: {
    one: {
      version: 'text',
      minVersion: 'text',
      generator: 'text',
      copyright: 'text',
      extensions: 'extensions',
    },
  },
  scene: { names: 'scenes' },
  scenes: { many: { name: 'text', extensions: 'extensions' } },
  nodes: { many: { name: 'text', camera: { names: 'cameras' }, extensions: 'extensions' } },
  meshes: {
    many: {
      name: 'text',
      primitives: { many: { mode: 'whole', material: { names: 'materials' }, extensions: 'extensions' } },
      extensions: 'extensions',
    },
  },
  skins: { many: { name: 'text', skeleton: { names: 'nodes' }, extensions: 'extensions' } },
  animations: {
    many: {
      name: 'text',
      samplers: { many: { interpolation: 'text', extensions: 'extensions' } },
      channels: { many: { extensions: 'extensions' } },
      extensions: 'extensions',
    },
  },
  materials: { many: MATERIAL },
  textures: {
    many: {
      name: 'text',
      sampler: { names: 'samplers' },
      source: { names: 'images' },
      extensions: 'extensions',
    },
  },
  samplers: {
    many: {
      name: 'text',
      magFilter: 'whole',
      minFilter: 'whole',
      wrapS: 'whole',
      wrapT: 'whole',
      extensions: 'extensions',
    },
  },
  images: { many: { name: 'text', uri: 'text', mimeType: 'text', extensions: 'extensions' } },
  cameras: { many: CAMERA, whole: WHOLE_CAMERA },
  extensions: 'extensions',
};

const KINDS: Readonly<Record<'text' | 'number' | 'whole' | 'flag', string>> = {
  text: 'text',
  number: 'a number',
  whole: 'a whole number',
  flag: 'true or false',
};

/** Notes that are told one by one; what is beyond is counted. */
const MOST_NOTES = 8;

/** A glTF whose values are of the kind that the standard wants, and what was left out of it. */
export function soundJson(json: JsonObject): {
  readonly json: JsonObject;
  readonly notes: readonly string[];
} {
  const walk = new SoundWalk(json);
  const sound = walk.object(json, GLTF, 'the file');
  const told = walk.told.slice(0, MOST_NOTES);
  const more = walk.told.length - told.length;
  if (more > 0) told.push(`${more} more values are not of the kind that glTF 2.0 wants and were left out.`);
  return { json: sound, notes: told };
}

class SoundWalk {
  readonly told: string[] = [];

  constructor(private readonly root: JsonObject) {}

  /** The object without what is not sound in it; the same object where all of it is. */
  object(value: JsonObject, fields: Fields, where: string): JsonObject {
    let out = value;
    for (const [key, rule] of Object.entries(fields)) {
      const is = value[key];
      if (is === undefined) continue;
      const better = this.value(is, rule, key, where);
      if (better === is) continue;
      if (out === value) out = { ...value };
      if (better === undefined) delete out[key];
      else out[key] = better;
    }
    return out;
  }

  /** A value as the rule wants it; undefined where it has to go. */
  private value(is: Json, rule: Rule, key: string, where: string): Json | undefined {
    if (rule === 'extensions') return this.extensions(is, key, where);
    if (typeof rule === 'string') return this.plain(is, rule, key, where);
    if ('numbers' in rule) {
      const fits =
        Array.isArray(is) && is.length === rule.numbers && is.every((x) => Number.isFinite(x as number));
      return fits ? is : this.leave(key, where, `${textOf(is)} where ${rule.numbers} numbers belong`);
    }
    if ('names' in rule) {
      const list = this.root[rule.names];
      const count = Array.isArray(list) ? list.length : 0;
      if (Number.isInteger(is) && (is as number) >= 0 && (is as number) < count) return is;
      return this.leave(key, where, `${textOf(is)}, and there are ${count} ${rule.names}`);
    }
    if ('one' in rule) {
      if (!isObject(is)) return this.leave(key, where, `${textOf(is)} where an object belongs`);
      const sound = this.object(is, rule.one, `${key} of ${where}`);
      if (rule.needs && sound[rule.needs] === undefined)
        return this.leave(key, where, `without its “${rule.needs}”`);
      return sound;
    }
    if (!Array.isArray(is)) return this.leave(key, where, `${textOf(is)} where a list belongs`);
    return this.list(is, rule, key, where);
  }

  private plain(is: Json, rule: keyof typeof KINDS, key: string, where: string): Json | undefined {
    const fits = {
      text: typeof is === 'string',
      number: Number.isFinite(is),
      whole: Number.isInteger(is),
      flag: typeof is === 'boolean',
    }[rule];
    return fits ? is : this.leave(key, where, `${textOf(is)} where ${KINDS[rule]} belongs`);
  }

  /** Extensions by their names; each is an object. */
  private extensions(is: Json, key: string, where: string): Json | undefined {
    if (!isObject(is)) return this.leave(key, where, `${textOf(is)} where an object belongs`);
    const rows = Object.entries(is);
    const kept = rows.filter(
      ([name, x]) => isObject(x) || this.leave(name, where, `${textOf(x)} where an object belongs`),
    );
    const better = kept.map(([name, x]) => {
      const fields = EXTENSIONS[name];
      return [name, fields ? this.object(x as JsonObject, fields, `${name} of ${where}`) : x] as const;
    });
    const isSame = kept.length === rows.length && better.every(([, x], i) => x === rows[i][1]);
    return isSame ? is : Object.fromEntries(better);
  }

  /** What is no object in a list becomes an empty one: whatever counts in the list still means the same. */
  private list(is: readonly Json[], { many, whole }: ManyRule, key: string, where: string): Json {
    const of = where === 'the file' ? '' : ` of ${where}`;
    const better = is.map((item, i) => {
      const at = `${key}[${i}]${of}`;
      if (isObject(item)) {
        const sound = this.object(item, many, at);
        if (!whole || whole.is(sound)) return sound;
        this.told.push(`${at} lacks what makes a ${whole.word}; a plain one stands there now.`);
        return { ...(sound.name === undefined ? {} : { name: sound.name }), ...whole.else };
      }
      this.told.push(
        `${at} is ${textOf(item)} where an object belongs; it counts as ${whole ? `a plain ${whole.word}` : 'empty'}.`,
      );
      return whole ? { ...whole.else } : {};
    });
    return better.every((json, i) => json === is[i]) ? (is as Json) : better;
  }

  private leave(key: string, where: string, what: string): undefined {
    this.told.push(`“${key}” of ${where} is ${what}; it was left out.`);
  }
}

/** A value as a note quotes it. */
function textOf(is: Json): string {
  if (Array.isArray(is)) return `a list of ${is.length}`;
  if (isObject(is)) return 'an object';
  return typeof is === 'string' ? `“${printable(is, 24)}”` : String(is);
}
