import { wordTable } from '../../character/words';
import type { Element } from '@xmldom/xmldom';
import { withLocal } from '../../character/rehang';
import { type Channel, type Clip, type SceneNode, node } from '../../character/model';
import { dot } from '../../geometry/matrix';
import { printable } from '../errors';
import { type ColladaDocument, all, kid, kids, words } from './document';
import { type Floats, floatSource } from './geometry';
import { type Transform, localMatrix } from './transform';

interface Curve {
  readonly times: Float64Array;
  readonly values: Floats;
  readonly kinds: readonly string[];
  readonly inTangent: Floats | null;
  readonly outTangent: Floats | null;
}

interface Track {
  readonly node: number;
  readonly transform: number;
  /** Which number of the transform, −1 for all. */ readonly member: number;
  readonly curve: Curve;
}

/** A node of the document as animations move it: its place in the list, and its transforms in their order. */
export interface Animated {
  readonly index: number;
  readonly transforms: readonly Transform[];
}

const MEMBERS = wordTable({ X: 0, Y: 1, Z: 2, ANGLE: 3, R: 0, G: 1, B: 2 });
/**
 * Between two keys a rotation of more than this, degrees, gets keys of its own, since a quaternion only knows
 * the shorter way.
 */
const WIDEST = 90;
const CURVE_STEP_SECONDS = 1 / 30;
/** A step among values that glide is a glide of this length, well under a frame. */
const STEP_SECONDS = 1e-4;
/** Kinds of curves that are followed; others are drawn straight from key to key, and named. */
const FOLLOWED = new Set(['LINEAR', 'STEP', 'BEZIER', 'HERMITE']);

/**
 * All <animation>s as clips: one for every <animation_clip>, or one for all. Whatever moves a node (its
 * matrix, or single numbers of its transforms, on straight, stepped or Bézier curves) becomes keys of
 * translation, rotation and scale.
 */
export function readClips(
  doc: ColladaDocument,
  nodesById: ReadonlyMap<string, Animated>,
  name: string,
  notes: string[],
): Clip[] {
  const library = kids(doc.root, 'library_animations').flatMap((element) => kids(element, 'animation'));
  const lost = new Set<string>();
  const straightened = new Set<string>();
  const tracksOf = (animation: Element): Track[] =>
    [...(animation.localName === 'animation' ? [animation] : []), ...all(animation, 'animation')].flatMap(
      (element) =>
        kids(element, 'channel').flatMap((kid) => {
          const track = readTrack(doc, element, kid, nodesById);
          if (!track) lost.add(printable(kid.getAttribute('target') ?? '', 60));
          track?.curve.kinds.forEach((kind) => {
            if (!FOLLOWED.has(kind)) straightened.add(printable(kind, 24));
          });
          return track ? [track] : [];
        }),
    );
  const transforms = new Map(
    [...nodesById.values()].map((animated) => [animated.index, animated.transforms]),
  );
  const named = kids(doc.root, 'library_animation_clips').flatMap((element) =>
    kids(element, 'animation_clip'),
  );
  const clips: Clip[] = [];
  if (named.length > 0) {
    for (const element of named) {
      const tracks = kids(element, 'instance_animation').flatMap((kid) => {
        const otherElement = doc.refer(kid.getAttribute('url'));
        return otherElement ? tracksOf(otherElement) : [];
      });
      const start = Number(element.getAttribute('start') ?? 0);
      const end = element.hasAttribute('end') ? Number(element.getAttribute('end')) : Infinity;
      const channels = channelsOf(
        tracks,
        transforms,
        Number.isFinite(start) ? start : 0,
        Number.isNaN(end) ? Infinity : end,
      );
      if (channels.length > 0)
        clips.push({
          name: element.getAttribute('name') || element.getAttribute('id') || `clip ${clips.length + 1}`,
          channels,
        });
    }
  } else {
    const channels = channelsOf(library.flatMap(tracksOf), transforms, 0, Infinity);
    if (channels.length > 0)
      clips.push({ name: library.length === 1 ? library[0].getAttribute('name') || name : name, channels });
  }
  if (lost.size > 0)
    notes.push(
      `${lost.size} animated ${lost.size === 1 ? 'value moves' : 'values move'} no node and ${lost.size === 1 ? 'is' : 'are'} not carried: ${[...lost].slice(0, 3).join(', ')}${lost.size > 3 ? ' …' : ''}.`,
    );
  if (straightened.size > 0)
    notes.push(`Curves of the kind ${[...straightened].join(', ')} run straight from key to key.`);
  return clips;
}

function readTrack(
  doc: ColladaDocument,
  animation: Element,
  channel: Element,
  nodesById: ReadonlyMap<string, Animated>,
): Track | null {
  const target = channel.getAttribute('target') ?? '';
  const slash = target.indexOf('/');
  const at = nodesById.get(target.slice(0, slash));
  if (slash < 0 || !at) return null;
  const match = /^([^.(]+)(?:\.(\w+))?((?:\(\d+\))*)$/.exec(target.slice(slash + 1));
  if (!match) return null;
  const transform = at.transforms.findIndex((transform) => transform.sid === match[1]);
  if (transform < 0) return null;
  const kind = at.transforms[transform].kind;
  let member = -1;
  if (match[2]) {
    member = MEMBERS.get(match[2]) ?? -2;
    if (member === -2) return null;
  }
  if (match[3]) {
    const numbers = [...match[3].matchAll(/\d+/g)].map((otherMatch) => Number(otherMatch[0]));
    const cell = numbers.length === 2 ? numbers[1] * 4 + numbers[0] : -2;
    member = kind === 'matrix' ? cell : numbers[0];
    if (member < 0 || member >= at.transforms[transform].values.length) return null;
  }
  const sampler = doc.need(channel.getAttribute('source'), channel, 'the sampler');
  const input = (text: string) => {
    const element = kids(sampler, 'input').find((kid) => kid.getAttribute('semantic') === text);
    return element ? doc.need(element.getAttribute('source'), element, 'the source') : null;
  };
  const times = input('INPUT');
  const output = input('OUTPUT');
  if (!times || !output) return doc.fail(sampler, 'a <sampler> lacks its times or its values');
  const floats = floatSource(doc, times);
  const values = floatSource(doc, output);
  if (floats.count === 0) return null;
  const wanted = member >= 0 ? 1 : at.transforms[transform].values.length;
  if (values.count < floats.count || values.size < wanted)
    return doc.fail(
      sampler,
      `a <sampler> has ${values.count} values of ${values.size} for ${floats.count} times of ${wanted}`,
    );
  for (let i = 1; i < floats.count; i++)
    if (floats.data[i * floats.size] < floats.data[(i - 1) * floats.size])
      return doc.fail(sampler, 'the times of a <sampler> run backwards');
  const kinds = words(kid(input('INTERPOLATION') ?? sampler, 'Name_array'));
  const tangent = (text: string) => {
    const element = input(text);
    return element ? floatSource(doc, element) : null;
  };
  return {
    node: at.index,
    transform,
    member,
    curve: {
      times: Float64Array.from({ length: floats.count }, (_, i) => floats.data[i * floats.size]),
      values,
      kinds,
      inTangent: tangent('IN_TANGENT'),
      outTangent: tangent('OUT_TANGENT'),
    },
  };
}

const isCurved = (curve: Curve) => curve.kinds.some((kind) => kind === 'BEZIER' || kind === 'HERMITE');
const isStepped = (curve: Curve) => curve.kinds.length > 0 && curve.kinds.every((kind) => kind === 'STEP');

/**
 * Value of one number of a curve at a time: stepped, straight, or Bézier with control points in (time, value)
 * (COLLADA 1.4.1, chapter 4).
 */
function valueAt(curve: Curve, member: number, time: number): number {
  const { times, values } = curve;
  const last = times.length - 1;
  const v = (i: number) => values.data[i * values.size + member];
  if (time <= times[0]) return v(0);
  if (time >= times[last]) return v(last);
  let k = 0;
  let hi = last;
  while (hi - k > 1) {
    const mid = (k + hi) >> 1;
    if (times[mid] <= time) k = mid;
    else hi = mid;
  }
  const kind = curve.kinds[k] ?? 'LINEAR';
  const t0 = times[k];
  const t1 = times[k + 1];
  const share = (time - t0) / (t1 - t0 || 1);
  if (kind === 'STEP') return v(k);
  if ((kind === 'BEZIER' || kind === 'HERMITE') && curve.outTangent && curve.inTangent) {
    const flat = curve.outTangent.size === 1 || curve.outTangent.size < values.size * 2;
    const point = (floats: Floats, i: number) =>
      flat
        ? [NaN, floats.data[i * floats.size + Math.min(member, floats.size - 1)]]
        : [floats.data[i * floats.size + member * 2], floats.data[i * floats.size + member * 2 + 1]];
    const [ox, oy] = point(curve.outTangent, k);
    const [ix, iy] = point(curve.inTangent, k + 1);
    if (kind === 'HERMITE')
      return (
        (2 * share ** 3 - 3 * share ** 2 + 1) * v(k) +
        (share ** 3 - 2 * share ** 2 + share) * oy +
        (3 * share ** 2 - 2 * share ** 3) * v(k + 1) +
        (share ** 3 - share ** 2) * iy
      );
    const x1 = Number.isNaN(ox) ? t0 + (t1 - t0) / 3 : ox;
    const x2 = Number.isNaN(ix) ? t1 - (t1 - t0) / 3 : ix;
    let a = 0;
    let b = 1;
    for (let node = 0; node < 40; node++) {
      const s = (a + b) / 2;
      const r = 1 - s;
      if (r ** 3 * t0 + 3 * r * r * s * x1 + 3 * r * s * s * x2 + s ** 3 * t1 < time) a = s;
      else b = s;
    }
    const s = (a + b) / 2;
    const r = 1 - s;
    return r ** 3 * v(k) + 3 * r * r * s * oy + 3 * r * s * s * iy + s ** 3 * v(k + 1);
  }
  return v(k) + (v(k + 1) - v(k)) * share;
}

function channelsOf(
  tracks: readonly Track[],
  transforms: ReadonlyMap<number, readonly Transform[]>,
  start: number,
  end: number,
): Channel[] {
  const byNode = new Map<number, Track[]>();
  for (const track of tracks) {
    const list = byNode.get(track.node);
    if (list) list.push(track);
    else byNode.set(track.node, [track]);
  }
  return [...byNode].flatMap(([n, list]) => nodeChannels(n, list, transforms.get(n) ?? [], start, end));
}

function nodeChannels(
  index: number,
  tracks: readonly Track[],
  transforms: readonly Transform[],
  start: number,
  end: number,
): Channel[] {
  const moments = new Set<number>();
  const stepped = tracks.every((track) => isStepped(track.curve));
  for (const { curve, transform, member } of tracks) {
    const { times } = curve;
    const isBent = isCurved(curve);
    const turn = transforms[transform].kind === 'rotate' && (member === 3 || member === -1);
    times.forEach((time, i) => {
      moments.add(time);
      if (i === 0) return;
      const span = time - times[i - 1];
      if (!stepped && curve.kinds[i - 1] === 'STEP' && span > 2 * STEP_SECONDS)
        moments.add(time - STEP_SECONDS);
      const swing = turn
        ? Math.abs(
            valueAt(curve, member === -1 ? 3 : 0, time) - valueAt(curve, member === -1 ? 3 : 0, times[i - 1]),
          )
        : 0;
      const steps = Math.min(
        600,
        Math.max(Math.ceil(swing / WIDEST), isBent ? Math.ceil(span / CURVE_STEP_SECONDS) : 1),
      );
      for (let k = 1; k < steps; k++) moments.add(times[i - 1] + (span * k) / steps);
    });
  }
  if (start > 0) moments.add(start);
  if (Number.isFinite(end)) moments.add(end);
  const times = [...moments]
    .filter((moment) => moment >= start - 1e-9 && moment <= end + 1e-9)
    .sort((a, b) => a - b);
  if (times.length === 0) return [];
  const translation = new Float32Array(times.length * 3);
  const rotation = new Float32Array(times.length * 4);
  const scale = new Float32Array(times.length * 3);
  const bare: SceneNode = node({ name: '' });
  let last: readonly number[] = [0, 0, 0, 1];
  times.forEach((time, i) => {
    const now = transforms.map((transform) => ({ ...transform, values: [...transform.values] }));
    for (const { transform, member, curve } of tracks) {
      const to = now[transform];
      if (member >= 0) to.values[member] = valueAt(curve, 0, time);
      else
        for (let k = 0; k < to.values.length; k++)
          to.values[k] = valueAt(curve, to.kind === 'matrix' ? (k % 4) * 4 + Math.floor(k / 4) : k, time);
    }
    const parts = withLocal(bare, localMatrix(now));
    const node = parts.matrix ? { ...bare, translation: parts.matrix.slice(12, 15) } : parts;
    // Neighbouring keys keep to one half of the quaternions, so that the way between them is the short one.
    const row =
      dot(last.slice(0, 3), node.rotation.slice(0, 3)) + last[3] * node.rotation[3] < 0
        ? node.rotation.map((x) => -x)
        : node.rotation;
    last = row;
    translation.set(node.translation, i * 3);
    rotation.set(row, i * 4);
    scale.set(node.scale, i * 3);
  });
  const shifted = Float32Array.from(times, (time) => time - (Number.isFinite(start) ? start : 0));
  const rest = withLocal(bare, localMatrix(transforms));
  const out: Channel[] = [];
  const add = (
    path: 'translation' | 'rotation' | 'scale',
    values: Float32Array,
    size: number,
    still: readonly number[],
  ) => {
    if (values.every((x, i) => Math.abs(x - still[i % size]) < 1e-6)) return;
    out.push({ node: index, path, interpolation: stepped ? 'STEP' : 'LINEAR', times: shifted, values });
  };
  add('translation', translation, 3, rest.translation);
  add('rotation', rotation, 4, rest.rotation);
  add('scale', scale, 3, rest.scale);
  return out;
}
