import { contains, parseIp, parsePrefix } from '@iron-lattice/core/address';
import { interfacesOf } from '@iron-lattice/core/document';
import type { Box, Spot } from './box';
import type { Network } from './network';
import { isPrivate } from './outside';

/** Routers that something passes at most inside a site. */
const MOST = 8;

/** The routers that something meets inside a site, in order, each with the VLAN in which it comes to it. */
export interface InnerWay {
  readonly path: readonly [Spot, ...Spot[]];
  /** Why it ends there, in a sentence. */
  readonly stop?: string;
}

/** Whether an address is in a network on a link of a router. */
export function isOnLink({ document }: Box, target: string): boolean {
  const ip = parseIp(target);
  const six = document.kind === 'gateway' ? (document.interfaces6 ?? []) : [];
  return ip !== null && [...interfacesOf(document), ...six].some(({ address }) => contains(parsePrefix(address)!, ip));
}

/** The address to which a router sends what it has no network for, where that is another inside. */
function nextOf(world: Pick<Network, 'paths'>, box: Box, target: string): string | null {
  const { document, router } = box;
  if (document.kind === 'switch') return document.onward?.to ?? null;
  if (router) return router.ownWayOut && !isPrivate(target) ? null : (router.onward ?? null);
  const told = world.paths.of(box)?.toldTo(parseIp(target)!);
  return told?.kind === 'neighbour' ? told.address : null;
}

/** The VLAN in which a router has another one’s address on a link. */
export function linkTo({ document }: Box, address: string): number | null {
  if (document.kind === 'switch' && document.onward?.to === address) return document.onward.vlan;
  const ip = parseIp(address);
  const face = interfacesOf(document).find((each) => ip && contains(parsePrefix(each.address)!, ip));
  return face?.vlan ?? null;
}

/** The routers that something meets from the first on, as each decides by what it was told, until one has the address on a link or leads it elsewhere. */
export function innerWay(world: Pick<Network, 'paths' | 'routerAt'>, start: Spot, target: string): InnerWay {
  const path: [Spot, ...Spot[]] = [start];
  for (let at = start; ;) {
    if (isOnLink(at.box, target)) return { path };
    const next = nextOf(world, at.box, target);
    const vlan = next === null ? null : linkTo(at.box, next);
    const met = next === null || vlan === null ? null : world.routerAt({ box: at.box, vlan }, next);
    if (!met) return { path };
    if (path.length >= MOST || path.some(({ box }) => box === met.box))
      return { path, stop: `It goes round in circles at ${met.box.document.device.name}.` };
    path.push(met);
    at = met;
  }
}

/** Whether a router answers at an address in a VLAN: at one of its own, or where it meets the next one. */
export function answersThere({ box: { document, router }, vlan }: Spot, address: string): boolean {
  const own = interfacesOf(document).filter((face) => face.vlan === vlan);
  if (own.some((face) => face.address.split('/')[0] === address)) return true;
  if (document.kind !== 'switch' || router) return false;
  return document.onward?.vlan === vlan && document.onward.address.split('/')[0] === address;
}

/** Every address that a router has itself inside. */
export function facesOf({ document }: Box): string[] {
  const six = document.kind === 'gateway' ? (document.interfaces6 ?? []) : [];
  const onward = document.kind === 'switch' && document.onward ? [document.onward] : [];
  const inside = document.kind === 'ap' ? [] : interfacesOf(document);
  return [...inside, ...six, ...onward].map((face) => face.address.split('/')[0]!);
}
