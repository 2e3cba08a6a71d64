import { contains, parseIp, parsePrefix } from '@iron-lattice/core/address';
import {
  landedVlans,
  tunnelledVlans,
  type ApDocument,
  type ApTunnelDocument,
  type GatewayTunnelDocument,
  type SsidDocument,
} from '@iron-lattice/core/document';
import type { Box, Spot } from './box';

/** What is looked at of the cables between the ends of tunnels. */
export interface Between {
  /** The first gateway that a box's own frames reach, with the VLAN they come in; nothing of tunnels is looked at. */
  gatewayOver(start: Spot): Spot | null;
  /** A box's own address. */
  addressOf(box: Box): string | null;
  /** Whether the packets around the frames, and those that come back, are let through between the two. */
  letsThrough(ap: Box, from: string, gateway: Box, to: string): boolean;
  /** The gateway of another site at which something arrives that a gateway leads into tunnels between sites; null: it arrives nowhere. */
  across(gateway: Box, from: string, to: string): Box | null;
  /** Whether a gateway lets the packets around the frames through to itself. */
  judges(gateway: Box, from: string, to: string): boolean;
}

/** Where the frames of an SSID's client are first. */
export const spotOf = (box: Box, ssid: Pick<SsidDocument, 'tunnel'> | null | undefined, vlan: number): Spot =>
  ssid?.tunnel ? { box, vlan, tunnel: ssid.tunnel } : { box, vlan };

/** The ends of tunnels: GRE packets from an AP to the address it was told, with the VLAN as their key (RFC 2784, RFC 2890). */
export class Tunnels {
  /** While an end is looked for, the packets around frames are: they go over cables. */
  private looking = false;
  /** APs that carry something to other sites. */
  private readonly away = new Set<Box>();

  constructor(private readonly between: Between) {}

  /** A box was told something. */
  told(box: Box): void {
    if (box.document.kind === 'ap' && box.document.landings) this.away.add(box);
    else this.away.delete(box);
  }

  /** APs elsewhere that carry something to a gateway among some boxes. */
  carriersTo(island: readonly Box[]): Box[] {
    const takes = island.some(({ document }) => document.kind === 'gateway' && document.tunnels?.landings);
    return takes ? [...this.away].filter((box) => !island.includes(box)) : [];
  }

  /** The gateway that takes an AP's packets out and answers them; null while none does. @param to another site’s, by its address there. */
  farEnd(box: Box, to: true | string = true): Box | null {
    const { document } = box;
    if (document.kind !== 'ap' || !box.powered || this.looking) return null;
    const tunnel = to === true ? document.tunnel : document.landings?.find((each) => each.to === to);
    if (!tunnel) return null;
    this.looking = true;
    try {
      return this.takenBy(box, document, tunnel, to !== true);
    } finally {
      this.looking = false;
    }
  }

  private takenBy(box: Box, document: ApDocument, { to }: ApTunnelDocument, isFar: boolean): Box | null {
    const reached = this.between.gatewayOver({ box, vlan: document.management.vlan });
    const from = this.between.addressOf(box);
    if (!reached || from === null) return null;
    const { box: near, vlan } = reached;
    const end = isFar ? this.between.across(near, from, to) : near;
    if (end?.document.kind !== 'gateway') return null;
    const { tunnels, interfaces } = end.document;
    const faces = interfaces.filter((face) => isFar || face.vlan === vlan);
    const own = faces.flatMap(({ address, former = [] }) => [address, ...former]);
    if (!own.some((text) => text.split('/')[0] === to) || !isTaken(tunnels, from, isFar)) return null;
    if (!this.between.letsThrough(box, from, near, to)) return null;
    return !isFar || this.between.judges(end, from, to) ? end : null;
  }

  /** Where frames go from a spot through tunnels. */
  *next({ box, vlan, tunnel }: Spot): Generator<Spot> {
    if (this.looking) return;
    if (tunnel) {
      const far = this.farEnd(box, tunnel);
      const from = this.between.addressOf(box);
      if (far && takes(far, vlan, tunnel === true ? null : from)) yield { box: far, vlan };
      return;
    }
    if (takes(box, vlan, null))
      for (const ap of box.island)
        if (ap.document.kind === 'ap' && tunnelledVlans(ap.document).includes(vlan) && this.farEnd(ap) === box)
          yield { box: ap, vlan, tunnel: true };
    for (const ap of this.carriersTo([box])) {
      if (ap.document.kind !== 'ap' || !takes(box, vlan, this.between.addressOf(ap))) continue;
      for (const { to } of ap.document.landings ?? [])
        if (landedVlans(ap.document, to).includes(vlan) && this.farEnd(ap, to) === box)
          yield { box: ap, vlan, tunnel: to };
    }
  }
}

const isWithin = (address: string, prefixes: readonly string[]): boolean => {
  const ip = parseIp(address);
  return ip !== null && prefixes.some((text) => contains(parsePrefix(text)!, ip));
};

/** Whether a gateway takes what comes from an address, of its own site or of another. */
const isTaken = (tunnels: GatewayTunnelDocument | undefined, from: string, isFar: boolean): boolean =>
  isFar ? (tunnels?.landings ?? []).some((each) => isWithin(from, each.from)) : isWithin(from, tunnels?.from ?? []);

/** Whether a gateway takes frames with a key out, and puts such in. @param from address of an AP of another site; null: of its own. */
function takes({ document }: Box, vlan: number, from: string | null): boolean {
  if (document.kind !== 'gateway' || !document.tunnels) return false;
  const { vlans, landings = [] } = document.tunnels;
  if (from === null) return vlans.includes(vlan);
  return landings.some((each) => each.vlans.includes(vlan) && isWithin(from, each.from));
}
