import { expect, test } from 'vitest';
import { contains, parsePrefix, type Prefix } from '../address';
import { firstMatch, type Packet, type PacketRule } from '../rules';
import { aimedPackets, randomRules } from '../testing';
import { ietfAclOf } from './ietf-acl';

interface Ports {
  operator?: 'eq';
  port?: number;
  'lower-port'?: number;
  'upper-port'?: number;
}
type Header = Record<'source-port' | 'destination-port', Ports | undefined>;
interface Ace {
  name: string;
  matches?: Record<'ipv4' | 'ipv6', Record<string, string | number> | undefined> &
    Record<'tcp' | 'udp', Header | undefined> & { icmp?: { type?: number; code?: number } };
  actions: { forwarding: string };
}
const listsOf = (rules: readonly PacketRule[]) =>
  (ietfAclOf(rules, 'deny') as { 'ietf-access-control-list:acls': { acl: { type: string; aces: { ace: Ace[] } }[] } })[
    'ietf-access-control-list:acls'
  ].acl;

/** Reads the entries as RFC 8519 §4.1 describes them, without anything of ours that decides packets. */
function matches({ matches: asked }: Ace, packet: Packet): boolean {
  if (!asked) return true;
  const [name, bits] = packet.version === 4 ? (['ipv4', 32] as const) : (['ipv6', 128] as const);
  const ip = asked[name];
  const lies = (value: bigint, text: string | number | undefined): boolean =>
    text === undefined ||
    contains(parsePrefix(String(text))!, { version: packet.version, network: value, length: bits } satisfies Prefix);
  const within = (port: number | undefined, ports: Ports | undefined): boolean =>
    !ports ||
    (ports.operator === 'eq' ? port === ports.port : port! >= ports['lower-port']! && port! <= ports['upper-port']!);
  if (ip) {
    if (ip['protocol'] !== undefined && ip['protocol'] !== packet.protocol) return false;
    if (!lies(packet.source, ip[`source-${name}-network`])) return false;
    if (!lies(packet.destination, ip[`destination-${name}-network`])) return false;
  }
  const header = asked.tcp ?? asked.udp;
  if (header && !(within(packet.sourcePort, header['source-port']) && within(packet.port, header['destination-port'])))
    return false;
  const { type = packet.type, code = packet.code } = asked.icmp ?? {};
  return type === packet.type && code === packet.code;
}

test('access lists decide every packet as the rules do, read by what the standard says of their fields', () => {
  for (let round = 0; round < 6; round++) {
    const rules = randomRules(round + 1, 15, 5);
    const [four, six] = listsOf(rules);
    for (const packet of aimedPackets(round, rules, 600, 5)) {
      const list = packet.version === 4 ? four! : six!;
      const entry = list.aces.ace.find((each) => matches(each, packet))!;
      const wanted = (firstMatch(rules, packet)?.verdict ?? 'deny') === 'allow' ? 'accept' : 'drop';
      expect(entry.actions.forwarding).toBe(`ietf-access-control-list:${wanted}`);
    }
  }
});

test('entries have names of their own, and both lists end with what happens to the rest', () => {
  for (const { aces, type } of listsOf(randomRules(4, 30, 5))) {
    const names = aces.ace.map(({ name }) => name);
    expect(new Set(names).size).toBe(names.length);
    expect(aces.ace.at(-1)).toEqual({ name: 'otherwise', actions: { forwarding: 'ietf-access-control-list:drop' } });
    expect(type).toMatch(/:ipv[46]-acl-type$/);
  }
});

test('every entry has a name of its own, of 64 characters at most', () => {
  const [rule] = randomRules(3, 1, 3);
  const long = 'x'.repeat(90);
  const ids = ['otherwise', `${long}a`, `${long}b`, 'isolation 1 out', `${'船'.repeat(70)}`, '1', '1 1'];
  const two = [{ protocol: 'tcp' as const }, { protocol: 'udp' as const }];
  for (const { aces } of listsOf(ids.map((id) => ({ ...rule!, id, services: two })))) {
    const names = aces.ace.map(({ name }) => name);
    expect(new Set(names).size).toBe(names.length);
    expect(names.every((name) => [...name].length >= 1 && [...name].length <= 64)).toBe(true);
    expect(names.at(-1)).toBe('otherwise');
  }
});
