/** Constants and turns of the three rounds (RFC 1320 §3.4). */
const ADDED = [0, 0x5a827999, 0x6ed9eba1];
const TURNS = [
  [3, 7, 11, 19],
  [3, 5, 9, 13],
  [3, 9, 11, 15],
];
const ORDER = [
  [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15],
  [0, 4, 8, 12, 1, 5, 9, 13, 2, 6, 10, 14, 3, 7, 11, 15],
  [0, 8, 4, 12, 2, 10, 6, 14, 1, 9, 5, 13, 3, 11, 7, 15],
];

/** MD4 (RFC 1320): broken, and what MS-CHAP takes passwords for (RFC 2759 §8.3); for nothing else. */
export function md4(message: Uint8Array): Uint8Array {
  const size = Math.ceil((message.length + 9) / 64) * 64;
  const bytes = new Uint8Array(size);
  bytes.set(message);
  bytes[message.length] = 0x80;
  const view = new DataView(bytes.buffer);
  view.setUint32(size - 8, (message.length * 8) >>> 0, true);
  view.setUint32(size - 4, Math.floor(message.length / 2 ** 29), true);
  let state = [0x67452301, 0xefcdab89, 0x98badcfe, 0x10325476];
  for (let at = 0; at < size; at += 64) {
    let [a, b, c, d] = state as [number, number, number, number];
    for (let round = 0; round < 3; round++)
      for (let step = 0; step < 16; step++) {
        const mixed = round === 0 ? (b & c) | (~b & d) : round === 1 ? (b & c) | (b & d) | (c & d) : b ^ c ^ d;
        const sum = (a + mixed + view.getUint32(at + 4 * ORDER[round]![step]!, true) + ADDED[round]!) >>> 0;
        const turn = TURNS[round]![step % 4]!;
        [a, b, c, d] = [d, ((sum << turn) | (sum >>> (32 - turn))) >>> 0, b, c];
      }
    state = [a, b, c, d].map((value, i) => (value + state[i]!) >>> 0);
  }
  const out = new Uint8Array(16);
  const into = new DataView(out.buffer);
  state.forEach((value, i) => into.setUint32(4 * i, value, true));
  return out;
}
