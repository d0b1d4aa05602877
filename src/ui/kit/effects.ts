import { inUnit } from '@/core/audit/brief';
import type { Brief } from '@/core/audit/brief';
import type { Effects } from '@/core/audit/effects';

/** A small length as people read it: in the brief's unit where it shows there, else in millimetres. */
export function smallLength(metres: number, unit: Brief['unit']): string {
  if (metres < 1e-6) return `0 ${unit === 'm' ? 'mm' : unit}`;
  return unit === 'm' ? `${(metres * 1000).toPrecision(3)} mm` : `${inUnit(metres, unit).toPrecision(3)} ${unit}`;
}

const many = (n: number, one: string, more = `${one}s`) => (n > 0 ? [`${n} ${n === 1 ? one : more}`] : []);

/** What a step touched, and that nothing else moved, in one or two sentences. */
export function effectsText(e: Partial<Effects>, unit: Brief['unit']): string {
  const touched = [...many(e.nodes?.length ?? 0, 'node'), ...many(e.meshes?.length ?? 0, 'mesh', 'meshes'), ...many(e.joints?.length ?? 0, 'bind'), ...many(e.clips?.length ?? 0, 'clip'), ...(e.removed && e.removed.length > 0 ? [`${e.removed.length} removed`] : [])];
  const first = `Touched ${touched.length > 0 ? touched.join(', ') : 'names only'}.`;
  const o = e.others;
  if (!o) return first;
  if (o.meshes === 0) return `${first} There was nothing else that could have moved.`;
  const over = o.holds === 'at rest' ? 'at rest' : `over ${o.poses} trial poses`;
  const scaled = e.scale !== undefined && e.scale !== 1 ? ` but for the factor ${Number(e.scale.toPrecision(6))}` : '';
  return `${first} ${o.largest < 2e-6 ? `Nothing else changed${scaled}: 0 mm ${over}.` : `The rest moved up to ${smallLength(o.largest, unit)}${scaled} ${over} (${o.where}).`}`;
}
