/** A server, as far as it matters who is asked when. */
interface Ordered {
  readonly name: string;
  readonly order: number;
  /** It is the controller, for users that it keeps. */
  readonly own?: true;
}

/**
 * Servers in the order in which they are asked: by their number, those with the same number taking turns; dead ones after all others,
 * since a dead one is better than none. The controller itself comes before others of its number and takes no turns with them: whom it does
 * not keep is asked of the next, while the no of any other is final.
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
        const own = all.filter((each) => each.order === number && each.own);
        const same = all.filter((each) => each.order === number && !each.own);
        const first = same.length === 0 ? 0 : turn % same.length;
        return [...own, ...same.slice(first), ...same.slice(0, first)];
      });
  return [...inTurn(servers.filter((each) => !isDead(each))), ...inTurn(servers.filter(isDead))];
}
