import type { Axis, Box, Diagram, PacketSpace, Span } from './space';

const ORDER: readonly Axis[] = ['source', 'destination', 'service', 'sourcePort'];

/**
 * The same packets as a set of another space of the same version of IP: what one gateway lets through, for the next one to judge.
 * Its cost grows with the boxes that the set falls into.
 */
export function carriedInto(from: PacketSpace, set: Diagram, to: PacketSpace): Diagram {
  const boxes: Box[] = [];
  const follow = (at: Diagram, depth: number, box: Box): void => {
    if (at === from.none) return;
    const axis = ORDER[depth];
    if (axis === undefined || from.constant(at) !== null) {
      boxes.push([...box, ...ORDER.slice(depth).map(() => null)]);
      return;
    }
    const parts = from.parts(at, axis);
    if (parts.length === 1) return follow(parts[0]!.then, depth + 1, [...box, null]);
    const spans = new Map<Diagram, Span[]>();
    for (const { span, then } of parts) {
      const group = spans.get(then);
      if (group) group.push(span);
      else spans.set(then, [span]);
    }
    for (const [then, group] of spans) follow(then, depth + 1, [...box, group]);
  };
  follow(set, 0, []);
  return unitedIn(to, boxes);
}

/** Boxes as one set, in halves: what is united stays small for as long as it can. */
export function unitedIn(space: PacketSpace, boxes: readonly Box[]): Diagram {
  if (boxes.length === 0) return space.none;
  const within = (first: number, end: number): Diagram => {
    if (end - first === 1) return space.box(boxes[first]!);
    const middle = (first + end) >> 1;
    return space.unite(within(first, middle), within(middle, end));
  };
  return within(0, boxes.length);
}
