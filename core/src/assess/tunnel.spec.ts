import { expect, test } from 'vitest';
import { walk } from '../bench';
import {
  TUNNEL_MTU,
  TUNNEL_OCTETS,
  TUNNEL_PARTS,
  TUNNEL_SEGMENT,
  type ApDocument,
  type DeviceDocument,
  type GatewayDocument,
} from '../document';
import { AIRED, resolve, type Intent, type Operation, type Ssid } from '../intent';
import { latticeGrid, needsOf, rowInWords, segmentStrand, traceTunnel, usualDuties } from '../lattice';
import { compileSite } from '../rollout';
import { readServices, type Rule } from '../rules';
import { applied, sampleId, sampleSite } from '../testing';
import { consequencesOf } from '.';

const sample = sampleSite({ segments: 4, aps: 2 });
const { roster, links } = sample;
const [gateway, sw, ap, secondAp] = roster.map(({ id }) => id) as [string, string, string, string];
/** Towards APs goes what SSIDs put clients into over cables. */
const ports = {
  [sw]: Object.fromEntries(
    Object.entries(sample.site.ports[sw]!).map(([name, port]) => [
      name,
      port.untagged ? { ...port, tagged: [AIRED] } : port,
    ]),
  ),
};
const site = { ...sample.site, ports };
const start: Intent = { ...sample.intent, sites: new Map([[site.id, site]]) };
const ssidId = sampleId(5, 0);
const [segment] = site.segments.slice(1);
const { vlan } = segment!;
const into = (to: Ssid['tunnel'], from: Ssid['tunnel'] = null): Operation => ({
  type: 'ssid.set',
  ssidId,
  from: { tunnel: from },
  to: { tunnel: to },
});
const tunnelled = applied(start, into('gateway'));
const resolved = (intent: Intent) => resolve(intent.estate, intent.sites.get(site.id)!);
const told = (intent: Intent, devices = roster) => compileSite(resolved(intent), devices);
const findings = (intent: Intent, devices = roster) => {
  const [estate, part] = [intent.estate, intent.sites.get(site.id)!];
  return consequencesOf({ estate, site: part, roster: devices, links, told: {} }).findings;
};
const found = (intent: Intent, code: string, devices = roster) =>
  findings(intent, devices).filter((each) => each.code === code);
const uplinks = new Map([[`${gateway} wan1`, { up: true, address: '203.0.113.11' }]]);
const walked = (documents: ReadonlyMap<string, DeviceDocument>, silent = false) =>
  walk(
    documents,
    links,
    { ssidId, apId: ap, band: '5', knowsPassphrase: true },
    { taken: new Set(), uplinks, minute: 0, ...(silent ? { silent } : {}) },
  );
const changed = <T extends DeviceDocument>(id: string, change: (document: T) => DeviceDocument) => {
  const documents = told(tunnelled);
  return new Map(documents).set(id, change(documents.get(id) as T));
};

test('what a tunnel adds is what its headers take', () => {
  // RFC 791 §3.1: five words; RFC 2784 §2: one word without checksum; RFC 2890 §2: one for the key; two MAC addresses and a type.
  expect(TUNNEL_PARTS).toEqual({ ip: 5 * 4, gre: 4, key: 4, ethernet: 6 + 6 + 2 });
  expect([TUNNEL_OCTETS, TUNNEL_MTU, TUNNEL_SEGMENT]).toEqual([42, 1458, 1418]);
});

test('in a tunnel no switch on the way needs the VLAN: no port is told it, and none lacks it', () => {
  const documents = told(tunnelled);
  for (const id of [sw, ap, secondAp])
    for (const port of documents.get(id)!.ports)
      if (port.untagged !== null && !['25', '26'].includes(port.name))
        expect(port.tagged, `${id} ${port.name}`).not.toContain(vlan);
  expect((documents.get(ap) as ApDocument).tunnel).toEqual({ to: site.segments[0]!.gateway, mtu: 1458 });
  expect((documents.get(gateway) as GatewayDocument).tunnels).toMatchObject({
    from: [site.segments[0]!.subnet],
    vlans: [vlan],
  });
  expect(needsOf(resolved(tunnelled), roster, documents, links).map((need) => need.vlan)).not.toContain(vlan);
  // Nor does anything ask for it to be carried.
  const asked = usualDuties(resolved(tunnelled), roster, documents, links).flatMap(({ why }) => why);
  expect(asked.join()).not.toContain(segment!.name);
  expect(findings(tunnelled).map(({ code }) => code)).not.toContain('lattice.not-carried');
  // Taken back, all is as it was.
  expect([...told(applied(tunnelled, into(null, 'gateway')))]).toEqual([...told(start)]);
});

test('strand, grid and words show the tunnel, and the walk goes through it', () => {
  const documents = told(tunnelled);
  const strand = segmentStrand(resolved(tunnelled), roster, documents, links, segment!.id);
  expect(strand.cables).toEqual([]);
  expect(strand.tunnelled).toHaveLength(3);
  expect([...strand.devices].sort()).toEqual([gateway, ap, secondAp].sort());
  const { rows, columns } = latticeGrid(resolved(tunnelled), roster, documents, links);
  const row = rows.find((each) => each.segment.id === segment!.id)!;
  expect([row.cells[`device:${ap}`], row.cells[`device:${gateway}`]]).toEqual(['tunnel', 'routed']);
  expect(rowInWords(row, columns, null)).toContain('2 APs, in a tunnel');
  const { steps, arrived } = walked(documents);
  expect(arrived).toBe(true);
  expect(steps.map(({ kind, title }) => `${kind}: ${title}`)).toEqual([
    'associate: Associated with x-ap-01',
    'authenticate: Authenticated',
    `vlan: VLAN ${vlan}`,
    'tunnel: Into the tunnel to 10.1.1.1',
    'link: x-sw-01 port 1, untagged',
    'link: x-gw-01 port 1, untagged',
    'rules: x-gw-01 lets the tunnel through',
    'tunnel: Out of the tunnel at x-gw-01',
    expect.stringContaining('addresses: Given '),
    expect.stringContaining('gateway: '),
    'rules: x-gw-01 lets it through',
    'internet: The internet answers',
  ]);
  expect(steps[3]!.detail).toContain(`key ${vlan}): 42 octets more`);
});

test('a gateway that is silent, or does not take the frames out, is where a walk ends', () => {
  const last = (documents: ReadonlyMap<string, DeviceDocument>, silent = false) =>
    walked(documents, silent).steps.at(-1)!;
  expect(last(told(tunnelled), true)).toMatchObject({ passed: false, kind: 'tunnel', title: 'x-gw-01 is silent' });
  const no = changed<GatewayDocument>(gateway, ({ tunnels, ...rest }) => ({
    ...rest,
    tunnels: { ...tunnels!, vlans: [] },
  }));
  expect(last(no).detail).toBe(`x-gw-01 takes no frames of VLAN ${vlan} out of tunnels.`);
  const elsewhere = changed<ApDocument>(ap, (document) => ({ ...document, tunnel: { to: '10.1.0.9', mtu: 1458 } }));
  expect(last(elsewhere).detail).toBe('x-gw-01 does not have 10.1.0.9 in the VLAN that the packets come in.');
  const from = { address: '10.9.0.5', length: 24, gateway: '10.9.0.1', dns: [] };
  const stranger = changed<ApDocument>(ap, (document) => ({
    ...document,
    management: { ...document.management, address: from },
  }));
  expect(traceTunnel(stranger, links, ap, vlan)).toMatchObject({ state: 'untaken', why: 'sender' });
  const cut = new Map(told(tunnelled)).set(sw, {
    ...told(tunnelled).get(sw)!,
    ports: told(tunnelled)
      .get(sw)!
      .ports.map((port) => (port.name === '1' ? { ...port, untagged: null } : port)),
  });
  expect(last(cut).title).toBe('Stopped at x-sw-01 port 1');
});

const RULE = { id: sampleId(7, 3), services: readServices('any').services };
const withRule = (rule: Omit<Rule, 'id' | 'services'>, intent = tunnelled): Intent =>
  applied(intent, { type: 'rule.add', siteId: site.id, rules: [{ ...RULE, ...rule }], behind: null });

test('rules that stop the packets of a tunnel are found, and the mend speaks of this site alone', () => {
  expect(found(tunnelled, 'wireless.tunnel-stopped')).toEqual([]);
  const home = site.segments[0]!.name;
  const stopped = withRule({ verdict: 'deny', from: [{ kind: 'segment', name: home }], to: [{ kind: 'gateway' }] });
  const [finding] = found(stopped, 'wireless.tunnel-stopped');
  expect(finding).toMatchObject({ severity: 'error', place: { kind: 'ssid', id: ssidId } });
  expect(finding!.reason).toContain('Let GRE (protocol 47) through');
  expect(walked(told(stopped)).steps.at(-1)).toMatchObject({ passed: false, title: 'x-gw-01 stops the tunnel' });
  const mended = applied(stopped, ...finding!.mend!.operations);
  expect(found(mended, 'wireless.tunnel-stopped')).toEqual([]);
  expect(mended.estate.ssids.find(({ id }) => id === ssidId)).toMatchObject({
    tunnel: 'gateway',
    exceptions: { [site.id]: { tunnel: null } },
  });
  // Where nothing is carried in a tunnel, such a rule is nobody's business here.
  expect(found(mended, 'wireless.tunnel-nowhere')).toEqual([]);
});

test('what is in a tunnel no switch judges, and what is on cables it does', () => {
  const list = { verdict: 'deny', at: 'switches', to: [{ kind: 'internet' }] } as const;
  const from = [{ kind: 'segment' as const, name: segment!.name }];
  const stop = (intent: Intent) => walked(told(withRule({ ...list, from }, intent))).steps.at(-1)!.title;
  expect(stop(start)).toBe('x-sw-01 stops it');
  expect(stop(tunnelled)).toBe('The internet answers');
  // The matrix and guarantees ask the same documents.
  const guarantee = {
    ...{ id: sampleId(7, 4), kind: 'never' as const, services: RULE.services },
    ...{ from: [{ kind: 'ssid' as const, name: 'SSID 1' }], to: [{ kind: 'internet' as const }] },
  };
  const results = [start, tunnelled].map((intent) => {
    const kept = applied(withRule({ ...list, from }, intent), { type: 'guarantee.add', siteId: site.id, guarantee });
    const part = kept.sites.get(site.id)!;
    return consequencesOf({ estate: kept.estate, site: part, roster, links, told: {} }).guarantees.at(-1)!.state;
  });
  expect(results).toEqual(['holds', 'broken']);
});

test('a tunnel that ends nowhere is an error with a way out: no gateway, or APs route the segment', () => {
  const alone = roster.filter(({ id }) => id !== gateway);
  const [none] = found(tunnelled, 'wireless.tunnel-nowhere', alone);
  expect(none).toMatchObject({ message: 'The tunnel of “SSID 1” ends nowhere at Sample', severity: 'error' });
  const from = { addresses: segment!.addresses };
  const to = { addresses: { ...segment!.addresses!, from: { kind: 'ap', how: 'each', deviceIds: [] } } };
  const edit = { type: 'segment.set', siteId: site.id, segmentId: segment!.id, from, to } as unknown as Operation;
  const byAps = applied(tunnelled, edit);
  expect(found(byAps, 'wireless.tunnel-nowhere')[0]!.reason).toContain(`no address in ${segment!.name}: APs route it`);
  expect((told(byAps).get(gateway) as GatewayDocument).tunnels).toBeUndefined();
});

/** VLANs that the gateway takes out, and those that an AP's own port carries. */
const carried = (intent: Intent) => {
  const documents = told(intent);
  const taken = (documents.get(gateway) as GatewayDocument).tunnels?.vlans ?? [];
  return { taken, tagged: documents.get(ap)!.ports[0]!.tagged };
};

test('clients of a pool, of keys and of classes are carried in it as well', () => {
  const set = (from: object, to: object): Operation => ({ type: 'ssid.set', ssidId, from, to });
  const pool = { id: sampleId(6, 0), name: 'Decks', vlans: '10,40' };
  const addPool: Operation = { type: 'pool.add', siteId: site.id, pool };
  const others = start.estate.ssids.slice(1).map(({ id }): Operation => ({ type: 'ssid.remove', ssidId: id }));
  const alone = applied(tunnelled, ...others);
  expect(carried(alone)).toEqual({ taken: [10], tagged: [] });
  const pooled = applied(alone, addPool, set({ segment: segment!.name }, { segment: 'Decks' }));
  expect(carried(pooled).taken).toEqual([10]); // the sample has no VLAN 40
  const wide = applied(
    alone,
    { ...addPool, pool: { ...pool, vlans: '10-30' } },
    set({ segment: segment!.name }, { segment: 'Decks' }),
  );
  expect(carried(wide)).toEqual({ taken: [10, 20, 30], tagged: [] });
  const names = site.segments.slice(2).map(({ name }) => name);
  const { security, passphrase, bands } = alone.estate.ssids[0]!;
  const ring = { security: 'wpa2-psk', passphrase: null, bands: ['5'], ring: names };
  const keyed = applied(alone, set({ security, passphrase, bands, ring: null }, ring));
  expect(carried(keyed)).toEqual({ taken: [10, 20, 30], tagged: [] });
  const accessClass = {
    ...{ id: sampleId(8, 0), name: 'Scanners', segment: names[1]!, reach: { kind: 'estate' as const } },
    members: [{ mac: '02:1a:00:00:00:01', name: 'Scanner' }],
  };
  const classed = applied(alone, { type: 'class.add', accessClass }, set({ byClass: null }, { byClass: true }));
  expect(carried(classed)).toEqual({ taken: [10, 30], tagged: [] });
});

test('a gateway is told first of what it takes out more, and last of what it takes out no more', () => {
  const order = (before: Intent, after: Intent) => {
    const part = after.sites.get(site.id)!;
    const { changes } = consequencesOf({
      estate: after.estate,
      site: part,
      roster,
      links,
      told: Object.fromEntries(told(before)),
    });
    return changes.filter(({ deviceId }) => deviceId !== sw).map(({ name }) => name);
  };
  expect(order(start, tunnelled)).toEqual(['x-gw-01', 'x-ap-01', 'x-ap-02']);
  expect(order(tunnelled, start)).toEqual(['x-ap-01', 'x-ap-02', 'x-gw-01']);
});
