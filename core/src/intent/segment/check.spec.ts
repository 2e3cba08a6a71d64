import { expect, test } from 'vitest';
import { sampleSegment, sampleSite } from '../../testing';
import { normaliseSegment, type AddressService, type Segment } from '..';
import { checkSegment } from './check';

const { site } = sampleSite({ segments: 1, aps: 0 });
const codes = (change: Partial<Segment>): string[] =>
  checkSegment(normaliseSegment({ ...sampleSegment(1), ...change }), site.id, [site]).map(({ code }) => code);
const served = (change: Partial<AddressService>): string[] =>
  codes({ addresses: { ...sampleSegment(1).addresses!, ...change } });
const reserve = (...list: [mac: string, address: string][]) =>
  served({ reservations: list.map(([mac, address]) => ({ mac, address, name: '' })) });

test.each([
  [
    'a second range inside the first',
    served({ also: [{ first: '10.1.10.30', last: '10.1.10.40' }] }),
    ['segment.ranges-overlap'],
  ],
  ['a second range apart', served({ last: '10.1.10.99', also: [{ first: '10.1.10.150', last: '10.1.10.160' }] }), []],
  ['a range inside out', served({ first: '10.1.10.200', last: '10.1.10.100' }), ['segment.range-reversed']],
  ['a range over the gateway', served({ first: '10.1.10.1' }), ['segment.range-gateway']],
  [
    'the same with the gateway left out',
    served({ first: '10.1.10.1', exclude: [{ first: '10.1.10.1', last: '10.1.10.1' }] }),
    [],
  ],
  [
    'an exclusion outside the ranges',
    served({ exclude: [{ first: '10.1.10.2', last: '10.1.10.3' }] }),
    ['segment.exclude-outside'],
  ],
  ['a reservation', reserve(['02-00-00-00-00-0A', '10.1.10.5']), []],
  ['a reservation outside', reserve(['02:00:00:00:00:01', '10.1.11.5']), ['segment.reservation-outside']],
  ['a reservation of the gateway', reserve(['02:00:00:00:00:01', '10.1.10.1']), ['segment.reservation-gateway']],
  ['a reservation without a MAC', reserve(['printer', '10.1.10.5']), ['segment.reservation-mac']],
  [
    'one MAC twice, differently written',
    reserve(['02:00:00:00:00:0a', '10.1.10.5'], ['0200.0000.000A', '10.1.10.6']),
    ['segment.reservation-mac-twice'],
  ],
  [
    'one address twice',
    reserve(['02:00:00:00:00:01', '10.1.10.5'], ['02:00:00:00:00:02', '10.1.10.5']),
    ['segment.reservation-twice'],
  ],
  ['no route', served({ route: 'none' }), []],
  ['another host’s route inside the range', served({ route: '10.1.10.30' }), ['segment.range-route']],
  [
    'another host’s route that is left out of it',
    served({ route: '10.1.10.30', exclude: [{ first: '10.1.10.30', last: '10.1.10.30' }] }),
    [],
  ],
  ['a route elsewhere', served({ route: '10.9.9.9' }), ['segment.route-outside']],
  ['a name as name server', served({ dns: ['dns.example'] }), ['segment.dns-malformed']],
  ['option 43 in hex', served({ options: [{ code: 43, value: '0x0104c0000201' }] }), []],
  [
    'option 6, which is the name servers',
    served({ options: [{ code: 6, value: '192.0.2.1' }] }),
    ['segment.option-derived'],
  ],
  ['option 300', served({ options: [{ code: 300, value: 'x' }] }), ['segment.option-code']],
  ['half a byte', served({ options: [{ code: 43, value: '0x123' }] }), ['segment.option-value']],
  [
    'a relay into the segment itself',
    served({ from: { kind: 'relay', server: '10.1.10.9' } }),
    ['segment.relay-inside'],
  ],
  [
    'a switch at the gateway’s address',
    served({ from: { kind: 'switch', deviceId: 's', address: '10.1.10.1' } }),
    ['segment.server-gateway'],
  ],
  [
    'a switch in the range',
    served({ from: { kind: 'switch', deviceId: 's', address: '10.1.10.30' } }),
    ['segment.server-given'],
  ],
  ['one AP for all, without one', served({ from: { kind: 'ap', how: 'one', deviceIds: [] } }), ['segment.server-none']],
  ['a domain name', codes({ domain: 'Crew.Skerrow.Example.' }), []],
  ['what is no domain name', codes({ domain: 'crew_skerrow' }), ['segment.domain']],
  ['an IPv6 prefix', codes({ v6: { prefix: '2001:db8:10::/64', gateway: '2001:db8:10::1', mode: 'slaac' } }), []],
  [
    'a /60 that clients are to make addresses in',
    codes({ v6: { prefix: '2001:db8:10::/60', gateway: '2001:db8:10::1', mode: 'slaac' } }),
    ['segment.v6-length'],
  ],
  [
    'an IPv6 gateway outside',
    codes({ v6: { prefix: '2001:db8:10::/64', gateway: '2001:db8:11::1', mode: 'slaac' } }),
    ['segment.v6gateway-outside'],
  ],
  [
    'DHCPv6 without a range',
    codes({ v6: { prefix: '2001:db8:10::/64', gateway: '2001:db8:10::1', mode: 'stateful' } }),
    ['segment.v6first-malformed', 'segment.v6last-malformed'],
  ],
])('%s', (_name, found, wanted) => {
  expect(found).toEqual(wanted);
});

test('an overlap is found over sites, in IPv6 too, and names the other', () => {
  const v6 = { prefix: '2001:db8:10::/64', gateway: '2001:db8:10::1', mode: 'slaac' } as const;
  const other = { ...sampleSegment(2, 5), name: 'Berths', v6 };
  const elsewhere = { ...site, id: 'other', name: 'Brinmouth', segments: [other] };
  const mine = { ...sampleSegment(1), subnet: '10.6.0.0/16', gateway: '10.6.0.1', addresses: null, v6 };
  expect(checkSegment(mine, site.id, [site, elsewhere]).map(({ field, message }) => [field, message])).toEqual([
    ['subnet', '10.6.0.0/16 overlaps 10.6.20.0/24 of “Berths” at Brinmouth.'],
    ['v6', '2001:db8:10::/64 overlaps 2001:db8:10::/64 of “Berths” at Brinmouth.'],
  ]);
});

test('what says nothing leaves no trace, so equal segments are equal bytes', () => {
  const plain = sampleSegment(1);
  const wordy: Segment = {
    ...plain,
    domain: '',
    purpose: null,
    v6: null,
    addresses: { ...plain.addresses!, also: [], reservations: [], from: { kind: 'gateway' } },
  };
  expect(JSON.stringify(normaliseSegment(wordy))).toBe(JSON.stringify(normaliseSegment(plain)));
});
