import { contains, type IpAddress } from '../address';
import { Networks, type Made } from './networks';
import { DISCARD } from './route-table';
import type { LineKind, TableLine, TableSource } from './table-line';

/**
 * The table of a gateway, by prefix; of one prefix what counts comes first, and prefixes that cannot be read are left out. It is made again and again, as that of a hub with each edit among a thousand sites: a line of the overlay that says the same as the last time,
 * in the same state, stays as it is, and so do those to its prefix. What was given out before stays as it was, but for the wider one that it beats.
 */
export class KeptTable {
  private readonly networks = new Networks();

  of({
    links,
    said,
    overlay = [],
    pacts = [],
    uplinks,
    isGood = () => true,
    isHeard = () => true,
    isUp: reaches = () => true,
    stands = () => true,
  }: TableSource): TableLine[] {
    const { networks } = this;
    networks.begin();
    const add = (kind: LineKind, prefix: string, made: Made): void => networks.add(kind, prefix, made);
    for (const link of links) add('link', link.address, { name: link.name, nextHop: link.name });
    for (const route of said) {
      const { name, prefix, to, by, metric = 0 } = route;
      const [heard, plain] = [isHeard(name), { name, metric }];
      if (to !== undefined)
        add('said', prefix, { ...plain, nextHop: to, to, ...(heard ? {} : { up: false, unheard: true }) });
      else if (by !== undefined)
        add('said', prefix, { ...plain, nextHop: by, by, up: heard && isGood(by), unheard: !heard });
      else add('said', prefix, { ...plain, nextHop: DISCARD });
    }
    for (const line of overlay) {
      const up = line.peer === null ? undefined : reaches(line.peer, line.asks);
      const from = tellsApart(line);
      if (networks.stays(from, up)) continue;
      const { prefix, name, peer, metric } = line;
      const made: Made =
        peer === null ? { name, nextHop: DISCARD, metric } : { name, nextHop: peer, metric, peer, up: up! };
      networks.add('overlay', prefix, made, from);
    }
    for (const line of pacts) {
      const { prefix, name, drops } = line;
      if (drops) add('pact', prefix, { name, nextHop: DISCARD, metric: LAST });
      else add('pact', prefix, { name, nextHop: `pact ${name}`, peer: name, up: stands(name) });
    }
    for (const uplink of uplinks) {
      const { port, name = port, turn, six } = uplink;
      for (const prefix of six ? ALL : ALL.slice(0, 1))
        add('uplink', prefix, { name, nextHop: port, metric: turn, by: port, up: isGood(port) });
    }
    return networks.inTable();
  }
}

type OverlaySource = NonNullable<TableSource['overlay']>[number];
/** What tells a line of the overlay from all others; worked out once of each object. */
function tellsApart(line: OverlaySource): string {
  let text = told.get(line);
  if (text === undefined) {
    const { prefix, name, peer, asks, metric } = line;
    told.set(line, (text = `${prefix}\n${name}\n${peer}\n${asks}\n${metric}`));
  }
  return text;
}
const told = new WeakMap<OverlaySource, string>();

const ALL = ['0.0.0.0/0', '::/0'] as const;
/** The metric of what counts when nothing else does. */
const LAST = 9999;

/** The lines that a destination goes by, all equally good; none: nothing leads there. */
export function linesTo(table: readonly TableLine[], destination: IpAddress): readonly TableLine[] {
  let found: TableLine[] = [];
  for (const line of table) {
    if (!line.counts || !contains(line.prefix, destination)) continue;
    const longest = found[0]?.prefix.length ?? -1;
    if (line.prefix.length > longest) found = [line];
    else if (line.prefix.length === longest) found.push(line);
  }
  return found;
}
