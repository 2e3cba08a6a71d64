import { sheetFor } from '../hardware';
import {
  ownAddresses,
  pairHere,
  uplinkSettings,
  type Pair,
  type PairHere,
  type RosterDevice,
  type SitePart,
} from '../intent';
import { reachesRouter, traceStrand } from '../lattice';
import { mendGaps } from './carriage-mend';
import { nameIn, type Check, type CheckContext } from './check';
import type { Finding, Mend, Severity } from './finding';

/** What is wrong with a site’s pair of gateways, and what would take both of them at once. */
export const pairFindings: Check = (context) => {
  const { site, roster } = context;
  const { pair } = site;
  if (!pair) return [];
  const here = pairHere(pair, roster);
  if (!here) return [gone(context, pair)];
  if (!ownAddresses(here, site.management, roster)) return [noRoom(context, here)];
  return [
    ...apart(context, here),
    ...shared(context, here),
    ...provider(context, here),
    ...power(context, here),
    ...untracked(context, here),
    ...nothingLeaves(context, here),
    ...saidOfPorts(context, here),
  ];
};

function found(
  { site }: CheckContext,
  code: string,
  severity: Severity,
  { message, reason, mend = null }: { message: string; reason: string; mend?: Mend | null },
): Finding {
  const place = { siteId: site.id, kind: 'pair' as const, id: site.id };
  return { key: `paths.pair-${code} ${site.id}`, code: `paths.pair-${code}`, severity, message, reason, place, mend };
}

const setPair = ({ site }: CheckContext, to: Pair | null, label: string): Mend => ({
  label,
  operations: [{ type: 'pair.set', siteId: site.id, from: site.pair!, to }],
});

function gone(context: CheckContext, { firstId, secondId }: Pair): Finding {
  const isHere = (id: string): boolean => {
    const device = context.devices.get(id);
    return device !== undefined && sheetFor(device).kind === 'gateway';
  };
  const left = [firstId, secondId].filter(isHere).map((id) => nameIn(context, id));
  // It may be expected, and not have called yet.
  return found(context, 'gone', 'warning', {
    message: 'One of the pair of gateways is not here',
    reason: `${left.length > 0 ? `${left[0]!} is told nothing of a pair` : 'Nobody is told of it'} until both are: nothing takes over.`,
    mend: setPair(context, null, 'take the pair apart'),
  });
}

function noRoom(context: CheckContext, { first, second }: PairHere): Finding {
  const { name, subnet } = context.site.management;
  return found(context, 'no-room', 'error', {
    message: `${name} has no two addresses for ${first.name} and ${second.name} themselves`,
    reason: `All of ${subnet} is taken or given out, so that both are told nothing of a pair. Give out fewer, or fix addresses of theirs.`,
  });
}

/** Both would route at once: neither hears the other. */
function apart(context: CheckContext, { first, second }: PairHere): Finding[] {
  const { documents, links, site } = context;
  const { vlan, name } = site.management;
  if (reachesRouter(documents, links, second.id, vlan)) return [];
  const strand = traceStrand(documents, links, second.id, vlan);
  const message = `${first.name} and ${second.name} would not hear each other`;
  if (strand.state !== 'broken')
    return [
      found(context, 'apart', 'warning', {
        message,
        reason: `No cable is known that joins them. Without one both hold the gateway addresses at once, each for what hangs on it.`,
      }),
    ];
  const { end } = strand.gaps[0]!;
  return [
    found(context, 'apart', 'error', {
      message,
      reason: `${nameIn(context, end.deviceId)} port ${end.port} does not carry ${name}, VLAN ${vlan}, in which they do: both would hold the gateway addresses at once.`,
      mend: mendGaps(context, strand.gaps),
    }),
  ];
}

/** Devices that are reached from some over cables, and not through others. */
function reached(context: CheckContext, from: readonly string[], without: readonly string[]): ReadonlySet<string> {
  const seen = new Set(from);
  for (const id of seen)
    for (const { a, b } of context.links)
      for (const [near, far] of [
        [a.deviceId, b.deviceId],
        [b.deviceId, a.deviceId],
      ] as const)
        if (near === id && !without.includes(far)) seen.add(far);
  return seen;
}

/** One switch, or the first itself, that all cables of both lead through. */
function shared(context: CheckContext, { first, second }: PairHere): Finding[] {
  const both = [first.id, second.id];
  const others = [...reached(context, both, [])].filter((id) => !both.includes(id));
  if (others.length === 0) return [];
  const isAlone = (from: readonly string[], without: string): boolean =>
    [...reached(context, from, [without])].every((id) => both.includes(id));
  if (isAlone([second.id], first.id) && !isAlone([first.id], second.id))
    return [
      found(context, 'behind', 'warning', {
        message: `${second.name} hangs on ${first.name}`,
        reason: `Without ${first.name} it reaches no switch and no access point, so that it can take over nothing. Give it a cable of its own.`,
      }),
    ];
  const single = others.find((id) => {
    const device = context.devices.get(id);
    return device !== undefined && sheetFor(device).kind === 'switch' && isAlone(both, id);
  });
  if (single === undefined) return [];
  const name = nameIn(context, single);
  return [
    found(context, 'single-switch', 'warning', {
      message: `${first.name} and ${second.name} hang on one switch`,
      reason: `Without ${name} neither reaches anything, though both are fine. Cable one of them to another switch as well.`,
    }),
  ];
}

/** Both leave by one provider alone, as far as that is known. */
function provider(context: CheckContext, { first, second }: PairHere): Finding[] {
  const routers = [first, second].map((device) => routersOf(context, device.id));
  const [one, other] = routers;
  if (!one || !other || one.length === 0 || other.length === 0) return [];
  const all = new Set([...one, ...other]);
  if (all.size !== 1) return [];
  return [
    found(context, 'provider', 'warning', {
      message: `${first.name} and ${second.name} leave by one provider`,
      reason: `All their uplinks lead to ${one[0]}: while that fails, neither can stand in for the other. Give one of them another.`,
    }),
  ];
}

/** Routers of providers that a gateway’s uplinks lead to; null where one is not known. */
function routersOf(context: CheckContext, deviceId: string): readonly string[] | null {
  const device = context.devices.get(deviceId)!;
  const routers = uplinkSettings(context.site, device).flatMap(({ port, way, fixed }): (string | null)[] => {
    if (way === 'static') return [fixed?.gateway ?? null];
    const now = context.uplinks.find((each) => each.deviceId === deviceId && each.port === port);
    // One without an address leads nowhere.
    return now ? [now.gateway ?? null] : [];
  });
  return routers.includes(null) ? null : [...new Set(routers as string[])];
}

function power(context: CheckContext, { pair, first, second }: PairHere): Finding[] {
  const [one, other] = [pair.power.first, pair.power.second];
  if (one === '' || one.toLowerCase() !== other.toLowerCase()) return [];
  return [
    found(context, 'power', 'warning', {
      message: `${first.name} and ${second.name} are fed by one and the same`,
      reason: `Without ${one} both are off. Feed one of them otherwise.`,
    }),
  ];
}

/** What of a gateway’s uplinks leads anywhere. */
const portsOf = (site: SitePart, device: RosterDevice): readonly string[] =>
  uplinkSettings(site, device).map(({ port }) => port);

function untracked(context: CheckContext, { pair, first, second }: PairHere): Finding[] {
  const { site, devices } = context;
  const [one, other] = [first, second].map(({ id }) => portsOf(site, devices.get(id)!));
  if (pair.tracks.first.length > 0 || one!.length === 0 || other!.length === 0) return [];
  const tracks = { first: one!, second: other! };
  return [
    found(context, 'untracked', 'warning', {
      message: `${first.name} goes on though nothing leaves by it`,
      reason: `None of its uplinks is tracked: while they fail, ${second.name} does not take over.`,
      mend: setPair(context, { ...pair, tracks }, 'track the uplinks of both'),
    }),
  ];
}

function nothingLeaves(context: CheckContext, { first, second }: PairHere): Finding[] {
  if (portsOf(context.site, context.devices.get(second.id)!).length > 0) return [];
  return [
    found(context, 'no-uplink', 'warning', {
      message: `Nothing leaves while ${second.name} routes`,
      reason: `It has no uplink: it stands in for ${first.name} inside the site alone.`,
    }),
  ];
}

/** What is said of uplinks of the first holds at the second by the same names; it may have none of that name. */
function saidOfPorts(context: CheckContext, { first, second }: PairHere): Finding[] {
  const { site, devices } = context;
  const there = new Set(portsOf(site, devices.get(second.id)!));
  const said = [
    ...(site.courses ?? []).map(({ name, deviceId, ports, off }) => ({ name, deviceId, ports, off })),
    ...(site.translations ?? []).map(({ name, deviceId, port, off }) => ({ name, deviceId, ports: [port], off })),
    ...(site.routes ?? []).map(({ name, deviceId, via, off }) => {
      return { name, deviceId, ports: via.kind === 'uplink' ? [via.port] : [], off };
    }),
  ].filter(({ deviceId, off }) => deviceId === first.id && !off);
  const lost = said.filter(({ ports }) => ports.length > 0 && !ports.some((port) => there.has(port)));
  if (lost.length === 0) return [];
  const names = lost.slice(0, 3).map(({ name }) => `“${name}”`);
  const more = lost.length > 3 ? ` and ${lost.length - 3} more` : '';
  return [
    found(context, 'ports', 'warning', {
      message: `${names.join(', ')}${more} would be in force nowhere while ${second.name} routes`,
      reason: `${second.name} has no uplink ${[...new Set(lost.flatMap(({ ports }) => ports))].join(', ')}. What is said of ${first.name} holds there by the names of uplinks.`,
    }),
  ];
}
