import {
  contains,
  formatPrefix,
  formatRange,
  isVlanId,
  overlaps,
  parseIp,
  parseMac,
  parsePrefix,
  prefixOf,
  usableHosts,
  type Prefix,
} from '../../address';
import { flaw, type Flaw } from '../../base';
import { sheetFor } from '../../hardware';
import type { Target, Watch } from '../../paths';
import type { Intent } from '../part';
import type { RosterDevice } from '../roster';
import { leavingSetting, uplinkSettings, usualMtu, weightOf, type UplinkSite } from './setting';
import {
  LEAST_BELOW,
  MOST_BELOW,
  MOST_NAME_SERVERS,
  MOST_PART,
  MOST_TARGETS,
  MOST_WEIGHT,
  type FixedUplink,
  type UplinkFields,
} from './uplink';

/** Sites of the estate; none where it is not known. */
type Sites = Intent['sites'];

/** Everything wrong with what is said of an uplink, by itself and beside the rest of the estate. */
export function checkUplink(sites: Sites, device: RosterDevice, port: string, fields: UplinkFields): Flaw[] {
  return [
    ...checkWay(fields),
    ...checkFrames(device, port, fields),
    ...checkFixed(sites, device, port, fields),
    ...checkUse(fields),
    ...(fields.watch ? checkWatch(fields.watch) : []),
  ];
}

function* given(fields: Pick<UplinkFields, 'fixed' | 'fixed6'>): Generator<['fixed' | 'fixed6', FixedUplink]> {
  if (fields.fixed) yield ['fixed', fields.fixed];
  if (fields.fixed6) yield ['fixed6', fields.fixed6];
}

function checkWay({ way, fixed, login, apn, six, fixed6, title }: UplinkFields): Flaw[] {
  const flaws: Flaw[] = [];
  if (title !== null && title.trim() === '')
    flaws.push(flaw('uplink.title', 'Leave the name away, or give it letters.', 'title'));
  if (way === 'static' && !fixed)
    flaws.push(flaw('uplink.no-address', 'Say the address with its length, and the gateway.', 'fixed'));
  if (way === 'pppoe') {
    if (!login) flaws.push(flaw('uplink.no-login', 'Say the name and the password that the provider gave.', 'login'));
    else if (login.user.trim() === '')
      flaws.push(flaw('uplink.login', 'Say the name that the provider gave.', 'login'));
  }
  if (apn !== null && !/^[a-z0-9]([a-z0-9.-]{0,98}[a-z0-9])?$/i.test(apn))
    flaws.push(flaw('uplink.apn', `“${apn}” is no name of an access point: letters, digits, points, hyphens.`, 'apn'));
  if (six === 'static' && !fixed6)
    flaws.push(flaw('uplink.no-address', 'Say the IPv6 address with its length, and the gateway.', 'fixed6'));
  return flaws;
}

function checkFrames(device: RosterDevice, port: string, fields: UplinkFields): Flaw[] {
  const flaws: Flaw[] = [];
  const { vlan, mtu, way, six, mac, dns, down, up } = fields;
  if (vlan !== null && !isVlanId(vlan))
    flaws.push(flaw('uplink.vlan', 'A VLAN ID is a whole number from 1 to 4094.', 'vlan'));
  const [least, most] = [six === 'none' ? 576 : 1280, usualMtu(way)];
  if (mtu !== null && !(Number.isInteger(mtu) && mtu >= least && mtu <= most)) {
    const why = six === 'none' ? '' : ': IPv6 needs 1280 (RFC 8200)';
    flaws.push(flaw('uplink.mtu', `Packets have ${least} to ${most} octets here${why}.`, 'mtu'));
  }
  if (mac !== null) {
    const value = parseMac(mac);
    if (value === null) flaws.push(flaw('uplink.mac', `“${mac}” is no MAC address, such as 02:5a:10:00:00:2b.`, 'mac'));
    else if (((value >> 40n) & 1n) === 1n)
      flaws.push(flaw('uplink.mac', 'That is an address of a group of devices, not of one.', 'mac'));
  }
  if (dns.length > MOST_NAME_SERVERS)
    flaws.push(flaw('uplink.dns', `${MOST_NAME_SERVERS} name servers at most.`, 'dns'));
  flaws.push(...checkNameServers(fields));
  const { below } = fields;
  if (below !== null && !(below >= LEAST_BELOW && below <= MOST_BELOW))
    flaws.push(flaw('uplink.below', `It is kept to ${LEAST_BELOW} to ${MOST_BELOW} % of what it can do.`, 'below'));
  else if (below !== null && (down === null || up === null))
    flaws.push(flaw('uplink.below-unknown', 'Say first what it can do down and up, in Mb/s, or measure it.', 'below'));
  const speed = sheetFor(device).ports.find(({ name }) => name === port)!.speed;
  for (const [field, value] of [
    ['down', down],
    ['up', up],
  ] as const)
    if (value !== null && !(value > 0 && value <= speed))
      flaws.push(flaw('uplink.capacity', `${port} of ${device.name} does ${speed} Mb/s at most.`, field));
  return flaws;
}

/** Name servers beside the uplink’s own addresses: each has to be somebody whom the uplink can ask. */
function checkNameServers(fields: Pick<UplinkFields, 'dns' | 'six' | 'fixed' | 'fixed6'>): Flaw[] {
  const bad = (text: string): Flaw[] => [flaw('uplink.dns', text, 'dns')];
  for (const text of fields.dns) {
    const ip = parseIp(text);
    if (!ip) return bad(`“${text}” is no address of a name server.`);
    if (ip.version === 6 && fields.six === 'none')
      return bad(`${text} is asked by IPv6, which this uplink does not use.`);
    for (const [, { address }] of given(fields)) {
      const own = parseIp(address.split('/')[0]!);
      const subnet = /\/\d{1,3}$/.test(address) ? prefixAt(address) : null;
      if (own?.version !== ip.version) continue;
      if (own.value === ip.value) return bad(`${text} is the uplink’s own address: name servers are somebody else.`);
      const hosts = subnet && contains(subnet, ip) ? usableHosts(subnet) : null;
      if (hosts && (ip.value < hosts.first || ip.value > hosts.last))
        return bad(`${text} is no address that a host may have in the uplink’s subnet.`);
    }
  }
  return [];
}

function checkFixed(sites: Sites, device: RosterDevice, port: string, fields: UplinkFields): Flaw[] {
  const flaws: Flaw[] = [];
  for (const [field, { address, gateway }] of given(fields)) {
    const version = field === 'fixed' ? 4 : 6;
    const [own, length] = [parseIp(address.split('/')[0]!), address.split('/')[1]];
    const subnet = own && length !== undefined && /^\d{1,3}$/.test(length) ? prefixAt(address) : null;
    if (!own || own.version !== version || !subnet) {
      const example = version === 4 ? '203.0.113.11/29' : '2001:db8:7::2/64';
      flaws.push(flaw('uplink.address', `“${address}” is no address with its length, such as ${example}.`, field));
      continue;
    }
    const router = parseIp(gateway);
    const hosts = usableHosts(subnet);
    if (own.value < hosts.first || own.value > hosts.last)
      flaws.push(flaw('uplink.address', `${address} is no address that a host may have in its subnet.`, field));
    if (!router || router.version !== version)
      flaws.push(flaw('uplink.gateway', `“${gateway}” is no address of a gateway.`, field));
    else if (router.value === own.value)
      flaws.push(flaw('uplink.gateway', 'The gateway is the provider’s and has another address.', field));
    else if (!contains(subnet, router) && !(version === 6 && contains(LINK_LOCAL, router)))
      flaws.push(flaw('uplink.gateway-outside', `The gateway ${gateway} is outside of ${textOf(subnet)}.`, field));
    const twin = twinOf(sites, device, port, own.value, version);
    if (twin) flaws.push(flaw('uplink.address-taken', `${twin} has ${address.split('/')[0]} already.`, field));
    flaws.push(...meetingSegments(sites, subnet, field));
  }
  return flaws;
}

const LINK_LOCAL = parsePrefix('fe80::/10')!;
const prefixAt = (text: string): Prefix | null => {
  const [address, length] = text.split('/') as [string, string];
  const ip = parseIp(address);
  return ip && Number(length) <= (ip.version === 4 ? 32 : 128) ? prefixOf(ip, Number(length)) : null;
};
const textOf = (prefix: Prefix): string => {
  const { first, last } = usableHosts(prefix);
  return `its subnet, ${formatRange({ version: prefix.version, first, last })}`;
};

/** The uplink of the estate that has an address already, in words. */
function twinOf(sites: Sites, device: RosterDevice, port: string, value: bigint, version: 4 | 6): string | null {
  for (const other of sites.values())
    for (const [deviceId, ports] of Object.entries(other.uplinks ?? {}))
      for (const [name, entry] of Object.entries(ports)) {
        if (deviceId === device.id && name === port) continue;
        for (const [, { address }] of given({ fixed: entry.fixed ?? null, fixed6: entry.fixed6 ?? null })) {
          const ip = parseIp(address.split('/')[0]!);
          if (ip?.version !== version || ip.value !== value) continue;
          const title = entry.title ?? name;
          return deviceId === device.id ? `Its uplink ${title}` : `An uplink at ${other.name}, ${title},`;
        }
      }
  return null;
}

/** Segments of the estate whose subnets an uplink’s meets: nobody could tell inside from outside. */
function meetingSegments(sites: Sites, subnet: Prefix, field: string): Flaw[] {
  for (const site of sites.values())
    for (const segment of site.segments) {
      const inside = parsePrefix(subnet.version === 4 ? segment.subnet : (segment.v6?.prefix ?? ''));
      if (!inside || inside.version !== subnet.version || !overlaps(inside, subnet)) continue;
      const text = `It meets ${segment.name} of ${site.name}, ${formatPrefix(inside)}: nobody could tell inside from outside.`;
      return [flaw('uplink.meets-segment', text, field)];
    }
  return [];
}

function checkUse({ allowance, anew, price, weight, turn }: UplinkFields): Flaw[] {
  const flaws: Flaw[] = [];
  if (allowance !== null && !(allowance > 0 && allowance <= 1_000_000))
    flaws.push(flaw('uplink.allowance', 'Say how many gigabytes a month, or leave it empty.', 'allowance'));
  if (!(Number.isInteger(anew) && anew >= 1 && anew <= 28))
    flaws.push(flaw('uplink.anew', 'The month begins anew on a day from 1 to 28, which every month has.', 'anew'));
  if (price !== null && !(price >= 0 && price <= 10_000))
    flaws.push(flaw('uplink.price', 'Say what a gigabyte costs, 0 or more.', 'price'));
  if (!(Number.isInteger(weight) && weight >= 0 && weight <= MOST_WEIGHT))
    flaws.push(flaw('uplink.weight', `A weight is a whole number from 0 to ${MOST_WEIGHT}.`, 'weight'));
  if (!(Number.isInteger(turn) && turn >= 0 && turn <= 99))
    flaws.push(flaw('uplink.turn', 'The turn of a standby is a whole number from 0 to 99.', 'turn'));
  return flaws;
}

/** What is wrong with how an uplink is watched. */
export function checkWatch({ targets, interval, losses, timeout, good, hold }: Watch): Flaw[] {
  const flaws: Flaw[] = [];
  const bad = (code: string, text: string): void => void flaws.push(flaw(`uplink.${code}`, text, 'watch'));
  if (targets.length === 0) bad('no-target', 'Name at least one target to ask.');
  if (targets.length > MOST_TARGETS) bad('targets', `${MOST_TARGETS} targets at most.`);
  for (const target of targets) {
    const text = targetFlaw(target);
    if (text !== null) bad('target', text);
  }
  const twice = targets.find((one, i) => targets.findIndex((each) => same(each, one)) !== i);
  if (twice) bad('target-twice', `${twice.to} is asked twice the same way.`);
  if (!(interval >= 0.2 && interval <= 3600)) bad('interval', 'It is asked every 0.2 s to every hour.');
  if (!(timeout >= 0.05 && timeout <= 60)) bad('timeout', 'An answer is waited for 0.05 s to 60 s.');
  else if (interval < timeout)
    bad('interval-short', `The interval, ${interval} s, is shorter than an answer is waited for, ${timeout} s.`);
  for (const [what, value] of [
    ['Lost in a row', losses],
    ['Good in a row', good],
  ] as const)
    if (!(Number.isInteger(value) && value >= 1 && value <= 100)) bad('run', `${what}: a whole number from 1 to 100.`);
  if (!(hold >= 0 && hold <= 86_400)) bad('hold', 'It has to stay good for 0 s to a day.');
  return flaws;
}

const same = (a: Target, b: Target): boolean => a.by === b.by && a.to === b.to && a.name === b.name;

function targetFlaw({ by, to, name }: Target): string | null {
  const isWord = to === 'gateway' || to === 'controller';
  if (!isWord && !parseIp(to)) return `“${to}” is no address. Names cannot be looked up while an uplink is gone.`;
  if (by === 'http' && to === 'gateway') return 'The provider’s router serves no pages: ping it.';
  if (by === 'dns' && !(name && /^([a-z0-9_]([a-z0-9-]{0,61}[a-z0-9])?\.)*[a-z]{2,63}$/i.test(name)))
    return `Say the name that ${to} is asked for.`;
  return by !== 'dns' && name !== undefined ? 'A name belongs to questions for names alone.' : null;
}

/** What is wrong with all uplinks of a gateway taken together. */
export function checkTogether(site: UplinkSite, device: RosterDevice): Flaw[] {
  const settings = uplinkSettings(site, device);
  const { by, back, parts } = leavingSetting(site, device);
  const flaws: Flaw[] = [];
  if (back !== 'hand' && back !== 'never' && !(back >= 0 && back <= 86_400))
    flaws.push(flaw('uplink.back', 'An uplink is used again 0 s to a day after it is good again.', 'back'));
  if (Object.values(parts).some((weight) => !(weight > 0 && weight <= MOST_PART)))
    flaws.push(flaw('uplink.part', `A segment’s weight is more than 0, and ${MOST_PART} at most.`, 'parts'));
  const sharing = settings.filter(({ role }) => role === 'shares');
  for (const { port, title, role, instead } of settings) {
    const lost = role === 'standby' && instead.find((each) => !sharing.some((one) => one.port === each));
    if (!lost) continue;
    const text = `${title ?? port} stands by for ${lost}, which is no uplink that takes a share.`;
    flaws.push(flaw('uplink.instead', text, 'instead'));
  }
  if (settings.length > 0 && sharing.length === 0)
    flaws.push(flaw('uplink.none-shares', `One uplink of ${device.name} at least has to take a share.`, 'role'));
  else if (by === 'capacity') {
    const unknown = sharing.filter(({ down }) => down === null);
    if (unknown.length > 0 && sharing.length > 1) {
      const names = unknown.map(({ title, port }) => title ?? port).join(', ');
      flaws.push(flaw('uplink.unknown-capacity', `Say first what ${names} can do, in Mb/s, or share by weight.`, 'by'));
    }
  } else if (sharing.length > 0 && sharing.every((each) => weightOf(each, by) === 0))
    flaws.push(flaw('uplink.weights', 'All weights are 0: nobody would leave by any of them.', 'weight'));
  return flaws;
}
