import { writtenPolygons } from '../recover';
import { DOMImplementation, type Document, type Element, XMLSerializer } from '@xmldom/xmldom';
import { childrenOf, restLocals } from '../../character/hierarchy';
import { STILL, underSimilarity } from '../../character/similarity';
import type { Attribute, Channel, Character, Clip, JsonObject, Mesh } from '../../character/model';
import { positionsOf } from '../../character/model';
import { morphsAt } from '../../character/morphs';
import { pointsOf } from '../../character/points';
import { clipLocals } from '../../motion/pose';
import type { WrittenFiles } from '../index';
import { short } from '../numbers';

type Child = Element | string | null | undefined | readonly Child[];

/** A unit of length as a document names it. */
export interface ColladaUnit {
  readonly name: string;
  readonly metres: number;
}

/**
 * Writes COLLADA 1.4.1: metres or another unit, +Y up, polygons as polylists, any number of influences,
 * morphs, every clip with its name, simple materials with their pictures beside the file. A seam is one point
 * with several texture places. What the format has no common place for is named in the notes.
 */
export function writeCollada(
  character: Character,
  stem: string,
  unit: ColladaUnit = { name: 'meter', metres: 1 },
): WrittenFiles {
  const inUnit =
    unit.metres === 1 ? character : underSimilarity(character, { ...STILL, scale: 1 / unit.metres });
  return new ColladaWriter(inUnit, stem, unit).written();
}

interface Points {
  readonly pointOfVertex: Uint32Array;
  /** One vertex of every point. */ readonly vertexOfPoint: Uint32Array;
}

class ColladaWriter {
  private readonly doc: Document;
  private readonly notes = new Set<string>();
  private readonly ids: string[];
  private readonly points = new Map<number, Points>();
  private readonly imageNames: string[];

  constructor(
    private readonly c: Character,
    private readonly stem: string,
    private readonly unit: ColladaUnit,
  ) {
    this.doc = new DOMImplementation().createDocument(
      'http://www.collada.org/2005/11/COLLADASchema',
      'COLLADA',
    );
    this.ids = uniqueIds(c.nodes.map((n, i) => n.name || `node_${i}`));
    this.imageNames = uniqueIds(
      c.carried.images.map((im, i) =>
        String((im.json as JsonObject).name ?? `picture_${i + 1}`).replace(/\.(png|jpe?g)$/i, ''),
      ),
    ).map((n, i) => `${n}.${c.carried.images[i].mimeType === 'image/jpeg' ? 'jpg' : 'png'}`);
  }

  private e(
    tag: string,
    attributes: Record<string, string | number | undefined> = {},
    ...children: Child[]
  ): Element {
    const out = this.doc.createElementNS('http://www.collada.org/2005/11/COLLADASchema', tag);
    for (const [k, v] of Object.entries(attributes))
      if (v !== undefined) out.setAttribute(k, clean(String(v)));
    const add = (x: Child): void => {
      if (x === null || x === undefined) return;
      if (typeof x === 'string') out.appendChild(this.doc.createTextNode(clean(x)));
      else if (Array.isArray(x)) x.forEach(add);
      else out.appendChild(x as Element);
    };
    children.forEach(add);
    return out;
  }

  written(): WrittenFiles {
    const { c } = this;
    const root = this.doc.documentElement as Element;
    root.setAttribute('version', '1.4.1');
    root.appendChild(this.asset());
    for (const [tag, list] of this.libraries()) if (list.length > 0) root.appendChild(this.e(tag, {}, list));
    const children = childrenOf(c.nodes);
    const scene = this.e(
      'visual_scene',
      { id: 'scene', name: c.name },
      c.nodes.flatMap((n, i) => (n.parent < 0 ? [this.node(i, children)] : [])),
    );
    root.appendChild(this.e('library_visual_scenes', {}, scene));
    root.appendChild(this.e('scene', {}, this.e('instance_visual_scene', { url: '#scene' })));
    this.noteWhatStays();
    const text = `<?xml version="1.0" encoding="utf-8"?>\n${new XMLSerializer().serializeToString(this.doc)}\n`;
    return {
      files: [
        { name: `${this.stem}.dae`, bytes: new TextEncoder().encode(text), type: 'model/vnd.collada+xml' },
        ...c.carried.images.flatMap((im, i) =>
          im.bytes ? [{ name: this.imageNames[i], bytes: im.bytes, type: im.mimeType }] : [],
        ),
      ],
      notes: [...this.notes],
    };
  }

  private asset(): Element {
    return this.e(
      'asset',
      {},
      this.e('contributor', {}, this.e('authoring_tool', {}, 'Young Bough')),
      this.e('created', {}, '2000-01-01T00:00:00Z'),
      this.e('modified', {}, '2000-01-01T00:00:00Z'),
      this.e('unit', { name: this.unit.name, meter: this.unit.metres }),
      this.e('up_axis', {}, 'Y_UP'),
    );
  }

  /** Every library with its elements, in the order in which they are read easily. */
  private libraries(): [tag: string, elements: readonly Element[]][] {
    const { c } = this;
    const materials = c.carried.materials as readonly JsonObject[];
    const clips = c.clips.map((clip, i) => this.clip(clip, i));
    return [
      ['library_cameras', c.carried.cameras.map((x, i) => this.camera(x as JsonObject, i))],
      ['library_lights', this.lights()],
      ['library_images', c.carried.images.flatMap((im, i) => (im.bytes ? [this.image(i)] : []))],
      ['library_effects', materials.map((m, i) => this.effect(m, i))],
      ['library_materials', materials.map((m, i) => this.material(m, i))],
      ['library_geometries', c.meshes.flatMap((m, i) => this.geometries(m, i))],
      ['library_controllers', this.controllers()],
      ['library_animations', clips.flatMap((x) => x.animations)],
      ['library_animation_clips', clips.flatMap((x) => (x.clip ? [x.clip] : []))],
    ];
  }

  private image(i: number): Element {
    const name = this.imageNames[i];
    return this.e('image', { id: `image-${i}`, name }, this.e('init_from', {}, encodeURI(name)));
  }

  private material(m: JsonObject, i: number): Element {
    const name = String(m.name ?? `material ${i + 1}`);
    return this.e(
      'material',
      { id: `material-${i}`, name },
      this.e('instance_effect', { url: `#effect-${i}` }),
    );
  }

  private noteWhatStays(): void {
    const { c } = this;
    if (c.nodes.some((n) => n.extras !== undefined) || c.meshes.some((m) => m.extras !== undefined))
      this.notes.add('Notes that the glTF kept on its parts (extras) are not in the COLLADA file.');
    const extensions = Object.keys(c.carried.extensions).filter((x) => x !== 'KHR_lights_punctual');
    if (extensions.length > 0)
      this.notes.add(`The glTF extensions ${extensions.join(', ')} are not in the COLLADA file.`);
  }

  /** Points of a mesh: vertices at one place that move together in every pose and every morph. */
  private pointsOf(i: number): Points {
    const known = this.points.get(i);
    if (known) return known;
    const mesh = this.c.meshes[i];
    const weld = pointsOf(mesh);
    const pointOfVertex = new Uint32Array(mesh.vertexCount);
    const first: number[] = [];
    const members = new Map<number, number[]>();
    const alike = (a: number, b: number): boolean => {
      const f = mesh.influences;
      if (f) {
        const n = f.offsets[a + 1] - f.offsets[a];
        if (n !== f.offsets[b + 1] - f.offsets[b]) return false;
        for (let k = 0; k < n; k++)
          if (
            f.joint[f.offsets[a] + k] !== f.joint[f.offsets[b] + k] ||
            f.weight[f.offsets[a] + k] !== f.weight[f.offsets[b] + k]
          )
            return false;
      }
      return mesh.morphs.every((m) => {
        const d = m.attributes.POSITION?.data;
        return !d || [0, 1, 2].every((k) => d[a * 3 + k] === d[b * 3 + k]);
      });
    };
    for (let v = 0; v < mesh.vertexCount; v++) {
      const p = weld.pointOfVertex[v];
      const list = members.get(p) ?? [];
      let at = list.find((q) => alike(first[q], v));
      if (at === undefined) {
        at = first.push(v) - 1;
        list.push(at);
        members.set(p, list);
      }
      pointOfVertex[v] = at;
    }
    const out = { pointOfVertex, vertexOfPoint: Uint32Array.from(first) };
    this.points.set(i, out);
    return out;
  }

  private source(
    id: string,
    data: string,
    count: number,
    params: readonly [string, string][],
    stride = params.length,
  ): Element {
    return this.e(
      'source',
      { id },
      this.e('float_array', { id: `${id}-array`, count: count * stride }, data),
      this.e(
        'technique_common',
        {},
        this.e(
          'accessor',
          { source: `#${id}-array`, count, stride },
          params.map(([name, type]) => this.e('param', { name, type })),
        ),
      ),
    );
  }

  private names(
    id: string,
    names: readonly string[],
    tag: 'Name_array' | 'IDREF_array',
    param: string,
    type: string,
  ): Element {
    return this.e(
      'source',
      { id },
      this.e(tag, { id: `${id}-array`, count: names.length }, names.join(' ')),
      this.e(
        'technique_common',
        {},
        this.e(
          'accessor',
          { source: `#${id}-array`, count: names.length, stride: 1 },
          this.e('param', { name: param, type }),
        ),
      ),
    );
  }

  private geometries(mesh: Mesh, i: number): Element[] {
    const base = positionsOf(mesh);
    const out = [this.geometry(mesh, i, `mesh-${i}`, mesh.name || `mesh ${i}`, base)];
    mesh.morphs.forEach((m, k) => {
      const delta = m.attributes.POSITION?.data;
      if (!delta) {
        this.notes.add(`Morph target ${k + 1} of “${mesh.name}” moves no points and is not in the file.`);
        return;
      }
      out.push(
        this.geometry(
          mesh,
          i,
          `mesh-${i}-morph-${k}`,
          `${mesh.name} morph ${k + 1}`,
          Float32Array.from(base, (x, j) => x + delta[j]),
        ),
      );
    });
    return out;
  }

  private geometry(mesh: Mesh, i: number, id: string, name: string, positions: Float32Array): Element {
    const { pointOfVertex, vertexOfPoint } = this.pointsOf(i);
    const inputs: Element[] = [this.e('input', { semantic: 'VERTEX', source: `#${id}-vertices`, offset: 0 })];
    const place: string[] = [];
    for (const v of vertexOfPoint)
      place.push(short(positions[v * 3]), short(positions[v * 3 + 1]), short(positions[v * 3 + 2]));
    const sources = [
      this.source(`${id}-positions`, place.join(' '), vertexOfPoint.length, [
        ['X', 'float'],
        ['Y', 'float'],
        ['Z', 'float'],
      ]),
    ];
    for (const [key, a] of Object.entries(mesh.attributes)) {
      if (key === 'POSITION') continue;
      const uv = /^TEXCOORD_(\d+)$/.exec(key);
      const colour = /^COLOR_(\d+)$/.exec(key);
      if (key !== 'NORMAL' && !uv && !colour) {
        this.notes.add(`The attribute ${key} of “${mesh.name}” is not in the COLLADA file.`);
        continue;
      }
      const sid = `${id}-${key.toLowerCase()}`;
      const numbered = uv ?? colour;
      const { semantic, letters } = sourceWords(key, !!uv);
      const params = letters.slice(0, a.size).map((p): [string, string] => [p, 'float']);
      sources.push(this.source(sid, numbersOf(a, params.length, !!uv), mesh.vertexCount, params));
      inputs.push(
        this.e('input', {
          semantic,
          source: `#${sid}`,
          offset: 1,
          ...(numbered ? { set: numbered[1] } : {}),
        }),
      );
    }
    const wide = inputs.length > 1;
    const lists = mesh.pieces.map((piece, k) => {
      if (piece.mode < 4 || piece.mode > 6) {
        this.notes.add(`Lines or points of “${mesh.name}” are not in the COLLADA file.`);
        return null;
      }
      const counts: number[] = [];
      const p: number[] = [];
      for (const polygon of writtenPolygons(mesh, piece)) {
        counts.push(polygon.length);
        for (const v of polygon) {
          p.push(pointOfVertex[v]);
          if (wide) p.push(v);
        }
      }
      return this.e(
        'polylist',
        { count: counts.length, material: piece.material >= 0 ? `symbol-${k}` : undefined },
        inputs.map((x) => x.cloneNode(true) as Element),
        this.e('vcount', {}, counts.join(' ')),
        this.e('p', {}, p.join(' ')),
      );
    });
    return this.e(
      'geometry',
      { id, name },
      this.e(
        'mesh',
        {},
        sources,
        this.e(
          'vertices',
          { id: `${id}-vertices` },
          this.e('input', { semantic: 'POSITION', source: `#${id}-positions` }),
        ),
        lists,
      ),
    );
  }

  private readonly controllerIds = new Map<string, string>();

  /**
   * What a node shows its mesh through: one controller for each way in which the mesh's targets are on, one
   * for each skin on those.
   */
  private keyOf(m: number, s: number, weights: readonly number[]): string {
    return `${m}:${s}:${weights.join(' ')}`;
  }

  private controllers(): Element[] {
    const out: Element[] = [];
    this.c.meshes.forEach((mesh, m) => {
      const kept = mesh.morphs.flatMap((t, k) => (t.attributes.POSITION ? [k] : []));
      if (kept.length === 0) return;
      const own = mesh.morphs.map((_, k) => mesh.morphWeights?.[k] ?? 0);
      for (const weights of [
        own,
        ...this.c.nodes.flatMap((n, i) => (n.mesh === m ? [morphsAt(this.c, i)] : [])),
      ]) {
        const key = this.keyOf(m, -1, weights);
        if (this.controllerIds.has(key)) continue;
        const id = `mesh-${m}-morphs${weights === own ? '' : `-${this.controllerIds.size}`}`;
        this.controllerIds.set(key, id);
        out.push(
          this.e(
            'controller',
            { id, name: mesh.name },
            this.e(
              'morph',
              { source: `#mesh-${m}`, method: 'NORMALIZED' },
              this.names(
                `${id}-targets`,
                kept.map((k) => `mesh-${m}-morph-${k}`),
                'IDREF_array',
                'MORPH_TARGET',
                'IDREF',
              ),
              this.source(`${id}-weights`, kept.map((k) => String(weights[k])).join(' '), kept.length, [
                ['MORPH_WEIGHT', 'float'],
              ]),
              this.e(
                'targets',
                {},
                this.e('input', { semantic: 'MORPH_TARGET', source: `#${id}-targets` }),
                this.e('input', { semantic: 'MORPH_WEIGHT', source: `#${id}-weights` }),
              ),
            ),
          ),
        );
      }
    });
    this.c.nodes.forEach((n, i) => {
      if (n.mesh < 0 || n.skin < 0 || !this.c.meshes[n.mesh].influences) return;
      const weights = morphsAt(this.c, i);
      const key = this.keyOf(n.mesh, n.skin, weights);
      if (this.controllerIds.has(key)) return;
      const shape = this.controllerIds.get(this.keyOf(n.mesh, -1, weights)) ?? `mesh-${n.mesh}`;
      const id = `skin-${n.mesh}-${n.skin}${shape === `mesh-${n.mesh}` || shape === `mesh-${n.mesh}-morphs` ? '' : `-${this.controllerIds.size}`}`;
      this.controllerIds.set(key, id);
      out.push(this.skin(n.mesh, n.skin, id, shape));
    });
    return out;
  }

  private skin(m: number, s: number, id: string, shape: string): Element {
    const skin = this.c.skins[s];
    const mesh = this.c.meshes[m];
    const f = mesh.influences!;
    const { vertexOfPoint } = this.pointsOf(m);
    const binds: string[] = [];
    skin.joints.forEach((_, j) => {
      for (let r = 0; r < 4; r++)
        for (let c = 0; c < 4; c++) binds.push(String(skin.inverseBinds[j * 16 + c * 4 + r]));
    });
    const counts: number[] = [];
    const v: number[] = [];
    const weights: string[] = [];
    for (const x of vertexOfPoint) {
      counts.push(f.offsets[x + 1] - f.offsets[x]);
      for (let k = f.offsets[x]; k < f.offsets[x + 1]; k++) {
        v.push(f.joint[k], weights.length);
        weights.push(short(f.weight[k]));
      }
    }
    return this.e(
      'controller',
      { id, name: skin.name || undefined },
      this.e(
        'skin',
        { source: `#${shape}` },
        this.e('bind_shape_matrix', {}, '1 0 0 0 0 1 0 0 0 0 1 0 0 0 0 1'),
        this.names(
          `${id}-joints`,
          skin.joints.map((j) => this.ids[j]),
          'Name_array',
          'JOINT',
          'name',
        ),
        this.source(`${id}-binds`, binds.join(' '), skin.joints.length, [['TRANSFORM', 'float4x4']], 16),
        this.source(`${id}-weights`, weights.join(' '), weights.length, [['WEIGHT', 'float']]),
        this.e(
          'joints',
          {},
          this.e('input', { semantic: 'JOINT', source: `#${id}-joints` }),
          this.e('input', { semantic: 'INV_BIND_MATRIX', source: `#${id}-binds` }),
        ),
        this.e(
          'vertex_weights',
          { count: counts.length },
          this.e('input', { semantic: 'JOINT', source: `#${id}-joints`, offset: 0 }),
          this.e('input', { semantic: 'WEIGHT', source: `#${id}-weights`, offset: 1 }),
          this.e('vcount', {}, counts.join(' ')),
          this.e('v', {}, v.join(' ')),
        ),
      ),
    );
  }

  private node(i: number, children: readonly (readonly number[])[]): Element {
    const n = this.c.nodes[i];
    const local = restLocals([n]);
    const out = this.e(
      'node',
      {
        id: this.ids[i],
        name: n.name || undefined,
        ...(n.kind === 'bone' ? { sid: this.ids[i], type: 'JOINT' } : { type: 'NODE' }),
      },
      this.e('matrix', { sid: 'transform' }, rowMajor(local)),
    );
    if (n.camera !== undefined && n.camera >= 0)
      out.appendChild(this.e('instance_camera', { url: `#camera-${n.camera}` }));
    if (n.mesh >= 0) {
      const mesh = this.c.meshes[n.mesh];
      const bind = mesh.pieces.some((p) => p.material >= 0)
        ? this.e(
            'bind_material',
            {},
            this.e(
              'technique_common',
              {},
              mesh.pieces.flatMap((p, k) =>
                p.material >= 0
                  ? [
                      this.e(
                        'instance_material',
                        { symbol: `symbol-${k}`, target: `#material-${p.material}` },
                        this.e('bind_vertex_input', {
                          semantic: 'UVMap',
                          input_semantic: 'TEXCOORD',
                          input_set: 0,
                        }),
                      ),
                    ]
                  : [],
              ),
            ),
          )
        : null;
      const controller = this.controllerIds.get(this.keyOf(n.mesh, n.skin, morphsAt(this.c, i)));
      if (controller) {
        const roots = n.skin >= 0 ? this.rootsOf(n.skin) : [];
        out.appendChild(
          this.e(
            'instance_controller',
            { url: `#${controller}` },
            roots.map((r) => this.e('skeleton', {}, `#${this.ids[r]}`)),
            bind,
          ),
        );
      } else {
        out.appendChild(this.e('instance_geometry', { url: `#mesh-${n.mesh}` }, bind));
      }
    }
    const light = (n.extensions?.KHR_lights_punctual as JsonObject | undefined)?.light;
    if (typeof light === 'number') out.appendChild(this.e('instance_light', { url: `#light-${light}` }));
    for (const k of children[i]) out.appendChild(this.node(k, children));
    return out;
  }

  /** The topmost joints of a skin: where its skeletons begin. */
  private rootsOf(s: number): number[] {
    const joints = new Set(this.c.skins[s].joints);
    return [...joints].filter((j) => {
      for (let p = this.c.nodes[j].parent; p >= 0; p = this.c.nodes[p].parent)
        if (joints.has(p)) return false;
      return true;
    });
  }

  private clip(clip: Clip, i: number): { animations: Element[]; clip: Element | null } {
    const byNode = new Map<number, Channel[]>();
    for (const ch of clip.channels) {
      if (ch.path === 'weights') {
        this.notes.add(`The morph motion of the clip “${clip.name}” is not in the COLLADA file.`);
        continue;
      }
      if (ch.times.length > 0) byNode.set(ch.node, [...(byNode.get(ch.node) ?? []), ch]);
    }
    const ends = Math.max(0, ...clip.channels.map((ch) => ch.times[ch.times.length - 1] ?? 0));
    const keysOf = new Map<number, number[]>();
    const moments = new Map<number, number[]>();
    for (const [n, channels] of byNode) {
      const times = new Set<number>();
      for (const ch of channels) {
        ch.times.forEach((t, k) => {
          times.add(t);
          // A cubic curve is written as close straight pieces.
          if (ch.interpolation === 'CUBICSPLINE' && k > 0)
            for (let s = 1, steps = Math.min(300, Math.ceil((t - ch.times[k - 1]) * 30)); s < steps; s++)
              times.add(ch.times[k - 1] + ((t - ch.times[k - 1]) * s) / steps);
        });
      }
      const list = [...times].sort((a, b) => a - b);
      keysOf.set(n, list);
      for (const t of list) moments.set(t, [...(moments.get(t) ?? []), n]);
    }
    const values = new Map([...keysOf].map(([n, list]) => [n, new Array<string>(list.length)] as const));
    const at = new Map<number, number>();
    for (const t of [...moments.keys()].sort((a, b) => a - b)) {
      const locals = clipLocals(this.c, clip, t);
      for (const n of moments.get(t)!) {
        const k = at.get(n) ?? 0;
        values.get(n)![k] = rowMajor(locals.subarray(n * 16, n * 16 + 16));
        at.set(n, k + 1);
      }
    }
    const animations = [...keysOf].map(([n, list]) => {
      const id = `clip-${i}-${this.ids[n]}`;
      const stepped = byNode.get(n)!.every((ch) => ch.interpolation === 'STEP');
      return this.e(
        'animation',
        { id, name: this.c.nodes[n].name || undefined },
        this.source(`${id}-times`, list.map(short).join(' '), list.length, [['TIME', 'float']]),
        this.source(`${id}-matrices`, values.get(n)!.join(' '), list.length, [['TRANSFORM', 'float4x4']], 16),
        this.names(
          `${id}-kinds`,
          list.map(() => (stepped ? 'STEP' : 'LINEAR')),
          'Name_array',
          'INTERPOLATION',
          'name',
        ),
        this.e(
          'sampler',
          { id: `${id}-sampler` },
          this.e('input', { semantic: 'INPUT', source: `#${id}-times` }),
          this.e('input', { semantic: 'OUTPUT', source: `#${id}-matrices` }),
          this.e('input', { semantic: 'INTERPOLATION', source: `#${id}-kinds` }),
        ),
        this.e('channel', { source: `#${id}-sampler`, target: `${this.ids[n]}/transform` }),
      );
    });
    return {
      animations,
      clip:
        animations.length > 0
          ? this.e(
              'animation_clip',
              { id: `clip-${i}`, name: clip.name || `clip ${i + 1}`, start: 0, end: short(ends) },
              [...keysOf.keys()].map((n) =>
                this.e('instance_animation', { url: `#clip-${i}-${this.ids[n]}` }),
              ),
            )
          : null,
    };
  }

  private effect(m: JsonObject, i: number): Element {
    const pbr = (m.pbrMetallicRoughness ?? {}) as JsonObject;
    const c = Array.isArray(pbr.baseColorFactor) ? pbr.baseColorFactor.map(Number) : [1, 1, 1, 1];
    const texture = (pbr.baseColorTexture as JsonObject | undefined)?.index;
    const image =
      typeof texture === 'number'
        ? (this.c.carried.textures[texture] as JsonObject | undefined)?.source
        : undefined;
    const hasImage = typeof image === 'number' && !!this.c.carried.images[image]?.bytes;
    const roughness = typeof pbr.roughnessFactor === 'number' ? Math.max(0.05, pbr.roughnessFactor) : 1;
    if (m.normalTexture || m.occlusionTexture || m.emissiveTexture || pbr.metallicRoughnessTexture)
      this.notes.add('Of materials only the base colour and its picture are in the COLLADA file.');
    return this.e(
      'effect',
      { id: `effect-${i}` },
      this.e(
        'profile_COMMON',
        {},
        hasImage
          ? [
              this.e(
                'newparam',
                { sid: 'surface' },
                this.e('surface', { type: '2D' }, this.e('init_from', {}, `image-${image}`)),
              ),
              this.e(
                'newparam',
                { sid: 'sampler' },
                this.e('sampler2D', {}, this.e('source', {}, 'surface')),
              ),
            ]
          : [],
        this.e(
          'technique',
          { sid: 'common' },
          this.e(
            'phong',
            {},
            this.e(
              'diffuse',
              {},
              hasImage
                ? this.e('texture', { texture: 'sampler', texcoord: 'UVMap' })
                : this.e('color', { sid: 'diffuse' }, [c[0], c[1], c[2], c[3] ?? 1].map(short).join(' ')),
            ),
            this.e(
              'shininess',
              {},
              this.e('float', { sid: 'shininess' }, short(Math.max(0, 2 / (roughness * roughness) - 2))),
            ),
            (c[3] ?? 1) < 1
              ? [
                  this.e('transparent', { opaque: 'A_ONE' }, this.e('color', {}, '1 1 1 1')),
                  this.e('transparency', {}, this.e('float', {}, short(c[3]))),
                ]
              : [],
          ),
        ),
      ),
    );
  }

  private camera(x: JsonObject, i: number): Element {
    const p = x.perspective as JsonObject | undefined;
    const o = x.orthographic as JsonObject | undefined;
    const num = (tag: string, v: unknown) => (typeof v === 'number' ? this.e(tag, {}, String(v)) : null);
    return this.e(
      'camera',
      { id: `camera-${i}` },
      this.e(
        'optics',
        {},
        this.e(
          'technique_common',
          {},
          p
            ? this.e(
                'perspective',
                {},
                num('yfov', (Number(p.yfov) * 180) / Math.PI),
                num('aspect_ratio', p.aspectRatio),
                num('znear', p.znear),
                num('zfar', p.zfar ?? 1000),
              )
            : this.e(
                'orthographic',
                {},
                num('xmag', o?.xmag ?? 1),
                num('ymag', o?.ymag ?? 1),
                num('znear', o?.znear ?? 0.1),
                num('zfar', o?.zfar ?? 100),
              ),
        ),
      ),
    );
  }

  private lights(): Element[] {
    const list = (this.c.carried.extensions.KHR_lights_punctual as JsonObject | undefined)?.lights;
    return (Array.isArray(list) ? (list as JsonObject[]) : []).map((l, i) =>
      this.e(
        'light',
        { id: `light-${i}` },
        this.e(
          'technique_common',
          {},
          this.e(
            String(l.type),
            {},
            this.e('color', {}, (Array.isArray(l.color) ? l.color : [1, 1, 1]).join(' ')),
          ),
        ),
      ),
    );
  }
}

function rowMajor(m: ArrayLike<number>): string {
  const out: string[] = [];
  for (let r = 0; r < 4; r++)
    for (let c = 0; c < 4; c++) out.push(String(Math.abs(m[c * 4 + r]) < 1e-15 ? 0 : m[c * 4 + r]));
  return out.join(' ');
}

function numbersOf(a: Attribute, size: number, flip: boolean): string {
  const most =
    a.data instanceof Float32Array || !a.normalized
      ? 1
      : 2 **
          (8 * a.data.BYTES_PER_ELEMENT -
            (a.data instanceof Int8Array || a.data instanceof Int16Array ? 1 : 0)) -
        1;
  const out: string[] = [];
  for (let v = 0; v < a.data.length / a.size; v++)
    for (let k = 0; k < size; k++) {
      const x = a.data[v * a.size + k] / most;
      out.push(short(flip && k === 1 ? 1 - x : x));
    }
  return out.join(' ');
}

/** What a source of an attribute is called in COLLADA, and the names of its numbers. */
function sourceWords(
  attribute: string,
  isTexture: boolean,
): { semantic: string; letters: readonly string[] } {
  if (attribute === 'NORMAL') return { semantic: 'NORMAL', letters: ['X', 'Y', 'Z'] };
  if (isTexture) return { semantic: 'TEXCOORD', letters: ['S', 'T'] };
  return { semantic: 'COLOR', letters: ['R', 'G', 'B', 'A'] };
}

/** Text without what XML 1.0 cannot hold. */
const clean = (s: string): string =>
  s
    // oxlint-disable-next-line no-control-regex -- control characters are what is taken out
    .replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g, '')
    .replace(/[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g, '�');

/** Names fit for an XML id, no two alike. */
function uniqueIds(names: readonly string[]): string[] {
  const used = new Set<string>();
  // What is taken stays taken: of one stem the search goes on where it ended.
  const next = new Map<string, number>();
  return names.map((n) => {
    const stem = n.replace(/[^\w.-]/g, '_').replace(/^[^A-Za-z_]/, '_$&') || '_';
    let id = stem;
    let k = next.get(stem) ?? 2;
    for (; used.has(id); k++) id = `${stem}_${k}`;
    next.set(stem, k);
    used.add(id);
    return id;
  });
}
