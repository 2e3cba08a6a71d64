import { hmac } from '@noble/hashes/hmac.js';
import { sha1 } from '@noble/hashes/legacy.js';
import { pbkdf2, pbkdf2Async } from '@noble/hashes/pbkdf2.js';
import { bytesToHex, concatBytes, hexToBytes, utf8ToBytes } from '@noble/hashes/utils.js';

/** Octets of the name of a network (IEEE 802.11-2020 §9.4.2.2). */
export const isSsidLength = (octets: number): boolean => Number.isInteger(octets) && octets >= 1 && octets <= 32;

/** What a text is as a key of WPA-Personal: a passphrase, the key itself in hex digits, or none (IEEE 802.11-2020 Annex J.4.1). */
export function keyKind(text: string): 'passphrase' | 'key' | null {
  if (/^[0-9a-fA-F]{64}$/.test(text)) return 'key';
  return /^[\x20-\x7e]{8,63}$/.test(text) ? 'passphrase' : null;
}

const STRETCH = { c: 4096, dkLen: 32 };

/**
 * The pairwise master key of a passphrase, in hex: PBKDF2 with HMAC-SHA-1, 4096 times (IEEE 802.11-2020 §12.7.1.3, Annex J.4). It
 * takes some milliseconds: of many ask a worker, or `pairwiseKeyLater`.
 * @param ssid octets of the network's name. @throws RangeError for what is no key or no name.
 */
export function pairwiseKey(text: string, ssid: Uint8Array): string {
  const kind = checked(text, ssid);
  return kind === 'key' ? text.toLowerCase() : bytesToHex(pbkdf2(sha1, utf8ToBytes(text), ssid, STRETCH));
}

/** The same, letting others have their turn meanwhile. */
export async function pairwiseKeyLater(text: string, ssid: Uint8Array): Promise<string> {
  const kind = checked(text, ssid);
  return kind === 'key' ? text.toLowerCase() : bytesToHex(await pbkdf2Async(sha1, utf8ToBytes(text), ssid, STRETCH));
}

function checked(text: string, ssid: Uint8Array): 'passphrase' | 'key' {
  const kind = keyKind(text);
  if (kind === null) throw new RangeError('a key has 8 to 63 printable characters of ASCII, or 64 hex digits');
  if (!isSsidLength(ssid.length)) throw new RangeError(`a network’s name has 1 to 32 octets, not ${ssid.length}`);
  return kind;
}

/** Names a pairwise master key between an AP and a client, in hex (IEEE 802.11-2020 §12.7.1.3). All in hex. */
export const keyName = (key: string, ap: string, client: string): string =>
  bytesToHex(
    hmac(sha1, hexToBytes(key), concatBytes(utf8ToBytes('PMK Name'), hexToBytes(ap), hexToBytes(client))),
  ).slice(0, 32);
