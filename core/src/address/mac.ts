/**
 * Reads a MAC address of 12 hex digits, bare or in groups parted by `:`, `-` or `.`.
 * @returns the address as a 48-bit integer, or null.
 */
export function parseMac(text: string): bigint | null {
  const bare = text.trim();
  const grouped = /^([0-9a-f]{2}([:-])[0-9a-f]{2}(\2[0-9a-f]{2}){4}|[0-9a-f]{12}|[0-9a-f]{4}(\.[0-9a-f]{4}){2})$/i;
  return grouped.test(bare) ? BigInt(`0x${bare.replace(/[:.-]/g, '')}`) : null;
}

/** Writes a MAC address in lower case with colons. */
export const formatMac = (mac: bigint): string =>
  mac
    .toString(16)
    .padStart(12, '0')
    .replace(/(..)(?=.)/g, '$1:');
