import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { canonicalJson } from './canonical-json';

/** SHA-256 (FIPS 180-4) of a value's canonical JSON, as 64 lower-case hex digits. */
export const hashOf = (value: unknown): string => hashText(canonicalJson(value));

/** SHA-256 of text in UTF-8, as 64 lower-case hex digits. */
export const hashText = (text: string): string => bytesToHex(sha256(utf8ToBytes(text)));
