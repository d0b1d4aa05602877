import { inUnit } from '@/core/contracts/brief';
import type { Brief } from '@/core/contracts/brief';
import type { Effects } from '@/core/house/effects';

/** A small length as people read it: in the brief's unit where it shows there, else in millimetres. */
export function smallLength(metres: number, unit: Brief['unit']): string {
  if (metres < 1e-6) return `0 ${unit === 'm' ? 'mm' : unit}`;
  return unit === 'm'
    ? `${(metres * 1000).toPrecision(3)} mm`
    : `${inUnit(metres, unit).toPrecision(3)} ${unit}`;
}

const short = (name: string): string => (name.length > 28 ? `${name.slice(0, 27)}…` : name);

/** How many, and which: the first two by name; all of them stand in the ledger. */
function many(names: readonly string[] | undefined, one: string, more = `${one}s`): string[] {
  const n = names?.length ?? 0;
  if (!names || n === 0) return [];
  return [
    `${n} ${n === 1 ? one : more} (${names
      .slice(0, n === 3 ? 3 : 2)
      .map(short)
      .join(', ')}${n > 3 ? ' …' : ''})`,
  ];
}

/** What a step touched, and that nothing else moved, in one or two sentences. */
export function effectsText(e: Partial<Effects>, unit: Brief['unit']): string {
  const touched = [
    ...many(e.nodes, 'node'),
    ...many(e.meshes, 'mesh', 'meshes'),
    ...many(e.joints, 'bind'),
    ...many(e.clips, 'clip'),
    ...many(e.removed, 'node taken out', 'nodes taken out'),
  ];
  const first = `Touched ${touched.length > 0 ? touched.join(', ') : 'names only'}.`;
  const o = e.others;
  if (!o) return first;
  if (o.meshes === 0) return `${first} There was nothing else that could have moved.`;
  const over = o.holds === 'at rest' ? 'at rest' : `over ${o.poses} trial poses`;
  const scaled =
    e.scale !== undefined && e.scale !== 1 ? ` but for the factor ${Number(e.scale.toPrecision(6))}` : '';
  return `${first} ${o.largest < 2e-6 ? `Nothing else changed${scaled}: 0 mm ${over}.` : `The rest moved up to ${smallLength(o.largest, unit)}${scaled} ${over} (${o.where}).`}`;
}
