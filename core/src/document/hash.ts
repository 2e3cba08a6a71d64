import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { sameValue } from '../base';
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
/** Lists of theirs as text: many devices of a site are told the same ones. */
const lists = new WeakMap<object, string>();

/** The hash of a device’s document, which nobody changes once it is made. */
export function hashOfDocument(document: DeviceDocument): string {
  let hash = known.get(document);
  if (hash === undefined) known.set(document, (hash = hashText(documentText(document))));
  return hash;
}

/**
 * Whether a device was told this very document.
 * @param toldHash hash of what it was told, where that is known: it is known of the document then.
 */
export function isTold(document: DeviceDocument, told: DeviceDocument, toldHash?: string): boolean {
  const hash = known.get(document);
  if (hash !== undefined && toldHash !== undefined) return hash === toldHash;
  // Quicker than to write it down and hash that: most are as they were.
  const same = sameValue(told, document);
  if (same && toldHash !== undefined) known.set(document, toldHash);
  return same;
}

/** A document as canonical JSON (RFC 8785): members in the order of their names, each as its own canonical text. */
function documentText(document: DeviceDocument): string {
  const members = Object.entries(document as unknown as Readonly<Record<string, unknown>>)
    .filter(([, value]) => value !== undefined)
    .sort(([a], [b]) => (a < b ? -1 : 1));
  return `{${members.map(([name, value]) => `${canonicalJson(name)}:${memberText(value)}`).join()}}`;
}

function memberText(value: unknown): string {
  if (!Array.isArray(value)) return canonicalJson(value);
  let text = lists.get(value);
  if (text === undefined) lists.set(value, (text = canonicalJson(value)));
  return text;
}

/** SHA-256 of text in UTF-8, as 64 lower-case hex digits. */
export const hashText = (text: string): string => digest(text);
