import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { canonicalJson } from './canonical-json';

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

/** SHA-256 of text in UTF-8, as 64 lower-case hex digits. */
export const hashText = (text: string): string => digest(text);
