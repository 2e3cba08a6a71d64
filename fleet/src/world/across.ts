import { contains, parseIp, parsePrefix, type IpAddress } from '@iron-lattice/core/address';
import type { Box } from './box';
import type { Network } from './network';
import { isOnLink } from './routers-on-way';

/** How something gets from one gateway through tunnels to another. */
export interface Walk {
  /** Those that it passes, both ends included. */
  readonly path: readonly Box[];
  /** Where it ends before it got there, in a sentence. */
  readonly stop?: string;
}

/** Gateways that it passes at most: its own, two hubs, and the one that it is for. */
const MOST = 4;

/** Whether a gateway lets whoever comes out of a tunnel reach an address. */
const isShared = ({ document }: Box, ip: IpAddress): boolean =>
  document.kind === 'gateway' && (document.overlay?.shares ?? []).some((text) => contains(parsePrefix(text)!, ip));

/**
 * The gateways that something passes through tunnels, as each decides by what it was told and by what is up: until one has the address on a link, or leads it
 * on otherwise. What comes out of a tunnel is dropped where it is not from behind its other end, and what came from a hub goes to no third one.
 */
export function walkAcross(world: Pick<Network, 'paths'>, start: Box, source: string, target: string): Walk {
  const path = [start];
  const destination = parseIp(target)!;
  let cameFromHub = false;
  for (let at = start; path.length <= MOST;) {
    const { document } = at;
    if (path.length > 1 && isOnLink(at, target))
      return isShared(at, destination)
        ? { path }
        : { path, stop: `Dropped by ${document.device.name}: it does not share ${target}.` };
    const told = world.paths.of(at)?.toldTo(destination);
    if (told?.kind !== 'tunnel' || document.kind !== 'gateway' || !document.overlay) return { path };
    const { name } = document.device;
    const peer = document.overlay.peers.find((each) => each.name === told.line.peer);
    if (!peer)
      return { path, stop: `Dropped by ${name}: no joined site has ${target}, or none that has a tunnel now.` };
    if (cameFromHub && document.overlay.role === 'hub' && peer.role === 'hub')
      return { path, stop: `Dropped by ${name}: what came from a hub goes to no third one.` };
    const next = world.paths.byKey(peer.public);
    if (!next) return { path, stop: `Nobody answers in the tunnel to ${peer.name}.` };
    cameFromHub = document.overlay.role === 'hub';
    path.push(next.box);
    if (!next.paths.tunnels?.takes(document.overlay.name, source)) {
      const by = next.box.document.device.name;
      return { path, stop: `Dropped by ${by}: ${source} is not behind ${document.overlay.name}.` };
    }
    at = next.box;
  }
  return { path, stop: 'It goes round in circles.' };
}
