import { contains, formatPrefix, parseIp, PRIVATE_PREFIXES, type IpAddress } from '@iron-lattice/core/address';
import { overlayLines, pactLines, type OverlayDocument } from '@iron-lattice/core/document';
import {
  isRoutedByGateway,
  routerRoutes,
  routesOf,
  sharedHere,
  type SharedRoute,
  type SitePart,
  type StaticRoute,
} from '@iron-lattice/core/intent';
import { KeptTable, linesTo, type TableLine } from '@iron-lattice/core/routing';
import { titleOf, type GatewayRow } from './path-rows';

/** A line of a gateway’s table, in words. */
export interface TableRow {
  readonly key: string;
  readonly prefix: string;
  readonly leads: string;
  readonly why: string;
  /** What it comes before; or what comes before it. */
  readonly beats: string;
  readonly counts: boolean;
  /** It is what the address goes by that is looked up. */
  readonly found: boolean;
}

/** The table of a gateway by the draft, and what an address goes by in it. */
export interface TableRows {
  readonly rows: readonly TableRow[];
  /** What becomes of the address that is looked up; empty while none is typed. */
  readonly answer: string;
  /** The lines that it goes by. */
  readonly found: readonly TableLine[];
}

/** Routes that sites share, as they are at a gateway. */
export const routesHere = (
  shared: readonly SharedRoute[] | undefined,
  site: SitePart,
  device: GatewayRow['device'],
): StaticRoute[] => sharedHere(shared, site, device).flatMap(({ here }) => ('route' in here ? [here.route] : []));

/** The table that a gateway goes by: its segments, what is said, and uplinks, as they are now. @param holds whether it has the segments’ addresses. @param overlay its tunnels to other sites. @param shared routes that sites share. @param kept the table as it was made the last time. */
export function tableLines(
  site: SitePart,
  { device, uplinks, fact: told }: GatewayRow,
  holds: boolean,
  {
    overlay = null,
    shared,
    kept = new KeptTable(),
  }: {
    readonly overlay?: OverlayDocument | null;
    readonly shared?: readonly SharedRoute[];
    readonly kept?: KeptTable;
  } = {},
): TableLine[] {
  const tunnels = new Map((told?.tunnels ?? []).map(({ peer, up }) => [peer, up]));
  const routed = holds ? site.segments.filter((each) => !each.off && isRoutedByGateway(each)) : [];
  const standbys = uplinks.filter(({ setting }) => setting.role === 'standby');
  const own = routesOf(site, device.id).filter(({ off }) => !off);
  const here = holds ? routesHere(shared, site, device) : [];
  const standing = new Map((told?.pacts ?? []).map(({ name, up }) => [name, up]));
  const answering = new Map((told?.routes ?? []).map(({ name, up }) => [name, up]));
  return kept.of({
    links: routed.flatMap(({ name, subnet, v6 }) => [
      { name, address: subnet },
      ...(v6 ? [{ name, address: v6.prefix }] : []),
    ]),
    said: [
      ...[...own, ...here].map(({ name, prefix, via, metric }) => ({
        ...{ name, prefix },
        ...(via.kind === 'address' ? { to: via.address } : via.kind === 'uplink' ? { by: via.port } : {}),
        ...(metric ? { metric } : {}),
      })),
      ...(holds ? routerRoutes({ ...site, segments: site.segments.filter(({ off }) => !off) }) : []),
    ],
    uplinks: uplinks.map(({ port, setting }) => ({
      port,
      name: titleOf({ port, setting }),
      turn: setting.role === 'shares' ? 0 : 1 + standbys.findIndex((each) => each.port === port),
      six: setting.six !== 'none',
    })),
    overlay: overlay ? overlayLines(overlay) : [],
    pacts: holds ? pactLines((site.pacts ?? []).map(({ name, behind }) => ({ name, there: behind }))) : [],
    stands: (name) => standing.get(name) ?? true,
    // What nobody told of yet is taken for up.
    isUp: (peer) => tunnels.get(peer) ?? true,
    isHeard: (name) => answering.get(name) ?? true,
    isGood: (port) => {
      const fact = uplinks.find((each) => each.port === port)?.fact;
      return !fact || fact.state === 'good' || fact.state === 'waits';
    },
  });
}

/** The same in words. @param asked an address to look up, as it is typed. */
export function tableRows(
  table: readonly TableLine[],
  { uplinks }: Pick<GatewayRow, 'uplinks'>,
  asked: string,
): TableRows {
  const nameOf = (port: string): string => {
    const row = uplinks.find((each) => each.port === port);
    return row ? titleOf(row) : port;
  };
  const ip = asked.trim() === '' ? null : parseIp(asked.trim());
  const found = ip ? linesTo(table, ip) : [];
  const leads = ({ kind, name, to, by, peer }: TableLine): string =>
    peer
      ? `into the tunnel to ${peer}`
      : kind === 'link'
        ? `on the link, ${name}`
        : to
          ? `to ${to}`
          : by
            ? `by ${nameOf(by)}`
            : 'nowhere, it is dropped';
  const why = ({ kind, name, metric, peer }: TableLine): string =>
    kind === 'link'
      ? `segment ${name}`
      : kind === 'said'
        ? `route “${name}”${metric ? `, metric ${metric}` : ''}`
        : kind === 'pact'
          ? peer
            ? `behind “${name}”`
            : `“${name}” is down: nothing leaves in the clear`
          : kind === 'overlay'
            ? peer
              ? `joined sites: ${name}`
              : 'joined sites: nobody else has it'
            : metric > 0
              ? 'uplink that stands by'
              : 'uplink';
  const rows = table.map((line, at): TableRow => ({
    ...{ key: `${at}`, prefix: formatPrefix(line.prefix), leads: leads(line), why: why(line), counts: line.counts },
    beats: line.counts ? line.beats.join('; ') : (line.beaten ?? ''),
    found: found.includes(line),
  }));
  return {
    rows,
    found,
    answer: `${answerOf(
      asked,
      ip !== null,
      found.map((line) => `${leads(line)} (${why(line)})`),
    )}${ip && isAlone(ip, found) ? ALONE : ''}`,
  };
}

/** What is told of private addresses that nothing but the default route is for (RFC 1918 §3, RFC 4193 §4). */
const ALONE = ' The default route alone is for it, and as a rule no provider carries private addresses.';

const isAlone = (ip: IpAddress, found: readonly TableLine[]): boolean =>
  found.length > 0 &&
  found.every(({ kind }) => kind === 'uplink') &&
  PRIVATE_PREFIXES.some((prefix) => contains(prefix, ip));

function answerOf(asked: string, isAddress: boolean, found: readonly string[]): string {
  const text = asked.trim();
  if (text === '') return '';
  if (!isAddress) return `“${text}” is no address: such as 10.20.5.7, or fd00:20::7.`;
  return found.length === 0 ? `Nothing leads to ${text}: it is dropped.` : `${text} goes ${found.join(' or ')}.`;
}
