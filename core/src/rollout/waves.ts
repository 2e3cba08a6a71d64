import { sheetFor, type DeviceKind } from '../hardware';
import type { RosterDevice } from '../intent';
import type { WavePlan } from './wave.contract';

/** A device that is to be told something else. */
export interface DeviceToTell extends Pick<RosterDevice, 'id' | 'name' | 'model' | 'sheet'> {
  readonly silent: boolean;
}

/** A site with the devices that are to be told something else, in the order in which they are told. */
export interface SiteToTell {
  readonly id: string;
  readonly name: string;
  readonly tags: readonly string[];
  /** How many clients are there now. */
  readonly clients: number;
  readonly devices: readonly DeviceToTell[];
}

/** Devices that are told before anybody goes on. */
export interface Wave {
  readonly name: string;
  readonly devices: readonly { readonly siteId: string; readonly deviceId: string }[];
}

const SHARES = [10, 50];
/** Least harm first: what fewest others hang on. */
const TRIED: readonly DeviceKind[] = ['ap', 'switch', 'gateway'];
const KINDS: readonly DeviceKind[] = ['gateway', 'switch', 'ap'];

/**
 * Parts what a rollout tells into waves: the canary, then the rest by sites. Each device is in one wave; a site's devices keep
 * their order. Sites where fewest clients would notice come first.
 * @throws RangeError for a canary at a site that is told nothing.
 */
export function wavesOf(all: readonly SiteToTell[], plan: WavePlan): Wave[] {
  const sites = byHarm(all.filter(({ devices }) => devices.length > 0));
  if (sites.length === 0) return [];
  const first = canaryOf(sites, plan);
  const tried = new Set(first?.devices.map(({ deviceId }) => deviceId));
  const rest = sites.flatMap((site) => {
    const devices = site.devices.filter(({ id }) => !tried.has(id));
    return devices.length > 0 ? [{ ...site, devices }] : [];
  });
  const waves = rest.length === 0 ? [] : parted(rest, plan).map(([name, of]) => ({ name, devices: of.flatMap(told) }));
  return first ? [first, ...waves] : waves;
}

const told = ({ id, devices }: SiteToTell): Wave['devices'] =>
  devices.map((device) => ({ siteId: id, deviceId: device.id }));
const kindOf = (device: DeviceToTell): DeviceKind => sheetFor(device).kind;
const silentOf = ({ devices }: SiteToTell): number => devices.filter(({ silent }) => silent).length;

/** Where least is risked first: all of it heard, then where fewest clients are, then the smallest. */
const byHarm = (sites: readonly SiteToTell[]): SiteToTell[] =>
  [...sites].sort(
    (a, b) =>
      Number(silentOf(a) > 0) - Number(silentOf(b) > 0) ||
      a.clients - b.clients ||
      a.devices.length - b.devices.length ||
      (a.name < b.name ? -1 : a.name > b.name ? 1 : 0),
  );

function canaryOf(sites: readonly SiteToTell[], { canary, canarySiteId }: WavePlan): Wave | null {
  if (canary === 'none') return null;
  const site = canarySiteId === undefined ? sites[0] : sites.find(({ id }) => id === canarySiteId);
  if (!site) throw new RangeError('nothing is told at the site of the canary');
  if (canary === 'site') return { name: `Canary: ${site.name}`, devices: told(site) };
  const heard = site.devices.filter(({ silent }) => !silent);
  const from = heard.length > 0 ? heard : site.devices;
  if (canary === 'device') {
    const device = TRIED.flatMap((kind) => from.find((each) => kindOf(each) === kind) ?? [])[0] ?? from[0]!;
    return { name: `Canary: ${device.name}`, devices: [{ siteId: site.id, deviceId: device.id }] };
  }
  const some = KINDS.flatMap((kind) => from.find((each) => kindOf(each) === kind) ?? []);
  const devices = (some.length > 0 ? some : from.slice(0, 1)).map(({ id }) => ({ siteId: site.id, deviceId: id }));
  return { name: `Canary: some of ${site.name}`, devices };
}

function parted(sites: readonly SiteToTell[], { by, shares = SHARES }: WavePlan): [string, readonly SiteToTell[]][] {
  if (by === 'site') return sites.map((site) => [site.name, [site]]);
  if (by === 'tag') {
    const tagged = new Map<string, SiteToTell[]>();
    for (const site of sites) {
      const tag = [...site.tags].sort()[0] ?? '';
      tagged.set(tag, [...(tagged.get(tag) ?? []), site]);
    }
    const tags = [...tagged.keys()].sort((a, b) => Number(a === '') - Number(b === '') || (a < b ? -1 : 1));
    return tags.map((tag) => [tag === '' ? 'Without a tag' : `Tag ${tag}`, tagged.get(tag)!]);
  }
  if (by === 'share') {
    const parts: [string, readonly SiteToTell[]][] = [];
    let at = 0;
    for (const share of [...shares, 100]) {
      const to = Math.max(at, Math.ceil((sites.length * share) / 100));
      if (to > at) parts.push([share === 100 ? 'The rest' : `To ${share} % of the sites`, sites.slice(at, to)]);
      at = to;
    }
    return parts;
  }
  return [['All', sites]];
}
