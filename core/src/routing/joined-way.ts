import { overlaps, contains, parsePrefix } from '../address';
import { overlayPath } from './overlay-path';

/** A site that is joined to others, as far as ways between them ask. */
export interface JoinedEnd {
  readonly id: string;
  readonly name: string;
  readonly role: 'hub' | 'spoke';
  /** Ids of its hubs, the preferred first. */
  readonly hubs: readonly string[];
  /** Ids of spokes that it has a tunnel of its own to; said at either end. */
  readonly direct: readonly string[];
  /** Prefixes that others reach there. */
  readonly carries: readonly string[];
  /** What of the others it speaks with; null: all. */
  readonly takes: readonly string[] | null;
}

/** The way between two networks of joined sites. */
export interface JoinedWay {
  /** Ids of the sites that it passes, both ends included; null: no tunnel leads there. */
  readonly path: readonly string[] | null;
  readonly back: readonly string[] | null;
  readonly symmetric: boolean;
  /** Why nothing comes of it all the same, or of the way: each a sentence. */
  readonly stops: readonly string[];
}

/** A network of a site; absent: any that it shares. */
export interface JoinedPlace {
  readonly id: string;
  readonly prefix?: string;
}

/**
 * The way through tunnels from a network of one site to one of another, and back: by a tunnel of their own where there is one that is up, else by hubs.
 * Something comes of it where both networks are shared, and where each end takes the other’s.
 * @param up whether the tunnel between two sites is, by their ids.
 */
export function joinedWay(
  ends: readonly JoinedEnd[],
  up: (a: string, b: string) => boolean,
  from: JoinedPlace,
  to: JoinedPlace,
): JoinedWay {
  const byId = new Map(ends.map((end) => [end.id, end]));
  const [start, target] = [byId.get(from.id), byId.get(to.id)];
  if (!start || !target) return { path: null, back: null, symmetric: false, stops: ['One of them is not joined.'] };
  const both = { there: pathThrough(ends, byId, up, start, target), back: pathThrough(ends, byId, up, target, start) };
  const { there: path, back } = both;
  const symmetric = path !== null && back !== null && [...path].reverse().join() === back.join();
  const stops: string[] = [];
  if (path === null || back === null) stops.push(`No tunnel that is up leads from ${start.name} to ${target.name}.`);
  for (const [place, here, there] of [
    [from, start, target],
    [to, target, start],
  ] as const) {
    const { prefix } = place;
    if (prefix !== undefined && !isWithin(prefix, here.carries))
      stops.push(
        `${here.name} does not share ${prefix}: ${place === from ? 'nothing from there is taken in' : 'nobody elsewhere reaches it'}.`,
      );
    const meant = prefix === undefined ? here.carries : [prefix];
    if (there.takes && meant.length > 0 && !meant.some((each) => there.takes!.some((one) => meets(one, each))))
      stops.push(`${there.name} does not speak with ${meant.length === 1 ? meant[0]! : here.name}.`);
  }
  return { path, back, symmetric, stops };
}

/** The way from one joined site to another by what tunnels are up; null: none leads there. @param up by whom, and to whom. */
export function pathThrough(
  ends: readonly JoinedEnd[],
  byId: ReadonlyMap<string, JoinedEnd>,
  up: (a: string, b: string) => boolean,
  from: JoinedEnd,
  to: JoinedEnd,
): readonly string[] | null {
  const isDirect =
    from.role === 'spoke' && to.role === 'spoke' && (from.direct.includes(to.id) || to.direct.includes(from.id));
  if (isDirect && up(from.id, to.id)) return [from.id, to.id];
  const hubs = ends.filter(({ role }) => role === 'hub').map(({ id }) => id);
  const order = Object.fromEntries([from, to].map(({ id, hubs: own }) => [id, own.filter((each) => byId.has(each))]));
  return overlayPath({ hubs, order, up }, from.id, to.id).path;
}

const isWithin = (text: string, prefixes: readonly string[]): boolean => {
  const prefix = parsePrefix(text);
  return prefix !== null && prefixes.some((each) => contains(parsePrefix(each)!, prefix));
};
const meets = (a: string, b: string): boolean => {
  const [one, other] = [parsePrefix(a), parsePrefix(b)];
  return one !== null && other !== null && overlaps(one, other);
};
