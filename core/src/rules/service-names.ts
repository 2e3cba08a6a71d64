import { readServices } from './rule-text';
import { readPorts } from './resolve-rules';

/**
 * Services by the names people call them by: those of the registry of service names and port numbers (RFC 6335; IANA),
 * and plain words. Each as it would be typed.
 */
const SERVICES: Readonly<Record<string, string>> = {
  ping: 'icmp 8; 58 128', // RFC 792, RFC 4443 §4.1
  ssh: 'tcp 22',
  telnet: 'tcp 23',
  smtp: 'tcp 25',
  mail: 'tcp 25,465,587',
  dns: 'udp 53; tcp 53',
  domain: 'udp 53; tcp 53',
  names: 'udp 53; tcp 53',
  dhcp: 'udp 67',
  bootps: 'udp 67',
  tftp: 'udp 69',
  http: 'tcp 80',
  https: 'tcp 443; udp 443', // RFC 9110, RFC 9114
  web: 'tcp 80,443; udp 443',
  kerberos: 'tcp 88; udp 88',
  pop3: 'tcp 110',
  ntp: 'udp 123',
  time: 'udp 123',
  imap: 'tcp 143',
  snmp: 'udp 161',
  ldap: 'tcp 389',
  submissions: 'tcp 465',
  syslog: 'udp 514',
  submission: 'tcp 587',
  ipp: 'tcp 631',
  ldaps: 'tcp 636',
  imaps: 'tcp 993',
  pop3s: 'tcp 995',
  mqtt: 'tcp 1883',
  radius: 'udp 1812,1813',
  nfs: 'tcp 2049',
  sip: 'udp 5060; tcp 5060',
  sips: 'tcp 5061',
  mdns: 'udp 5353',
  'pdl-datastream': 'tcp 9100',
  printing: 'tcp 631,9100',
};

/** Names that services are called by, each with what it stands for. */
export const SERVICE_NAMES = Object.entries(SERVICES).map(([name, services]) => ({ name, services }));

/**
 * Reads services as people say them: as in a rule (`tcp 443`), a port alone, which is of TCP and UDP, or a name such as
 * `ssh` or `ping`; several are parted by `;`, commas or *and*.
 * @returns them as they would be typed in a rule; null where a part is none of these.
 */
export function saidServices(text: string): string | null {
  const whole = text.trim().replace(/^ports?\s+/i, '');
  if (whole === '') return null;
  const one = (part: string): string | null => {
    const words = part.trim().toLowerCase();
    if (Object.hasOwn(SERVICES, words)) return SERVICES[words]!;
    const ports = words.replace(/^ports?\s+/, '').replace(/\s*([,-])\s*/g, '$1');
    if (/^[\d,-]+$/.test(ports) && ports.split(',').every((each) => readPorts(each) !== null))
      return `tcp ${ports}; udp ${ports}`;
    return readServices(part).bad.length === 0 ? part.trim() : null;
  };
  const all = (parts: readonly string[]): string | null => {
    const read = parts.filter((part) => part.trim() !== '').map(one);
    return read.length === 0 || read.includes(null) ? null : read.join('; ');
  };
  return one(whole) ?? all(whole.split(/;|\band\b/i)) ?? all(whole.split(/;|,|\band\b/i));
}
