import type { PortalDocument } from '@iron-lattice/core/document';
import { answerTo, type Packet } from '@iron-lattice/core/rules';
import type { Got } from './asked';
import type { Network } from './network';
import type { Box, Spot } from './box';
import type { HeldAt } from './guest-door';
import type { Policing } from './policing';
import { spotOf } from './tunnels';

/** Where somebody is attached. */
export interface Place extends Spot {
  /** Name of the SSID; absent on a cable. */
  readonly ssid?: string;
  /** The class it was given there, by its id. */
  readonly classId?: string | undefined;
  /** The portal that holds it until it is let in. */
  readonly guest?: HeldAt | undefined;
}

/** What is met on the way between two ends, and where they are attached. */
export class OnTheWay {
  constructor(
    private readonly world: Network,
    private readonly policing: Policing,
  ) {}

  /**
   * What stops a packet, or its answer: lists at switches and APs judge each by itself, a gateway remembers.
   * @param from null: somebody outside.
   * @param routers that it passes, in order; none where both are in one segment.
   */
  stopped(from: Place | null, routers: readonly Spot[], to: Place | null, packet: Packet): Got | null {
    const { policing, world } = this;
    const air = ({ box, ssid, classId }: Place, side: 'from' | 'to') =>
      ssid === undefined
        ? []
        : [[box, (each: Packet) => policing.passAir(box, { ssid, classId }, side, each)] as const];
    const wires = (start: Spot, end: Box) =>
      world.wayTo(start, end).map((box) => [box, (each: Packet) => policing.passSwitch(box, each)] as const);
    const [first, last] = [routers[0], routers.at(-1)];
    const ways =
      first && last
        ? [from ? wires(from, first.box) : [], to ? wires(to, last.box) : []]
        : [from && to && to.box !== from.box ? wires(from, to.box) : [], []];
    // From one router to the next it goes in the VLAN in which it comes to that one.
    const middle = routers.flatMap(({ box, vlan }, i) => [
      ...(i === 0 ? [] : wires({ box: routers[i - 1]!.box, vlan }, box)),
      [box, (each: Packet) => policing.pass(box, each)] as const,
    ]);
    const there = [
      ...(from ? air(from, 'from') : []),
      ...ways[0]!,
      ...middle,
      ...ways[1]!,
      ...(to ? air(to, 'to') : []),
    ];
    const back = [...(to ? air(to, 'from') : []), ...ways[1]!, ...ways[0]!, ...(from ? air(from, 'to') : [])];
    const answer = answerTo(packet);
    const judged = [
      ...there.map(([box, pass]) => [box, pass, packet, ''] as const),
      ...back.flatMap(([box, pass]) => (answer ? [[box, pass, answer, 'The answer is '] as const] : [])),
    ];
    for (const [box, pass, each, what] of judged) {
      const { passed, rule } = pass(each);
      if (passed) continue;
      const stoppedBy = rule?.name ?? 'no rule that allows it';
      const by = `topped by ${box.document.device.name}: ${stoppedBy}.`;
      return { ok: false, why: what === '' ? `S${by}` : `${what}s${by}`, stoppedBy };
    }
    return null;
  }

  /** Where a client or a box is attached; null where nobody is known. */
  placeOf(mac: string | undefined, serial: string | undefined, vlan: number | undefined): Place | null {
    if (vlan === undefined) return null;
    const client = this.world.file.clients.find((each) => each.mac === mac);
    if (client && 'near' in client) {
      const box = this.world.box(this.world.servedBy(client));
      const { document } = box;
      const sent = document.kind === 'ap' ? document.ssids.find(({ name }) => name === client.ssid) : undefined;
      const { accessClass, portal } = this.world.admits(box, client);
      const guest = heldBy(portal ?? sent?.portal, client.mac);
      return { ...spotOf(box, sent, vlan), ssid: client.ssid, classId: accessClass?.id, guest };
    }
    if (client) {
      const box = this.world.box(client.at.split(':')[0]!);
      const found = this.world.comersAt(box).find((each) => each.client === client);
      return { box, vlan, guest: heldBy(found?.at.portal, client.mac) };
    }
    return serial === undefined ? null : { box: this.world.box(serial), vlan };
  }
}

/** By whom somebody is held back until it is let in. */
export const heldBy = (portal: PortalDocument | undefined, mac: string): HeldAt | undefined =>
  portal ? { portal, mac } : undefined;
