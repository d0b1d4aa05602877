import { type Plain, addressOf, arrayBytes, arrayFromBytes, assemble, dismantle } from './bundle';
import type { Character } from './model';

/** A character as it is stored and sent: a manifest, and the content addresses of its arrays. */
export interface StoredCharacter {
  readonly manifest: Plain;
  readonly arrays: readonly string[];
}

type TypedArray = Parameters<typeof arrayBytes>[0];

const addresses = new WeakMap<TypedArray, string>();

/**
 * Takes a character apart into its manifest and arrays as bytes under their addresses. An array that was
 * addressed before is not hashed again.
 * @param hash sha-256 in hex; a machine may have a faster one than the core
 */
export function toStored(
  character: Character,
  hash: (bytes: Uint8Array) => string = addressOf,
): { stored: StoredCharacter; bytes: Map<string, Uint8Array> } {
  const { manifest, arrays } = dismantle(character);
  const bytes = new Map<string, Uint8Array>();
  const list = arrays.map((a) => {
    const raw = arrayBytes(a);
    let address = addresses.get(a);
    if (!address) {
      address = hash(raw);
      addresses.set(a, address);
    }
    bytes.set(address, raw);
    return address;
  });
  return { stored: { manifest, arrays: list }, bytes };
}

/**
 * Puts a character together from its manifest and a way to its arrays' bytes. Throws where an array is
 * missing.
 */
export function fromStored(
  stored: StoredCharacter,
  bytesAt: (hash: string) => Uint8Array | undefined,
): Character {
  const made = new Map<string, TypedArray>();
  return assemble(stored.manifest, (i) => {
    const hash = stored.arrays[i];
    let a = made.get(hash);
    if (!a) {
      const bytes = bytesAt(hash);
      if (!bytes) throw new Error(`Array ${hash?.slice(0, 12)} of the revision is missing from the store.`);
      a = arrayFromBytes(bytes);
      made.set(hash, a);
      addresses.set(a, hash);
    }
    return a;
  }) as Character;
}

/** How many bones a stored character has. */
export function bonesStored({ manifest }: StoredCharacter): number {
  const { nodes } = manifest as { readonly nodes?: readonly { readonly kind?: unknown }[] };
  return nodes?.filter((n) => n.kind === 'bone').length ?? 0;
}
