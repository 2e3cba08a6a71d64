import { expect, test } from 'vitest';
import type { ApDocument, SwitchDocument } from '../document';
import { apply, resolve, USUAL_SERVER, type Intent, type Operation, type PortEntry } from '../intent';
import { needsOf, latticeGrid } from '../lattice';
import { applied, sampleId, sampleSite } from '../testing';
import { compileSite } from '.';

const { intent, site, roster, links } = sampleSite({ segments: 4, aps: 1 });
const [switchId, apId] = [sampleId(3, 0), sampleId(4, 0)];
const segment = (i: number) => site.segments[i]!;
const edit = (now: Intent, operation: Operation) =>
  apply(now, operation, (id) => roster.find((device) => device.id === id));
const CREW: Operation = {
  type: 'class.add',
  accessClass: { id: sampleId(8, 0), name: 'Crew', segment: segment(1).name, members: [], reach: { kind: 'estate' } },
};
const SERVER: Operation = {
  type: 'radius.add',
  radius: {
    ...USUAL_SERVER,
    ...{ id: sampleId(7, 0), name: 'Quay', address: '198.51.100.90', secret: { secret: sampleId(6, 0) }, macs: null },
    reach: { kind: 'estate' },
  },
};
const asking = (to: PortEntry, port = '4'): Operation => ({
  ...{ type: 'port.set', siteId: site.id, deviceId: switchId, port, from: site.ports[switchId]?.[port] ?? null, to },
});
/** What devices are told once something was edited. */
function told(...operations: Operation[]) {
  const now = operations.reduce((before, operation) => {
    const result = edit(before, operation);
    if (!result.ok) throw new Error(JSON.stringify(result.flaws));
    return result.intent;
  }, intent);
  const resolved = resolve(now.estate, now.sites.get(site.id)!);
  return { resolved, documents: compileSite(resolved, roster) };
}

test('a port is told what it asks, and where it puts whom it does not learn enough of, where that is not the usual', () => {
  const [guest, voice] = [segment(2), segment(3)];
  const port = (entry: PortEntry) => {
    const document = told(CREW, SERVER, asking(entry)).documents.get(switchId) as SwitchDocument;
    return { ...document.ports.find(({ name }) => name === '4')!, radius: document.radius?.servers.length };
  };
  expect(port({ auth: '802.1X', untagged: segment(1).id, tagged: [] })).toEqual({
    ...{ name: '4', untagged: segment(1).vlan, tagged: [], auth: '802.1X', radius: 1 },
  });
  expect(
    port({
      auth: '802.1X-mac',
      hosts: 'phone',
      voice: voice.id,
      guest: guest.id,
      rejected: guest.id,
      quiet: 30,
      again: 900,
    }),
  ).toEqual({
    ...{ name: '4', untagged: 1, tagged: [], auth: '802.1X-mac', hosts: 'phone', voice: voice.vlan, radius: 1 },
    ...{ guest: guest.vlan, rejected: guest.vlan, quiet: 30, again: 900 },
  });
  // By MAC address alone nobody falls to the port’s own segment, and a server that is not asked about them is not told.
  expect(port({ auth: 'mac', unanswered: guest.id })).toEqual({
    ...{ name: '4', untagged: null, tagged: [], auth: 'mac', unanswered: guest.vlan, radius: undefined },
  });
});

test('whatever a port may put a client into has to get to its switch, and crosses it as what is asked for', () => {
  const { resolved, documents } = told(
    CREW,
    SERVER,
    asking({ auth: '802.1X', guest: segment(2).id, untagged: null, tagged: [] }),
  );
  const vlans = needsOf(resolved, roster, documents, links).filter(({ deviceId }) => deviceId === switchId);
  expect(vlans.map(({ vlan }) => vlan)).toEqual(expect.arrayContaining([segment(1).vlan, segment(2).vlan]));
  const { rows } = latticeGrid(resolved, roster, documents, links);
  const crossing = rows.map(({ segment: { vlan }, cells }) => [vlan, cells[`port:${switchId}:4`]]);
  expect(crossing.filter(([, how]) => how)).toEqual([
    [segment(1).vlan, 'asked'],
    [segment(2).vlan, 'asked'],
  ]);
});

test('a segment that a port puts clients into exists and stays; desk phones have one', () => {
  const gone = edit(intent, asking({ auth: '802.1X', guest: sampleId(1, 99) }));
  expect(!gone.ok && gone.flaws).toMatchObject([{ code: 'segment.unknown', field: 'guest' }]);
  const mute = edit(intent, asking({ auth: '802.1X', hosts: 'phone' }));
  expect(!mute.ok && mute.flaws).toMatchObject([{ code: 'port.voice', field: 'voice' }]);
  const held = applyTo(intent, asking({ auth: '802.1X', rejected: segment(2).id }));
  const removed = edit(held, { type: 'segment.remove', siteId: site.id, segmentId: segment(2).id });
  expect(!removed.ok && removed.flaws).toMatchObject([{ code: 'segment.on-ports' }]);
  const duty = { id: sampleId(9, 0), name: 'Any port', untagged: null, tagged: [], auth: '802.1X-mac' as const };
  const bare = edit(intent, { type: 'duty.add', siteId: site.id, duty: { ...duty, hosts: 'phone' } });
  expect(!bare.ok && bare.flaws).toMatchObject([{ code: 'port.voice' }]);
  expect(
    edit(intent, { type: 'duty.add', siteId: site.id, duty: { ...duty, hosts: 'phone', voice: segment(3).id } }).ok,
  ).toBe(true);
});
function applyTo(now: Intent, operation: Operation): Intent {
  const result = edit(now, operation);
  if (!result.ok) throw new Error(JSON.stringify(result.flaws));
  return result.intent;
}

test('an SSID that asks who somebody is has no passphrase, takes WPA3 at 6 GHz, and its APs are told every server', () => {
  const { id: ssidId, security, passphrase, bands, byClass = null } = intent.estate.ssids[0]!;
  const set = (to: object): Operation => ({
    ...{ type: 'ssid.set', ssidId, from: { security, passphrase, bands, byClass } },
    to: { security, passphrase: null, bands, byClass: true, ...to },
  });
  const refused = edit(intent, set({ security: 'wpa2-enterprise', bands: ['5', '6'] }));
  expect(!refused.ok && refused.flaws).toMatchObject([{ code: 'ssid.6ghz-wpa2', field: 'bands' }]);
  const { documents } = told(CREW, SERVER, set({ security: 'wpa2-wpa3-enterprise', bands: ['5', '6'] }));
  const ap = documents.get(apId) as ApDocument;
  expect(ap.ssids[0]).toMatchObject({ security: 'wpa2-wpa3-enterprise', byClass: true });
  expect(ap.ssids[0]).not.toHaveProperty('passphrase');
  expect(ap.radius?.servers).toMatchObject([{ name: 'Quay', address: '198.51.100.90' }]);
  expect(ap.classes).toMatchObject([{ name: 'Crew', vlan: segment(1).vlan }]);
  expect(applied(intent, set({ security: 'wpa3-enterprise-192' })).estate.ssids[0]!.security).toBe(
    'wpa3-enterprise-192',
  );
});

test('a ring whose keys servers name is told so, with where keys may lead and whom to ask', () => {
  const was = intent.estate.ssids[0]!;
  const ring: Operation = {
    ...{ type: 'ssid.set', ssidId: was.id },
    from: { security: was.security, bands: was.bands, ring: null, keysAt: null },
    to: { security: 'wpa2-psk', bands: ['5'], ring: [segment(2).name], keysAt: 'servers' },
  };
  const macs: Operation = {
    ...{ type: 'radius.set', radiusId: sampleId(7, 0), from: { macs: null }, to: { macs: 'colon_lower' } },
  };
  const heard = (...more: Operation[]) => {
    const ap = told(SERVER, ring, ...more).documents.get(apId) as ApDocument;
    return {
      ring: ap.ssids.find(({ id }) => id === was.id)!.ring,
      servers: ap.radius?.servers.map(({ name }) => name),
    };
  };
  const own = intent.sites.get(site.id)!.segments.find(({ name }) => name === was.segment)!;
  const segments = [own, segment(2)].map(({ name, vlan }) => ({ name, vlan })).sort((a, b) => a.vlan - b.vlan);
  expect(heard(macs).ring).toMatchObject({ asked: true, segments });
  expect(heard(macs).servers).toEqual(['Quay']);
  // One that is not asked about MAC addresses names no key; kept here, nobody is asked.
  expect(heard().servers).toBeUndefined();
  const here: Operation = { type: 'ssid.set', ssidId: was.id, from: { keysAt: 'servers' }, to: { keysAt: null } };
  expect(heard(macs, here)).toEqual({
    ring: { segments: [expect.objectContaining({ vlan: segment(2).vlan })] },
    servers: undefined,
  });
});

test('what a class lets each take is told to switches as to APs', () => {
  const rated = {
    ...CREW,
    accessClass: { ...CREW.accessClass, rate: { down: 20_000 } },
  };
  const { documents } = told(rated, asking({ untagged: null, tagged: [], auth: 'mac' }));
  const { classes } = documents.get(switchId) as SwitchDocument;
  expect(classes![0]!.client).toMatchObject({ down: { kbps: 20_000 } });
});
