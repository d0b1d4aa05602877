import type { Element } from '@xmldom/xmldom';
import { toHouseAxes } from '../../character/axes';
import { topDown } from '../../character/hierarchy';
import {
  type Character,
  type Influences,
  type JsonObject,
  type Mesh,
  type SceneNode,
  type Skin,
  node,
} from '../../character/model';
import { withLocal } from '../../character/rehang';
import { times } from '../../geometry/matrix';
import {
  DEEPEST,
  DEFAULT_LIMITS,
  type InputFile,
  type ReadLimits,
  ReadError,
  printable,
  takeCount,
  takeVertices,
} from '../errors';
import { OWN_ELEMENTS, OWN_KEYS, withReadOwn } from '../sets';
import { type ReadOptions, bareCharacter, sourceOf } from '../text';
import { type Animated, readClips } from './animation';
import { type ColladaDocument, NamedElements, all, down, kid, kids, openCollada, textIn } from './document';
import { type CoincidentPoints, togetherNotes } from '../coincident-points';
import { type Bind, type GeometryShape, readBind, readGeometry, readMorphs } from './geometry';
import { ColladaMaterials } from './materials';
import { localMatrix, orderOfTurns, readTransforms } from './transform';

/**
 * Reads COLLADA 1.4.1 or 1.5 (.dae, or .zae with its manifest): polygons as they are, any number of
 * influences, bind-shape matrices (multiplied into the inverse binds), controllers used more than once,
 * morphs, clips, cameras, lights, simple materials. The unit and the up axis of the file are brought to
 * metres and +Y. Throws {@link ReadError} with the line.
 */
export function readCollada(
  files: readonly InputFile[],
  limits: ReadLimits = DEFAULT_LIMITS,
  options: ReadOptions = {},
): Character {
  const doc = openCollada(files, limits);
  return new ColladaReader(doc, files, options).character();
}

interface PendingController {
  readonly node: number;
  readonly instance: Element;
  readonly controller: Element;
}

const UP_AXES: ReadonlyMap<string, 'x' | 'y' | 'z'> = new Map([
  ['X_UP', 'x'],
  ['Y_UP', 'y'],
  ['Z_UP', 'z'],
]);
const LIGHT_KINDS = ['directional', 'spot', 'point'] as const;

class ColladaReader {
  private readonly notes: string[] = [];
  private readonly nodes: SceneNode[] = [];
  private readonly elements: (Element | null)[] = [];
  private readonly meshes: Mesh[] = [];
  private readonly skins: Skin[] = [];
  private readonly cameras: JsonObject[] = [];
  private readonly lights: JsonObject[] = [];
  private readonly pending: PendingController[] = [];
  private readonly shapes = new Map<Element, GeometryShape | null>();
  private readonly boundMeshes = new Map<string, number>();
  private readonly plainMeshes = new Map<Element, Map<string, number>>();
  private readonly binds = new Map<Element, { bind: Bind; shape: GeometryShape; mesh: Mesh }>();
  private readonly animated = new Map<string, Animated>();
  private readonly materials: ColladaMaterials;

  constructor(
    private readonly doc: ColladaDocument,
    private readonly files: readonly InputFile[],
    private readonly options: ReadOptions,
  ) {
    this.materials = new ColladaMaterials(doc, this.notes);
  }

  character(): Character {
    const { doc } = this;
    const asset = kid(doc.root, 'asset');
    const meter = kid(asset, 'unit')?.getAttribute('meter');
    // Some exporters write the decimal mark of their country.
    const unit = meter ? Number(meter.replace(',', '.')) : undefined;
    if (meter?.includes(','))
      this.notes.push(
        `The unit “${printable(meter, 20)}” is written with a comma; it is taken as ${unit} metres.`,
      );
    if (unit !== undefined && !(unit > 0 && Number.isFinite(unit)))
      doc.fail(kid(asset, 'unit'), `the unit is ${printable(meter ?? '', 20)} metres`);
    const up = textIn(kid(asset, 'up_axis')).trim();
    const upAxis = UP_AXES.get(up);
    if (up && !upAxis) doc.fail(kid(asset, 'up_axis'), `the up axis is “${printable(up, 20)}”`);
    const scene =
      doc.refer(down(doc.root, 'scene', 'instance_visual_scene')?.getAttribute('url') ?? null) ??
      down(doc.root, 'library_visual_scenes', 'visual_scene');
    if (scene) for (const kid of kids(scene, 'node')) this.node(kid, -1, [], 0);
    else
      for (const element of all(doc.root, 'geometry'))
        this.geometry(this.add(element.getAttribute('name') || '', -1, 'mesh', element), element, null);
    for (const controller of this.pending) this.bind(controller);
    this.kinds();
    const base = bareCharacter(
      doc.name,
      sourceOf(
        `COLLADA ${doc.root.getAttribute('version')}`,
        textIn(down(asset, 'contributor', 'authoring_tool')).trim(),
        this.files,
        this.options,
        { unitMetres: unit, upAxis },
      ),
    );
    if (this.nodes.length === 0)
      throw new ReadError(
        doc.name,
        'it holds no scene and no geometry',
        'Export the character with its scene.',
      );
    const clips = readClips(doc, this.animated, base.name, this.notes);
    const own = this.own();
    const character: Character = {
      ...base,
      nodes: this.nodes,
      meshes: this.meshes,
      skins: this.skins,
      clips,
      notes: [...new Set([...this.notes, ...togetherNotes(this.together())])],
      carried: {
        ...base.carried,
        materials: this.materials.materials,
        images: this.materials.images,
        textures: this.materials.textures,
        cameras: this.cameras,
        scenes: [
          {
            json: scene?.getAttribute('name') ? { name: scene.getAttribute('name') as string } : {},
            roots: this.nodes.flatMap((node, i) => (node.parent < 0 ? [i] : [])),
          },
        ],
        ...(this.lights.length > 0
          ? {
              extensions: { KHR_lights_punctual: { lights: this.lights } },
              extensionsUsed: ['KHR_lights_punctual'],
            }
          : {}),
      },
    };
    return toHouseAxes(withReadOwn(character, own));
  }

  /** What the document carries of what only the house knows, as it was written. */
  private own(): Readonly<Record<string, unknown>> {
    const techniques = kids(this.doc.root, 'extra').flatMap((extra) => kids(extra, 'technique'));
    return Object.fromEntries(
      OWN_KEYS.map((key) => {
        const technique = techniques.find((candidate) => candidate.getAttribute('profile') === key);
        return [key, this.jsonIn(technique ? kid(technique, OWN_ELEMENTS[key]) : null, OWN_ELEMENTS[key])];
      }),
    );
  }

  private jsonIn(element: Element | null, what: string): unknown {
    const text = textIn(element);
    try {
      return text ? (JSON.parse(text) as unknown) : undefined;
    } catch {
      this.notes.push(`The ${what} of the file cannot be read and are left out.`);
      return undefined;
    }
  }

  private add(name: string, parent: number, kind: SceneNode['kind'], element: Element | null): number {
    takeCount(this.doc.limits, 'nodes', 1, this.doc.name);
    this.elements.push(element);
    return this.nodes.push(node({ name, parent, kind })) - 1;
  }

  private node(element: Element, parent: number, way: readonly Element[], depth: number): void {
    if (way.includes(element))
      this.doc.fail(
        element,
        `the node “${printable(element.getAttribute('id') ?? '', 40)}” is an instance of itself`,
      );
    if (depth > DEEPEST) this.doc.fail(element, `its nodes are nested more than ${DEEPEST} deep`);
    const isJoint = element.getAttribute('type') === 'JOINT';
    const at = this.add(
      element.getAttribute('name') || element.getAttribute('id') || element.getAttribute('sid') || '',
      parent,
      isJoint ? 'bone' : 'empty',
      element,
    );
    const transforms = readTransforms(this.doc, element);
    const local = localMatrix(transforms);
    if (!local.every(Number.isFinite))
      this.doc.fail(
        element,
        `the node “${printable(this.nodes[at].name, 40)}” has a transform that is not finite`,
      );
    const turnOrder = isJoint ? orderOfTurns(transforms) : undefined;
    this.nodes[at] = { ...withLocal(this.nodes[at], local), ...(turnOrder && { turnOrder }) };
    const id = element.getAttribute('id');
    if (id && !this.animated.has(id)) this.animated.set(id, { index: at, transforms });
    const instances = kids(element).filter((kid) =>
      ['instance_geometry', 'instance_controller'].includes(kid.localName ?? ''),
    );
    const alone = instances.length === 1 && !isJoint;
    for (const instance of instances) {
      const source = this.doc.need(
        instance.getAttribute('url'),
        instance,
        instance.localName === 'instance_geometry' ? 'the geometry' : 'the controller',
      );
      const holder = alone
        ? at
        : this.add(source.getAttribute('name') || this.nodes[at].name, at, 'mesh', null);
      if (instance.localName === 'instance_geometry') this.geometry(holder, source, instance);
      else this.pending.push({ node: holder, instance, controller: source });
    }
    for (const kid of kids(element)) {
      if (kid.localName === 'node') {
        this.node(kid, at, [...way, element], depth + 1);
      } else if (kid.localName === 'instance_node') {
        const otherElement = this.doc.refer(kid.getAttribute('url'));
        if (otherElement && otherElement.localName === 'node')
          this.node(otherElement, at, [...way, element], depth + 1);
        else
          this.notes.push(
            `“${printable(this.nodes[at].name)}” names a node in another file, which is not carried.`,
          );
      } else if (kid.localName === 'instance_camera') {
        this.camera(at, kid);
      } else if (kid.localName === 'instance_light') {
        this.light(at, kid);
      }
    }
  }

  private shape(geometry: Element): GeometryShape | null {
    let shape = this.shapes.get(geometry);
    if (shape === undefined) {
      shape = geometry.localName === 'geometry' ? readGeometry(this.doc, geometry, this.notes) : null;
      this.shapes.set(geometry, shape);
    }
    return shape;
  }

  /** Shapes whose points lie exactly on one another. */
  private together(): CoincidentPoints[] {
    return [...this.shapes.values()].flatMap((shape) => shape?.together ?? []);
  }

  /** The mesh with the materials that an instance binds to its symbols; one for every different choice. */
  private dressed(shape: GeometryShape, mesh: Mesh, instance: Element | null): Mesh {
    const chosen = new Map(
      (instance ? all(instance, 'instance_material') : []).map((element) => [
        element.getAttribute('symbol') ?? '',
        element.getAttribute('target'),
      ]),
    );
    return {
      ...mesh,
      pieces: mesh.pieces.map((piece, i) => ({
        ...piece,
        material: this.materials.at(
          chosen.get(shape.symbols[i]) ?? (shape.symbols[i] ? `#${shape.symbols[i]}` : null),
        ),
      })),
    };
  }

  /** Every mesh is copied when it is turned to the house's axes. */
  private addMesh(mesh: Mesh): number {
    const { limits, name } = this.doc;
    takeVertices(limits, mesh.vertexCount, name);
    takeCount(limits, 'objects', mesh.pieces.length, name);
    takeCount(limits, 'targets', mesh.morphs.length, name);
    return this.meshes.push(mesh) - 1;
  }

  private geometry(at: number, geometry: Element, instance: Element | null): void {
    const shape = this.shape(geometry);
    if (!shape) return;
    const mesh = this.dressed(shape, shape.mesh, instance);
    const dressed = this.plainMeshes.get(geometry) ?? new Map<string, number>();
    this.plainMeshes.set(geometry, dressed);
    const key = mesh.pieces.map((piece) => piece.material).join();
    const meshIndex = dressed.get(key) ?? this.addMesh(mesh);
    dressed.set(key, meshIndex);
    this.nodes[at] = {
      ...this.nodes[at],
      mesh: meshIndex,
      kind: this.nodes[at].kind === 'bone' ? 'bone' : 'mesh',
    };
  }

  /** A controller opened down to its geometry: its bind, its morphs. A skin on a skin keeps the outer one. */
  private controller(
    controller: Element,
    seen: readonly Element[] = [],
  ): { bind: Bind | null; shape: GeometryShape; mesh: Mesh } | null {
    if (seen.includes(controller))
      this.doc.fail(
        controller,
        `the controller “${printable(controller.getAttribute('id') ?? '', 40)}” moves itself`,
      );
    const skin = kid(controller, 'skin');
    const element = skin ?? kid(controller, 'morph');
    if (!element) {
      this.notes.push(
        `The controller “${printable(controller.getAttribute('id') ?? '')}” is neither a skin nor a morph and is not carried.`,
      );
      return null;
    }
    const source = this.doc.need(element.getAttribute('source'), element, 'the geometry');
    const inner = source.localName === 'controller' ? this.controller(source, [...seen, controller]) : null;
    const shape = inner?.shape ?? this.shape(source);
    if (!shape) return null;
    const mesh = inner?.mesh ?? shape.mesh;
    if (skin) {
      if (inner?.bind)
        this.notes.push(
          `“${printable(mesh.name)}” is bound twice: a skin on a skin. The outer one (“${printable(controller.getAttribute('id') ?? '')}”) is kept.`,
        );
      return { bind: readBind(this.doc, skin, shape), shape, mesh };
    }
    const { morphs, weights } = readMorphs(
      this.doc,
      element,
      shape,
      (otherElement) => (otherElement.localName === 'geometry' ? this.shape(otherElement) : null),
      this.notes,
    );
    return {
      bind: inner?.bind ?? null,
      shape,
      mesh: {
        ...mesh,
        morphs: [...mesh.morphs, ...morphs],
        morphWeights: [...(mesh.morphWeights ?? []), ...weights],
      },
    };
  }

  private bind({ node: at, instance, controller }: PendingController): void {
    const opened = this.binds.get(controller) ?? this.controller(controller);
    if (!opened) return;
    const { bind, shape } = opened;
    if (bind) this.binds.set(controller, { ...opened, bind });
    const mesh = this.dressed(shape, opened.mesh, instance);
    const key = `${controller.getAttribute('id')}:${mesh.pieces.map((piece) => piece.material).join()}`;
    let meshIndex = this.boundMeshes.get(key);
    if (meshIndex === undefined) {
      meshIndex = this.addMesh(
        bind ? { ...mesh, influences: bind.influences, influenceStorage: storageOf(bind.influences) } : mesh,
      );
      this.boundMeshes.set(key, meshIndex);
    }
    this.nodes[at] = {
      ...this.nodes[at],
      mesh: meshIndex,
      kind: 'mesh',
      ...(bind ? { skin: this.skin(controller, bind, instance, at) } : {}),
    };
  }

  private skin(controller: Element, bind: Bind, instance: Element, at: number): number {
    const roots = kids(instance, 'skeleton').flatMap((element) => {
      const otherElement = this.doc.refer(textIn(element).trim());
      return otherElement ? [otherElement] : [];
    });
    const inside = roots.flatMap((root) => [root, ...all(root, 'node')]);
    const near = new NamedElements(inside);
    const everywhere = new NamedElements(
      this.elements.filter((element): element is Element => element !== null),
    );
    const places = new Map<Element | null, number>();
    this.elements.forEach((element, i) => places.has(element) || places.set(element, i));
    const find = (name: string): number => {
      const element = bind.byId
        ? everywhere.by('id', name)
        : (near.by('sid', name) ??
          near.by('id', name) ??
          near.by('name', name) ??
          everywhere.by('sid', name) ??
          everywhere.by('id', name) ??
          everywhere.by('name', name));
      if (!element)
        this.doc.fail(
          controller,
          `the skin “${printable(controller.getAttribute('id') ?? '', 40)}” names the joint “${printable(name, 40)}”, which is nowhere in the scene`,
        );
      return places.get(element) ?? -1;
    };
    takeCount(this.doc.limits, 'bindings', bind.names.length, this.doc.name);
    const joints = bind.names.map(find);
    const inverseBinds = new Float64Array((joints.length + (bind.usesShape ? 1 : 0)) * 16);
    joints.forEach((_, j) => inverseBinds.set(times(bind.inverseBinds, bind.bindShape, j * 16), j * 16));
    if (bind.usesShape) {
      // Weight on no joint holds a point at the bind shape: a still bone of its own stands for that.
      const still = this.add(`${this.nodes[at].name || 'mesh'}_bind_shape`, -1, 'bone', null);
      joints.push(still);
      inverseBinds.set(bind.bindShape, (joints.length - 1) * 16);
      this.notes.push(
        `Some weights of “${printable(this.nodes[at].name)}” belong to no joint but to the bind shape; the bone “${printable(this.nodes[still].name)}” stands for it.`,
      );
    }
    const seen = new Set<number>();
    const twice = joints.findIndex((j) => seen.size === seen.add(j).size);
    if (twice >= 0)
      this.doc.fail(
        controller,
        `the skin “${printable(controller.getAttribute('id') ?? '', 40)}” lists the joint “${printable(bind.names[twice], 40)}” twice`,
      );
    return (
      this.skins.push({
        name: controller.getAttribute('name') || controller.getAttribute('id') || '',
        joints,
        inverseBinds,
      }) - 1
    );
  }

  private camera(at: number, instance: Element): void {
    const element = this.doc.refer(instance.getAttribute('url'));
    const technique = element ? down(element, 'optics', 'technique_common') : null;
    const perspective = kid(technique, 'perspective');
    const orthographic = kid(technique, 'orthographic');
    const get = (from: Element, tag: string) => {
      const text = textIn(kid(from, tag)).trim();
      return text === '' || !Number.isFinite(Number(text)) ? undefined : Number(text);
    };
    const near = (from: Element) => Math.max(1e-4, get(from, 'znear') ?? 0.1);
    if (perspective) {
      const aspect = get(perspective, 'aspect_ratio');
      const x = get(perspective, 'xfov');
      const y = get(perspective, 'yfov');
      const yfov =
        y !== undefined
          ? (y * Math.PI) / 180
          : 2 * Math.atan(Math.tan(((x ?? 50) * Math.PI) / 180 / 2) / (aspect ?? 1.5));
      const far = get(perspective, 'zfar');
      this.cameras.push({
        type: 'perspective',
        perspective: {
          yfov,
          znear: near(perspective),
          ...(far !== undefined && far > near(perspective) ? { zfar: far } : {}),
          ...(aspect && aspect > 0 ? { aspectRatio: aspect } : {}),
        },
      });
    } else if (orthographic) {
      this.cameras.push({
        type: 'orthographic',
        orthographic: {
          xmag: get(orthographic, 'xmag') || 1,
          ymag: get(orthographic, 'ymag') || 1,
          znear: near(orthographic),
          zfar: Math.max(get(orthographic, 'zfar') ?? 100, near(orthographic) * 2),
        },
      });
    } else {
      return;
    }
    this.nodes[at] = {
      ...this.nodes[at],
      camera: this.cameras.length - 1,
      kind: this.nodes[at].kind === 'empty' ? 'camera' : this.nodes[at].kind,
    };
  }

  private light(at: number, instance: Element): void {
    const technique = kid(this.doc.refer(instance.getAttribute('url')), 'technique_common');
    const element = technique ? kids(technique)[0] : undefined;
    if (!element) return;
    const type = LIGHT_KINDS.find((kind) => kind === element.localName) ?? null;
    if (!type) {
      this.notes.push(
        `The ${printable(element.tagName, 20)} light of “${printable(this.nodes[at].name)}” is not carried.`,
      );
      return;
    }
    const written = kid(element, 'color');
    const told = Array.from(written ? this.doc.numbers(written) : []).slice(0, 3);
    const color = told.length === 3 ? told.map((x) => Math.min(1, Math.max(0, x))) : [1, 1, 1];
    this.lights.push({ type, color, ...(type === 'spot' ? { spot: {} } : {}) });
    this.nodes[at] = {
      ...this.nodes[at],
      kind: this.nodes[at].kind === 'empty' ? 'light' : this.nodes[at].kind,
      extensions: { KHR_lights_punctual: { light: this.lights.length - 1 } },
    };
  }

  /** Joints of skins are bones, whatever their nodes say, and so is what lies between two of them. */
  private kinds(): void {
    const joints = new Set(this.skins.flatMap((skin) => skin.joints));
    takeCount(this.doc.limits, 'joints', joints.size, this.doc.name);
    const bone = (i: number) => {
      if (this.nodes[i].kind === 'empty') this.nodes[i] = { ...this.nodes[i], kind: 'bone' };
    };
    for (const j of joints) bone(j);
    for (const j of joints) {
      const way: number[] = [];
      for (let ancestor = this.nodes[j].parent; ancestor >= 0; ancestor = this.nodes[ancestor].parent) {
        if (joints.has(ancestor)) {
          way.forEach(bone);
          break;
        }
        way.push(ancestor);
      }
    }
    const holders = new Set<number>();
    this.nodes.forEach((node) => {
      if (node.kind !== 'empty' && node.kind !== 'bone')
        for (let ancestor = node.parent; ancestor >= 0; ancestor = this.nodes[ancestor].parent)
          holders.add(ancestor);
    });
    for (const i of topDown(this.nodes)) {
      const parent = this.nodes[i].parent;
      if (parent >= 0 && this.nodes[parent].kind === 'bone' && !holders.has(i)) bone(i);
    }
  }
}

function storageOf(influences: Influences) {
  let most = 1;
  for (let vertex = 0; vertex + 1 < influences.offsets.length; vertex++)
    most = Math.max(most, influences.offsets[vertex + 1] - influences.offsets[vertex]);
  return {
    weights: 'f32',
    joints: influences.joint instanceof Uint32Array ? 'u16' : 'u8',
    sets: Math.ceil(most / 4),
  } as const;
}
