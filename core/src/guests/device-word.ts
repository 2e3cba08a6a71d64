/** What a device says of a client that it holds, so short that it fits into a DHCP option. */
export interface DeviceWord {
  /** Serial number of the device that says it. */
  readonly serial: string;
  /** Id of the portal. */
  readonly portal: string;
  /** MAC address of the client, lower case with colons. */
  readonly mac: string;
  /** When it was said, in seconds since 1970, by the controller’s clock as the device was told it. */
  readonly said: number;
}

/** Octets of a DHCP option’s value (RFC 2132 §2). */
export const MOST_OPTION = 255;
/** The DHCP option that says where a client learns whether it is held (RFC 8910 §2.1). */
export const CAPTIVE_OPTION = 114;
/** How long such word is right, in milliseconds: a lease is renewed before, and comes with another. */
export const WORD_LIVES_MS = 8 * 86_400_000;

/** Octets before the serial number: version, time, MAC address, portal. */
const [VERSION, SERIAL_AT] = [1, 1 + 4 + 6 + 16];
const MOST_SERIAL = 32;
const hexOf = (bytes: Uint8Array): string => [...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join('');
const bytesOf = (hex: string): number[] => (hex.match(/../g) ?? []).map((two) => Number.parseInt(two, 16));

/** Packs word into octets. @throws RangeError when its serial number is longer than any, or not of plain characters. */
export function packWord({ serial, portal, mac, said }: DeviceWord): Uint8Array {
  if (!/^[\x21-\x7e]{1,32}$/.test(serial)) throw new RangeError(`${serial} is no serial number`);
  const time = [24, 16, 8, 0].map((bits) => Math.floor(said / 2 ** bits) % 256);
  const text = [...serial].map((character) => character.charCodeAt(0));
  return Uint8Array.from([
    ...[VERSION, ...time, ...bytesOf(mac.replaceAll(':', '')), ...bytesOf(portal.replaceAll('-', '')), ...text],
  ]);
}

/** Reads octets that were packed so; null: they are none. */
export function readWord(bytes: Uint8Array): DeviceWord | null {
  if (bytes[0] !== VERSION || bytes.length <= SERIAL_AT || bytes.length > SERIAL_AT + MOST_SERIAL) return null;
  const serial = String.fromCharCode(...bytes.subarray(SERIAL_AT));
  if (!/^[\x21-\x7e]+$/.test(serial)) return null;
  const said = bytes.subarray(1, 5).reduce((sum, byte) => sum * 256 + byte, 0);
  const mac = hexOf(bytes.subarray(5, 11)).match(/../g)!.join(':');
  const portal = hexOf(bytes.subarray(11, SERIAL_AT)).replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');
  return { serial, portal, mac, said };
}

/** What a device signs (Ed25519): a label, so that it is nothing else it ever signs, and the word as it is sent. */
export const wordText = (payload: string): string => `iron-lattice client 1\n${payload}`;

/** Where the portal says whether a client is held (RFC 8908 §4). @param word as it is sent, with its signature. */
export const captivePath = (word: string): string => `/captive/${word}`;
