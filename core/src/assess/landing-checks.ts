import { parsePrefix, rangeOf } from '../address';
import { asHeard } from '../base';
import { GRE } from '../document';
import {
  canMeet,
  joinedEnds,
  memberAt,
  type Landed,
  type Member,
  type Operation,
  type ResolvedSite,
  type SiteSsid,
} from '../intent';
import { joinedWay } from '../routing';
import type { Check } from './check';
import type { Finding, Mend } from './finding';
import { listed } from './listed';
import { clientsOf, type PolicyView } from './policy-view';
import { found } from './ssid-finding';
import { hostRange, tunnelStopped } from './tunnel-checks';

interface Carried extends SiteSsid {
  readonly landed: Landed;
}

/** SSIDs of a site whose clients are carried to other sites. */
const carried = ({ ssids }: ResolvedSite): readonly Carried[] =>
  ssids.filter((ssid): ssid is Carried => ssid.landed !== undefined);

/** What is carried to a site that does not take it, or to which no tunnel leads. */
const landsNowhere: Check = ({ site }) =>
  carried(site).flatMap((ssid): Finding[] => {
    const { landed } = ssid;
    const name = `“${asHeard(ssid.name)}”`;
    const say = (reason: string, mend: Mend | null = null): Finding[] => [
      found(site.id, ssid, 'wireless.landing-nowhere', {
        severity: 'error',
        message: `The tunnel of ${name} ends nowhere at ${landed.name}`,
        ...{ reason, mend },
      }),
    ];
    const instead = 'Choose another site for it, or carry it to the gateway here.';
    if (landed.to === '') return say(`The site that its clients are carried to is gone. ${instead}`);
    if (!landed.segment)
      return say(
        `The gateway of ${landed.name} routes no segment “${ssid.segment}”, so no AP at ${site.name} sends it. Make one there, or choose another segment.`,
      );
    const [own, other] = [site.id, landed.siteId].map((id) => memberAt(site.estate, id));
    if (!own || !other) {
      const alone = own ? landed.name : site.name;
      return say(`${alone} is not joined to other sites: no tunnel leads there. Join it under Paths. ${instead}`);
    }
    const { joins = {} } = site.estate;
    const way = joinedWay(
      joinedEnds(site.estate),
      (a, b) => canMeet(joins[a], joins[b]),
      { id: own.id, prefix: site.management.subnet },
      { id: other.id, prefix: `${landed.to}/32` },
    );
    if (way.stops.length === 0) return [];
    return say(
      `Between ${site.management.subnet}, where the APs are, and ${landed.to}: ${way.stops.join(' ')}`,
      sharing(site, own, other, landed),
    );
  });

/** Lets two joined sites share where their devices live; null where that is not all that it takes. */
function sharing(site: ResolvedSite, own: Member, other: Member, { siteId }: Landed): Mend | null {
  const operations = (
    [
      [own, site.managementId],
      [other, site.estate.landings?.[siteId]?.livesIn],
    ] as const
  ).flatMap(([{ id, segments }, segmentId]): Operation[] => {
    if (segments === 'all' || segmentId === undefined || segments.includes(segmentId)) return [];
    return [{ type: 'member.set', memberId: id, from: { segments }, to: { segments: [...segments, segmentId] } }];
  });
  return operations.length > 0 ? { label: 'let both share where their devices live', operations } : null;
}

export const LANDING_CHECKS: readonly Check[] = [landsNowhere];

/** Tunnels to and from other sites whose packets the site's rules stop: on their way out, or where they come out. */
export const stoppedLandings = (site: ResolvedSite, view: PolicyView): Finding[] => [
  ...stoppedHere(site, view),
  ...refusedHere(site, view),
];

function stoppedHere(site: ResolvedSite, view: PolicyView): Finding[] {
  const from = { key: 'aps', addresses: clientsOf(site).get(site.managementId) ?? [] };
  return carried(site).flatMap((ssid): Finding[] => {
    const { to, name } = ssid.landed;
    const why = to === '' ? null : tunnelStopped(view, from, { key: 'afar', addresses: [hostRange(to)] });
    if (why === null) return [];
    return [
      found(site.id, ssid, 'wireless.landing-stopped', {
        severity: 'error',
        message: `The tunnel of “${asHeard(ssid.name)}” to ${name} is stopped at ${site.name}`,
        reason: `${why} Let GRE (protocol ${GRE}) through from ${site.management.name} to ${to}.`,
        mend: null,
      }),
    ];
  });
}

function refusedHere(site: ResolvedSite, view: PolicyView): Finding[] {
  const landing = site.estate.landings?.[site.id];
  if (!landing || landing.segments.length === 0) return [];
  const to = { key: 'gateway', addresses: [hostRange(landing.to)] };
  const names = listed(landing.segments.map(({ name }) => name));
  const code = 'wireless.landing-refused';
  return Object.entries(landing.from).flatMap(([id, { name, subnet }]): Finding[] => {
    const why = tunnelStopped(view, { key: 'afar', addresses: [rangeOf(parsePrefix(subnet)!)] }, to);
    if (why === null) return [];
    return [
      {
        ...{ key: `${code} ${id}`, code, severity: 'error' as const },
        message: `What ${name} carries to ${names} is refused at ${site.name}`,
        reason: `${why} Let GRE (protocol ${GRE}) through from ${subnet} to ${landing.to}.`,
        place: { siteId: site.id, kind: 'segment', id: landing.segments[0]!.id },
        mend: null,
      },
    ];
  });
}
