import { contains, parseIp, parsePrefix } from '@iron-lattice/core/address';
import { tunnelledVlans, type ApDocument, type SsidDocument } from '@iron-lattice/core/document';
import type { Box, Spot } from './box';

/** What is looked at of the cables between the ends of tunnels. */
export interface Between {
  /** The first gateway that a box's own frames reach, with the VLAN they come in; nothing of tunnels is looked at. */
  gatewayOver(start: Spot): Spot | null;
  /** A box's own address. */
  addressOf(box: Box): string | null;
  /** Whether the packets around the frames, and those that come back, are let through between the two. */
  letsThrough(ap: Box, from: string, gateway: Box, to: string): boolean;
}

/** Where the frames of an SSID's client are first. */
export const spotOf = (box: Box, ssid: Pick<SsidDocument, 'tunnel'> | null | undefined, vlan: number): Spot =>
  ssid?.tunnel ? { box, vlan, tunnel: true } : { box, vlan };

/** The ends of tunnels: GRE packets from an AP to the address it was told, with the VLAN as their key (RFC 2784, RFC 2890). */
export class Tunnels {
  /** While an end is looked for, the packets around frames are: they go over cables. */
  private looking = false;

  constructor(private readonly between: Between) {}

  /** The gateway that takes an AP's packets out and answers them; null while none does. */
  farEnd(box: Box): Box | null {
    const { document } = box;
    if (document.kind !== 'ap' || !document.tunnel || !box.powered || this.looking) return null;
    this.looking = true;
    try {
      return this.takenBy(box, document, document.tunnel.to);
    } finally {
      this.looking = false;
    }
  }

  private takenBy(box: Box, document: ApDocument, to: string): Box | null {
    const reached = this.between.gatewayOver({ box, vlan: document.management.vlan });
    const gateway = reached?.box.document;
    if (!reached || gateway?.kind !== 'gateway' || !gateway.tunnels) return null;
    const face = gateway.interfaces.find(({ vlan }) => vlan === reached.vlan);
    if (![face?.address, ...(face?.former ?? [])].some((text) => text?.split('/')[0] === to)) return null;
    const from = this.between.addressOf(box);
    const sender = from === null ? null : parseIp(from);
    if (!sender || !gateway.tunnels.from.some((text) => contains(parsePrefix(text)!, sender))) return null;
    return this.between.letsThrough(box, from!, reached.box, to) ? reached.box : null;
  }

  /** Where frames go from a spot through tunnels. */
  *next({ box, vlan, tunnel }: Spot): Generator<Spot> {
    if (this.looking) return;
    if (tunnel) {
      const far = this.farEnd(box);
      if (far && takes(far, vlan)) yield { box: far, vlan };
      return;
    }
    if (!takes(box, vlan)) return;
    for (const ap of box.island)
      if (ap.document.kind === 'ap' && tunnelledVlans(ap.document).includes(vlan) && this.farEnd(ap) === box)
        yield { box: ap, vlan, tunnel: true };
  }
}

/** Whether a gateway takes frames with a key out, and puts such in. */
const takes = ({ document }: Box, vlan: number): boolean =>
  document.kind === 'gateway' && (document.tunnels?.vlans.includes(vlan) ?? false);
