/** FNV-1a, 32 bits, of bytes; unsigned. */
export function fnv1a32(bytes: Uint8Array): number {
  let hash = 0x811c9dc5;
  for (const byte of bytes) hash = Math.imul(hash ^ byte, 0x01000193);
  return hash >>> 0;
}

/** The finaliser of MurmurHash3 (32 bits): spreads every input bit over the whole word; unsigned. */
export function mix32(word: number): number {
  let hash = word;
  hash = Math.imul(hash ^ (hash >>> 16), 0x85ebca6b);
  hash = Math.imul(hash ^ (hash >>> 13), 0xc2b2ae35);
  return (hash ^ (hash >>> 16)) >>> 0;
}

/** MurmurHash3_x86_32 of bytes with a seed; unsigned. */
export function murmur3(bytes: Uint8Array, seed: number): number {
  const scramble = (block: number): number => {
    const k = Math.imul(block, 0xcc9e2d51);
    return Math.imul((k << 15) | (k >>> 17), 0x1b873593);
  };
  let hash = seed;
  const whole = bytes.length - (bytes.length % 4);
  for (let at = 0; at < whole; at += 4) {
    hash ^= scramble(littleEndian(bytes, at, 4));
    hash = Math.imul((hash << 13) | (hash >>> 19), 5) + 0xe6546b64;
  }
  if (whole < bytes.length) hash ^= scramble(littleEndian(bytes, whole, bytes.length - whole));
  return mix32(hash ^ bytes.length);
}

const littleEndian = (bytes: Uint8Array, at: number, length: number): number =>
  bytes.subarray(at, at + length).reduce((word, byte, i) => word | (byte << (8 * i)), 0);
