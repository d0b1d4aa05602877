const SIDES = ['l', 'left', 'lt', 'r', 'right', 'rt'];

/** A name brought near the house's convention: small letters, parts joined by _, the side last. */
export function suggestName(name: string): string {
  const parts = name
    .replace(/([a-z])([A-Z])/g, '$1_$2')
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter((p) => p && !/^(copy|mirror(ed)?|duplicate|\d{3})$/.test(p));
  const side = parts.findIndex((p) => SIDES.includes(p));
  if (side < 0) return parts.join('_');
  const word = parts[side].startsWith('l') ? 'lt' : 'rt';
  return [...parts.filter((_, i) => i !== side), word].join('_');
}
