/** Something that has a turn. */
interface Turned {
  readonly id: string;
  readonly turn: number;
}

/**
 * The changes of turns by which two things beside each other change places; two that came at the same time may have the same turn.
 * @param by whether the other comes before, or behind.
 */
export function turnSteps(
  mine: Turned,
  theirs: Turned,
  by: -1 | 1,
): { readonly id: string; readonly from: number; readonly to: number }[] {
  const other = theirs.turn === mine.turn ? mine.turn + by : theirs.turn;
  return [
    ...(theirs.turn === other ? [{ id: theirs.id, from: theirs.turn, to: mine.turn }] : []),
    { id: mine.id, from: mine.turn, to: other },
  ];
}
