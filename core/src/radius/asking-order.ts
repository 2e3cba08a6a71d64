/** A server, as far as it matters who is asked when. */
interface Ordered {
  readonly name: string;
  readonly order: number;
}

/**
 * Servers in the order in which they are asked: by their number, those with the same number taking turns; dead ones after all others,
 * since a dead one is better than none.
 * @param dead until when each that did not answer is left alone, in milliseconds, by name. @param turn counts questions.
 */
export function askingOrder<S extends Ordered>(
  servers: readonly S[],
  dead: ReadonlyMap<string, number>,
  now: number,
  turn: number,
): S[] {
  const isDead = ({ name }: S): boolean => (dead.get(name) ?? 0) > now;
  const inTurn = (all: readonly S[]): S[] =>
    [...new Set(all.map(({ order }) => order))]
      .sort((a, b) => a - b)
      .flatMap((number) => {
        const same = all.filter(({ order }) => order === number);
        const first = turn % same.length;
        return [...same.slice(first), ...same.slice(0, first)];
      });
  return [...inTurn(servers.filter((each) => !isDead(each))), ...inTurn(servers.filter(isDead))];
}
