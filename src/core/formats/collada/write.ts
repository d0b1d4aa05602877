import { writtenPolygons } from '../recover';
import { DOMImplementation, type Document, type Element, XMLSerializer } from '@xmldom/xmldom';
import { childrenOf, restLocals } from '../../character/hierarchy';
import { STILL, underSimilarity } from '../../character/similarity';
import type { Attribute, Channel, Character, Clip, JsonObject, Mesh } from '../../character/model';
import { positionsOf } from '../../character/model';
import { morphsAt } from '../../character/morphs';
import { pointsOf } from '../../character/points';
import { clipLocals } from '../../motion/pose';
import type { WrittenFiles } from '../format';
import { short } from '../numbers';
import { OWN_ELEMENTS, OWN_KEYS, ownToJson } from '../sets';

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
    private readonly character: Character,
    private readonly stem: string,
    private readonly unit: ColladaUnit,
  ) {
    this.doc = new DOMImplementation().createDocument(
      'http://www.collada.org/2005/11/COLLADASchema',
      'COLLADA',
    );
    this.ids = uniqueIds(character.nodes.map((node, i) => node.name || `node_${i}`));
    this.imageNames = uniqueIds(
      character.carried.images.map((im, i) =>
        String((im.json as JsonObject).name ?? `picture_${i + 1}`).replace(/\.(png|jpe?g)$/i, ''),
      ),
    ).map((id, i) => `${id}.${character.carried.images[i].mimeType === 'image/jpeg' ? 'jpg' : 'png'}`);
  }

  private element(
    tag: string,
    attributes: Record<string, string | number | undefined> = {},
    ...children: Child[]
  ): Element {
    const out = this.doc.createElementNS('http://www.collada.org/2005/11/COLLADASchema', tag);
    for (const [key, attribute] of Object.entries(attributes))
      if (attribute !== undefined) out.setAttribute(key, clean(String(attribute)));
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
    const { character } = this;
    const root = this.doc.documentElement as Element;
    root.setAttribute('version', '1.4.1');
    root.appendChild(this.asset());
    for (const [tag, list] of this.libraries())
      if (list.length > 0) root.appendChild(this.element(tag, {}, list));
    const children = childrenOf(character.nodes);
    const scene = this.element(
      'visual_scene',
      { id: 'scene', name: character.name },
      character.nodes.flatMap((node, i) => (node.parent < 0 ? [this.node(i, children)] : [])),
    );
    root.appendChild(this.element('library_visual_scenes', {}, scene));
    root.appendChild(this.element('scene', {}, this.element('instance_visual_scene', { url: '#scene' })));
    const own = ownToJson(character);
    for (const key of OWN_KEYS)
      if (own[key] !== undefined)
        root.appendChild(
          this.element(
            'extra',
            {},
            this.element(
              'technique',
              { profile: key },
              this.element(OWN_ELEMENTS[key], {}, JSON.stringify(own[key])),
            ),
          ),
        );
    this.noteWhatStays();
    const text = `<?xml version="1.0" encoding="utf-8"?>\n${new XMLSerializer().serializeToString(this.doc)}\n`;
    return {
      files: [
        { name: `${this.stem}.dae`, bytes: new TextEncoder().encode(text), type: 'model/vnd.collada+xml' },
        ...character.carried.images.flatMap((im, i) =>
          im.bytes ? [{ name: this.imageNames[i], bytes: im.bytes, type: im.mimeType }] : [],
        ),
      ],
      notes: [...this.notes],
    };
  }

  private asset(): Element {
    return this.element(
      'asset',
      {},
      this.element('contributor', {}, this.element('authoring_tool', {}, 'Young Bough')),
      this.element('created', {}, '2000-01-01T00:00:00Z'),
      this.element('modified', {}, '2000-01-01T00:00:00Z'),
      this.element('unit', { name: this.unit.name, meter: this.unit.metres }),
      this.element('up_axis', {}, 'Y_UP'),
    );
  }

  /** Every library with its elements, in the order in which they are read easily. */
  private libraries(): [tag: string, elements: readonly Element[]][] {
    const { character } = this;
    const materials = character.carried.materials as readonly JsonObject[];
    const clips = character.clips.map((clip, i) => this.clip(clip, i));
    return [
      ['library_cameras', character.carried.cameras.map((camera, i) => this.camera(camera as JsonObject, i))],
      ['library_lights', this.lights()],
      ['library_images', character.carried.images.flatMap((im, i) => (im.bytes ? [this.image(i)] : []))],
      ['library_effects', materials.map((material, i) => this.effect(material, i))],
      ['library_materials', materials.map((material, i) => this.material(material, i))],
      ['library_geometries', character.meshes.flatMap((mesh, i) => this.geometries(mesh, i))],
      ['library_controllers', this.controllers()],
      ['library_animations', clips.flatMap((clip) => clip.animations)],
      ['library_animation_clips', clips.flatMap((clip) => (clip.clip ? [clip.clip] : []))],
    ];
  }

  private image(i: number): Element {
    const name = this.imageNames[i];
    return this.element('image', { id: `image-${i}`, name }, this.element('init_from', {}, encodeURI(name)));
  }

  private material(json: JsonObject, i: number): Element {
    const name = String(json.name ?? `material ${i + 1}`);
    return this.element(
      'material',
      { id: `material-${i}`, name },
      this.element('instance_effect', { url: `#effect-${i}` }),
    );
  }

  private noteWhatStays(): void {
    const { character } = this;
    if (
      character.nodes.some((node) => node.extras !== undefined) ||
      character.meshes.some((mesh) => mesh.extras !== undefined)
    )
      this.notes.add('Notes that the glTF kept on its parts (extras) are not in the COLLADA file.');
    const extensions = Object.keys(character.carried.extensions).filter(
      (key) => key !== 'KHR_lights_punctual',
    );
    if (extensions.length > 0)
      this.notes.add(`The glTF extensions ${extensions.join(', ')} are not in the COLLADA file.`);
  }

  /** Points of a mesh: vertices at one place that move together in every pose and every morph. */
  private pointsOf(i: number): Points {
    const known = this.points.get(i);
    if (known) return known;
    const mesh = this.character.meshes[i];
    const weld = pointsOf(mesh);
    const pointOfVertex = new Uint32Array(mesh.vertexCount);
    const first: number[] = [];
    const members = new Map<number, number[]>();
    const alike = (a: number, b: number): boolean => {
      const influences = mesh.influences;
      if (influences) {
        const count = influences.offsets[a + 1] - influences.offsets[a];
        if (count !== influences.offsets[b + 1] - influences.offsets[b]) return false;
        for (let k = 0; k < count; k++)
          if (
            influences.joint[influences.offsets[a] + k] !== influences.joint[influences.offsets[b] + k] ||
            influences.weight[influences.offsets[a] + k] !== influences.weight[influences.offsets[b] + k]
          )
            return false;
      }
      return mesh.morphs.every((morph) => {
        const array = morph.attributes.POSITION?.data;
        return !array || [0, 1, 2].every((k) => array[a * 3 + k] === array[b * 3 + k]);
      });
    };
    for (let vertex = 0; vertex < mesh.vertexCount; vertex++) {
      const point = weld.pointOfVertex[vertex];
      const list = members.get(point) ?? [];
      let at = list.find((vertex2) => alike(first[vertex2], vertex));
      if (at === undefined) {
        at = first.push(vertex) - 1;
        list.push(at);
        members.set(point, list);
      }
      pointOfVertex[vertex] = at;
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
    return this.element(
      'source',
      { id },
      this.element('float_array', { id: `${id}-array`, count: count * stride }, data),
      this.element(
        'technique_common',
        {},
        this.element(
          'accessor',
          { source: `#${id}-array`, count, stride },
          params.map(([name, type]) => this.element('param', { name, type })),
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
    return this.element(
      'source',
      { id },
      this.element(tag, { id: `${id}-array`, count: names.length }, names.join(' ')),
      this.element(
        'technique_common',
        {},
        this.element(
          'accessor',
          { source: `#${id}-array`, count: names.length, stride: 1 },
          this.element('param', { name: param, type }),
        ),
      ),
    );
  }

  private geometries(mesh: Mesh, i: number): Element[] {
    const base = positionsOf(mesh);
    const out = [this.geometry(mesh, i, `mesh-${i}`, mesh.name || `mesh ${i}`, base)];
    mesh.morphs.forEach((morph, k) => {
      const delta = morph.attributes.POSITION?.data;
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
    const inputs: Element[] = [
      this.element('input', { semantic: 'VERTEX', source: `#${id}-vertices`, offset: 0 }),
    ];
    const place: string[] = [];
    for (const vertex of vertexOfPoint)
      place.push(
        short(positions[vertex * 3]),
        short(positions[vertex * 3 + 1]),
        short(positions[vertex * 3 + 2]),
      );
    const sources = [
      this.source(`${id}-positions`, place.join(' '), vertexOfPoint.length, [
        ['X', 'float'],
        ['Y', 'float'],
        ['Z', 'float'],
      ]),
    ];
    for (const [key, attribute] of Object.entries(mesh.attributes)) {
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
      const params = letters.slice(0, attribute.size).map((letter): [string, string] => [letter, 'float']);
      sources.push(this.source(sid, numbersOf(attribute, params.length, !!uv), mesh.vertexCount, params));
      inputs.push(
        this.element('input', {
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
      const points: number[] = [];
      for (const polygon of writtenPolygons(mesh, piece)) {
        counts.push(polygon.length);
        for (const vertex of polygon) {
          points.push(pointOfVertex[vertex]);
          if (wide) points.push(vertex);
        }
      }
      return this.element(
        'polylist',
        { count: counts.length, material: piece.material >= 0 ? `symbol-${k}` : undefined },
        inputs.map((input) => input.cloneNode(true) as Element),
        this.element('vcount', {}, counts.join(' ')),
        this.element('p', {}, points.join(' ')),
      );
    });
    return this.element(
      'geometry',
      { id, name },
      this.element(
        'mesh',
        {},
        sources,
        this.element(
          'vertices',
          { id: `${id}-vertices` },
          this.element('input', { semantic: 'POSITION', source: `#${id}-positions` }),
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
  private keyOf(mesh: number, skin: number, weights: readonly number[]): string {
    return `${mesh}:${skin}:${weights.join(' ')}`;
  }

  private controllers(): Element[] {
    const out: Element[] = [];
    this.character.meshes.forEach((mesh, index) => {
      const kept = mesh.morphs.flatMap((morph, k) => (morph.attributes.POSITION ? [k] : []));
      if (kept.length === 0) return;
      const own = mesh.morphs.map((_, k) => mesh.morphWeights?.[k] ?? 0);
      for (const weights of [
        own,
        ...this.character.nodes.flatMap((node, i) =>
          node.mesh === index ? [morphsAt(this.character, i)] : [],
        ),
      ]) {
        const key = this.keyOf(index, -1, weights);
        if (this.controllerIds.has(key)) continue;
        const id = `mesh-${index}-morphs${weights === own ? '' : `-${this.controllerIds.size}`}`;
        this.controllerIds.set(key, id);
        out.push(
          this.element(
            'controller',
            { id, name: mesh.name },
            this.element(
              'morph',
              { source: `#mesh-${index}`, method: 'NORMALIZED' },
              this.names(
                `${id}-targets`,
                kept.map((k) => `mesh-${index}-morph-${k}`),
                'IDREF_array',
                'MORPH_TARGET',
                'IDREF',
              ),
              this.source(`${id}-weights`, kept.map((k) => String(weights[k])).join(' '), kept.length, [
                ['MORPH_WEIGHT', 'float'],
              ]),
              this.element(
                'targets',
                {},
                this.element('input', { semantic: 'MORPH_TARGET', source: `#${id}-targets` }),
                this.element('input', { semantic: 'MORPH_WEIGHT', source: `#${id}-weights` }),
              ),
            ),
          ),
        );
      }
    });
    this.character.nodes.forEach((node, i) => {
      if (node.mesh < 0 || node.skin < 0 || !this.character.meshes[node.mesh].influences) return;
      const weights = morphsAt(this.character, i);
      const key = this.keyOf(node.mesh, node.skin, weights);
      if (this.controllerIds.has(key)) return;
      const shape = this.controllerIds.get(this.keyOf(node.mesh, -1, weights)) ?? `mesh-${node.mesh}`;
      const id = `skin-${node.mesh}-${node.skin}${shape === `mesh-${node.mesh}` || shape === `mesh-${node.mesh}-morphs` ? '' : `-${this.controllerIds.size}`}`;
      this.controllerIds.set(key, id);
      out.push(this.skin(node.mesh, node.skin, id, shape));
    });
    return out;
  }

  private skin(meshIndex: number, skinIndex: number, id: string, shape: string): Element {
    const skin = this.character.skins[skinIndex];
    const mesh = this.character.meshes[meshIndex];
    const influences = mesh.influences!;
    const { vertexOfPoint } = this.pointsOf(meshIndex);
    const binds: string[] = [];
    skin.joints.forEach((_, j) => {
      for (let row = 0; row < 4; row++)
        for (let corner = 0; corner < 4; corner++)
          binds.push(String(skin.inverseBinds[j * 16 + corner * 4 + row]));
    });
    const counts: number[] = [];
    const values: number[] = [];
    const weights: string[] = [];
    for (const x of vertexOfPoint) {
      counts.push(influences.offsets[x + 1] - influences.offsets[x]);
      for (let k = influences.offsets[x]; k < influences.offsets[x + 1]; k++) {
        values.push(influences.joint[k], weights.length);
        weights.push(short(influences.weight[k]));
      }
    }
    return this.element(
      'controller',
      { id, name: skin.name || undefined },
      this.element(
        'skin',
        { source: `#${shape}` },
        this.element('bind_shape_matrix', {}, '1 0 0 0 0 1 0 0 0 0 1 0 0 0 0 1'),
        this.names(
          `${id}-joints`,
          skin.joints.map((j) => this.ids[j]),
          'Name_array',
          'JOINT',
          'name',
        ),
        this.source(`${id}-binds`, binds.join(' '), skin.joints.length, [['TRANSFORM', 'float4x4']], 16),
        this.source(`${id}-weights`, weights.join(' '), weights.length, [['WEIGHT', 'float']]),
        this.element(
          'joints',
          {},
          this.element('input', { semantic: 'JOINT', source: `#${id}-joints` }),
          this.element('input', { semantic: 'INV_BIND_MATRIX', source: `#${id}-binds` }),
        ),
        this.element(
          'vertex_weights',
          { count: counts.length },
          this.element('input', { semantic: 'JOINT', source: `#${id}-joints`, offset: 0 }),
          this.element('input', { semantic: 'WEIGHT', source: `#${id}-weights`, offset: 1 }),
          this.element('vcount', {}, counts.join(' ')),
          this.element('v', {}, values.join(' ')),
        ),
      ),
    );
  }

  private node(i: number, children: readonly (readonly number[])[]): Element {
    const node = this.character.nodes[i];
    const local = restLocals([node]);
    const out = this.element(
      'node',
      {
        id: this.ids[i],
        name: node.name || undefined,
        ...(node.kind === 'bone' ? { sid: this.ids[i], type: 'JOINT' } : { type: 'NODE' }),
      },
      this.element('matrix', { sid: 'transform' }, rowMajor(local)),
    );
    if (node.camera !== undefined && node.camera >= 0)
      out.appendChild(this.element('instance_camera', { url: `#camera-${node.camera}` }));
    if (node.mesh >= 0) {
      const mesh = this.character.meshes[node.mesh];
      const bind = mesh.pieces.some((piece) => piece.material >= 0)
        ? this.element(
            'bind_material',
            {},
            this.element(
              'technique_common',
              {},
              mesh.pieces.flatMap((piece, k) =>
                piece.material >= 0
                  ? [
                      this.element(
                        'instance_material',
                        { symbol: `symbol-${k}`, target: `#material-${piece.material}` },
                        this.element('bind_vertex_input', {
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
      const controller = this.controllerIds.get(
        this.keyOf(node.mesh, node.skin, morphsAt(this.character, i)),
      );
      if (controller) {
        const roots = node.skin >= 0 ? this.rootsOf(node.skin) : [];
        out.appendChild(
          this.element(
            'instance_controller',
            { url: `#${controller}` },
            roots.map((root) => this.element('skeleton', {}, `#${this.ids[root]}`)),
            bind,
          ),
        );
      } else {
        out.appendChild(this.element('instance_geometry', { url: `#mesh-${node.mesh}` }, bind));
      }
    }
    const light = (node.extensions?.KHR_lights_punctual as JsonObject | undefined)?.light;
    if (typeof light === 'number')
      out.appendChild(this.element('instance_light', { url: `#light-${light}` }));
    for (const k of children[i]) out.appendChild(this.node(k, children));
    return out;
  }

  /** The topmost joints of a skin: where its skeletons begin. */
  private rootsOf(skin: number): number[] {
    const joints = new Set(this.character.skins[skin].joints);
    return [...joints].filter((j) => {
      for (
        let ancestor = this.character.nodes[j].parent;
        ancestor >= 0;
        ancestor = this.character.nodes[ancestor].parent
      )
        if (joints.has(ancestor)) return false;
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
    const ends = Math.max(0, ...clip.channels.map((channel) => channel.times[channel.times.length - 1] ?? 0));
    const keysOf = new Map<number, number[]>();
    const moments = new Map<number, number[]>();
    for (const [node, channels] of byNode) {
      const list = writtenMoments(channels);
      keysOf.set(node, list);
      for (const time of list) moments.set(time, [...(moments.get(time) ?? []), node]);
    }
    const values = new Map(
      [...keysOf].map(([node, list]) => [node, new Array<string>(list.length)] as const),
    );
    const at = new Map<number, number>();
    for (const time of [...moments.keys()].sort((a, b) => a - b)) {
      const locals = clipLocals(this.character, clip, time);
      for (const node of moments.get(time)!) {
        const k = at.get(node) ?? 0;
        values.get(node)![k] = rowMajor(locals.subarray(node * 16, node * 16 + 16));
        at.set(node, k + 1);
      }
    }
    const animations = [...keysOf].map(([node, list]) => {
      const id = `clip-${i}-${this.ids[node]}`;
      const stepped = byNode.get(node)!.every((ch) => ch.interpolation === 'STEP');
      return this.element(
        'animation',
        { id, name: this.character.nodes[node].name || undefined },
        this.source(`${id}-times`, list.map(short).join(' '), list.length, [['TIME', 'float']]),
        this.source(
          `${id}-matrices`,
          values.get(node)!.join(' '),
          list.length,
          [['TRANSFORM', 'float4x4']],
          16,
        ),
        this.names(
          `${id}-kinds`,
          list.map(() => (stepped ? 'STEP' : 'LINEAR')),
          'Name_array',
          'INTERPOLATION',
          'name',
        ),
        this.element(
          'sampler',
          { id: `${id}-sampler` },
          this.element('input', { semantic: 'INPUT', source: `#${id}-times` }),
          this.element('input', { semantic: 'OUTPUT', source: `#${id}-matrices` }),
          this.element('input', { semantic: 'INTERPOLATION', source: `#${id}-kinds` }),
        ),
        this.element('channel', { source: `#${id}-sampler`, target: `${this.ids[node]}/transform` }),
      );
    });
    return {
      animations,
      clip:
        animations.length > 0
          ? this.element(
              'animation_clip',
              { id: `clip-${i}`, name: clip.name || `clip ${i + 1}`, start: 0, end: short(ends) },
              [...keysOf.keys()].map((node) =>
                this.element('instance_animation', { url: `#clip-${i}-${this.ids[node]}` }),
              ),
            )
          : null,
    };
  }

  private effect(json: JsonObject, i: number): Element {
    const pbr = (json.pbrMetallicRoughness ?? {}) as JsonObject;
    const numbers = Array.isArray(pbr.baseColorFactor) ? pbr.baseColorFactor.map(Number) : [1, 1, 1, 1];
    const texture = (pbr.baseColorTexture as JsonObject | undefined)?.index;
    const image =
      typeof texture === 'number'
        ? (this.character.carried.textures[texture] as JsonObject | undefined)?.source
        : undefined;
    const hasImage = typeof image === 'number' && !!this.character.carried.images[image]?.bytes;
    const roughness = typeof pbr.roughnessFactor === 'number' ? Math.max(0.05, pbr.roughnessFactor) : 1;
    if (json.normalTexture || json.occlusionTexture || json.emissiveTexture || pbr.metallicRoughnessTexture)
      this.notes.add('Of materials only the base colour and its picture are in the COLLADA file.');
    return this.element(
      'effect',
      { id: `effect-${i}` },
      this.element(
        'profile_COMMON',
        {},
        hasImage
          ? [
              this.element(
                'newparam',
                { sid: 'surface' },
                this.element('surface', { type: '2D' }, this.element('init_from', {}, `image-${image}`)),
              ),
              this.element(
                'newparam',
                { sid: 'sampler' },
                this.element('sampler2D', {}, this.element('source', {}, 'surface')),
              ),
            ]
          : [],
        this.element(
          'technique',
          { sid: 'common' },
          this.element(
            'phong',
            {},
            this.element(
              'diffuse',
              {},
              hasImage
                ? this.element('texture', { texture: 'sampler', texcoord: 'UVMap' })
                : this.element(
                    'color',
                    { sid: 'diffuse' },
                    [numbers[0], numbers[1], numbers[2], numbers[3] ?? 1].map(short).join(' '),
                  ),
            ),
            this.element(
              'shininess',
              {},
              this.element(
                'float',
                { sid: 'shininess' },
                short(Math.max(0, 2 / (roughness * roughness) - 2)),
              ),
            ),
            (numbers[3] ?? 1) < 1
              ? [
                  this.element('transparent', { opaque: 'A_ONE' }, this.element('color', {}, '1 1 1 1')),
                  this.element('transparency', {}, this.element('float', {}, short(numbers[3]))),
                ]
              : [],
          ),
        ),
      ),
    );
  }

  private camera(json: JsonObject, i: number): Element {
    const perspective = json.perspective as JsonObject | undefined;
    const orthographic = json.orthographic as JsonObject | undefined;
    const num = (tag: string, value: unknown) =>
      typeof value === 'number' ? this.element(tag, {}, String(value)) : null;
    return this.element(
      'camera',
      { id: `camera-${i}` },
      this.element(
        'optics',
        {},
        this.element(
          'technique_common',
          {},
          perspective
            ? this.element(
                'perspective',
                {},
                num('yfov', (Number(perspective.yfov) * 180) / Math.PI),
                num('aspect_ratio', perspective.aspectRatio),
                num('znear', perspective.znear),
                num('zfar', perspective.zfar ?? 1000),
              )
            : this.element(
                'orthographic',
                {},
                num('xmag', orthographic?.xmag ?? 1),
                num('ymag', orthographic?.ymag ?? 1),
                num('znear', orthographic?.znear ?? 0.1),
                num('zfar', orthographic?.zfar ?? 100),
              ),
        ),
      ),
    );
  }

  private lights(): Element[] {
    const list = (this.character.carried.extensions.KHR_lights_punctual as JsonObject | undefined)?.lights;
    return (Array.isArray(list) ? (list as JsonObject[]) : []).map((json, i) =>
      this.element(
        'light',
        { id: `light-${i}` },
        this.element(
          'technique_common',
          {},
          this.element(
            String(json.type),
            {},
            this.element('color', {}, (Array.isArray(json.color) ? json.color : [1, 1, 1]).join(' ')),
          ),
        ),
      ),
    );
  }
}

function rowMajor(matrix: ArrayLike<number>): string {
  const out: string[] = [];
  for (let row = 0; row < 4; row++)
    for (let corner = 0; corner < 4; corner++)
      out.push(String(Math.abs(matrix[corner * 4 + row]) < 1e-15 ? 0 : matrix[corner * 4 + row]));
  return out.join(' ');
}

function numbersOf(attribute: Attribute, size: number, flip: boolean): string {
  const most =
    attribute.data instanceof Float32Array || !attribute.normalized
      ? 1
      : 2 **
          (8 * attribute.data.BYTES_PER_ELEMENT -
            (attribute.data instanceof Int8Array || attribute.data instanceof Int16Array ? 1 : 0)) -
        1;
  const out: string[] = [];
  for (let vertex = 0; vertex < attribute.data.length / attribute.size; vertex++)
    for (let k = 0; k < size; k++) {
      const x = attribute.data[vertex * attribute.size + k] / most;
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
const clean = (text: string): string =>
  text
    // oxlint-disable-next-line no-control-regex -- control characters are what is taken out
    .replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g, '')
    .replace(/[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g, '�');

/** Names fit for an XML id, no two alike. */
function uniqueIds(names: readonly string[]): string[] {
  const used = new Set<string>();
  // What is taken stays taken: of one stem the search goes on where it ended.
  const next = new Map<string, number>();
  return names.map((name) => {
    const stem = name.replace(/[^\w.-]/g, '_').replace(/^[^A-Za-z_]/, '_$&') || '_';
    let id = stem;
    let k = next.get(stem) ?? 2;
    for (; used.has(id); k++) id = `${stem}_${k}`;
    next.set(stem, k);
    used.add(id);
    return id;
  });
}

/** Pieces that a curve is written as, a second, and at most between two of its keys. */
const PIECES_A_SECOND = 30;
const MOST_PIECES = 300;

/** Seconds at which channels are written: those of all their keys, and between the keys of a curve close straight pieces. */
function writtenMoments(channels: readonly Channel[]): number[] {
  const moments = new Set<number>();
  for (const { times, interpolation } of channels)
    times.forEach((time, k) => {
      moments.add(time);
      if (interpolation !== 'CUBICSPLINE' || k === 0) return;
      const from = times[k - 1];
      const pieces = Math.min(MOST_PIECES, Math.ceil((time - from) * PIECES_A_SECOND));
      for (let piece = 1; piece < pieces; piece++) moments.add(from + ((time - from) * piece) / pieces);
    });
  return [...moments].sort((a, b) => a - b);
}
