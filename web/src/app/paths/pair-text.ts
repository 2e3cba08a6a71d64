import { sheetFor } from '@iron-lattice/core/hardware';
import {
  ownAddresses,
  pairHere,
  prioritiesOf,
  uplinkSettings,
  usualPair,
  type Pair,
  type RosterDevice,
  type SitePart,
} from '@iron-lattice/core/intent';
import { downMs, type PairReport } from '@iron-lattice/core/paths';
import { counted } from '../ui/counted';
import { numberTyped } from '../ui/number-typed';
import type { GatewayRow } from './path-rows';

/** A pair as it is typed. */
export interface PairText {
  readonly firstId: string;
  readonly secondId: string;
  readonly firstTracks: readonly string[];
  readonly secondTracks: readonly string[];
  readonly when: Pair['when'];
  readonly back: boolean;
  /** In seconds. */
  readonly advert: string;
  readonly router: string;
  readonly leases: boolean;
  readonly firstPower: string;
  readonly secondPower: string;
}

export const pairTextOf = (pair: Pair): PairText => ({
  ...{ firstId: pair.firstId, secondId: pair.secondId, when: pair.when, back: pair.back, leases: pair.leases },
  ...{ firstTracks: pair.tracks.first, secondTracks: pair.tracks.second },
  ...{ advert: `${pair.advert / 100}`, router: `${pair.router}` },
  ...{ firstPower: pair.power.first, secondPower: pair.power.second },
});

/** What is typed as a pair; what is no number is one that is refused. */
export function pairTyped(text: PairText): Pair {
  const { firstId, secondId, when, back, leases } = text;
  return {
    ...{ firstId, secondId, when, back, leases },
    advert: Math.round((numberTyped(text.advert) ?? -1) * 100),
    router: numberTyped(text.router) ?? -1,
    tracks: { first: text.firstTracks, second: text.secondTracks },
    power: { first: text.firstPower, second: text.secondPower },
  };
}

/** Another gateway is chosen for a place: of the two the other changes places with it, a third one has its uplinks tracked. */
export function chosenAt(
  text: PairText,
  place: 'first' | 'second',
  id: string,
  gateways: readonly GatewayRow[],
): PairText {
  const other = place === 'first' ? 'second' : 'first';
  if (text[`${place}Id`] === id) return text;
  if (text[`${other}Id`] === id)
    return {
      ...text,
      ...{ firstId: text.secondId, secondId: text.firstId },
      ...{ firstTracks: text.secondTracks, secondTracks: text.firstTracks },
      ...{ firstPower: text.secondPower, secondPower: text.firstPower },
    };
  const row = gateways.find(({ device }) => device.id === id);
  return {
    ...text,
    [`${place}Id`]: id,
    [`${place}Tracks`]: row?.uplinks.map(({ port }) => port) ?? [],
    [`${place}Power`]: '',
  };
}

/** The pair that is made of a site’s gateways at one press: the first by name routes, and the uplinks of both are tracked. */
export function madePair(site: SitePart, roster: readonly RosterDevice[]): Pair | null {
  const [first, second] = roster
    .filter((device) => sheetFor(device).kind === 'gateway')
    .sort((a, b) => (a.name < b.name ? -1 : 1));
  if (!first || !second) return null;
  const ports = (device: RosterDevice): string[] => uplinkSettings(site, device).map(({ port }) => port);
  return { ...usualPair(first.id, second.id), tracks: { first: ports(first), second: ports(second) } };
}

/** What becomes of the addresses of a pair, in words. */
export function addressWords(site: SitePart, roster: readonly RosterDevice[]): string {
  const here = pairHere(site.pair, roster);
  const management = site.segments.find(({ id }) => id === site.managementId);
  if (!here || !management) return 'One of the two is not at the site any more.';
  const own = ownAddresses(here, management, roster);
  if (!own) return `${management.name} has no two addresses left for the gateways themselves.`;
  const routed = site.segments.filter(({ off }) => !off).length;
  const bare = (text: string): string => text.split('/')[0]!;
  return `Whoever routes has the gateway addresses of ${counted(routed, 'segment')}. Their own in ${management.name}: ${bare(own.first)} and ${bare(own.second)}.`;
}

/** How long the one that stands by waits when it hears nothing, in words. */
export function waitWords(pair: Pair): string {
  const { advert, back } = pair;
  const most = downMs(prioritiesOf(pair, 'second').priority, advert) / 1000;
  const least = most - advert / 100;
  const then = back ? '' : ' Whoever routes then goes on.';
  return `Where the one that routes falls silent, the other routes after ${least.toFixed(1)} to ${most.toFixed(1)} s.${then}`;
}

/** How one of the two fares, as it last told, in words. @param time writes a moment. */
export function standWords(report: PairReport | undefined, other: string, time: (ms: number) => string): string {
  if (!report) return 'has told nothing of the pair yet';
  const { state, since, hears, priority } = report;
  const words = { active: 'routes', backup: 'stands by', initialize: 'takes no part' }[state];
  const heard = hears ? '' : state === 'active' ? `; ${other} does not answer` : `; it does not hear ${other}`;
  return `${words} since ${time(since)}, priority ${priority}${heard}`;
}
