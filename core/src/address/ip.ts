/** An IPv4 or IPv6 address as an unsigned integer of 32 or 128 bits. */
export interface IpAddress {
  readonly version: IpVersion;
  readonly value: bigint;
}
export type IpVersion = 4 | 6;

/** Number of bits in an address of a version: 32 or 128. */
export const widthOf = (version: IpVersion): number => (version === 4 ? 32 : 128);

/**
 * Reads an address. IPv4 takes four decimal octets without leading zeros (RFC 6943 §3.1.1: `010` is octal to
 * some parsers); IPv6 takes every form of RFC 4291 §2.2, but no zone id.
 * @returns null when the text is not an address; surrounding blanks are not part of one.
 */
export function parseIp(text: string): IpAddress | null {
  const value = text.includes(':') ? parseV6(text) : parseV4(text);
  return value === null ? null : { version: text.includes(':') ? 6 : 4, value };
}

/** Writes an address: dotted decimal, or the one canonical form of RFC 5952 §4. */
export function formatIp({ version, value }: IpAddress): string {
  return version === 4 ? formatV4(value) : formatV6(value);
}

/** The address `steps` further on (or back); stays of the same version and may leave its width. */
export const offsetIp = (ip: IpAddress, steps: number | bigint): IpAddress => ({
  version: ip.version,
  value: ip.value + BigInt(steps),
});

const DOTTED = /^(0|[1-9]\d{0,2})\.(0|[1-9]\d{0,2})\.(0|[1-9]\d{0,2})\.(0|[1-9]\d{0,2})$/;

function parseV4(text: string): bigint | null {
  const octets = DOTTED.exec(text);
  if (!octets) return null;
  let value = 0;
  for (let i = 1; i <= 4; i++) {
    const octet = Number(octets[i]);
    if (octet > 255) return null;
    value = value * 256 + octet;
  }
  return BigInt(value);
}

function parseV6(text: string): bigint | null {
  const halves = text.split('::');
  if (halves.length > 2) return null;
  const groups = halves.map((half) => (half === '' ? [] : half.split(':')));
  const last = groups[groups.length - 1]!;
  const tail = last[last.length - 1];
  if (tail?.includes('.')) {
    const v4 = parseV4(tail); // RFC 4291 §2.2 (3): the last 32 bits in dotted decimal
    if (v4 === null) return null;
    last.splice(-1, 1, (v4 >> 16n).toString(16), (v4 & 0xffffn).toString(16));
  }
  if (!groups.flat().every((group) => /^[0-9a-fA-F]{1,4}$/.test(group))) return null;
  const [head, rest] = [groups[0]!, groups[1]];
  const missing = 8 - head.length - (rest?.length ?? 0);
  if (rest === undefined ? missing !== 0 : missing < 1) return null;
  const all = rest === undefined ? head : [...head, ...Array<string>(missing).fill('0'), ...rest];
  return all.reduce((value, group) => (value << 16n) | BigInt(`0x${group}`), 0n);
}

function formatV4(value: bigint): string {
  return [24n, 16n, 8n, 0n].map((shift) => (value >> shift) & 255n).join('.');
}

function formatV6(value: bigint): string {
  const groups = Array.from({ length: 8 }, (_, i) => Number((value >> BigInt(112 - 16 * i)) & 0xffffn));
  const run = longestZeroRun(groups);
  const hex = groups.map((group) => group.toString(16));
  if (run.length < 2) return hex.join(':'); // RFC 5952 §4.2.2: one group alone is never shortened
  return `${hex.slice(0, run.start).join(':')}::${hex.slice(run.start + run.length).join(':')}`;
}

/** The longest run of zero groups, the first of equals (RFC 5952 §4.2.3). */
function longestZeroRun(groups: readonly number[]): { start: number; length: number } {
  let best = { start: 0, length: 0 };
  for (let start = 0; start < groups.length; start++) {
    let length = 0;
    while (groups[start + length] === 0) length++;
    if (length > best.length) best = { start, length };
  }
  return best;
}
