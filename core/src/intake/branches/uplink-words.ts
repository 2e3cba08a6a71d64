import { flaw, type Flaw } from '../../base';
import {
  uplinkBase,
  uplinkPorts,
  UPLINK_WAYS,
  type RosterDevice,
  type UplinkEntry,
  type UplinkWay,
} from '../../intent';

/** An uplink as a row says it. */
export interface SaidUplink {
  readonly port: string;
  readonly entry: UplinkEntry;
  /** What the provider knows it by, to be kept as a secret. */
  readonly password: string | null;
}

const RATE = /^(\d{1,6}(?:\.\d{1,3})?)\/(\d{1,6}(?:\.\d{1,3})?)$/;
const HELP =
  'Write each as its port, if it is not the next, and how it comes to an address: dhcp, static 203.0.113.10/29 via 203.0.113.9, pppoe NAME PASSWORD, cellular or satellite; then, if known, Mb/s down/up such as 100/20, vlan 7, dns 192.0.2.53, standby.';

/**
 * Reads the uplinks of a gateway as people write them into one cell, parted by semicolons, such as
 * `dhcp 100/20; wan2 static 203.0.113.10/29 via 203.0.113.9 standby`. What is not said stays as usual.
 * @param secretFor makes the id under which a password is kept.
 */
export function readUplinks(
  text: string,
  gateway: RosterDevice,
  secretFor: () => string,
): { readonly uplinks: readonly SaidUplink[]; readonly flaws: readonly Flaw[] } {
  const ports = uplinkPorts(gateway).map(({ name }) => name);
  const uplinks: SaidUplink[] = [];
  for (const said of text.split(';').map((each) => each.trim())) {
    if (said === '') continue;
    const words = said.split(/\s+/);
    const named = ports.find((port) => port.toLowerCase() === words[0]!.toLowerCase());
    if (named !== undefined) words.shift();
    const port = named ?? ports.find((each) => !uplinks.some((other) => other.port === each));
    const wrong = (message: string) => ({ uplinks: [], flaws: [flaw('branch.uplink', message, 'uplinks')] });
    if (port === undefined) return wrong(`${gateway.model} has ${ports.length} uplinks at most.`);
    if (uplinks.some((other) => other.port === port)) return wrong(`${port} is said twice.`);
    const read = readWords(words, { on: true, way: uplinkBase(gateway, port).way }, secretFor);
    if (typeof read === 'string') return wrong(`“${said.replace(/(pppoe\s+\S+\s+)\S+/i, '$1…')}”: ${read} ${HELP}`);
    uplinks.push({ port, ...read });
  }
  return { uplinks, flaws: [] };
}

type Read = Omit<SaidUplink, 'port'>;

/** @returns what is wrong, in words, where it cannot be read. */
function readWords(words: readonly string[], usual: UplinkEntry, secretFor: () => string): Read | string {
  const left = [...words];
  let entry: UplinkEntry = usual;
  let password: string | null = null;
  const first = left[0]?.toLowerCase();
  if (UPLINK_WAYS.some((way) => way === first)) {
    left.shift();
    entry = { ...entry, way: first as UplinkWay };
  }
  if (entry.way === 'static') {
    const address = left.shift() ?? '';
    if (left[0]?.toLowerCase() === 'via') left.shift();
    const gateway = left.shift();
    if (gateway === undefined) return 'An address of its own wants its length, and the provider’s gateway behind via.';
    entry = { ...entry, fixed: { address, gateway } };
  }
  if (entry.way === 'pppoe') {
    const user = left.shift();
    password = left.shift() ?? null;
    if (user === undefined || password === null) return 'PPPoE wants a name and a password.';
    entry = { ...entry, login: { user, password: { secret: secretFor() } } };
  }
  while (left.length > 0) {
    const word = left.shift()!;
    const rate = RATE.exec(word);
    const key = word.toLowerCase();
    if (rate) entry = { ...entry, down: Number(rate[1]), up: Number(rate[2]) };
    else if (key === 'standby') entry = { ...entry, role: 'standby' };
    else if (key === 'shares') entry = { ...entry, role: 'shares' };
    else if (key === 'vlan' && /^\d{1,4}$/.test(left[0] ?? '')) entry = { ...entry, vlan: Number(left.shift()) };
    else if (key === 'dns' && left.length > 0) entry = { ...entry, dns: left.shift()!.split(',') };
    else if (key === 'apn' && left.length > 0) entry = { ...entry, apn: left.shift()! };
    else return `“${word}” is not understood.`;
  }
  return { entry, password };
}

/** Passwords of a cell of uplinks, covered: what is shown again is not what was typed. */
export const coveredUplinks = (text: string): string => text.replace(/(pppoe\s+\S+\s+)[^\s;]+/gi, '$1•••');

const WAY_NAMES: Readonly<Record<UplinkWay, string>> = {
  dhcp: 'address by DHCP',
  static: 'address of its own',
  pppoe: 'PPPoE',
  cellular: 'mobile network',
  satellite: 'satellite',
};

/** What was said of an uplink, in words. */
export function uplinkIs({ way = 'dhcp', fixed, login, apn, vlan, dns = [], down, up, role }: UplinkEntry): string {
  return [
    WAY_NAMES[way],
    fixed ? `${fixed.address} by ${fixed.gateway}` : '',
    login ? `as ${login.user}` : '',
    apn ? `access point ${apn}` : '',
    typeof vlan === 'number' ? `VLAN ${vlan}` : '',
    dns.length > 0 ? `names by ${dns.join(' and ')}` : '',
    typeof down === 'number' && typeof up === 'number' ? `${down}/${up} Mb/s` : '',
    role === 'standby' ? 'stands by' : role === 'shares' ? 'takes its share' : '',
  ]
    .filter((each) => each !== '')
    .join(', ');
}
