import {
  contains,
  formatIp,
  formatPrefix,
  overlaps,
  parseIp,
  parsePrefix,
  usableHosts,
  type Prefix,
} from '../../address';
import { flaw, type Flaw } from '../../base';
import { sheetFor } from '../../hardware';
import { resolveRules, type RuleEnd } from '../../rules';
import type { RosterLookup } from '../edit';
import { editsOfList } from '../kept-list';
import type { SitePart } from '../part';
import { rangesOfSegment } from '../policy-names';
import type { RouterOperation } from './operations';
import { isOfOthers, MOST_ROUTERS, type AssumedRule, type SiteRouter } from './router';

/** Applies an edit of a router beside the gateway. */
export const applyRouter = editsOfList<RouterOperation, SiteRouter, 'site'>({
  noun: 'router',
  where: 'site',
  list: 'routers',
  purposed: true,
  normal: normalised,
  check: (_intent, site, router, { roster }) => check(site, router, roster),
  stays: (_intent, site, { id, name }) => {
    const held = site.segments.filter(({ routed }) => routed === id).map((each) => each.name);
    if (held.length === 0) return null;
    return flaw('router.routes', `“${name}” routes ${held.join(', ')}. Say first who does that instead.`);
  },
});

function check(site: SitePart, router: SiteRouter, roster: RosterLookup): Flaw[] {
  const others = (site.routers ?? []).filter(({ id }) => id !== router.id);
  const flaws: Flaw[] = [];
  if (others.length >= MOST_ROUTERS) flaws.push(flaw('router.many', `A site has ${MOST_ROUTERS} of them at most.`));
  if (router.name === '') flaws.push(flaw('router.name-empty', 'Give it a name.', 'name'));
  if (others.some(({ name }) => name.toLowerCase() === router.name.toLowerCase()))
    flaws.push(flaw('router.name-taken', `${site.name} has a router “${router.name}” already.`, 'name'));
  flaws.push(...(isOfOthers(router) ? checkAssumed(site, router, others) : checkSwitch(site, router, others, roster)));
  flaws.push(...checkMeets(site, router, others));
  return flaws;
}

/** A switch of ours: one that can, once, and told where the gateway is. */
function checkSwitch(site: SitePart, router: SiteRouter, others: readonly SiteRouter[], roster: RosterLookup): Flaw[] {
  const { deviceId, meets, at, ownWayOut, behind, lets } = router;
  const device = roster(deviceId!);
  if (!device || device.siteId !== site.id || sheetFor(device).kind !== 'switch')
    return [flaw('router.device-unknown', `It has to be a switch of ${site.name}.`, 'deviceId')];
  const flaws: Flaw[] = [];
  if (!sheetFor(device).routes)
    flaws.push(flaw('router.cannot', `${device.name} is a ${device.model}, which does not route.`, 'deviceId'));
  const twin = others.find((each) => each.deviceId === deviceId);
  if (twin) flaws.push(flaw('router.twice', `${device.name} is “${twin.name}” already.`, 'deviceId'));
  if (!meets)
    flaws.push(flaw('router.meets', 'Say in which segment it meets the gateway, and its address there.', 'meets'));
  if (at || ownWayOut || behind || lets)
    flaws.push(flaw('router.assumed', 'Of a switch of ours nothing is assumed: it does what it is told.', 'lets'));
  return flaws;
}

function checkAssumed(site: SitePart, router: SiteRouter, others: readonly SiteRouter[]): Flaw[] {
  const { meets, at, ownWayOut, behind = [], lets = [] } = router;
  const flaws: Flaw[] = [];
  if (!meets && !ownWayOut)
    flaws.push(flaw('router.no-way', 'Say where it meets the gateway, or that it has a way out of its own.', 'meets'));
  if (at && others.some((each) => each.at?.deviceId === at.deviceId && each.at.port === at.port))
    flaws.push(flaw('router.plugged', `Another router is plugged in at port ${at.port} already.`, 'at'));
  return [...flaws, ...checkBehind(site, behind ?? [], others), ...checkLets(site, lets ?? [])];
}

function checkBehind(site: SitePart, behind: readonly string[], others: readonly SiteRouter[]): Flaw[] {
  const flaws: Flaw[] = [];
  const known: { readonly prefix: Prefix; readonly whose: string }[] = [
    ...site.segments.flatMap(({ name, subnet, v6 }) =>
      [subnet, ...(v6 ? [v6.prefix] : [])].flatMap((text) => prefixNamed(text, name)),
    ),
    ...others.flatMap((each) => (each.behind ?? []).flatMap((text) => prefixNamed(text, each.name))),
  ];
  for (const text of behind) {
    const prefix = parsePrefix(text);
    if (!prefix || prefix.length === 0) {
      const what = prefix
        ? 'Everything is not behind it: say that it has a way out of its own'
        : `“${text}” is no prefix`;
      flaws.push(flaw('router.behind', `${what}${prefix ? '' : ', such as 10.60.0.0/16'}.`, 'behind'));
      continue;
    }
    const met = known.find((each) => each.prefix.version === prefix.version && overlaps(each.prefix, prefix));
    if (met)
      flaws.push(
        flaw('router.behind-taken', `${text} overlaps ${formatPrefix(met.prefix)} of “${met.whose}”.`, 'behind'),
      );
    known.push({ prefix, whose: 'another line' });
  }
  return flaws;
}

const prefixNamed = (text: string, whose: string): { readonly prefix: Prefix; readonly whose: string }[] => {
  const prefix = parsePrefix(text);
  return prefix ? [{ prefix, whose }] : [];
};

/** Ends that a box of others can tell apart: it knows addresses, and nothing of ours. */
const ADDRESSED: readonly RuleEnd['kind'][] = ['any', 'segment', 'addresses', 'private', 'internet'];

function checkLets(site: SitePart, lets: readonly AssumedRule[]): Flaw[] {
  const odd = lets.flatMap(({ from, to }) => [...from, ...to]).find(({ kind }) => !ADDRESSED.includes(kind));
  if (odd)
    return [
      flaw(
        'router.lets-end',
        'A box of others knows addresses alone: name segments, addresses, or the internet.',
        'lets',
      ),
    ];
  const none = new Map<string, never>();
  const segments = new Map(site.segments.map((each) => [each.name, rangesOfSegment(each)]));
  const names = { segments, ssids: none, classes: none, sets: none, devices: none };
  return resolveRules(lets, names).flaws.map(({ message }) => flaw('router.lets', message, 'lets'));
}

/** Where it meets the gateway: in a segment that the gateway routes, at an address that is nobody’s yet. */
function checkMeets(site: SitePart, router: SiteRouter, others: readonly SiteRouter[]): Flaw[] {
  const { meets } = router;
  if (!meets) return [];
  const segment = site.segments.find(({ id }) => id === meets.segmentId);
  const wrong = (code: string, text: string): Flaw[] => [flaw(`router.${code}`, text, 'meets')];
  if (!segment) return wrong('meets-gone', `The segment in which it meets the gateway is no longer at ${site.name}.`);
  if (segment.routed)
    return wrong('meets-elsewhere', `The gateway does not route “${segment.name}”: they do not meet there.`);
  const [ip, subnet] = [parseIp(meets.address), parsePrefix(segment.subnet)];
  if (!ip || !subnet || !contains(subnet, ip))
    return wrong('meets-address', `“${meets.address}” is no address of “${segment.name}”, ${segment.subnet}.`);
  const hosts = usableHosts(subnet);
  if (ip.value < hosts.first || ip.value > hosts.last)
    return wrong('meets-nobody', `${meets.address} stands for all of “${segment.name}”, and for nobody in it.`);
  if (formatIp(ip) === segment.gateway) return wrong('meets-gateway', `${meets.address} is the gateway itself.`);
  const twin = others.find((each) => each.meets?.segmentId === segment.id && each.meets.address === meets.address);
  return twin ? wrong('meets-twin', `${meets.address} is the address of “${twin.name}”.`) : [];
}

function normalised({ meets, at, ownWayOut, behind, lets, deviceId, ...router }: SiteRouter): SiteRouter {
  const ip = meets && parseIp(meets.address.trim());
  const prefixes = (behind ?? []).map((text) => {
    const prefix = parsePrefix(text.trim());
    return prefix ? formatPrefix(prefix) : text.trim();
  });
  return {
    ...router,
    name: router.name.trim(),
    ...(deviceId ? { deviceId } : {}),
    ...(meets ? { meets: { ...meets, address: ip ? formatIp(ip) : meets.address.trim() } } : {}),
    ...(at ? { at } : {}),
    ...(ownWayOut ? { ownWayOut } : {}),
    ...(prefixes.length > 0 ? { behind: prefixes } : {}),
    ...(lets && lets.length > 0 ? { lets } : {}),
  };
}
