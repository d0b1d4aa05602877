import type { Element } from '@xmldom/xmldom';
import type { CarriedImage, JsonObject } from '../../character/model';
import { printable } from '../errors';
import { mimeTypeOf } from '../pictures';
import { type ColladaDocument, all, down, kid, kids, textIn } from './document';

/**
 * The materials of a file as the house carries them: base colour, opacity, roughness from shininess, one
 * picture. What else an effect says is named.
 */
export class ColladaMaterials {
  readonly materials: JsonObject[] = [];
  readonly images: CarriedImage[] = [];
  readonly textures: JsonObject[] = [];
  private readonly indexOf = new Map<Element, number>();
  private readonly textureOf = new Map<string, number>();

  constructor(
    private readonly doc: ColladaDocument,
    private readonly notes: string[],
  ) {}

  /** Index of the material with an id (or bare symbol), −1 where it is not there. */
  at(reference: string | null): number {
    const element = this.doc.refer(reference);
    if (!element || element.localName !== 'material') return -1;
    let i = this.indexOf.get(element);
    if (i === undefined) {
      i = this.materials.push(this.read(element)) - 1;
      this.indexOf.set(element, i);
    }
    return i;
  }

  private read(element: Element): JsonObject {
    const name = element.getAttribute('name') || element.getAttribute('id') || 'material';
    const effect = this.doc.refer(kid(element, 'instance_effect')?.getAttribute('url') ?? null);
    const profile = effect ? kid(effect, 'profile_COMMON') : null;
    const technique = profile ? down(profile, 'technique') : null;
    const model = technique
      ? (['phong', 'blinn', 'lambert', 'constant'].map((tag) => kid(technique, tag)).find(Boolean) ?? null)
      : null;
    if (!profile || !model) return { name };
    const diffuse = kid(model, 'diffuse') ?? kid(model, 'emission');
    const colour = this.colour(kid(diffuse, 'color'), [0.8, 0.8, 0.8, 1]);
    const shininess = Number(textIn(down(model, 'shininess', 'float')));
    const transparency = textIn(down(model, 'transparency', 'float')).trim();
    const opaque = kid(model, 'transparent')?.getAttribute('opaque') ?? 'A_ONE';
    let opacity = colour[3];
    if (transparency !== '' && Number.isFinite(Number(transparency)) && kid(model, 'transparent')) {
      const colour = this.colour(down(model, 'transparent', 'color'), [1, 1, 1, 1]);
      opacity =
        opaque === 'RGB_ZERO'
          ? 1 - ((colour[0] + colour[1] + colour[2]) / 3) * Number(transparency)
          : colour[3] * Number(transparency);
    }
    opacity = Math.min(1, Math.max(0, opacity));
    const texture = this.texture(kid(diffuse, 'texture'), profile);
    return {
      name,
      pbrMetallicRoughness: {
        baseColorFactor: texture >= 0 ? [1, 1, 1, opacity] : [colour[0], colour[1], colour[2], opacity],
        metallicFactor: 0,
        roughnessFactor: shininess > 0 ? Math.sqrt(2 / (shininess + 2)) : 0.9,
        ...(texture >= 0 ? { baseColorTexture: { index: texture } } : {}),
      },
      ...(opacity < 1 ? { alphaMode: 'BLEND' } : {}),
      ...(down(profile, 'extra', 'technique', 'double_sided') ||
      all(effect as Element, 'double_sided').some((otherElement) => textIn(otherElement).trim() === '1')
        ? { doubleSided: true }
        : {}),
    };
  }

  private colour(element: Element | null, otherwise: number[]): number[] {
    if (!element) return otherwise;
    const colour = this.doc.numbers(element);
    return [0, 1, 2, 3].map((k) => Math.min(1, Math.max(0, colour[k] ?? otherwise[k])));
  }

  /** A texture names a sampler, which names a surface, which names an image; each step may be left out. */
  private texture(element: Element | null, profile: Element): number {
    if (!element) return -1;
    const params = new Map(kids(profile, 'newparam').map((kid) => [kid.getAttribute('sid') ?? '', kid]));
    let id = element.getAttribute('texture') ?? '';
    for (let k = 0; k < 3; k++) {
      const otherElement = params.get(id);
      if (!otherElement) break;
      const inner =
        down(otherElement, 'sampler2D', 'source') ?? down(otherElement, 'surface', 'init_from') ?? null;
      const direct = down(otherElement, 'sampler2D', 'instance_image');
      if (direct) {
        id = (direct.getAttribute('url') ?? '').replace(/^#/, '');
        break;
      }
      if (!inner) break;
      id = textIn(inner).trim();
    }
    const image = this.doc.byId.get(id);
    const path = image
      ? (textIn(down(image, 'init_from', 'ref')) || textIn(kid(image, 'init_from'))).trim()
      : '';
    if (!path) return -1;
    const known = this.textureOf.get(path);
    if (known !== undefined) return known;
    let plain = path.replace(/^file:\/+/, '');
    try {
      plain = decodeURIComponent(plain);
    } catch {
      /* a stray % stands for itself */
    }
    const base = plain.replace(/\\/g, '/').replace(/^.*\//, '').toLowerCase();
    const file = this.doc.siblings.find(
      (sibling) => sibling.name.replace(/\\/g, '/').replace(/^.*\//, '').toLowerCase() === base,
    );
    const mimeType = mimeTypeOf(base);
    if (!file || !mimeType) {
      this.notes.push(
        file
          ? `The picture “${printable(plain)}” is neither PNG nor JPEG and is not carried.`
          : `The picture “${printable(plain)}” was not chosen along with it.`,
      );
      this.textureOf.set(path, -1);
      return -1;
    }
    const source =
      this.images.push({
        json: { name: image?.getAttribute('name') || base, mimeType },
        bytes: file.bytes,
        mimeType,
      }) - 1;
    const index = this.textures.push({ source }) - 1;
    this.textureOf.set(path, index);
    return index;
  }
}
