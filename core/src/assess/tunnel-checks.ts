import { parsePrefix, rangeOf, type IpRange } from '../address';
import { asHeard } from '../base';
import { GRE } from '../document';
import { isRoutedByAps, isRoutedByGateway, segmentsOfSsid, type ResolvedSite, type SiteSsid } from '../intent';
import { breachOf, packetWords } from '../rules';
import type { Check } from './check';
import type { Finding } from './finding';
import { clientsOf, type PolicyView } from './policy-view';
import { nameIn } from './reach-view';
import { found, mendHere } from './ssid-finding';

/** SSIDs of a site whose clients are carried in tunnels. */
const tunnelled = ({ ssids }: ResolvedSite): readonly SiteSsid[] =>
  ssids.filter((ssid) => ssid.tunnel && segmentsOfSsid(ssid).length > 0);

/** What is carried to a gateway that is not there, or has nothing to do with it. */
const endsNowhere: Check = ({ site, documents }) =>
  tunnelled(site).flatMap((ssid): Finding[] => {
    const gateway = [...documents.values()].some(({ kind }) => kind === 'gateway');
    const byAps = segmentsOfSsid(ssid).flatMap((id) => {
      const segment = site.segments.find((each) => each.id === id)!;
      return isRoutedByGateway(segment) ? [] : [segment];
    });
    if (gateway && byAps.length === 0) return [];
    const name = `“${asHeard(ssid.name)}”`;
    return [
      found(site.id, ssid, 'wireless.tunnel-nowhere', {
        severity: 'error',
        message: `The tunnel of ${name} ends nowhere at ${site.name}`,
        reason: gateway
          ? `It leads to the gateway, which has no address in ${byAps.map(({ name }) => name).join(', ')}: ${byAps.every(isRoutedByAps) ? 'APs route it' : 'it does not route that'}. Nobody takes the frames out.`
          : `${site.name} has no gateway that would take the frames out. Claim one into the site, or carry them over the cables.`,
        mend: mendHere(site, ssid, 'carry it over the cables here', { tunnel: null }),
      }),
    ];
  });

export const TUNNEL_CHECKS: readonly Check[] = [endsNowhere];

/** Tunnels whose packets the site's rules stop between its APs and the gateway. */
export function stoppedTunnels(site: ResolvedSite, view: PolicyView): Finding[] {
  const ssids = tunnelled(site);
  if (ssids.length === 0) return [];
  const from = { key: 'aps', addresses: clientsOf(site).get(site.managementId) ?? [] };
  const why = tunnelStopped(view, from, { key: 'gateway', addresses: [hostRange(site.management.gateway)] });
  if (why === null) return [];
  return ssids.map((ssid) =>
    found(site.id, ssid, 'wireless.tunnel-stopped', {
      severity: 'error',
      message: `The tunnel of “${asHeard(ssid.name)}” is stopped at ${site.name}`,
      reason: `${why} Let GRE (protocol ${GRE}) through between ${site.management.name} and the gateway, or carry the SSID over the cables.`,
      mend: mendHere(site, ssid, 'carry it over the cables here', { tunnel: null }),
    }),
  );
}

/** One end of a tunnel: where its packets come from, or are for. */
interface TunnelSide {
  readonly key: string;
  readonly addresses: readonly IpRange[];
}
export const hostRange = (address: string): IpRange => rangeOf(parsePrefix(`${address}/32`)!);

/** What stops packets of a tunnel on their way, at any time, in a sentence with a packet; null: nothing does. */
export function tunnelStopped(view: PolicyView, from: TunnelSide, to: TunnelSide): string | null {
  for (const minute of view.open.moments) {
    const breach = breachOf(view.passage(minute), { kind: 'always', from, to, services: [{ protocol: GRE }] });
    if (!breach) continue;
    const by = breach.rule ? `“${nameIn(view, breach.rule.id)}” stops it` : 'nothing lets it through';
    return `${packetWords(breach.packet)}: ${by}.`;
  }
  return null;
}
