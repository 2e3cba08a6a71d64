import { inRange, parseIp } from '../address';
import { asksWho } from '../document';
import { sheetFor } from '../hardware';
import {
  isOfOthers,
  NOWHERE_ROUTED,
  rangesOfSegment,
  segmentsOfRouter,
  type Link,
  type ResolvedSite,
  type RosterDevice,
  type Segment,
  type SiteRouter,
} from '../intent';
import type { Documents } from '../lattice';
import { holderOf } from '../rollout';
import { writeServices, type PolicyBook } from '../rules';
import { ask } from './ask';

/** Something that is assumed of a router, and how the devices of ours are asked whether it is so. */
export interface RouterTry {
  /** What is assumed, as a sentence. */
  readonly words: string;
  readonly expects: 'answer' | 'none';
  /** Whom it is asked of; null: nobody can be asked, and why. */
  readonly asked: TryAsked | null;
  readonly why?: string;
}
/** A pretend client in a port or on an SSID, and what it tries. */
export interface TriedBy {
  readonly ssid?: string;
  readonly port?: string;
  readonly does: 'ping' | 'connect';
  readonly protocol?: 'tcp' | 'udp';
  /** Of `connect`: the port that is tried. */
  readonly number?: number;
}
export interface TryAsked {
  readonly deviceId: string;
  /** The pretend client that tries it; absent: the device itself asks for an echo. */
  readonly probe?: TriedBy;
  readonly target: string;
}
/** What came of one. */
export interface RouterTried {
  readonly words: string;
  /** As assumed, otherwise, or not to be told. */
  readonly is: 'so' | 'other' | 'unknown';
  readonly got: string;
}
/** What came of all that is assumed of a router. */
export interface RouterTries {
  readonly at: string;
  readonly results: readonly RouterTried[];
}

/** Tries of one router. */
export const MOST_TRIES = 60;

/** What it is worked out of: what devices run, and whom they say they have. */
export interface TriesGiven {
  readonly site: ResolvedSite;
  readonly roster: readonly RosterDevice[];
  readonly documents: Documents;
  readonly links: readonly Link[];
  /** Addresses that somebody has. */
  readonly hosts: readonly string[];
}

/** All that can be tried of what is assumed of a router: that it is there, that it hands on, and what it lets pass. */
export function triesOf(given: TriesGiven, routerId: string, book?: PolicyBook): readonly RouterTry[] {
  const { site, roster } = given;
  const router = site.routers?.find(({ id }) => id === routerId);
  if (!router) return [];
  const routed = segmentsOfRouter(site, router.id);
  const says = isOfOthers(router) ? 'answers' : 'routes, and answers';
  const seats = new Map(routed.map((segment) => [segment.id, seatIn(given, segment)] as const));
  const tries: RouterTry[] = [];
  const add = (
    segment: Segment,
    words: string,
    expects: RouterTry['expects'],
    probe: Omit<TriedBy, 'ssid' | 'port'>,
    target: string,
  ): void => {
    const seat = seats.get(segment.id);
    tries.push(
      seat
        ? { words, expects, asked: { deviceId: seat.deviceId, probe: { ...seat.at, ...probe }, target } }
        : { words, expects, asked: null, why: `No port and no SSID of ours is there in ${segment.name} to try from.` },
    );
  };
  const holder = holderOf({ site, roster });
  if (router.meets)
    tries.push({
      words: `${router.name} answers the gateway at ${router.meets.address}`,
      expects: 'answer',
      ...(holder === null
        ? { asked: null, why: 'There is no gateway of ours.' }
        : { asked: { deviceId: holder, target: router.meets.address } }),
    });
  for (const segment of routed) {
    add(
      segment,
      `${router.name} ${says} at ${segment.gateway} in ${segment.name}`,
      'answer',
      { does: 'ping' },
      segment.gateway,
    );
    const out = expectedOf(given, segment, 'internet', ECHO, book);
    add(segment, `${segment.name} ${verbOf(out)} the internet`, out, { does: 'ping' }, OUTSIDE);
    for (const other of site.segments) {
      if (other.id === segment.id) continue;
      const host = hostIn(given, other);
      if (host === null) continue;
      const expects = expectedOf(given, segment, host, ECHO, book);
      const words = `${segment.name} ${verbOf(expects)} ${other.name}`;
      add(segment, words, expects, { does: 'ping' }, host);
      for (const { protocol, number } of portsNamed(router)) {
        const what = `${protocol} ${number}`;
        const found = expectedOf(given, segment, host, what, book);
        const said = `${segment.name} ${verbOf(found)} ${other.name} on ${what}`;
        add(segment, said, found, { does: 'connect', protocol, number }, host);
      }
    }
  }
  return tries.slice(0, MOST_TRIES);
}

/** An ICMP echo request (RFC 792). */
const ECHO = 'icmp 8';
/** Somebody on the internet (RFC 5737). */
const OUTSIDE = '198.51.100.80';

const verbOf = (expects: RouterTry['expects']): string => (expects === 'answer' ? 'reaches' : 'does not reach');

/** Ports that are tried whatever is said: pages, and what administrators come by. */
const USUAL = [443, 22].map((number) => ({ protocol: 'tcp' as const, number }));

/** Ports that the assumptions of a router speak of, and the usual ones. */
function portsNamed({ lets }: SiteRouter): { readonly protocol: 'tcp' | 'udp'; readonly number: number }[] {
  const named = (lets ?? []).flatMap(({ services }) =>
    services.flatMap(({ protocol, ports }) =>
      protocol === 'tcp' || protocol === 'udp'
        ? (ports ?? []).flatMap((text) => (/^\d+$/.test(text) ? [{ protocol, number: Number(text) }] : []))
        : [],
    ),
  );
  return [
    ...new Map(
      [...USUAL, ...named].map((each) => [
        writeServices([{ protocol: each.protocol, ports: [`${each.number}`] }]),
        each,
      ]),
    ).values(),
  ];
}

/** What would come of it by all that is known and assumed. */
function expectedOf(
  { site, roster }: TriesGiven,
  from: Segment,
  to: string,
  services: string,
  book?: PolicyBook,
): RouterTry['expects'] {
  const question = { from: from.name, to, services };
  const answer = ask({ site, roster, live: null }, { question, on: 'draft', minute: null }, book);
  return 'flaws' in answer || answer.reach === 'none' || answer.reach === 'absent' ? 'none' : 'answer';
}

/** Somebody in a segment: whoever has an address there, else whoever routes it. */
function hostIn({ hosts }: TriesGiven, segment: Segment): string | null {
  const found = hosts.find((text) => {
    const ip = parseIp(text);
    return ip !== null && text !== segment.gateway && rangesOfSegment(segment).some((range) => inRange(range, ip));
  });
  return found ?? (segment.routed === NOWHERE_ROUTED ? null : segment.gateway);
}

/** A place of ours in a segment that a pretend client is let in at. */
function seatIn(
  { documents, links, roster }: TriesGiven,
  { vlan }: Segment,
): { readonly deviceId: string; readonly at: Pick<TriedBy, 'ssid' | 'port'> } | null {
  const cabled = new Set(links.flatMap(({ a, b }) => [`${a.deviceId} ${a.port}`, `${b.deviceId} ${b.port}`]));
  for (const [deviceId, document] of documents) {
    if (document.kind !== 'switch') continue;
    const device = roster.find(({ id }) => id === deviceId);
    const edges = new Set(
      device ? sheetFor(device).ports.flatMap(({ name, role }) => (role === 'edge' ? [name] : [])) : [],
    );
    const port = document.ports.find(
      (each) =>
        each.untagged === vlan &&
        each.tagged.length === 0 &&
        each.auth === undefined &&
        each.portal === undefined &&
        edges.has(each.name) &&
        !cabled.has(`${deviceId} ${each.name}`),
    );
    if (port) return { deviceId, at: { port: port.name } };
  }
  for (const [deviceId, document] of documents) {
    if (document.kind !== 'ap') continue;
    const ssid = document.ssids.find(
      (each) => each.vlan === vlan && !each.ring && !each.portal && !each.pool && !asksWho(each.security),
    );
    if (ssid) return { deviceId, at: { ssid: ssid.name } };
  }
  return null;
}

/** What an answer says of something that was assumed. */
export function triedAs(
  { words, expects }: RouterTry,
  got: { readonly ok: boolean; readonly text: string; readonly stoppedBy?: string },
): RouterTried {
  // Who is there and offers nothing there was reached all the same.
  const reached = got.ok || (got.stoppedBy === undefined && /offers nothing/.test(got.text));
  return { words, is: reached === (expects === 'answer') ? 'so' : 'other', got: got.text };
}
