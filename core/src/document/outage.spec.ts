import { expect, test } from 'vitest';
import { resolve } from '../intent';
import { compileSite } from '../rollout';
import { sampleSite } from '../testing';
import type {
  ApDocument,
  ClassDocument,
  GatewayDocument,
  PortDocument,
  SsidDocument,
  SwitchDocument,
} from './document';
import { outagesOf, OUTAGE_SECONDS } from './outage';

const { intent, site, roster } = sampleSite({ segments: 4, aps: 1, switches: 1 });
const documents = [...compileSite(resolve(intent.estate, site), roster).values()];
const ap = documents.find(({ kind }) => kind === 'ap') as ApDocument;
const sw = documents.find(({ kind }) => kind === 'switch') as SwitchDocument;
const gateway = documents.find(({ kind }) => kind === 'gateway') as GatewayDocument;
const withSsid = (change: Partial<SsidDocument>, at = 0): ApDocument => ({
  ...ap,
  ssids: ap.ssids.map((ssid, i) => (i === at ? { ...ssid, ...change } : ssid)),
});
const withPort = (name: string, change: Partial<PortDocument>): SwitchDocument => ({
  ...sw,
  ports: sw.ports.map((port) => (port.name === name ? { ...port, ...change } : port)),
});

test('what nobody feels is no outage: names, rules, what a light does, a device that runs nothing yet', () => {
  expect(outagesOf(ap, ap)).toEqual([]);
  expect(outagesOf(null, ap)).toEqual([]);
  expect(outagesOf(ap, { ...ap, light: 'off', device: { ...ap.device, name: 'another' } })).toEqual([]);
  expect(outagesOf(ap, withSsid({ isolated: true }))).toEqual([]);
  expect(outagesOf(sw, withPort('5', { storm: 5, priority: 'high' }))).toEqual([]);
});

test('an SSID that is heard otherwise restarts its radios, and the clients of every SSID on them feel it', () => {
  const renamed = outagesOf(ap, withSsid({ name: 'Other', bands: ['5'] }));
  const bands = [...new Set([...ap.ssids[0]!.bands, '5'])].sort();
  const felt = ap.ssids.filter((ssid) => ssid.bands.some((band) => bands.includes(band)));
  expect(renamed).toEqual([
    {
      what: 'radio',
      where: bands,
      vlans: felt.map(({ vlan }) => vlan).sort((a, b) => a - b),
      seconds: OUTAGE_SECONDS.radio,
    },
  ]);
  expect(outagesOf(ap, { ...ap, ssids: ap.ssids.slice(1) })[0]).toMatchObject({ what: 'radio' });
});

test('what an AP no longer carries for an SSID that went is felt on the air alone', () => {
  const without = {
    ...ap,
    ssids: ap.ssids.slice(1),
    ports: ap.ports.map((port) => ({ ...port, tagged: port.tagged.slice(1) })),
  };
  expect(outagesOf(ap, without).map(({ what }) => what)).toEqual(['radio']);
});

test('clients of a class that leads elsewhere are moved, and those that get the class of everybody else', () => {
  const crew = { id: 'c', name: 'Crew', vlan: 40, members: [] };
  const counting = { ...withSsid({ byClass: true }), classes: [crew] };
  const classes = (...all: ClassDocument[]): ApDocument => ({ ...counting, classes: all });
  const moved = (vlans: readonly number[]) => [{ what: 'clients', where: [], vlans, seconds: OUTAGE_SECONDS.clients }];
  const own = ap.ssids[0]!.vlan;
  expect(outagesOf(counting, classes({ ...crew, vlan: 41 }))).toEqual(moved([40]));
  expect(outagesOf(counting, classes())).toEqual(moved([40]));
  expect(outagesOf(counting, classes({ ...crew, name: 'Hands', members: ['02:00:00:00:00:01'] }))).toEqual([]);
  // Nobody of these is asked for a class.
  expect(outagesOf({ ...ap, classes: [crew] }, { ...ap, classes: [{ ...crew, vlan: 41 }] })).toEqual([]);
  const others: ClassDocument = { ...crew, otherwise: true };
  expect(outagesOf(counting, classes(others))).toEqual(moved([own]));
  expect(outagesOf(classes(others), counting)).toEqual(moved([40]));
  expect(outagesOf(classes(others), classes({ ...others, vlan: null }))).toEqual(moved([40]));
});

test('clients whose SSID or port leads elsewhere have to ask for an address anew', () => {
  expect(outagesOf(ap, withSsid({ vlan: 99 }))).toEqual([
    { what: 'clients', where: [], vlans: [ap.ssids[0]!.vlan], seconds: OUTAGE_SECONDS.clients },
  ]);
  // The same where they come there another way: in a tunnel, or out of it.
  for (const [before, after] of [
    [ap, withSsid({ tunnel: true })],
    [withSsid({ tunnel: true }), ap],
  ] as const)
    expect(outagesOf(before, after)).toMatchObject([{ what: 'clients', vlans: [ap.ssids[0]!.vlan] }]);
  const { name } = sw.ports.find(({ untagged }) => untagged === 1)!;
  expect(outagesOf(sw, withPort(name, { untagged: 10, tagged: [] }))).toMatchObject([
    { what: 'clients', where: [name], vlans: [1] },
    { what: 'carriage', where: [name], seconds: null },
  ]);
});

test('a port goes down for another speed, group or authentication; without power until it is given again', () => {
  const [port] = sw.ports.filter(({ tagged }) => tagged.length > 0);
  const carried = [...(port!.untagged === null ? [] : [port!.untagged]), ...port!.tagged].sort((a, b) => a - b);
  for (const change of [{ speed: 100 }, { group: 3 }, { auth: 'mac' as const }])
    expect(outagesOf(sw, withPort(port!.name, change))).toEqual([
      { what: 'port', where: [port!.name], vlans: carried, seconds: OUTAGE_SECONDS.port },
    ]);
  expect(outagesOf(sw, withPort(port!.name, { poe: 'off' }))).toEqual([
    { what: 'power', where: [port!.name], vlans: carried, seconds: null },
  ]);
  expect(outagesOf(withPort(port!.name, { poe: 'off' }), sw)).toEqual([]); // it gets power
});

test('a segment that loses its gateway is told, and one whose gateway moves is felt for half a lease', () => {
  const [first, second] = gateway.interfaces;
  expect(outagesOf(gateway, { ...gateway, interfaces: gateway.interfaces.slice(1) })).toEqual([
    { what: 'gateway', where: [], vlans: [first!.vlan], seconds: null },
  ]);
  const moved = gateway.interfaces.map((each) => (each === second ? { ...each, address: '10.9.9.1/24' } : each));
  expect(outagesOf(gateway, { ...gateway, interfaces: moved })).toEqual([
    { what: 'clients', where: [], vlans: [second!.vlan], seconds: 14_400 },
  ]);
  const uplinks = gateway.uplinks.map((uplink, i) => (i === 0 ? { ...uplink, translate: false } : uplink));
  expect(outagesOf(gateway, { ...gateway, uplinks })).toMatchObject([{ what: 'uplink', where: [uplinks[0]!.port] }]);
});

test('a device that moves to another management segment is away itself', () => {
  expect(outagesOf(sw, { ...sw, management: { vlan: 7 } })).toEqual([
    { what: 'device', where: [], vlans: [7], seconds: OUTAGE_SECONDS.device },
  ]);
});
