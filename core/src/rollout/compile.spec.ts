import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { ApDocument, GatewayDocument, SwitchDocument } from '../document';
import { canonicalJson } from '../document';
import { resolve, type EstatePart, type SitePart, type Ssid } from '../intent';
import { sampleId, sampleSegment, sampleSite } from '../testing';
import { compileSite, rolloutOrder } from '.';

const sample = sampleSite({ segments: 3, aps: 1 });
const [gatewayId, switchId, apId] = [sampleId(2, 0), sampleId(3, 0), sampleId(4, 0)];
const compile = (site: SitePart = sample.site, estate: EstatePart = sample.intent.estate, roster = sample.roster) =>
  compileSite(resolve(estate, site), roster);

describe('a gateway', () => {
  const gateway = () => compile().get(gatewayId) as GatewayDocument;
  test('holds each segment’s gateway address and serves its addresses', () => {
    expect(gateway().interfaces).toEqual([
      { vlan: 1, name: 'Management', address: '10.1.1.1/24' },
      { vlan: 10, name: 'Segment 1', address: '10.1.10.1/24' },
      { vlan: 20, name: 'Segment 2', address: '10.1.20.1/24' },
    ]);
    expect(gateway().addressServices[1]).toEqual({
      vlan: 10,
      subnet: '10.1.10.0/24',
      first: '10.1.10.20',
      last: '10.1.10.254',
      gateway: '10.1.10.1',
      dns: ['10.1.10.1'],
      leaseSeconds: 28_800,
    });
  });
  test('carries every segment inside, and translates towards providers', () => {
    expect(gateway().ports).toEqual(['1', '2', '3', '4'].map((name) => ({ name, untagged: 1, tagged: [10, 20] })));
    expect(gateway().uplinks.map((uplink) => [uplink.port, uplink.translate])).toEqual([
      ['wan1', true],
      ['wan2', true],
    ]);
  });
  test('serves nothing where a segment gives no addresses', () => {
    const segments = sample.site.segments.map((segment) => ({ ...segment, addresses: null }));
    expect((compile({ ...sample.site, segments }).get(gatewayId) as GatewayDocument).addressServices).toEqual([]);
  });
  test('that is not the site’s first by name leaves the addresses to the first', () => {
    const second = { ...sample.roster[0]!, id: sampleId(2, 9), name: 'x-gw-02', serial: 'GW-9' };
    const documents = compile(sample.site, sample.intent.estate, [second, ...sample.roster]);
    expect((documents.get(second.id) as GatewayDocument).interfaces).toEqual([]);
    expect((documents.get(gatewayId) as GatewayDocument).interfaces).toHaveLength(3);
  });
});

describe('a switch', () => {
  test('carries on each port what the port is set to, by VLAN ID, ascending', () => {
    const ports = {
      [switchId]: {
        '5': { untagged: sampleSegment(2).id, tagged: [sampleSegment(1).id] },
        '6': { untagged: null, tagged: [] },
      },
    };
    const document = compile({ ...sample.site, ports }).get(switchId) as SwitchDocument;
    const port = (name: string) => document.ports.find((each) => each.name === name);
    expect(port('5')).toEqual({ name: '5', untagged: 20, tagged: [10] });
    expect(port('6')).toEqual({ name: '6', untagged: null, tagged: [] });
    expect(port('7')).toEqual({ name: '7', untagged: 1, tagged: [] });
    expect(port('26')).toEqual({ name: '26', untagged: 1, tagged: [10, 20] });
    expect(document.vlans).toEqual([
      { vlan: 1, name: 'Management' },
      { vlan: 10, name: 'Segment 1' },
      { vlan: 20, name: 'Segment 2' },
    ]);
  });
});

describe('an AP', () => {
  const [one] = sample.intent.estate.ssids;
  const withSsid = (change: Partial<Ssid>) => ({ ...sample.intent.estate, ssids: [{ ...one!, ...change }] });
  const ap = (estate: EstatePart) => compile(sample.site, estate).get(apId) as ApDocument;
  test('sends the SSIDs that reach its site, and tags their VLANs on its own port', () => {
    const document = ap(sample.intent.estate);
    expect(document.ssids.map((ssid) => [ssid.name, ssid.vlan])).toEqual([
      ['SSID 1', 10],
      ['SSID 2', 20],
    ]);
    expect(document.ports).toEqual([{ name: 'lan', untagged: 1, tagged: [10, 20] }]);
  });
  test('leaves out what it has no radio or the site no segment for, and what does not reach the site', () => {
    const small = sample.roster.map((device) => (device.id === apId ? { ...device, model: 'AP-6' } : device));
    const on6 = withSsid({ bands: ['6'], security: 'wpa3-sae' });
    expect((compile(sample.site, on6, small).get(apId) as ApDocument).ssids).toEqual([]);
    expect(ap(on6).ssids).toHaveLength(1);
    expect(ap(withSsid({ segment: 'Elsewhere' })).ssids).toEqual([]);
    expect(ap(withSsid({ reach: { kind: 'sites', siteIds: ['other'] } })).ssids).toEqual([]);
    expect(ap(withSsid({ segment: 'SEGMENT 2' })).ssids[0]!.vlan).toBe(20);
  });
  test('tags nothing for an SSID in the segment it lives in', () => {
    expect(ap(withSsid({ segment: 'Management' })).ports[0]).toEqual({ name: 'lan', untagged: 1, tagged: [] });
  });
});

test('the same input gives the same bytes, in whatever order devices are listed', () => {
  fc.assert(
    fc.property(fc.shuffledSubarray([...sample.roster], { minLength: sample.roster.length }), (roster) => {
      const documents = compile(sample.site, sample.intent.estate, roster);
      for (const [id, document] of compile()) expect(canonicalJson(documents.get(id))).toBe(canonicalJson(document));
    }),
    { seed: Number(process.env['SEED'] ?? 1), numRuns: 20 },
  );
});

test('devices are told from the gateway outwards, by name within a kind', () => {
  const roster = sampleSite({ segments: 2, aps: 21 }).roster;
  const names = rolloutOrder([...roster].reverse()).map((device) => device.name);
  expect(names.slice(0, 5)).toEqual(['x-gw-01', 'x-sw-01', 'x-sw-02', 'x-ap-01', 'x-ap-02']);
});
