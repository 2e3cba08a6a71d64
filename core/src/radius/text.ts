import { utf8ToBytes } from '@noble/hashes/utils.js';

/** Octets of a text in UTF-8. */
export const octetsOfText = (text: string): Uint8Array => utf8ToBytes(text);

/** A text of octets in UTF-8; what is none, and what steers a screen, is shown as its number in hex. */
export function textOfOctets(octets: Uint8Array): string {
  let out = '';
  for (let at = 0; at < octets.length;) {
    const read = pointAt(octets, at);
    if (read && !isSteering(read.point)) {
      out += String.fromCodePoint(read.point);
      at += read.size;
    } else out += `\\x${octets[at++]!.toString(16).padStart(2, '0')}`;
  }
  return out;
}

/** Controls, and what turns the direction of a text or is not seen at all. */
const isSteering = (point: number): boolean =>
  point < 0x20 ||
  (point >= 0x7f && point < 0xa0) ||
  (point >= 0x200b && point <= 0x200f) ||
  (point >= 0x2028 && point <= 0x202e) ||
  (point >= 0x2060 && point <= 0x206f) ||
  point === 0xfeff;

/** The character at a place of a text in UTF-8 (RFC 3629 §4); null where there is none in its one right form. */
function pointAt(octets: Uint8Array, at: number): { readonly point: number; readonly size: number } | null {
  const first = octets[at]!;
  if (first < 0x80) return { point: first, size: 1 };
  const size = first >= 0xf0 ? 4 : first >= 0xe0 ? 3 : 2;
  if (first < 0xc2 || first > 0xf4 || at + size > octets.length) return null;
  let point = first & (0xff >> (size + 1));
  for (let i = 1; i < size; i++) {
    const next = octets[at + i]!;
    if ((next & 0xc0) !== 0x80) return null;
    point = (point << 6) | (next & 0x3f);
  }
  const least = size === 4 ? 0x10000 : size === 3 ? 0x800 : 0x80;
  return point < least || point > 0x10ffff || (point >= 0xd800 && point <= 0xdfff) ? null : { point, size };
}
