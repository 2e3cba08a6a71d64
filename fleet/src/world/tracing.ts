import { parseIp } from '@iron-lattice/core/address';
import { flowBetween, type Flow } from '@iron-lattice/core/paths';
import { CLIENT_PORT, NUMBERS } from './arriving';
import { walkAcross } from './across';
import type { Wanted } from './asked';
import type { Spot } from './box';
import type { Network } from './network';
import { face6Of, isPrivate, isSix } from './outside';
import { facesOf, innerWay, isOnLink, metAt } from './routers-on-way';

/** Whose way is followed. */
interface Traced {
  readonly gateway: Spot | null;
  readonly address: string | null;
  readonly address6?: string | null;
}

/** The routers between somebody and an address, at the address at which each answers, and the address itself where it is arrived at. */
export function hopsTo(world: Network, asker: Traced, target: string, arrived: boolean): string[] {
  const { gateway } = asker;
  const six = isSix(target);
  const face = gateway && (six ? face6Of(gateway) : world.faceOf(gateway));
  if (!gateway || !face) return [];
  if (face === target) return [face];
  const { path } = innerWay(world, gateway, target);
  const before = [face, ...path.slice(1).map((spot) => metAt(spot))];
  const last = path.at(-1)!;
  const there = (hops: readonly string[]): string[] => [
    ...before,
    ...hops,
    ...(arrived && [...before, ...hops].at(-1) !== target ? [target] : []),
  ];
  const paths = world.paths.of(last.box);
  const flow = flowTo(six ? (asker.address6 ?? null) : asker.address, target, { protocol: 'icmp' });
  const uplink = flow && paths?.by(flow);
  const given = uplink && (six ? paths?.given6At(uplink.port) : paths?.givenAt(uplink.port));
  const told = paths?.toldTo(parseIp(target)!);
  if (told?.kind === 'neighbour') return there([told.address]);
  if (told?.kind === 'tunnel' && !isOnLink(last.box, target)) {
    const source = six ? asker.address6 : asker.address;
    const across = walkAcross(world, last.box, source ?? '', target).path;
    const inner = innerWay(world, { box: across.at(-1)!, vlan: 0 }, target).path.slice(1);
    return there([...across.slice(1).flatMap((box) => facesOf(box)[0] ?? []), ...inner.map((spot) => metAt(spot))]);
  }
  // A gateway of others answers at no address inside the tunnel.
  if (told?.kind === 'pact') return there([]);
  const inside = world.seenFrom(last.box.device.serial).some((each) => each.address === target);
  if (inside || isPrivate(target) || !given || given.address === null) return there([]);
  if (!paths?.carries(uplink.port)) return before;
  return there([given.gateway]);
}

/** What somebody’s packets are to a gateway that chooses how they leave. */
export const flowTo = (from: string | null, target: string, { protocol, port = 0, dscp }: Wanted): Flow | null =>
  flowBetween(from ?? (isSix(target) ? '::' : '0.0.0.0'), target, {
    ...{ protocol: NUMBERS[protocol], sourcePort: protocol === 'icmp' ? 0 : CLIENT_PORT, port },
    ...(dscp === undefined ? {} : { dscp }),
  });
