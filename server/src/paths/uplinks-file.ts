import { contains, formatPrefix, parseIp, prefixOf, type Prefix } from '@iron-lattice/core/address';
import {
  courseRule,
  KEEPALIVE_SECONDS,
  OVERLAY_PORT,
  overlayInterfaces,
  usesOf,
  watchOf,
  type GatewayDocument,
  type OverlayDocument,
} from '@iron-lattice/core/document';
import {
  iproute2Of,
  keepalivedOf,
  nftablesOfShapes,
  nftablesOfUplinks,
  tcOf,
  TRACK_SCRIPT,
  trackScriptOf,
  wireguardOf,
  writeIetfRouting,
  type LinuxPair,
  type LinuxShape,
  type LinuxUplinks,
} from '@iron-lattice/core/formats';
import { resolve } from '@iron-lattice/core/intent';
import type { SitePathsView } from '@iron-lattice/core/paths';
import { compileSite } from '@iron-lattice/core/rollout';
import { packetRuleOf, readAddresses, readPorts } from '@iron-lattice/core/rules';
import type { DraftService } from '../intent/draft.service';
import { AppError, unknown } from '../platform/app-error';
import { rosterDeviceOf } from '../roster/device.model';
import type { RosterService } from '../roster/roster.service';
import { pactsFile } from './pact-file';
import type { PathService } from './path.service';

/**
 * How a gateway leaves, as files for Linux: a shell script of iproute2, marks and translation of addresses for nftables, what uplinks are kept to (tc), tunnels to other sites (wg) and to gateways of others (swanctl); its
 * routes as RFC 8349 has them (ietf); and how it takes turns with another gateway (keepalived).
 */
export const UPLINK_FORMATS = ['iproute2', 'nft', 'tc', 'wg', 'swanctl', 'ietf', 'keepalived'] as const;
export type UplinkFormat = (typeof UPLINK_FORMATS)[number];

/** Writes how gateways leave, as a draft has it. */
export class UplinksFile {
  constructor(
    private readonly drafts: Pick<DraftService, 'open'>,
    private readonly rosters: Pick<RosterService, 'devices'>,
    private readonly paths: Pick<PathService, 'of'>,
  ) {}

  /** @throws AppError where the site has no such gateway. */
  async write(draftId: string, siteId: string, deviceId: string, format: UplinkFormat) {
    const [{ intent }, devices, view] = await Promise.all([
      this.drafts.open(draftId),
      this.rosters.devices(siteId),
      this.paths.of(siteId),
    ]);
    const site = intent.sites.get(siteId);
    if (!site) throw unknown('site');
    const document = compileSite(resolve(intent.estate, site), devices.map(rosterDeviceOf)).get(deviceId);
    if (document?.kind !== 'gateway') throw unknown('gateway at this site');
    const { name } = document.device;
    if (format === 'tc') return { name: `${name}-shares.sh`, text: shapesFile(name, document) };
    if (format === 'ietf') {
      const ports = document.uplinks.map(({ port }) => ({ name: port, description: `uplink ${port} of ${name}` }));
      return { name: `${name}-routing.json`, text: writeIetfRouting(ports, document.routes ?? []) };
    }
    if (format === 'wg') {
      if (!document.overlay) throw new AppError('thing.unknown', `${name} is joined to no other site.`);
      return { name: `${name}-tunnels.sh`, text: tunnelsFile(name, document.overlay) };
    }
    if (format === 'swanctl') return pactsFile(document);
    if (format === 'keepalived') {
      const pair = linuxPair(document);
      if (!pair)
        throw new AppError('thing.unknown', `${name} is of no pair of gateways, or has no address of its own for it.`);
      return { name: `${name}-pair.sh`, text: pairFile(pair) };
    }
    const out = linuxUplinks(document, view, deviceId);
    return format === 'nft'
      ? { name: `${name}-paths.nft`, text: nftablesOfUplinks(out) }
      : { name: `${name}-paths.sh`, text: iproute2Of(out) };
  }
}

/** Its tunnels to other sites: a shell script that makes its interfaces, and has `wg` read what is at it. */
export function tunnelsFile(name: string, overlay: OverlayDocument): string {
  return overlayInterfaces(overlay)
    .map(({ port, peers }, at) => {
      const told = peers.map(({ peer, carries }) => ({
        ...{ name: peer.name, public: peer.public, at: peer.at[0] ?? null, port: peer.port ?? OVERLAY_PORT, carries },
      }));
      const mtu = Math.min(...peers.map(({ peer }) => peer.mtu));
      const lines = peers.flatMap(({ leads }) => leads);
      return [
        `ip link add sites${at} type wireguard`,
        `wg setconf sites${at} /dev/stdin <<'TUNNELS'`,
        `${wireguardOf(name, told, { port, keepalive: KEEPALIVE_SECONDS })}TUNNELS`,
        `ip link set sites${at} mtu ${mtu} up`,
        ...lines.map(({ prefix, metric }) => `ip route add ${prefix} dev sites${at} metric ${metric + 1}`),
        '',
      ].join('\n');
    })
    .join('\n');
}

/** What a gateway tells keepalived; null: it is of no pair. Interfaces of segments are called by their VLAN. */
export function linuxPair({ device, pair, interfaces, interfaces6 = [], uplinks }: GatewayDocument): LinuxPair | null {
  if (!pair) return null;
  const { router, priority, lowered, advert, vlan, own, tracks = [], any = false } = pair;
  const at = (id: number): string => `vlan${id}`;
  const shared = [...interfaces, ...interfaces6].map((face) => ({ address: face.address, at: at(face.vlan) }));
  const watched = uplinks.filter(({ port }) => tracks.includes(port));
  return {
    ...{ name: device.name, router, priority, lowered, advert, at: at(vlan), own, shared, any },
    tracks: watched.map((uplink) => ({ port: uplink.port, watch: watchOf(uplink) })),
  };
}

/** A shell script that puts down what keepalived goes by. */
const pairFile = (pair: LinuxPair): string =>
  [
    '#!/bin/sh',
    `cat > /etc/keepalived/keepalived.conf <<'PAIR'`,
    `${keepalivedOf(pair)}PAIR`,
    ...(pair.tracks.length > 0 ? [`cat > ${TRACK_SCRIPT} <<'UPLINKS'`, `${trackScriptOf(pair)}UPLINKS`] : []),
    `ip address replace ${pair.own} dev ${pair.at}`,
    'systemctl restart keepalived',
    '',
  ].join('\n');

const ANYTHING = [{ protocol: 'any' as const }];
const holds = (prefix: Prefix, address: string): boolean => {
  const ip = parseIp(address);
  return ip !== null && contains(prefix, ip);
};

/** What uplinks are kept to, as a script of tc that loads its ruleset by itself. */
function shapesFile(name: string, document: GatewayDocument): string {
  const parts = document.leaving?.parts ?? [];
  const mostOf = (vlan: number, way: 'down' | 'up'): number | null => {
    const caps = (document.caps ?? []).flatMap((each) =>
      each.vlans.includes(vlan) ? (each.all?.[way]?.kbps ?? []) : [],
    );
    return caps.length > 0 ? Math.min(...caps) : null;
  };
  const shapes = document.uplinks.flatMap(({ port, shape }): LinuxShape[] =>
    shape
      ? [
          {
            ...{ port, inside: INSIDE, ...shape },
            parts: document.interfaces.flatMap(({ vlan, name: segment, address }) => {
              const subnet = prefixOfFace(address);
              const weight = parts.find((each) => each.vlan === vlan)?.weight ?? 1;
              const most = { down: mostOf(vlan, 'down'), up: mostOf(vlan, 'up') };
              return subnet ? [{ name: segment, subnet, weight, most }] : [];
            }),
          },
        ]
      : [],
  );
  return [
    tcOf(shapes),
    `# How much of its uplinks each segment of ${name.replace(/[^ -~]/g, ' ')} gets. ${INSIDE} is the interface that all segments are behind.`,
    "nft -f - <<'RULES'",
    `${nftablesOfShapes(shapes)}RULES`,
    '',
  ].join('\n');
}
/** The interface to the inside, which people put another name for. */
const INSIDE = 'lan';
const prefixOfFace = (address: string): Prefix | null => {
  const [own, length] = [parseIp(address.split('/')[0]!), Number(address.split('/')[1])];
  return own ? prefixOf(own, length) : null;
};

/** What a document says of uplinks, with what providers gave where nothing is said. */
export function linuxUplinks(document: GatewayDocument, view: SitePathsView, deviceId: string): LinuxUplinks {
  const facts = view.gateways.find((each) => each.deviceId === deviceId)?.uplinks ?? [];
  const uses = new Map(usesOf(document.uplinks).map((each) => [each.port, each]));
  return {
    name: document.device.name,
    uplinks: document.uplinks.map(({ port, fixed, fixed6, six, translate }) => {
      const { weight, standby } = uses.get(port)!;
      const fact = facts.find((each) => each.port === port);
      const prefix = six === 'prefix' ? fact?.six?.prefix : undefined;
      const given6 = {
        gateway: fixed6?.gateway ?? fact?.six?.gateway ?? null,
        ...(prefix === undefined ? {} : { prefix }),
      };
      return {
        ...{ port, gateway: fixed?.gateway ?? fact?.gateway ?? null, weight, standby, translate },
        ...(six === undefined ? {} : { six: given6 }),
      };
    }),
    translations: (document.translations ?? []).map(({ port, as, ...ends }) => ({
      ...{ port, packets: packetRuleOf({ ...ends, verdict: 'allow', services: ANYTHING }) },
      as: typeof as === 'string' ? as : { pool: readAddresses(as.pool)! },
    })),
    routes: document.routes ?? [],
    own: document.interfaces.map(({ address }) => address.split('/')[0]!),
    published: (document.published ?? []).map(({ name, protocols, outside, address, inside, ports, from, within }) => {
      const { first, last } = readPorts(outside)!;
      const { source } = packetRuleOf({ id: name, name, verdict: 'allow', from, to: ['any'], services: ANYTHING });
      const home = document.interfaces
        .map((each) => prefixOfFace(each.address))
        .find((each) => each && holds(each, address));
      return {
        ...{ name, protocols, outside: [first, last] as const, address, inside: inside ?? first },
        ...{ ports: ports ?? document.uplinks.map(({ port }) => port), from: source },
        within: within && home ? formatPrefix(home) : null,
      };
    }),
    courses: (document.courses ?? []).map((course) => {
      const { ports, how, otherwise } = courseRule(course);
      const packets = packetRuleOf({ ...course, verdict: 'allow' });
      return { name: course.name, packets, ...(course.dscp ? { dscp: course.dscp } : {}), ports, how, otherwise };
    }),
  };
}
