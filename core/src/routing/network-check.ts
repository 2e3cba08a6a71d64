import { formatIp, type IpAddress, type IpVersion } from '../address';
import { type OpenTable } from './open-table';
import { DISCARD } from './route-table';
import { LOCAL, type RouteWalk } from './route-walk';

/** Addresses from `first` to `last` that no router of a network tells apart. */
export interface AddressClass {
  readonly version: IpVersion;
  readonly first: bigint;
  readonly last: bigint;
}

/** What becomes of packets to some addresses from some routers, of each to each, where that is neither to be delivered nor to be dropped on purpose. */
export interface RouteFault {
  readonly kind: 'loop' | 'no-route' | 'unknown-router';
  /** The router where a loop is entered, or where no route is. */
  readonly at: string;
  /** Of a loop: the routers that it goes round, from the first in alphabetical order. */
  readonly cycle: readonly string[];
  readonly classes: readonly AddressClass[];
  /** Routers from which packets come to it, in alphabetical order. */
  readonly from: readonly string[];
  /** One packet that shows it. */
  readonly packet: { readonly from: string; readonly to: string };
}

/** The address space cut where any prefix begins or ends: of P prefixes, 2P + 1 classes at most of each version. */
export function classesOf(tables: Iterable<OpenTable>): AddressClass[] {
  const cuts: Record<IpVersion, Set<bigint>> = { 4: new Set([0n]), 6: new Set([0n]) };
  for (const table of tables)
    for (const { version, network, length } of table.prefixes()) {
      cuts[version].add(network);
      cuts[version].add(network + (1n << BigInt((version === 4 ? 32 : 128) - length)));
    }
  return ([4, 6] as const).flatMap((version) => {
    const end = 1n << BigInt(version === 4 ? 32 : 128);
    const starts = [...cuts[version]].filter((at) => at < end).sort((a, b) => (a < b ? -1 : 1));
    return starts.map((first, i) => ({ version, first, last: (starts[i + 1] ?? end) - 1n }));
  });
}

type End = Pick<RouteWalk, 'result'> & {
  readonly at: string;
  readonly cycle?: readonly string[];
  readonly stray?: true;
};

/**
 * What becomes of every packet from every router: each class of addresses is followed once from each, and what was found of a router holds for all that
 * come to it, so that a class costs as many steps as there are routers.
 * @param meant classes that are looked at; a class that nothing is said of anywhere is of no interest, for example.
 */
export function checkNetwork(
  tables: ReadonlyMap<string, OpenTable>,
  meant: readonly AddressClass[] = classesOf(tables.values()),
): RouteFault[] {
  const faults = new Map<string, { readonly fault: RouteFault; readonly classes: AddressClass[] }>();
  for (const each of meant) {
    const destination: IpAddress = { version: each.version, value: each.first };
    // What ends at one place is one fault, for those that come there.
    const here = new Map<string, { readonly end: End; readonly from: string[] }>();
    for (const [router, end] of endsOf(tables, destination)) {
      if (end.result !== 'loop' && end.result !== 'no-route') continue;
      const key = `${end.stray ? 'stray' : end.result} ${end.cycle ? turned(end.cycle).join(' ') : end.at}`;
      const known = here.get(key);
      if (known) known.from.push(router);
      else here.set(key, { end, from: [router] });
    }
    for (const [key, { end, from }] of here) {
      from.sort();
      const whole = `${key} from ${from.join(' ')}`;
      const known = faults.get(whole);
      if (known) known.classes.push(each);
      else {
        const kind = end.stray ? 'unknown-router' : end.result === 'loop' ? 'loop' : 'no-route';
        const fault: RouteFault = {
          ...{ kind, at: end.at, cycle: turned(end.cycle ?? []), classes: [], from },
          packet: { from: from[0]!, to: formatIp(destination) },
        };
        faults.set(whole, { fault, classes: [each] });
      }
    }
  }
  return [...faults.values()].map(({ fault, classes }) => ({ ...fault, classes: joined(classes) }));
}

/** Where a destination’s packets end, from every router. */
function endsOf(tables: ReadonlyMap<string, OpenTable>, destination: IpAddress): Map<string, End> {
  const ends = new Map<string, End>();
  const open: string[] = [];
  const visit = (router: string): End => {
    const known = ends.get(router);
    if (known) return known;
    const again = open.indexOf(router);
    if (again >= 0) return { result: 'loop', at: router, cycle: open.slice(again) };
    const table = tables.get(router);
    if (!table) return { result: 'no-route', at: router, stray: true };
    const { nextHops } = table.lookUp(destination);
    if (nextHops.length === 0) return settle(router, { result: 'no-route', at: router });
    open.push(router);
    const found = nextHops.map((next): End => {
      if (next === LOCAL) return { result: 'delivered', at: router };
      return next === DISCARD ? { result: 'discard', at: router } : visit(next);
    });
    open.pop();
    return settle(router, worstOf(found));
  };
  const settle = (router: string, end: End): End => {
    ends.set(router, end);
    return end;
  };
  for (const router of tables.keys()) visit(router);
  return ends;
}

/** Of several ways that are equally good the one that ends worst counts for all: one that goes round, then one that ends nowhere. */
const worstOf = (ends: readonly End[]): End =>
  ends.find(({ result }) => result === 'loop') ?? ends.find(({ result }) => result === 'no-route') ?? ends[0]!;

/** A cycle from its first router in alphabetical order on. */
function turned(cycle: readonly string[]): readonly string[] {
  if (cycle.length === 0) return cycle;
  const first = cycle.indexOf([...cycle].sort()[0]!);
  return [...cycle.slice(first), ...cycle.slice(0, first)];
}

/** Classes that lie beside each other as one. */
function joined(classes: readonly AddressClass[]): AddressClass[] {
  const out: AddressClass[] = [];
  for (const each of classes) {
    const last = out.at(-1);
    if (last?.version === each.version && last.last + 1n === each.first)
      out[out.length - 1] = { ...last, last: each.last };
    else out.push(each);
  }
  return out;
}
