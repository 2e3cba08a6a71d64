/**
 * A seeded source of whole numbers (mulberry32): the same seed gives the same numbers everywhere.
 * @returns a function that gives 0 to `below` - 1.
 */
export function randomFrom(seed: number): (below: number) => number {
  let state = seed >>> 0;
  return (below) => {
    state = (state + 0x6d2b79f5) >>> 0;
    let word = Math.imul(state ^ (state >>> 15), state | 1);
    word ^= word + Math.imul(word ^ (word >>> 7), word | 61);
    return Math.floor((((word ^ (word >>> 14)) >>> 0) / 2 ** 32) * below);
  };
}
