import {
  asksWho,
  classBySaid,
  classOf,
  classOnSsid,
  type ApDocument,
  type ClassDocument,
  type ClassSaid,
  portalBySaid,
  type DeviceDocument,
  type EnterpriseSecurity,
  type PortalDocument,
  type PortDocument,
  type RadiusServerDocument,
  type SaidOf,
  type SsidDocument,
  type SsidSecurity,
} from '../document';
import { groupClassesAt, classOfGroups } from '../entry';
import { isRoutedByGateway, spansOf, type ResolvedSite, type RosterDevice, type Segment } from '../intent';
import { entersPort, joinsOnSsid, type Documents, type PortTried } from '../lattice';
import { capLimits, classKey, ssidKey, type CapLimits } from '../rollout';
import { shareOf, type CapWay, type Limit } from '../traffic';
import type { Gets, GetsPlace, GetsRate, Whom } from './gets.contract';

/** What it is worked out of. */
export interface GetsInput {
  readonly site: ResolvedSite;
  readonly roster: readonly RosterDevice[];
  readonly documents: Documents;
}

/** What a server says of somebody: known here of those that this controller keeps, taken to be so of others. */
type Said =
  | {
      readonly ok: true;
      readonly said: SaidOf;
      readonly server: string;
      readonly assumed: boolean;
      readonly why: string;
    }
  | { readonly ok: false; readonly why: string; readonly server: string | null };

const NOTHING_SAID: SaidOf = { filterIds: [], vlan: { kind: 'none', text: '' } };

/** What somebody would get at a site: at each SSID that is sent there, and at its ports that ask, those alike together. */
export function whatTheyGet(input: GetsInput, whom: Whom): Gets[] {
  return [...onSsids(input, whom), ...atPorts(input, whom)];
}

function onSsids(input: GetsInput, whom: Whom): Gets[] {
  const { site, documents } = input;
  const aps = [...documents.values()].filter((each): each is ApDocument => each.kind === 'ap');
  return site.ssids.map((ssid): Gets => {
    const place: GetsPlace = { kind: 'ssid', id: ssid.id, name: ssid.name, security: ssid.security };
    const ap = aps.find(({ ssids }) => ssids.some(({ id }) => id === ssid.id));
    const told = ap?.ssids.find(({ id }) => id === ssid.id);
    if (!ap || !told) return nowhere(place, 'It is not sent', `No AP of ${site.name} sends it.`);
    const got = onSsid(input, ap, told, whom);
    return 'stops' in got ? nowhere(place, got.how, got.stops, got) : landed(input, place, got);
  });
}

/** How somebody is let in, before segment and limits are looked up. */
interface Let {
  readonly how: string;
  readonly server: string | null;
  readonly assumed: boolean;
  readonly said: SaidOf | null;
  readonly because: readonly string[];
  readonly accessClass: ClassDocument | null;
  readonly vlan: number | null;
}
type Stopped = Pick<Gets, 'how' | 'because' | 'server'> & { readonly stops: string };

const WAY_IN: Readonly<Record<Exclude<SsidSecurity, EnterpriseSecurity>, string>> = {
  open: 'Nothing is asked',
  owe: 'Nothing is asked (OWE)',
  'wpa2-psk': 'A passphrase (WPA2)',
  'wpa2-wpa3-psk': 'A passphrase (WPA2 or WPA3)',
  'wpa3-sae': 'A passphrase (WPA3)',
};

function onSsid(input: GetsInput, ap: ApDocument, ssid: SsidDocument, whom: Whom): Let | Stopped {
  const found = joinsSsid(input, ap, ssid, whom);
  return 'stops' in found
    ? found
    : { ...found, because: [...found.because, ...heldWords(ap, found.said, ssid.portal)] };
}

function joinsSsid(input: GetsInput, ap: ApDocument, ssid: SsidDocument, whom: Whom): Let | Stopped {
  const { security } = ssid;
  if (asksWho(security)) return byMethod(input, ap, ssid, whom, security);
  const how = ssid.ring ? 'A key of its ring' : WAY_IN[security];
  const shared = { how, server: null, assumed: false, said: null };
  // A key may lead elsewhere before a class counts: what a ring gives is said of its keys.
  if (ssid.ring)
    return stopped(
      how,
      ssid.ring.asked
        ? 'Its key decides, which a RADIUS server names: walk it with one on the Bench.'
        : 'Its key decides, not who they are: see the keys under Wireless.',
      null,
    );
  const mac = ssid.byClass ? whom.mac : null;
  const listed = mac === null ? undefined : classOf(ap, mac);
  if (listed) return { ...shared, ...at(ap, ssid, listed), because: [`The class “${listed.name}” lists ${mac}.`] };
  if (mac !== null) {
    const asked = saidOf(input, ap.radius?.servers ?? [], whom, true);
    const chosen = asked.ok ? classBySaid(ap, asked.said) : null;
    if (asked.ok && chosen?.ok && chosen.accessClass && chosen.by !== 'otherwise')
      return {
        ...{
          how: `${how}, and whose MAC address it is`,
          server: asked.server,
          assumed: asked.assumed,
          said: asked.said,
        },
        ...at(ap, ssid, chosen.accessClass),
        because: [asked.why, namesWords(asked, chosen)],
      };
  }
  const own = joinsOnSsid(ap, ssid, whom.mac);
  if (own.accessClass) return { ...shared, ...at(ap, ssid, own.accessClass), because: [othersWords(own.accessClass)] };
  return {
    ...{ ...shared, accessClass: null, vlan: own.vlan },
    because: [
      `Whoever ${ssid.passphrase ? 'gives the passphrase' : 'comes'} joins the segment of “${ssid.name}”${ssid.byClass ? ', unless a class knows their MAC address' : ''}.`,
    ],
  };
}

/** By what somebody proves who they are where passwords do not do. */
const byCertificate = (security: EnterpriseSecurity): readonly string[] =>
  security === 'wpa3-enterprise-192' ? ['Of 192 bits it takes certificates alone (EAP-TLS), no password.'] : [];

function byMethod(
  input: GetsInput,
  ap: ApDocument,
  ssid: SsidDocument,
  whom: Whom,
  security: EnterpriseSecurity,
): Let | Stopped {
  const how = `Who they are (802.1X${security === 'wpa3-enterprise-192' ? ', 192 bits' : ''})`;
  if (whom.user === null) return stopped(how, 'It asks who somebody is; a MAC address proves nothing there.', null);
  const asked = saidOf(input, ap.radius?.servers ?? [], whom, false);
  if (!asked.ok) return stopped(how, asked.why, asked.server);
  const proof = byCertificate(security);
  const chosen = classOnSsid(ap, ssid, asked.said);
  if (!chosen.ok) return stopped(how, leadsNowhere(asked.server, chosen.why, chosen.said), asked.server);
  const shared = { how, server: asked.server, assumed: asked.assumed, said: asked.said };
  if (!chosen.accessClass) {
    const { vlan } = joinsOnSsid(ap, ssid, whom.mac);
    const why = ssid.byClass ? 'names no class' : 'may name what it likes: classes do not count there';
    return {
      ...shared,
      accessClass: null,
      vlan,
      because: [...proof, asked.why, `It ${why}: the segment of “${ssid.name}”.`],
    };
  }
  return {
    ...shared,
    ...at(ap, ssid, chosen.accessClass),
    because: [...proof, asked.why, namesWords(asked, chosen)],
  };
}

/** What a portal makes of them besides: one that an answer names, else that of the SSID or of the port. */
function heldWords(device: DeviceDocument, said: SaidOf | null, own: PortalDocument | undefined): readonly string[] {
  const portal = (said && portalBySaid(device, said)) ?? own;
  return portal ? [`The portal “${portal.name}” holds them until they are let in as guests.`] : [];
}

const at = (ap: ApDocument, ssid: SsidDocument, accessClass: ClassDocument): Pick<Let, 'accessClass' | 'vlan'> => ({
  accessClass,
  vlan: joinsOnSsid(ap, ssid, null, undefined, accessClass).vlan,
});

const othersWords = ({ name }: ClassDocument): string =>
  `Nothing gives them another class: “${name}” is that of everybody else.`;

/** What chose a class that a server’s yes leads to. */
function namesWords({ server, said }: Extract<Said, { ok: true }>, chosen: Extract<ClassSaid, { ok: true }>): string {
  const { name } = chosen.accessClass!;
  if (chosen.by === 'otherwise') return othersWords(chosen.accessClass!);
  return chosen.by === 'filter'
    ? `${server} names the class “${name}” (Filter-Id).`
    : `${server} names VLAN “${said.vlan.text}”, which is that of the class “${name}”.`;
}

/** Why a yes leads nowhere at a device. */
export const leadsNowhere = (server: string, why: 'class' | 'vlan' | 'segment', said: string): string =>
  why === 'class'
    ? `${server} names the class “${said}”, which does not reach here.`
    : why === 'segment'
      ? `The class “${said}”, which ${server} names, has no segment here.`
      : `${server} names VLAN “${said}”, which is that of no class here.`;

/**
 * What servers say of somebody, in their order: this controller of whom it keeps; another one, whose word is final, what it is taken to say.
 * @param byMac whether it is asked for by its MAC address.
 */
function saidOf({ site }: GetsInput, servers: readonly RadiusServerDocument[], whom: Whom, byMac: boolean): Said {
  const asked = [...servers].filter(({ macs }) => !byMac || macs !== undefined).sort((a, b) => a.order - b.order);
  if (asked.length === 0) return { ok: false, server: null, why: 'No RADIUS server is asked here.' };
  const name = byMac ? (whom.mac ?? '') : (whom.user ?? '');
  const groups = byMac === (whom.user === null) ? whom.groups : null;
  for (const server of asked) {
    if (!server.own) {
      const said = whom.assumed === null ? NOTHING_SAID : { ...NOTHING_SAID, filterIds: [whom.assumed] };
      return {
        ...{ ok: true, said, server: server.name, assumed: true },
        why: `“${server.name}” is asked for ${name}; that it lets them in is taken to be so.`,
      };
    }
    if (groups === null) continue;
    if (whom.barred)
      return { ok: false, server: server.name, why: `“${server.name}” turns ${name} away: ${whom.barred}.` };
    const named = classOfGroups(groups, groupClassesAt(site.estate, site.id));
    const whose = groups.length === 0 ? 'is in no group' : `is in ${groups.map((each) => `“${each}”`).join(', ')}`;
    return {
      ...{ ok: true, server: server.name, assumed: false },
      said: named === null ? NOTHING_SAID : { ...NOTHING_SAID, filterIds: [named] },
      why: `“${server.name}” keeps ${name}, who ${whose}${named === null ? ', of which no class has any' : ''}.`,
    };
  }
  return {
    ok: false,
    server: asked[0]!.name,
    why: `“${asked[0]!.name}” keeps nobody called ${name}, and nobody else is asked.`,
  };
}

function atPorts(input: GetsInput, whom: Whom): Gets[] {
  const groups = new Map<
    string,
    { device: DeviceDocument; port: PortDocument; ports: (GetsPlace & { kind: 'ports' })['ports'][number][] }
  >();
  for (const [deviceId, device] of input.documents)
    for (const port of device.ports) {
      if (port.auth === undefined) continue;
      const { name, ...rest } = port;
      const key = JSON.stringify([rest, device.radius?.servers.map((each) => each.name)]);
      const group = groups.get(key) ?? { device, port, ports: [] };
      group.ports.push({ deviceId, port: name, name: `${device.device.name} port ${name}` });
      groups.set(key, group);
    }
  return [...groups.values()].map(({ device, port, ports }) => {
    const place: GetsPlace = { kind: 'ports', asks: port.auth!, ports };
    const got = atPort(input, device, port, whom);
    return 'stops' in got ? nowhere(place, got.how, got.stops, got) : landed(input, place, got);
  });
}

const PORT_HOW = {
  '802.1X': 'Who they are (802.1X)',
  mac: 'Whose MAC address it is',
  '802.1X-mac': 'Who they are (802.1X), else whose MAC address it is',
  'mac-802.1X': 'Whose MAC address it is, else who they are (802.1X)',
} as const;
const FELL_WORDS = {
  guest: 'those who do not say who they are',
  rejected: 'those who are turned away',
  unanswered: 'when no server answers',
};

function atPort(input: GetsInput, device: DeviceDocument, port: PortDocument, whom: Whom): Let | Stopped {
  const how = PORT_HOW[port.auth!];
  const servers = device.radius?.servers ?? [];
  let heard: Extract<Said, { ok: true }> | null = null;
  const because: string[] = [];
  const tried = (asked: Said): PortTried<string> => {
    because.push(asked.why);
    if (!asked.ok) return { state: asked.server === null ? 'unanswered' : 'not', why: asked.why };
    const chosen = classBySaid(device, asked.said);
    if (!chosen.ok) return { state: 'not', why: leadsNowhere(asked.server, chosen.why, chosen.said) };
    heard = asked;
    if (chosen.accessClass) because.push(namesWords(asked, chosen));
    return { state: 'in', accessClass: chosen.accessClass };
  };
  const found = entersPort<string>(port, {
    '802.1X': () => (whom.user === null ? { state: 'mute' } : tried(saidOf(input, servers, whom, false))),
    mac: () => {
      const listed = whom.mac === null ? undefined : classOf(device, whom.mac);
      if (listed) {
        because.push(`The class “${listed.name}” lists ${whom.mac}.`);
        return { state: 'in', accessClass: listed };
      }
      return whom.mac === null
        ? { state: 'not', why: 'Its MAC address is known to nobody.' }
        : tried(saidOf(input, servers, whom, true));
    },
  });
  const said = heard as Extract<Said, { ok: true }> | null;
  const shared = { how, server: said?.server ?? null, assumed: said?.assumed ?? false, said: said?.said ?? null };
  if (found.vlan === null) return stopped(how, portStops(found.why), shared.server, because);
  if (found.fell) because.push(`The port has a segment for ${FELL_WORDS[found.fell]}.`);
  because.push(...heldWords(device, found.way ? (said?.said ?? null) : null, found.way ? undefined : port.portal));
  return { ...shared, because, accessClass: found.fell ? null : (found.accessClass ?? null), vlan: found.vlan };
}

/** Why a port lets somebody in nowhere. */
export const portStops = (why: string | undefined): string =>
  why === 'mute'
    ? 'It asks who somebody is, and they do not say.'
    : why === 'nothing'
      ? 'No class is named for them, and the port has no segment of its own.'
      : why === 'segment'
        ? 'Their class has no segment here.'
        : (why ?? 'The port does not let them in.');

const stopped = (how: string, stops: string, server: string | null, because: readonly string[] = []): Stopped => ({
  ...{ how, stops, server, because },
});

const NO_RATE: GetsRate = { kbps: null, by: '' };

const nowhere = (
  place: GetsPlace,
  how: string,
  stops: string,
  { server = null, because = [] }: Partial<Pick<Gets, 'server' | 'because'>> = {},
): Gets => ({
  ...{ place, how, server, assumed: false, attributes: [], because, accessClass: null, segment: null, stops },
  ...{ down: NO_RATE, up: NO_RATE, session: null, idle: null, reachKey: null },
});

/** Somebody who is let in: where, with what limits. */
function landed(input: GetsInput, place: GetsPlace, got: Let): Gets {
  const { site } = input;
  const segment = site.segments.find(({ vlan }) => vlan === got.vlan);
  if (!segment || got.vlan === null)
    return nowhere(place, got.how, 'Their class has no segment here.', { server: got.server, because: got.because });
  const accessClass = site.accessClasses.find(({ id }) => id === got.accessClass?.id) ?? null;
  const rates = (way: CapWay): GetsRate => tightest(limitsAt(input, place, segment, accessClass, way));
  const { how, server, assumed, said, because } = got;
  return {
    ...{ place, how, server, assumed, because, stops: null },
    attributes: [
      ...(said?.filterIds ?? []).map((value) => ({ name: 'Filter-Id', value })),
      ...(said && said.vlan.kind !== 'none' ? [{ name: 'Tunnel-Private-Group-ID', value: said.vlan.text }] : []),
    ],
    accessClass: accessClass && { id: accessClass.id, name: accessClass.name },
    segment: {
      id: segment.id,
      name: segment.name,
      vlan: segment.vlan,
      subnet: segment.subnet,
      range: rangeOf(segment),
    },
    ...{ down: rates('down'), up: rates('up') },
    ...{ session: accessClass?.session ?? null, idle: accessClass?.idle ?? null },
    reachKey: accessClass
      ? classKey(accessClass.id)
      : place.kind === 'ssid'
        ? ssidKey(place.id)
        : `segment ${segment.id}`,
  };
}

/** What addresses of a segment are given out of. */
const rangeOf = ({ addresses }: Segment): string | null =>
  addresses
    ? spansOf(addresses)
        .map(({ first, last }) => `${first} – ${last}`)
        .join(', ')
    : null;

function limitsAt(
  { site, roster }: GetsInput,
  place: GetsPlace,
  segment: Segment,
  accessClass: GetsInput['site']['accessClasses'][number] | null,
  way: CapWay,
): readonly Limit[] {
  const ssid = place.kind === 'ssid' ? site.ssids.find(({ id }) => id === place.id) : undefined;
  const both = ({ own, around }: CapLimits): readonly Limit[] => [...own, ...around];
  if (ssid) return both(capLimits({ site, roster }, ssid, way, { accessClass: accessClass ?? undefined }));
  const { client, all } = isRoutedByGateway(segment) ? (segment.caps ?? {}) : {};
  const limit = (of: string, each: boolean, kbps: number | null | undefined): Limit[] =>
    kbps ? [{ of, each, kbps }] : [];
  return [
    ...(accessClass ? limit(`each of class ${accessClass.name}`, true, accessClass.rate?.[way]) : []),
    ...limit(`each of ${segment.name}`, true, client?.[way]),
    ...limit(`all of ${segment.name}`, false, all?.[way]),
  ];
}

function tightest(limits: readonly Limit[]): GetsRate {
  const share = shareOf(limits, 1);
  return share ? { kbps: share.kbps, by: share.by.of } : NO_RATE;
}
