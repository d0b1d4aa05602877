/**
 * What glTF 2.0 (3.7.2.1) says of the numbers of a vertex: how many there are of each kind, and in which types they stand. What
 * stands otherwise is brought to it where it says the same, or left out; both are told.
 */
import type { Attribute } from '../../character/model';
import { printable } from '../errors';
import { asFloats } from '../../character/attributes';

/** Says of what is being read how it was not as the standard wants it. */
type Tell = (sentence: string) => void;

/** Numbers of an element, by the kind of attribute. */
const SIZES: readonly (readonly [RegExp, readonly number[]])[] = [
  [/^POSITION$/, [3]],
  [/^NORMAL$/, [3]],
  [/^TANGENT$/, [4]],
  [/^TEXCOORD_\d$/, [2]],
  [/^COLOR_\d$/, [3, 4]],
];

/** The longest name that an attribute is kept under, letters. */
const LONGEST_NAME = 255;

/** Whether whole numbers may stand for it: shares of one without a sign. */
const isShares = ({ data, normalized }: Attribute): boolean =>
  normalized && (data instanceof Uint8Array || data instanceof Uint16Array);

/**
 * The attributes of a primitive as the standard wants them.
 * @param isQuantized whether the file says that whole numbers stand where the standard wants floats (KHR_mesh_quantization)
 */
export function soundAttributes(
  attributes: Readonly<Record<string, Attribute>>,
  from: string,
  isQuantized: boolean,
  tell: Tell,
): Record<string, Attribute> {
  const out: Record<string, Attribute> = {};
  for (const [name, attribute] of Object.entries(attributes)) {
    const sizes = SIZES.find(([kind]) => kind.test(name))?.[1];
    if (!sizes) {
      const kept = ownName(name, attributes);
      if (kept === null) {
        tell(
          `The attribute “${printable(name, 24)}” of ${from} has no name that it could keep, and was left out.`,
        );
        continue;
      }
      if (kept !== name)
        tell(
          `${printable(name, 24)} of ${from} is no attribute of glTF 2.0, and is called “${printable(kept, 24)}” now.`,
        );
      out[kept] = attribute.data instanceof Uint32Array ? floatsOf(attribute) : attribute;
      continue;
    }
    if (!sizes.includes(attribute.size)) {
      tell(
        `${name} of ${from} has ${attribute.size} numbers for a vertex where ${sizes.join(' or ')} belong, and was left out.`,
      );
      continue;
    }
    const isNumbered = name.includes('_');
    const fits =
      attribute.data instanceof Float32Array ||
      (isQuantized && !(attribute.data instanceof Uint32Array)) ||
      (isNumbered && isShares(attribute));
    if (!fits)
      tell(
        `${name} of ${from} stood in whole numbers that the standard does not have for it; it stands in floats now.`,
      );
    out[name] = fits ? attribute : floatsOf(attribute);
  }
  return inOrder(out, from, tell);
}

/** The attributes of a morph target: of those that the mesh has, as many numbers each, three of a tangent. */
export function soundTarget(
  target: Readonly<Record<string, Attribute>>,
  base: Readonly<Record<string, Attribute>>,
  from: string,
  tell: Tell,
): Record<string, Attribute> {
  const out: Record<string, Attribute> = {};
  for (const [name, attribute] of Object.entries(target)) {
    const size = name === 'TANGENT' ? 3 : base[name]?.size;
    if (!base[name] || attribute.size !== size) {
      const why = base[name]
        ? `has ${attribute.size} numbers where ${size} belong`
        : 'moves what the mesh has not';
      tell(`${printable(name, 24)} of ${from} ${why}, and was left out.`);
      continue;
    }
    out[name] = floatsOf(attribute);
  }
  return out;
}

/** Joints of vertices as whole numbers that a joint can have; null where one is none. */
export function soundJoints(attribute: Attribute): Attribute | null {
  if (attribute.data instanceof Uint8Array || attribute.data instanceof Uint16Array) return attribute;
  const isWhole = attribute.data.every((j: number) => Number.isInteger(j) && j >= 0 && j < 65_536);
  return isWhole ? { ...attribute, data: Uint16Array.from(attribute.data) } : null;
}

/** Weights of vertices as floats or as shares of one; null where they stand in numbers that have no one. */
export function soundWeights(attribute: Attribute, from: string, tell: Tell): Attribute | null {
  if (attribute.data instanceof Float32Array || isShares(attribute)) return attribute;
  if (!(attribute.data instanceof Uint8Array || attribute.data instanceof Uint16Array)) return null;
  tell(
    `The weights of ${from} are whole numbers that the file does not call shares of one; they are taken as such.`,
  );
  return { ...attribute, normalized: true };
}

const floatsOf = (attribute: Attribute): Attribute => ({
  ...attribute,
  data: asFloats(attribute),
  normalized: false,
});

/** The name under which an attribute of somebody’s own is kept: it begins with a mark below the line. */
function ownName(name: string, attributes: Readonly<Record<string, Attribute>>): string | null {
  if (name.length > LONGEST_NAME) return null;
  if (name.startsWith('_')) return name;
  return attributes[`_${name}`] ? null : `_${name}`;
}

/** Colours are counted from 0 without a gap; nothing names them by number. */
function inOrder(attributes: Record<string, Attribute>, from: string, tell: Tell): Record<string, Attribute> {
  const colours = Object.keys(attributes)
    .filter((name) => /^COLOR_\d$/.test(name))
    .sort();
  if (colours.every((name, i) => name === `COLOR_${i}`)) return attributes;
  tell(`The colours of ${from} are not counted from 0 on; they are now.`);
  return Object.fromEntries(
    Object.entries(attributes).map(([name, attribute]) => {
      const at = colours.indexOf(name);
      return [at < 0 ? name : `COLOR_${at}`, attribute];
    }),
  );
}
