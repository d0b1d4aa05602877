/**
 * Forged dockets held against the key of the house that they claim to come from, by the command that receivers use:
 * node dist/forge.mjs DOCKET FILE KEY SEED COUNT tells a line of JSON.
 */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { run } from '../cli/run';
import { makeRandom } from '../core/geometry/random';
import { type Docket, docketFile, docketIn, sealDocket, signedText } from '../core/house/docket';
import { makeKeyPair, signText } from '../keys/ed25519';

const [docketPath, filePath, key, seed, count] = process.argv.slice(2);
const honest = docketIn(readFileSync(docketPath, 'utf8'));
const bytes = new Uint8Array(readFileSync(filePath));
const chance = makeRandom(Number(seed));
const anyOf = <T>(list: readonly T[]): T => list[Math.floor(chance() * list.length)];
const stranger = makeKeyPair();

/** Another value in place of one. */
function other(value: unknown): unknown {
  if (typeof value === 'number') return value + anyOf([1, -1, 0.5, 1000]);
  if (typeof value === 'boolean') return !value;
  if (typeof value === 'string') return anyOf([`${value} `, value.slice(1), `${value}0`, 'somebody else']);
  return value === null ? 'something' : null;
}

/** The same with one value, somewhere in it, left out, doubled or another. */
function changed(value: unknown): unknown {
  if (value === null || typeof value !== 'object' || chance() < 0.1) return other(value);
  if (Array.isArray(value)) {
    if (value.length === 0) return ['one more'];
    const at = Math.floor(chance() * value.length);
    const how = chance();
    if (how < 0.2) return value.filter((_: unknown, i) => i !== at);
    if (how < 0.3) return [...value, value[at]];
    return value.map((field: unknown, i) => (i === at ? changed(field) : field));
  }
  const fields = Object.entries(value);
  if (fields.length === 0) return { more: 1 };
  const [name] = anyOf(fields);
  if (chance() < 0.15) return Object.fromEntries(fields.filter(([otherName]) => otherName !== name));
  return Object.fromEntries(
    fields.map(([otherName, field]) => [otherName, otherName === name ? changed(field) : field]),
  );
}

/** A docket with something else in it than the house has sealed, its seal and its signature left as they were. */
function bent(): Docket {
  const { seal, signature, ...open } = honest;
  return { ...(changed(open) as typeof open), seal, ...(signature && { signature }) };
}

const resealed = (docket: Docket): Docket => {
  const { seal: _seal, ...open } = docket;
  return sealDocket(open);
};
const signedBy = (docket: Docket, as: string): Docket => ({
  ...docket,
  signature: { key: as, value: signText(stranger, signedText(docket)) },
});
const flipped = (hex: string): string => {
  const at = Math.floor(chance() * hex.length);
  return hex.slice(0, at) + ((parseInt(hex[at], 16) + 1) % 16).toString(16) + hex.slice(at + 1);
};
const { signature } = honest;
if (!signature) throw new Error('The docket is not signed.');

/** A text that one reader takes for one thing and another for another. */
function doubled(): string {
  const text = docketFile(honest);
  const fields = [...text.matchAll(/^ {1,4}"(\w+)": ?/gm)];
  const { 0: field, index } = anyOf(fields);
  return `${text.slice(0, index)}${field}${anyOf(['"else"', '0', 'null', '[]'])},\n${text.slice(index)}`;
}

/** Ways of forging, by name; each gives the text of a docket that the house has not signed. */
const WAYS: Readonly<Record<string, () => string>> = {
  'changed, nothing made anew': () => docketFile(bent()),
  'changed, sealed anew': () => docketFile(resealed(bent())),
  'changed, sealed anew, not signed': () => docketFile({ ...resealed(bent()), signature: undefined }),
  'changed, signed by a stranger': () => docketFile(signedBy(resealed(bent()), stranger.publicHalf)),
  'changed, signed by a stranger in the name of the house': () => docketFile(signedBy(resealed(bent()), key)),
  'signed by a stranger in the name of the house': () => docketFile(signedBy(honest, key)),
  'another signature': () =>
    docketFile({ ...honest, signature: { ...signature, value: flipped(signature.value) } }),
  'another key': () => docketFile({ ...honest, signature: { ...signature, key: flipped(signature.key) } }),
  'nothing as a signature': () =>
    docketFile({ ...honest, signature: { key, value: anyOf(['0', 'f']).repeat(128) } }),
  'a field twice': doubled,
  'a field twice, the second one signed': () =>
    docketFile(honest).replace('"by":', `"by": "somebody else",\n "by":`),
  'a number beyond all numbers': () =>
    docketFile(honest).replace(/("(bytes|version|revision|number)": ?)\d+/, '$11e999'),
  'half a letter': () => docketFile(honest).replace('"by": "', '"by": "\\ud800'),
};

/** Runs the command; gives its exit code, with what it says kept to itself. */
function verify(docket: string): number {
  const { stdout, stderr } = process;
  const [out, err] = [stdout.write.bind(stdout), stderr.write.bind(stderr)];
  stdout.write = () => true;
  stderr.write = () => true;
  try {
    return run(['verify', filePath, '--docket', docket, '--key', key]);
  } finally {
    stdout.write = out;
    stderr.write = err;
  }
}

const folder = mkdtempSync(path.join(os.tmpdir(), 'bough-forge-'));
const believed: string[] = [];
const codes = { believed: 0, told: 0, refused: 0 };
try {
  const docket = path.join(folder, 'docket.json');
  const judge = (text: string) => {
    writeFileSync(docket, text);
    return verify(docket);
  };
  const names = Object.keys(WAYS);
  const same = docketFile(honest);
  let forged = 0;
  for (let i = 0; forged < Number(count); i++) {
    const name = names[i % names.length];
    const text = WAYS[name]();
    // By chance it may have become what it was.
    if (text === same) continue;
    forged++;
    const code = judge(text);
    if (code === 0) believed.push(`${name}: ${text.length} letters`);
    codes[(['believed', 'told', 'refused'] as const)[code]]++;
  }
  // What says the same in other spaces and another order is still the house's word.
  const reordered = Object.fromEntries(Object.entries(honest).reverse());
  const honestly = [same, JSON.stringify(honest), JSON.stringify(reordered)].filter(
    (text) => judge(text) === 0,
  );
  process.stdout.write(
    `${JSON.stringify({ forged, bytes: bytes.length, ...codes, doubted: 3 - honestly.length, ways: believed })}\n`,
  );
} finally {
  rmSync(folder, { recursive: true });
}
