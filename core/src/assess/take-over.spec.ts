import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { DeviceDocument, GatewayDocument, PortDocument } from '../document';
import { apply, resolve, type Intent } from '../intent';
import { compileSite } from '../rollout';
import { sampleSite } from '../testing';
import { takeOver, type TakeOver } from './take-over';

const { intent, site, roster } = sampleSite({ segments: 4, aps: 3, switches: 1 });
const documents = compileSite(resolve(intent.estate, site), roster);
const box = (kind: DeviceDocument['kind']) => {
  const device = roster.find(({ id }) => documents.get(id)!.kind === kind)!;
  return { device, told: documents.get(device.id)! };
};
const taken = (of: ReturnType<typeof box>, runs: DeviceDocument): TakeOver =>
  takeOver(intent, roster, of.device, of.told, runs);
/** What the device would be told once the edits were made. */
const then = (id: string, { operations }: TakeOver): DeviceDocument => {
  const after = operations.reduce((now: Intent, operation) => {
    const done = apply(now, operation, (each) => roster.find((device) => device.id === each));
    if (!done.ok) throw new Error(done.flaws[0]!.message);
    return done.intent;
  }, intent);
  return compileSite(resolve(after.estate, after.sites.get(site.id)!), roster).get(id)!;
};
const withPort = (told: DeviceDocument, name: string, change: Partial<PortDocument>): DeviceDocument => ({
  ...told,
  ports: told.ports.map((port) => (port.name === name ? { ...port, ...change } : port)),
});

const vlans = site.segments.map(({ vlan }) => vlan);
const change = fc.oneof(
  fc.record({ untagged: fc.constantFrom(...vlans, null), tagged: fc.constant([]) }),
  fc.subarray(vlans.slice(1)).map((tagged) => ({ untagged: vlans[0]!, tagged })),
  fc.constantFrom({ poe: 'off' as const }, { speed: 100 }, { isolated: true as const }, { storm: 5 }, { group: 3 }),
);

test('what was changed at ports is said in the draft: the device would be told the very same', () => {
  const of = box('switch');
  const names = of.told.ports.map(({ name }) => name);
  fc.assert(
    fc.property(fc.array(fc.tuple(fc.constantFrom(...names), change), { minLength: 1, maxLength: 4 }), (changes) => {
      const runs = changes.reduce((now, [name, to]) => withPort(now, name, to), of.told);
      const found = taken(of, runs);
      expect(found.left).toEqual([]);
      expect(then(of.device.id, found).ports).toEqual(runs.ports);
    }),
  );
});

test('at a gateway addresses and leases are taken over, and what has no edit is left, line by line', () => {
  const of = box('gateway');
  const told = of.told as GatewayDocument;
  const runs: GatewayDocument = {
    ...told,
    addressServices: told.addressServices.map((service) =>
      service.vlan === 10 ? { ...service, first: '10.1.10.50', leaseSeconds: 3600, dns: ['10.1.10.9'] } : service,
    ),
    uplinks: told.uplinks.map((uplink) => ({ ...uplink, translate: false })),
  };
  const found = taken(of, runs);
  expect(found.operations).toMatchObject([
    { type: 'segment.set', to: { addresses: { first: '10.1.10.50', leaseSeconds: 3600, dns: ['10.1.10.9'] } } },
  ]);
  expect(found.left.map(({ path }) => path.join(' '))).toEqual(
    told.uplinks.map(({ port }) => `uplinks ${port} translate`),
  );
  expect((then(of.device.id, found) as GatewayDocument).addressServices).toEqual(runs.addressServices);
});

test('a VLAN that the site does not have is left, and the rest of the port is taken', () => {
  const of = box('switch');
  const { name } = of.told.ports[5]!;
  const found = taken(of, withPort(of.told, name, { untagged: 999, poe: 'off' }));
  expect(found.operations).toMatchObject([{ type: 'port.set', port: name, to: { poe: 'off' } }]);
  expect(found.left).toMatchObject([{ after: '999' }]);
});

test('whatever a device says that it runs, nothing but edits comes of it', () => {
  const of = box('gateway');
  const odd = fc.oneof(fc.constant(null), fc.integer(), fc.string(), fc.constant([]), fc.constant([null, 7, {}]));
  fc.assert(
    fc.property(odd, odd, odd, (ports, interfaces, addressServices) => {
      const runs = { ...of.told, ports, interfaces, addressServices } as unknown as DeviceDocument;
      try {
        expect(taken(of, runs).operations).toEqual([]);
      } catch (error) {
        expect(error).toBeInstanceOf(RangeError); // a list that cannot be told
      }
    }),
  );
});
