import { parseIp } from '@iron-lattice/core/address';
import { walkAcross } from './across';
import { packetOf } from './arriving';
import type { Got, Wanted } from './asked';
import type { Box } from './box';
import { gotBehind } from './far-side';
import type { Network } from './network';
import type { OnTheWay, Place } from './on-the-way';
import { facesOf, innerWay, isOnLink } from './routers-on-way';

/** Who has an address behind a gateway: a client, a box of ours, or nobody. */
export interface End {
  readonly mac: string | undefined;
  readonly serial: string | undefined;
  readonly vlan: number | undefined;
}

/** What is looked at on this side of a gateway. */
interface Inside {
  endOf(box: Box, address: string): End;
  placeAt(end: End): Place | null;
  /** Whether a gateway has a route for an address that leads by no uplink. */
  byRoute(gateway: Box, target: string, wanted: Wanted): boolean;
  answered(gateway: Box, from: string | null, target: string, wanted: Wanted, own: boolean, end: End): Got;
}

/** What gateways lead into tunnels: to other sites, and to gateways of others. */
export class Beyond {
  constructor(
    private readonly world: Network,
    private readonly way: OnTheWay,
    private readonly inside: Inside,
  ) {}

  /** What becomes of what a gateway leads into a tunnel; null: it leads it nowhere there. The gateway at the other end judges it as something from outside. */
  across(gateway: Box, from: string | null, target: string, wanted: Wanted): Got | null {
    const told = this.world.paths.of(gateway)?.toldTo(parseIp(target)!);
    if (told?.kind !== 'tunnel' || isOnLink(gateway, target)) return null;
    const packet = from === null ? null : packetOf(from, target, wanted);
    if (from === null || !packet) return { ok: false, why: 'It has no address to be answered at.' };
    const there = walkAcross(this.world, gateway, from, target);
    const last = there.path.at(-1)!;
    const by = ` By ${there.path
      .slice(1)
      .map(({ document }) => document.device.name)
      .join(', then ')}.`;
    if (there.stop) return { ok: false, why: there.stop, stoppedBy: 'overlay' };
    const inner = innerWay(this.world, { box: last, vlan: 0 }, target).path;
    const end = this.inside.endOf(inner.at(-1)!.box, target);
    const own = facesOf(last).includes(target);
    const isThere = own || isOnLink(last, target) || this.inside.byRoute(last, target, wanted);
    if (isThere) {
      const stop = this.way.stopped(null, inner, own ? null : this.inside.placeAt(end), packet);
      if (stop) return stop;
    }
    const back = walkAcross(this.world, last, target, from);
    if (back.stop || back.path.at(-1) !== gateway)
      return {
        ok: false,
        why: `The answer does not come back. ${back.stop ?? 'It leaves elsewhere.'}`,
        stoppedBy: 'overlay',
      };
    const got = this.inside.answered(inner.at(-1)!.box, from, target, wanted, own, end);
    return { ...got, why: `${got.why}${by}` };
  }

  /** What becomes of what a gateway leads into a tunnel to one of others; null: it leads it nowhere there. */
  byPact(gateway: Box, from: string | null, target: string, wanted: Wanted): Got | null {
    const paths = this.world.paths.of(gateway);
    const told = paths?.toldTo(parseIp(target)!);
    if (told?.kind !== 'pact' || isOnLink(gateway, target)) return null;
    if (from === null) return { ok: false, why: 'It has no address to be answered at.' };
    const far = paths!.pacts.carries(told.name, from, target);
    if (typeof far === 'string') return { ok: false, why: far, stoppedBy: told.name };
    return gotBehind(far, told.name, target, wanted);
  }

  /** What somebody gets who is behind a gateway of others, and asks for something on this side of a tunnel. */
  fromFar(name: string, from: string, target: string, wanted: Wanted): Got {
    const far = this.world.paths.far.named(name);
    const home = this.world.paths.keeping(far.name);
    if (!home) return { ok: false, why: `No tunnel stands to ${name}.` };
    const { box, tunnel, paths } = home;
    const taken = paths.pacts.carries(tunnel, from, target, true);
    if (typeof taken === 'string') return { ok: false, why: taken, stoppedBy: tunnel };
    const inner = innerWay(this.world, { box, vlan: 0 }, target).path;
    const last = inner.at(-1)!.box;
    const end = this.inside.endOf(last, target);
    const packet = packetOf(from, target, wanted);
    const stop = packet && this.way.stopped(null, inner, this.inside.placeAt(end), packet);
    return stop ?? this.inside.answered(last, from, target, wanted, facesOf(last).includes(target), end);
  }
}
