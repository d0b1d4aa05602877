/** Numbers as people read them: a thin space between thousands, as many digits as matter. */
export function numberText(x: number | string): string {
  if (typeof x === 'string') return x;
  if (!Number.isFinite(x)) return '—';
  if (Object.is(x, -0)) return '0';
  if (Number.isInteger(x)) return x.toLocaleString('en').replaceAll(',', '\u202f');
  const a = Math.abs(x);
  if (a >= 1000) return Math.round(x).toLocaleString('en').replaceAll(',', '\u202f');
  if (a >= 100) return x.toFixed(1);
  if (a >= 0.01) return x.toFixed(3);
  // A millionth of whatever is counted is nothing that anybody has measured.
  if (a < 1e-6) return '0';
  return a < 1e-4 ? x.toFixed(6) : x.toPrecision(2);
}

/** A share in per cent; a dash where there is none. */
export const percentText = (share: number | null): string =>
  share === null ? '—' : `${Math.round(share * 100)} %`;

/** So many of something: “1 bone”, “40 bones”. */
export const countOf = (count: number, one: string, many = `${one}s`): string =>
  `${numberText(count)} ${count === 1 ? one : many}`;

const ONE: Readonly<Record<string, string>> = {
  nodes: 'node',
  bones: 'bone',
  meshes: 'mesh',
  pts: 'pt',
  names: 'name',
  roots: 'root',
  faces: 'face',
  gaps: 'gap',
  edges: 'edge',
  places: 'place',
};

export function withUnit(x: number | string, unit: string): string {
  return unit && typeof x === 'number'
    ? `${numberText(x)} ${x === 1 ? (ONE[unit] ?? unit) : unit}`
    : numberText(x);
}

/** A short value stays on one line; a long name may break. */
export const oneLine = (x: number | string): string =>
  typeof x === 'number' || x.length <= 18 ? 'whitespace-nowrap' : '';

/** A sentence whose numbers stay on one line with their units, and with what they are multiplied by. */
export const sentence = (text: string): string =>
  text.replace(/(?<=\d) (?=(?:[×±%]|m|cm|mm|in)(?![\p{L}\p{N}]))|(?<=[×±]) (?=[-−\d])/gu, '\u00a0');

/** A number of bytes as people read it. */
export function bytesText(bytes: number): string {
  if (bytes < 1000) return `${bytes}\u00a0B`;
  if (bytes < 1e6) return `${(bytes / 1000).toFixed(bytes < 1e4 ? 1 : 0)}\u00a0kB`;
  return `${(bytes / 1e6).toFixed(1)}\u00a0MB`;
}

/** Today, as 2027-03-31. */
export const today = (): string => new Date().toISOString().slice(0, 10);

export function ago(date: string | Date): string {
  const seconds = (Date.now() - new Date(date).getTime()) / 1000;
  const rtf = new Intl.RelativeTimeFormat('en', { numeric: 'auto' });
  if (seconds < 60) return 'just now';
  if (seconds < 3600) return rtf.format(-Math.round(seconds / 60), 'minute');
  if (seconds < 86400) return rtf.format(-Math.round(seconds / 3600), 'hour');
  return rtf.format(-Math.round(seconds / 86400), 'day');
}
