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
  const list = arrays.map((array) => {
    const raw = arrayBytes(array);
    let address = addresses.get(array);
    if (!address) {
      address = hash(raw);
      addresses.set(array, address);
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
    let array = made.get(hash);
    if (!array) {
      const bytes = bytesAt(hash);
      if (!bytes) throw new Error(`Array ${hash?.slice(0, 12)} of the revision is missing from the store.`);
      array = arrayFromBytes(bytes);
      made.set(hash, array);
      addresses.set(array, hash);
    }
    return array;
  }) as Character;
}

/** How many bones a stored character has. */
export function bonesStored({ manifest }: StoredCharacter): number {
  const { nodes } = manifest as { readonly nodes?: readonly { readonly kind?: unknown }[] };
  return nodes?.filter((node) => node.kind === 'bone').length ?? 0;
}
