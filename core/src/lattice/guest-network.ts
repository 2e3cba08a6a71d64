import { flaw, type Flaw, lastsWords } from '../base';
import type { Band } from '../hardware';
import {
  apply,
  NEW_PORTAL,
  reaches,
  WAY_WORDS,
  type Intent,
  type KeptGuarantee,
  type Operation,
  type Portal,
  type Segment,
  type SitePart,
  type Ssid,
} from '../intent';
import type { Rule, RuleEnd } from '../rules';
import { proposeSegment } from './segment-proposal';

/** How guests’ networks may be joined: nothing is asked, or keys are agreed upon without asking (RFC 8110). */
export const GUEST_SECURITIES = ['open', 'owe'] as const;

type Caps = NonNullable<Ssid['caps']>;

/** What is said of a guest network; all else follows. */
export interface GuestNetworkWish {
  /** Of its SSID, its segment and its portal. */
  readonly name: string;
  readonly siteIds: readonly string[];
  readonly security: (typeof GUEST_SECURITIES)[number];
  readonly bands: readonly Band[];
  readonly ways: Portal['ways'];
  /** Minutes that a visit lasts. */
  readonly visit: number;
  /** Id of the hours that it is sent at; null: always. */
  readonly hours: string | null;
  /** What each client, and all at a site together, may take; null: all there is. */
  readonly caps: Caps | null;
  /** Name servers its clients are told, which may leave out what nobody should find; none: the gateway. */
  readonly dns: readonly string[];
}

/** One thing that a guest network is made of, in words. */
export interface GuestNetworkPart {
  readonly kind: 'segment' | 'portal' | 'ssid' | 'rule' | 'guarantee';
  /** Where it lives; null: sites share it. */
  readonly siteId: string | null;
  readonly name: string;
  readonly words: string;
}

/** A guest network as it would be made. */
export interface GuestNetwork {
  /** Id of its portal. */
  readonly portalId: string;
  readonly parts: readonly GuestNetworkPart[];
  readonly operations: readonly Operation[];
}

/** What it is made with beside what is said. */
export interface GuestNetworkMeans {
  readonly idFor: () => string;
  /** TCP port at which guests sign in at the controller. */
  readonly portalPort: number | null;
}

/** Guests come and go: their addresses are free again soon. */
const LEASE_SECONDS = 2 * 3600;
/** VLAN IDs that are tried first. */
const ROUND = Array.from({ length: 40 }, (_, i) => (i + 6) * 10);
const LAST_VLAN = 4094;

/**
 * Composes a guest network: at each site a segment of its own whose clients reach neither private space nor each other, a
 * guarantee of that, and what lets them reach the portal where the controller is in private space; for all of them one SSID
 * and one portal. Where an SSID of the name leads to a portal already, it reaches these sites too and stays as it is.
 * @returns what it would be made of and the edits that make it, or what is wrong with what was said, by its fields.
 */
export function composeGuestNetwork(
  intent: Intent,
  wish: GuestNetworkWish,
  means: GuestNetworkMeans,
): GuestNetwork | { readonly flaws: readonly Flaw[] } {
  const name = wish.name.trim();
  const sites = wish.siteIds.flatMap((id) => intent.sites.get(id) ?? []);
  if (sites.length === 0) return { flaws: [flaw('guests.no-site', 'Choose where it is to be.', 'siteIds')] };
  if (name === '') return { flaws: [flaw('guests.no-name', 'Give it a name: guests see it on their phones.', 'name')] };
  const called = ({ name: other }: { readonly name: string }): boolean => other.toLowerCase() === name.toLowerCase();
  const there = intent.estate.ssids.find((ssid) => called(ssid) && ssid.portal);
  const made = new Composition(intent, there ? { ...wish, name: there.segment } : { ...wish, name }, means);
  for (const site of sites) made.atSite(site);
  if (made.flaws.length > 0) return { flaws: made.flaws };
  const portalId = there?.portal ?? made.portal();
  if (there) made.reachesToo(there, sites);
  else made.ssid(portalId);
  const { parts, operations } = made;
  let now = intent;
  for (const operation of operations) {
    const result = apply(now, operation, () => undefined);
    if (!result.ok) return { flaws: result.flaws.map((each) => ({ ...each, field: fieldOf(operation, each) })) };
    now = result.intent;
  }
  if (operations.length === 0)
    return { flaws: [flaw('guests.there', `“${name}” is there already, at each of these sites.`, 'siteIds')] };
  return { portalId, parts, operations };
}

class Composition {
  readonly parts: GuestNetworkPart[] = [];
  readonly operations: Operation[] = [];
  readonly flaws: Flaw[] = [];
  /** With the segments that were made: the next has to keep clear of them. */
  private now: Intent;

  constructor(
    intent: Intent,
    private readonly wish: GuestNetworkWish,
    private readonly means: GuestNetworkMeans,
  ) {
    this.now = intent;
  }

  /** The segment of a site, and what holds for it there; one that has the name stays as it is. */
  atSite(site: SitePart): void {
    const { name, dns } = this.wish;
    const there = site.segments.find((segment) => segment.name.toLowerCase() === name.toLowerCase());
    if (there) {
      this.say(
        'segment',
        site.id,
        there.name,
        `is there already: VLAN ${there.vlan}, ${there.subnet}; it stays as it is`,
      );
      return;
    }
    const vlan = this.vlanAt(site);
    const proposal = vlan === null ? null : proposeSegment(this.now, site.id, vlan);
    if (!proposal) {
      const none = vlan === null ? 'VLAN ID' : 'subnet of private space';
      this.flaws.push(flaw('guests.full', `No ${none} is free at ${site.name} any more.`, 'siteIds'));
      return;
    }
    const { addresses, subnet, gateway } = proposal;
    const segment: Segment = {
      ...{ id: this.means.idFor(), name, vlan: vlan!, subnet, gateway },
      addresses: addresses && { ...addresses, leaseSeconds: LEASE_SECONDS, ...(dns.length > 0 ? { dns } : {}) },
      isolation: { segments: true, clients: true, gateway: true },
      purpose: 'Guests',
    };
    const edit: Operation = { type: 'segment.add', siteId: site.id, segment };
    this.operations.push(edit);
    const result = apply(this.now, edit, () => undefined);
    if (result.ok) this.now = result.intent;
    const range = addresses ? `${addresses.first} to ${addresses.last} for 2 h each` : 'no addresses given';
    const names = dns.length > 0 ? `names asked of ${dns.join(' and ')}` : 'names asked of the gateway';
    this.say(
      'segment',
      site.id,
      name,
      `VLAN ${vlan}, ${subnet}, ${range}, ${names}; kept from other segments, from each other and from the gateway`,
    );
    this.portalReached(site);
    this.guaranteed(site);
  }

  private portalReached({ id: siteId }: SitePart): void {
    const { portalPort } = this.means;
    if (portalPort === null || (this.now.estate.controller ?? []).length === 0) return;
    const rule: Rule = {
      ...{ id: this.means.idFor(), verdict: 'allow', from: [this.own], to: [{ kind: 'controller' }] },
      ...{
        services: [{ protocol: 'tcp', ports: [`${portalPort}`] }],
        comment: 'Guests reach the page they sign in at',
      },
    };
    this.operations.push({ type: 'rule.add', siteId, rules: [rule], behind: null });
    this.say(
      'rule',
      siteId,
      `allow ${this.wish.name} to the controller`,
      `TCP port ${portalPort} alone: the page that guests sign in at`,
    );
  }

  private guaranteed({ id: siteId }: SitePart): void {
    const besides: RuleEnd[] = [{ kind: 'gateway' }, this.own];
    const open = this.means.portalPort !== null && (this.now.estate.controller ?? []).length > 0;
    const guarantee: KeptGuarantee = {
      ...{
        id: this.means.idFor(),
        kind: 'never',
        from: [this.own],
        to: [{ kind: 'private' }],
        services: [{ protocol: 'any' }],
      },
      besides: open ? [...besides, { kind: 'controller' }] : besides,
    };
    this.operations.push({ type: 'guarantee.add', siteId, guarantee });
    this.say(
      'guarantee',
      siteId,
      'Guests never reach private space',
      'proven on every edit, for every packet; rolling out something that breaks it asks for a reason',
    );
  }

  /** @returns the id of the new portal. */
  portal(): string {
    const { name, ways, visit } = this.wish;
    const portal: Portal = { ...NEW_PORTAL, id: this.means.idFor(), name, ways, visit };
    this.operations.push({ type: 'portal.add', portal });
    const by = ways.map((way) => WAY_WORDS[way].toLowerCase()).join(' or ');
    this.say('portal', null, name, `${by}; a visit lasts ${lastsWords(visit)}`);
    return portal.id;
  }

  ssid(portal: string): void {
    const { name, siteIds, security, bands, hours, caps } = this.wish;
    const ssid: Ssid = {
      ...{ id: this.means.idFor(), name, security, passphrase: null, bands, segment: name, portal },
      ...{ reach: { kind: 'sites', siteIds: [...siteIds] }, hours, caps },
      purpose: 'Guests',
    };
    this.operations.push({ type: 'ssid.add', ssid });
    const when = this.now.estate.hours?.find(({ id }) => id === hours)?.name;
    const { client, all } = caps ?? {};
    const rates = [
      client ? `${rateWords(client)} for each client` : '',
      all ? `${rateWords(all)} for all at a site` : '',
    ];
    const words = [
      security === 'owe' ? 'enhanced open (OWE)' : 'open',
      `${bands.join(', ')} GHz`,
      when ? `at ${when}` : 'always on the air',
      ...rates,
    ];
    this.say('ssid', null, name, words.filter((each) => each !== '').join(', '));
  }

  /** An SSID that is there reaches more sites. */
  reachesToo(ssid: Ssid, sites: readonly SitePart[]): void {
    const more = sites.filter(({ id }) => !reaches(ssid.reach, id));
    const before = ssid.reach.kind === 'sites' ? ssid.reach.siteIds : [];
    if (more.length === 0) return;
    const reach = { kind: 'sites' as const, siteIds: [...before, ...more.map(({ id }) => id)] };
    this.operations.push({ type: 'ssid.set', ssidId: ssid.id, from: { reach: ssid.reach }, to: { reach } });
    const where = more.map(({ name }) => name).join(', ');
    this.say(
      'ssid',
      null,
      ssid.name,
      `is there already with its portal, and is sent at ${where} too; what is said of it stays`,
    );
  }

  private get own(): RuleEnd {
    return { kind: 'segment', name: this.wish.name };
  }

  /** The VLAN ID that the segment has elsewhere, else one that no site uses, else one that this site does not. */
  private vlanAt(site: SitePart): number | null {
    const all = [...this.now.sites.values()];
    const taken = new Set(site.segments.map(({ vlan }) => vlan));
    const name = this.wish.name.toLowerCase();
    const elsewhere = all.flatMap(({ segments }) => segments.filter((each) => each.name.toLowerCase() === name));
    const known = elsewhere.find(({ vlan }) => !taken.has(vlan));
    if (known) return known.vlan;
    const anywhere = new Set(all.flatMap(({ segments }) => segments.map(({ vlan }) => vlan)));
    const free = ROUND.find((vlan) => !anywhere.has(vlan)) ?? ROUND.find((vlan) => !taken.has(vlan));
    if (free !== undefined) return free;
    for (let vlan = 2; vlan <= LAST_VLAN; vlan++) if (!taken.has(vlan)) return vlan;
    return null;
  }

  private say(kind: GuestNetworkPart['kind'], siteId: string | null, name: string, words: string): void {
    this.parts.push({ kind, siteId, name, words });
  }
}

/** The field of the wish that something refused is about. */
function fieldOf({ type }: Operation, { field = '' }: Flaw): string {
  if (field.startsWith('caps.')) return field;
  if (type.startsWith('segment.') && /dns/.test(field)) return 'dns';
  return ['visit', 'ways', 'bands', 'hours', 'security'].includes(field) ? field : 'name';
}

function rateWords({ down, up }: NonNullable<Caps['client']>): string {
  const mbit = (kbps: number): string => `${kbps / 1000} Mbit/s`;
  return [down ? `${mbit(down)} down` : '', up ? `${mbit(up)} up` : ''].filter((each) => each !== '').join(' and ');
}
