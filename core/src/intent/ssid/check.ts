import { flaw, type Flaw } from '../../base';
import type { EstatePart } from '../part';
import { reachesMeet } from '../reach';
import type { Ssid } from './ssid';

/** Bytes of a text in UTF-8. */
export function utf8Length(text: string): number {
  let bytes = 0;
  for (const char of text) {
    const point = char.codePointAt(0)!;
    bytes += point < 0x80 ? 1 : point < 0x800 ? 2 : point < 0x10000 ? 3 : 4;
  }
  return bytes;
}

/** Checks an SSID alone and against the estate's others where both can be heard. */
export function checkSsid(ssid: Ssid, estate: EstatePart): Flaw[] {
  const flaws: Flaw[] = [];
  const bytes = utf8Length(ssid.name);
  if (bytes === 0) flaws.push(flaw('ssid.name-empty', 'Give the SSID a name.', 'name'));
  else if (bytes > 32)
    flaws.push(flaw('ssid.name-long', `An SSID has 32 bytes at most; this one has ${bytes}.`, 'name'));
  if (ssid.bands.length === 0) flaws.push(flaw('ssid.bands-none', 'Choose at least one band.', 'bands'));
  if (ssid.bands.includes('6') && ssid.security === 'wpa2-psk')
    flaws.push(flaw('ssid.6ghz-wpa2', '6 GHz takes WPA3 only. Choose WPA2/WPA3 or WPA3.', 'bands'));
  if (ssid.segment.trim() === '')
    flaws.push(flaw('ssid.segment-none', 'Choose the segment its clients join.', 'segment'));
  const twin = estate.ssids.find(
    (other) => other.id !== ssid.id && other.name === ssid.name && reachesMeet(other.reach, ssid.reach),
  );
  if (twin) flaws.push(flaw('ssid.name-taken', `“${ssid.name}” is already sent at one of these sites.`, 'name'));
  return flaws;
}

/**
 * Checks a passphrase: 8 to 63 printable ASCII characters (IEEE 802.11-2020 Annex J.4.1), or exactly 64 hex
 * digits, which are the key itself; SAE has no such key, so WPA3 alone refuses those.
 */
export function checkPassphrase(text: string, security: Ssid['security']): Flaw[] {
  if (/^[0-9a-fA-F]{64}$/.test(text)) {
    if (security === 'wpa2-psk') return [];
    return [flaw('ssid.passphrase-hex', 'WPA3 takes a passphrase, not a 64-digit key.', 'passphrase')];
  }
  if (/^[\x20-\x7e]{8,63}$/.test(text)) return [];
  const text2 = 'A passphrase has 8 to 63 characters: letters, digits, blanks and punctuation without accents.';
  return [flaw('ssid.passphrase', text2, 'passphrase')];
}
