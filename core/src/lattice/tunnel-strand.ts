import { contains, parseIp, parsePrefix, type IpAddress } from '../address';
import { interfacesOf, type ApDocument, type GatewayDocument } from '../document';
import type { Link } from '../intent';
import { traceStrand, type Documents, type Hop, type Strand } from './strand';

/** Why a gateway does not take out what an AP carries to it. */
export type Untaken = 'address' | 'sender' | 'vlan';

/**
 * How frames of a VLAN get from an AP through its tunnel to the gateway. `hops` and `gaps` are those of the packets around them, which
 * are in the AP's management VLAN.
 */
export type TunnelStrand =
  | Strand
  /** The packets come to a router, which does not take the frames out. */
  | { readonly state: 'untaken'; readonly hops: readonly Hop[]; readonly routerId: string; readonly why: Untaken };

/** Follows a VLAN through an AP's tunnel; what the AP itself gets to is asked of the cables. */
export function traceTunnel(documents: Documents, links: readonly Link[], apId: string, vlan: number): TunnelStrand {
  const ap = documents.get(apId);
  if (ap?.kind !== 'ap' || !ap.tunnel) return { state: 'no-way' };
  const outer = traceStrand(documents, links, apId, ap.management.vlan);
  if (outer.state !== 'whole') return outer;
  const { hops, gatewayId } = outer;
  const why = untaken(ap, documents.get(gatewayId)!, outer.vlan, vlan);
  return why ? { state: 'untaken', hops, routerId: gatewayId, why } : { state: 'whole', hops, gatewayId, vlan };
}

function untaken(
  { tunnel, management: { address } }: ApDocument,
  router: NonNullable<ReturnType<Documents['get']>>,
  outer: number,
  vlan: number,
): Untaken | null {
  const face = interfacesOf(router).find((each) => each.vlan === outer);
  const own = [face?.address, ...(face?.former ?? [])].flatMap((text) => text?.split('/')[0] ?? []);
  if (!tunnel || !own.includes(tunnel.to)) return 'address';
  const { tunnels } = router as GatewayDocument;
  if (!tunnels?.vlans.includes(vlan)) return 'vlan';
  const sender = address && parseIp(address.address);
  const from = tunnels.from.map((text) => parsePrefix(text)!);
  return sender && !from.some((prefix) => contains(prefix, sender)) ? 'sender' : null;
}

/**
 * Why a gateway does not take out what an AP of another site carries to it; null: it does.
 * @param at the AP's own address, the address that it carries to, and the VLAN at the gateway's site.
 */
export function untakenAfar(
  { tunnels, interfaces }: GatewayDocument,
  { sender, to, vlan }: { readonly sender: IpAddress | null; readonly to: string; readonly vlan: number },
): Untaken | null {
  if (!interfaces.some(({ address, former = [] }) => [address, ...former].some((text) => text.split('/')[0] === to)))
    return 'address';
  const from = (tunnels?.landings ?? []).filter((each) =>
    each.from.some((text) => sender && contains(parsePrefix(text)!, sender)),
  );
  if (from.length === 0) return 'sender';
  return from.some(({ vlans }) => vlans.includes(vlan)) ? null : 'vlan';
}
