import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { canonicalJson } from './canonical-json';
import type { DeviceDocument } from './document';

let digest = (text: string): string => bytesToHex(sha256(utf8ToBytes(text)));

/**
 * Has SHA-256 computed by what the platform has, which is quicker than any program.
 * @param native SHA-256 of text in UTF-8, as 64 lower-case hex digits.
 */
export function hashWith(native: (text: string) => string): void {
  digest = native;
}

/** SHA-256 (FIPS 180-4) of a value's canonical JSON, as 64 lower-case hex digits. */
export const hashOf = (value: unknown): string => hashText(canonicalJson(value));

/** What documents came to: most stay the same objects from one edit to the next. */
const known = new WeakMap<object, string>();

/** The hash of a device’s document, which nobody changes once it is made. */
export function hashOfDocument(document: DeviceDocument): string {
  let hash = known.get(document);
  if (hash === undefined) known.set(document, (hash = hashOf(document)));
  return hash;
}

/** SHA-256 of text in UTF-8, as 64 lower-case hex digits. */
export const hashText = (text: string): string => digest(text);
