/** Signatures of texts with Ed25519 (RFC 8032), as the engine has it. Keys are 32 bytes, signatures 64, in hexadecimal. */
import { createPrivateKey, createPublicKey, generateKeyPairSync, sign, verify } from 'node:crypto';

/** Both halves of a key. */
export interface KeyPair {
  readonly publicHalf: string;
  readonly privateHalf: string;
}

const KIND = { kty: 'OKP', crv: 'Ed25519' } as const;

const toWords = (hex: string): string => Buffer.from(hex, 'hex').toString('base64url');
const toHex = (words: string | undefined): string => Buffer.from(words ?? '', 'base64url').toString('hex');

/** Whether a text is the public half of a key, as it is written down. */
export const isPublicHalf = (text: string): boolean => /^[0-9a-f]{64}$/.test(text);

/** A new key by chance. */
export function makeKeyPair(): KeyPair {
  const { x: text, d: words } = generateKeyPairSync('ed25519').privateKey.export({ format: 'jwk' });
  return { publicHalf: toHex(text), privateHalf: toHex(words) };
}

/** The signature of a text, UTF-8. */
export function signText({ publicHalf, privateHalf }: KeyPair, text: string | Uint8Array): string {
  const jwk = { ...KIND, x: toWords(publicHalf), d: toWords(privateHalf) };
  const key = createPrivateKey({ key: jwk, format: 'jwk' });
  return sign(null, bytesOf(text), key).toString('hex');
}

/** Whether somebody who has the private half has signed the text. */
export function isSignedBy(publicHalf: string, text: string | Uint8Array, signature: string): boolean {
  try {
    const key = createPublicKey({ key: { ...KIND, x: toWords(publicHalf) }, format: 'jwk' });
    return verify(null, bytesOf(text), key, Buffer.from(signature, 'hex'));
  } catch {
    // What is no key has signed nothing.
    return false;
  }
}

const bytesOf = (text: string | Uint8Array): Uint8Array =>
  typeof text === 'string' ? new TextEncoder().encode(text) : text;
