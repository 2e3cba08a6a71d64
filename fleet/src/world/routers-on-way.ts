import { contains, parseIp, parsePrefix } from '@iron-lattice/core/address';
import { interfacesOf } from '@iron-lattice/core/document';
import type { Box, Spot } from './box';
import type { Network } from './network';
import { isPrivate } from './outside';
import { meetsAt } from './world-router';

/** Routers that something passes at most inside a site. */
const MOST = 8;

/** The routers that something meets inside a site, in order, each with the VLAN in which it comes to it. */
export interface InnerWay {
  readonly path: readonly [Spot, ...Spot[]];
  /** Why it ends there, in a sentence. */
  readonly stop?: string;
}

/** Where a router meets the one that it hands on to. */
interface Onward {
  readonly vlan: number;
  /** Its own address there, with the length of the network. */
  readonly address: string;
  readonly to: string;
}
function onwardOf({ document, router }: Box): Onward | null {
  if (document.kind === 'switch') return document.onward ?? null;
  const face = router && meetsAt(router);
  return face ? { vlan: face.vlan, address: face.address, to: router.onward! } : null;
}

/** Every network on a link of a router, with its own address. */
const linksOf = (box: Box): readonly { readonly vlan: number; readonly address: string }[] => {
  const { document } = box;
  const six = document.kind === 'gateway' ? (document.interfaces6 ?? []) : [];
  const onward = onwardOf(box);
  return [...interfacesOf(document), ...six, ...(onward ? [onward] : [])];
};

/** Whether an address is in a network on a link of a router. */
export const isOnLink = (box: Box, target: string): boolean => linkTo(box, target) !== null;

/** The VLAN in which a router has an address on a link. */
function linkTo(box: Box, address: string): number | null {
  const ip = parseIp(address);
  return linksOf(box).find((each) => ip && contains(parsePrefix(each.address)!, ip))?.vlan ?? null;
}

/** The address to which a router sends what it has no network for, where that is another inside. */
function nextOf(world: Pick<Network, 'paths'>, box: Box, target: string): string | null {
  const { router } = box;
  if (router?.ownWayOut && !isPrivate(target)) return null;
  if (router || box.document.kind === 'switch') return onwardOf(box)?.to ?? null;
  const told = world.paths.of(box)?.toldTo(parseIp(target)!);
  return told?.kind === 'neighbour' ? told.address : null;
}

/** The routers that something meets from the first on, as each decides by what it was told, until one has the address on a link or leads it elsewhere. */
export function innerWay(world: Pick<Network, 'paths' | 'routerAt'>, start: Spot, target: string): InnerWay {
  const path: [Spot, ...Spot[]] = [start];
  for (let at = start; ;) {
    const link = linkTo(at.box, target);
    // Who has it on a link sends it there, be it to another router itself.
    const next = link === null ? nextOf(world, at.box, target) : target;
    const vlan = next === null ? null : linkTo(at.box, next);
    const met = next === null || vlan === null ? null : world.routerAt({ box: at.box, vlan }, next);
    if (!met || (link !== null && met.box === at.box)) return { path };
    if (path.length >= MOST || path.some(({ box }) => box === met.box))
      return { path, stop: `It goes round in circles at ${met.box.document.device.name}.` };
    path.push(met);
    if (link !== null) return { path };
    at = met;
  }
}

/** Whether a router answers at an address in a VLAN: at one of its own, or where it meets the next one. */
export const answersThere = ({ box, vlan }: Spot, address: string): boolean =>
  linksOf(box).some((each) => each.vlan === vlan && each.address.split('/')[0] === address);

/** The address at which a router is met in the VLAN in which something comes to it. */
export const metAt = ({ box, vlan }: Spot): string =>
  linksOf(box)
    .find((each) => each.vlan === vlan)
    ?.address.split('/')[0] ??
  facesOf(box)[0] ??
  '';

/** Every address that a router has itself inside. */
export const facesOf = (box: Box): string[] =>
  box.document.kind === 'ap' ? [] : linksOf(box).map(({ address }) => address.split('/')[0]!);
