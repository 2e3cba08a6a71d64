import { expect, test } from 'vitest';
import type {
  ApDocument,
  DeviceDocument,
  GatewayDocument,
  SsidSecurity,
  RadioDocument,
  SwitchDocument,
} from '../document';
import { NEW_PORTAL, resolve } from '../intent';
import { compileSite } from '../rollout';
import { readTimes, type PolicyRule } from '../rules';
import { sampleId, sampleSite } from '../testing';
import { portalFact, walk, type Probe, type WalkFacts } from '.';
import { outward } from './walk-outward';

const sample = sampleSite({ segments: 3, aps: 21 });
const documents = compileSite(resolve(sample.intent.estate, sample.site), sample.roster);
const [gateway, firstSwitch, secondSwitch] = [sampleId(2, 0), sampleId(3, 0), sampleId(3, 1)];
const probe: Probe = { ssidId: sampleId(5, 0), apId: sampleId(4, 20), band: '5', knowsPassphrase: true };
const facts: WalkFacts = {
  taken: new Set(),
  minute: 0,
  uplinks: new Map([[`${gateway} wan1`, { up: true, address: '203.0.113.11' }]]),
};

/** The documents with one device's changed. */
function changed(id: string, change: (document: DeviceDocument) => DeviceDocument): Map<string, DeviceDocument> {
  return new Map(documents).set(id, change(documents.get(id)!));
}
const last = (walked: ReturnType<typeof walk>) => walked.steps.at(-1)!;

test('a probe far out gets to the internet, and every step names what decided it', () => {
  const { steps, arrived } = walk(documents, sample.links, probe, facts);
  expect(arrived).toBe(true);
  expect(steps.map((step) => `${step.kind}: ${step.title} (${step.decidedBy.name})`)).toEqual([
    'associate: Associated with x-ap-21 (SSID 1)',
    'authenticate: Authenticated (SSID 1)',
    'vlan: VLAN 10 (SSID 1)',
    'link: x-sw-02 port 1, tag 10 (x-sw-02 port 1)',
    'link: x-sw-01 port 26, tag 10 (x-sw-01 port 26)',
    'link: x-gw-01 port 1, tag 10 (x-gw-01 port 1)',
    'addresses: Given 10.1.10.20 (Segment 1)',
    'gateway: 10.1.10.1 answers (x-gw-01)',
    'rules: x-gw-01 lets it through (x-gw-01)',
    'internet: The internet answers (x-gw-01 wan1)',
  ]);
});

test('addresses that are taken are not given again', () => {
  const taken = new Set(['10.1.10.20', '10.1.10.21']);
  expect(
    walk(documents, sample.links, probe, { ...facts, taken }).steps.find((step) => step.kind === 'addresses')!.address,
  ).toBe('10.1.10.22');
});

/** The AP's document, changed. */
const withAp = (change: (ap: ApDocument) => ApDocument) =>
  changed(probe.apId, (document) => change(document as ApDocument));
const on5alone = withAp((ap) => ({ ...ap, ssids: ap.ssids.map((ssid) => ({ ...ssid, bands: ['5'] })) }));
const withRadios = (radios: readonly RadioDocument[]) => withAp((ap) => ({ ...ap, radios }));

test('on a channel shared with radar it says how long is listened first', () => {
  const at = { channel: 100, width: 40, centre: 102 };
  const on = withRadios([{ band: '5', at, power: 20, radar: { listen: 60, rest: 1800 } }]);
  const { steps } = walk(on, sample.links, probe, facts);
  expect(steps[0]!.detail).toContain('Channel 100 is listened to for radar for 60 s before it is used.');
});

test.each([
  [
    'an AP without a document',
    new Map([...documents].filter(([id]) => id !== probe.apId)),
    {},
    'associate',
    'Nothing to associate with',
  ],
  ['an SSID that is not sent', documents, { ssidId: 'gone' }, 'associate', 'SSID not heard'],
  ['a band it is not sent on', on5alone, { band: '6' as const }, 'associate', 'SSID not heard'],
  ['a radio that is off', withRadios([{ band: '5', off: true }]), {}, 'associate', 'The radio is off'],
  ['a wrong passphrase', documents, { knowsPassphrase: false }, 'authenticate', 'Refused'],
])('stops at %s', (_name, on, change, kind, title) => {
  const walked = walk(on, sample.links, { ...probe, ...change }, facts);
  expect(walked.arrived).toBe(false);
  expect(last(walked)).toMatchObject({ kind, title, passed: false });
});

const askingFor = (security: SsidSecurity) =>
  changed(probe.apId, (document) => {
    const { ssids, ...ap } = document as ApDocument;
    return { ...ap, ssids: ssids.map((ssid) => ({ ...ssid, security })) };
  });

test.each([
  ['open', { knowsPassphrase: false }, true, 'Let in unasked'],
  ['owe', { knowsPassphrase: false }, true, 'Let in, encrypted'],
  ['owe', { old: true }, false, 'Not understood'],
  ['wpa2-psk', { old: true }, true, 'Authenticated'],
  ['wpa2-wpa3-psk', { old: true }, true, 'Authenticated'],
  ['wpa2-wpa3-psk', { old: true, band: '6' }, false, 'Not understood'],
  ['wpa3-sae', { old: true }, false, 'Not understood'],
  ['wpa3-sae', {}, true, 'Authenticated'],
] as const)('what asks for %s and is tried by %o lets in: %s', (security, change, arrives, title) => {
  const walked = walk(askingFor(security), sample.links, { ...probe, ...change }, facts);
  expect(walked.arrived).toBe(arrives);
  expect(walked.steps.find(({ kind }) => kind === 'authenticate')).toMatchObject({ title, passed: arrives });
});

test('an old passphrase is right until its day is over, where WPA2 is taken', () => {
  const with_ = (security: SsidSecurity) =>
    changed(probe.apId, (document) => {
      const { ssids, ...ap } = document as ApDocument;
      const former = { passphrase: { secret: 'before' }, until: '2026-12-31' };
      return { ...ap, ssids: ssids.map((ssid) => ({ ...ssid, security, former })) };
    });
  const tried = (security: SsidSecurity, day: string, change: Partial<Probe> = {}) => {
    const walked = walk(with_(security), sample.links, { ...probe, former: true, ...change }, { ...facts, day });
    return walked.steps.find(({ kind }) => kind === 'authenticate')!;
  };
  expect(tried('wpa2-wpa3-psk', '2026-12-31')).toMatchObject({
    passed: true,
    detail: 'The old passphrase is right until 2026-12-31 (WPA2).',
  });
  expect(tried('wpa2-wpa3-psk', '2027-01-01')).toMatchObject({
    passed: false,
    detail: expect.stringContaining('was right until 2026-12-31') as string,
  });
  expect(tried('wpa2-wpa3-psk', '2026-12-31', { band: '6' }).passed).toBe(false);
  const [present] = walk(documents, sample.links, { ...probe, former: true }, facts).steps.slice(-1);
  expect(present).toMatchObject({
    passed: false,
    detail: expect.stringContaining('has another passphrase now') as string,
  });
});

test('a key of a ring leads to its segment, or it is said why it lets nobody in', () => {
  const vlan = 10;
  const ringed = changed(probe.apId, (document) => {
    const { ssids, ...ap } = document as ApDocument;
    const ring = { segments: [{ name: 'Berth 7', vlan }] };
    return { ...ap, ssids: ssids.map((ssid) => ({ ...ssid, security: 'wpa2-psk' as const, ring })) };
  });
  const key = { id: 'k', name: 'Berth 7', segment: 'Berth 7' };
  const tried = (held: object | null, change: Partial<Probe> = {}) => {
    const told = { ...facts, moment: '2026-12-01 12:00', ...(held ? { key: { ...key, ...held } } : {}) };
    return walk(ringed, sample.links, { ...probe, key: 'k', ...change }, told).steps;
  };
  expect(tried({})[1]).toMatchObject({
    passed: true,
    detail: 'The key of Berth 7 is right (WPA2), and leads to Berth 7.',
  });
  expect(tried({})[2]).toMatchObject({
    title: `VLAN ${vlan}`,
    detail: 'The key of Berth 7 leads to Berth 7, VLAN 10.',
  });
  const refused = (held: object | null) => tried(held).at(-1)!.detail;
  expect(refused(null)).toContain('No key of “');
  expect(refused({ macs: ['02:00:00:00:00:99'] })).toContain('is bound to 02:00:00:00:00:99, and the probe is');
  expect(refused({ until: '2026-12-01 11:00' })).toBe('The key of Berth 7 was right until 2026-12-01 11:00.');
  expect(refused({ from: '2026-12-02' })).toContain('is right from 2026-12-02 on');
  expect(refused({ segment: 'Berth 8' })).toContain('leads to Berth 8, which keys do not lead to here');
});

test('outside its hours, and on days that are left out, an SSID is not heard; when it is told and what time it is there', () => {
  const hours = { name: 'Office', times: readTimes('Mon-Fri 08:00-18:00')!, closed: ['2026-12-25'] };
  const timed = changed(probe.apId, (document) => {
    const { ssids, ...ap } = document as ApDocument;
    return { ...ap, ssids: ssids.map((ssid) => ({ ...ssid, hours })) };
  });
  const at = (minute: number, day: string) => walk(timed, sample.links, probe, { ...facts, minute, day });
  expect(at(10 * 60, '2026-11-30').arrived).toBe(true);
  expect(last(at(5 * 1440 + 600, '2026-11-28'))).toMatchObject({
    title: 'Not on the air now',
    detail: '“SSID 1” is sent Mon-Fri 08:00-18:00 (Office); there it is Sat 10:00.',
    decidedBy: { kind: 'ssid' },
  });
  expect(last(at(4 * 1440 + 600, '2026-12-25')).detail).toContain('there it is Fri 10:00, and 2026-12-25 is left out.');
});

test('stops at the first port that drops the frame, and says which and why', () => {
  const without = (id: string, port: string) =>
    changed(id, (document) => ({
      ...document,
      ports: document.ports.map((each) => (each.name === port ? { ...each, tagged: [] } : each)),
    }));
  const atEdge = walk(without(secondSwitch, '1'), sample.links, probe, facts);
  expect(last(atEdge)).toMatchObject({
    kind: 'link',
    title: 'Stopped at x-sw-02 port 1',
    decidedBy: { id: secondSwitch, port: '1' },
  });
  const inside = walk(without(firstSwitch, '26'), sample.links, probe, facts);
  expect(inside.steps.filter((step) => step.kind === 'link').map((step) => step.title)).toEqual([
    'x-sw-02 port 1, tag 10',
    'Stopped at x-sw-01 port 26',
  ]);
  expect(last(walk(documents, [], probe, facts))).toMatchObject({ kind: 'link', title: 'No way to the gateway' });
});

test('stops at a gateway that gives no address, has none left, does not answer, or has no way out', () => {
  const on = (change: (document: GatewayDocument) => GatewayDocument) =>
    last(
      walk(
        changed(gateway, (document) => change(document as GatewayDocument)),
        sample.links,
        probe,
        facts,
      ),
    );
  expect(on((document) => ({ ...document, addressServices: [] }))).toMatchObject({
    kind: 'addresses',
    title: 'No address',
  });
  expect(
    on((document) => ({
      ...document,
      addressServices: document.addressServices.map((each) => ({ ...each, gateway: '10.1.10.2' })),
    })),
  ).toMatchObject({
    kind: 'gateway',
    title: '10.1.10.2 does not answer',
  });
  expect(
    on((document) => ({ ...document, uplinks: document.uplinks.map((each) => ({ ...each, translate: false })) })),
  ).toMatchObject({ kind: 'internet' });
  const taken = new Set(Array.from({ length: 235 }, (_, i) => `10.1.10.${20 + i}`));
  expect(last(walk(documents, sample.links, probe, { ...facts, taken }))).toMatchObject({ title: 'No address left' });
  expect(last(walk(documents, sample.links, probe, { ...facts, uplinks: new Map() }))).toMatchObject({
    kind: 'internet',
    title: 'No internet',
  });
});

test('a walk ends with the uplinks that it leaves by, why, and what it would leave by without the first of them', () => {
  const leaves = (change: Partial<GatewayDocument>, up: Record<string, object> = { wan1: {}, wan2: {} }) => {
    const uplinks = new Map(
      Object.entries(up).map(([port, more], i) => [
        `${gateway} ${port}`,
        { up: true, good: true, address: `203.0.113.${11 + i}`, ...more },
      ]),
    );
    const made = changed(gateway, (document) => ({ ...(document as GatewayDocument), ...change }));
    const { detail, title } = last(walk(made, sample.links, probe, { ...facts, uplinks }));
    return title === 'The internet answers' ? detail.replace(/^[\d.]+ leaves /, '') : `${title}: ${detail}`;
  };
  const course = (more: object = {}) => ({
    ...{
      id: 'c',
      name: 'Tickets',
      from: ['10.1.10.0/24'],
      to: ['0.0.0.0/1', '128.0.0.0/1'],
      services: [{ protocol: 'any' as const }],
    },
    ...{ ways: [{ port: 'wan2', turn: 0 }], otherwise: 'nothing' as const, ...more },
  });
  const shared = documents.get(gateway) as GatewayDocument;
  const weights = { uplinks: shared.uplinks.map((each) => ({ ...each, weight: each.port === 'wan1' ? 3 : 1 })) };
  expect(leaves({})).toBe('wan1 as 203.0.113.11. Were wan1 cut: by wan2.');
  expect(leaves({}, { wan1: { good: false }, wan2: {} })).toBe('wan2 as 203.0.113.12. Were wan2 cut: by wan1.');
  expect(leaves(weights)).toBe(
    'wan1 as 203.0.113.11 (75 % of its sessions) or wan2 as 203.0.113.12 (25 % of its sessions), by weight. Were wan1 cut: by wan2.',
  );
  expect(leaves({ courses: [course()] })).toBe(
    'wan2 as 203.0.113.12, by the course “Tickets”. Were wan2 cut: nothing gets out.',
  );
  expect(leaves({ courses: [course()] }, { wan1: {} })).toBe(
    'No internet: None of the uplinks of the course “Tickets” is good, and it may leave by no other.',
  );
  expect(leaves({ courses: [course({ otherwise: undefined })] }, { wan1: {} })).toMatch(
    /^wan1 .*as the rest does: none of/,
  );
  // What is as slow as that for long enough is not taken.
  const ways = [
    { port: 'wan2', turn: 0 },
    { port: 'wan1', turn: 1 },
  ];
  const slow = { wan1: {}, wan2: { measure: { latency: 900, jitter: 0, loss: 0 } } };
  expect(leaves({ courses: [course({ ways, needs: { latency: 100 } })] }, slow)).toMatch(
    /^wan1 .*by the course “Tickets”\./,
  );
  // As what it is seen is said too: one of a pool, or itself, whom nobody answers; what is said of some hosts alone tells nothing.
  const seen = (more: object) => [
    { id: 't', name: 't', port: 'wan1', from: ['any'], to: ['any'], as: 'itself', ...more },
  ];
  const translated = (more: object) => leaves({ translations: seen(more) as GatewayDocument['translations'] & object });
  expect(translated({ as: { pool: '203.0.113.40' } })).toMatch(/^wan1 as 203\.0\.113\.40\. /);
  expect(translated({})).toMatch(/^No internet: wan1 does not translate 10\.1\./);
  expect(translated({ to: ['198.51.100.0/24'] })).toMatch(/^wan1 as 203\.0\.113\.11/);
  // Nor does anybody answer who leaves as itself with an address that is not known here.
  const plain = { ...(documents.get(gateway) as GatewayDocument) };
  const untranslated = { ...plain, uplinks: plain.uplinks.map((each) => ({ ...each, translate: false })) };
  expect([...outward(untranslated, gateway, facts, 'the AP’s address')].at(-1)).toMatchObject({
    ...{ passed: false, detail: 'wan1 does not translate the AP’s address; nobody outside can answer it.' },
  });
  // A course to some hosts alone does not tell how the rest leaves.
  expect(leaves({ courses: [course({ to: ['198.51.100.0/24'] })] })).toMatch(/^wan1 /);
});

test('an untagged frame arrives in whatever VLAN the far port gives it', () => {
  const document = documents.get(secondSwitch)!;
  const mixed = changed(secondSwitch, () => ({
    ...document,
    ports: document.ports.map((port) => (port.name === '1' ? { ...port, untagged: 20, tagged: [] } : port)),
  }));
  const onManagement = new Map(mixed).set(probe.apId, {
    ...(documents.get(probe.apId) as DeviceDocument & { kind: 'ap' }),
    ssids: [{ ...(documents.get(probe.apId) as DeviceDocument & { kind: 'ap' }).ssids[0]!, vlan: 1 }],
  });
  const walked = walk(onManagement, sample.links, probe, facts);
  expect(walked.steps.find((step) => step.kind === 'link')).toMatchObject({ tag: null });
  expect(walked.steps.find((step) => step.kind === 'addresses')!.address).toBe('10.1.20.20');
});

test('stops where a rule stops a web page, at the place and by the rule; hours count by the clock', () => {
  const rule = {
    id: 'r',
    name: 'No web',
    verdict: 'deny',
    from: ['10.1.10.0/24'],
    to: ['any'],
    services: [{ protocol: 'tcp', ports: ['443'] }],
  } as const;
  const shut = { ...rule, times: [{ days: [1], from: '00:00', to: '01:00' }] };
  const on = changed(gateway, (each) => ({
    ...(each as GatewayDocument),
    policy: { otherwise: 'allow', rules: [shut] },
  }));
  expect(last(walk(on, sample.links, probe, facts))).toMatchObject({
    kind: 'rules',
    passed: false,
    title: 'x-gw-01 stops it',
    decidedBy: { kind: 'rule', name: 'No web' },
  });
  expect(walk(on, sample.links, probe, { ...facts, minute: 90 }).arrived).toBe(true);
  const back = { ...rule, from: ['any'], to: ['10.1.10.0/24'], services: [{ protocol: 'tcp' as const }] };
  const listed = changed(firstSwitch, (each) => ({
    ...(each as SwitchDocument),
    list: { otherwise: 'allow', rules: [back] },
  }));
  expect(last(walk(listed, sample.links, probe, facts)).title).toBe('x-sw-01 stops the answer');
  const aired = changed(probe.apId, (each) => {
    const ap = each as ApDocument;
    const lists = { from: { otherwise: 'allow', rules: [rule] }, to: { otherwise: 'allow', rules: [] } } as const;
    return { ...ap, ssids: ap.ssids.map((ssid) => (ssid.id === probe.ssidId ? { ...ssid, lists } : ssid)) };
  });
  expect(last(walk(aired, sample.links, probe, facts)).title).toBe('x-ap-21 stops it');
});

test('a portal holds a guest back after it has an address, until somebody has let it in', () => {
  const portal = { id: 'p', name: 'Passengers', garden: ['ferries.example'] };
  const held = withAp((ap) => ({ ...ap, ssids: ap.ssids.map((ssid) => ({ ...ssid, portal })) }));
  const stopped = walk(held, sample.links, probe, facts);
  expect(stopped.arrived).toBe(false);
  expect(stopped.steps.map(({ kind }) => kind).slice(-3)).toEqual(['addresses', 'gateway', 'portal']);
  expect(last(stopped)).toMatchObject({ title: 'Held back by “Passengers”', decidedBy: { kind: 'portal', id: 'p' } });
  expect(last(stopped).detail).toMatch(/Nobody has let it in yet: .* and to ferries\.example\./);
  expect(walk(held, sample.links, { ...probe, letIn: true }, facts).arrived).toBe(true);
  const guest = { letIn: true, why: null, until: '2026-12-01 18:30', left: 7_900_000 };
  const known = walk(held, sample.links, probe, { ...facts, guest });
  expect(known.arrived).toBe(true);
  expect(known.steps.find(({ kind }) => kind === 'portal')!.detail).toBe(
    'Its visit goes on until 2026-12-01 18:30 and 7 MB more today.',
  );
  const day = { name: 'Day', times: [{ days: [1, 2, 3, 4, 5], from: '08:00', to: '18:00' }] };
  const timed = withAp((ap) => ({
    ...ap,
    ssids: ap.ssids.map((ssid) => ({ ...ssid, portal: { ...portal, hours: day } })),
  }));
  const signed = { ...probe, letIn: true };
  expect(walk(timed, sample.links, signed, { ...facts, minute: 12 * 60 }).arrived).toBe(true);
  const shut = walk(timed, sample.links, signed, { ...facts, minute: 20 * 60 });
  expect(last(shut).detail).toBe(
    'Nobody is let in at that hour: guests are let in Mon-Fri 08:00-18:00 (Day); there it is Mon 20:00.',
  );
  const spent = walk(held, sample.links, probe, { ...facts, guest: { ...guest, letIn: false, why: 'quota' } });
  expect(last(spent).detail).toMatch(/^What it may take today is used up/);
});

test('a guest is told of its portal with its address, signs in, is kept from private space, and is held again in the end', () => {
  const portal = { id: 'p', name: 'Passengers' };
  const space: PolicyRule = {
    ...{
      id: 'no-private',
      name: 'Guests stay out',
      verdict: 'deny' as const,
      from: ['any'],
      services: [{ protocol: 'any' as const }],
    },
    to: ['10.0.0.0/8', '172.16.0.0/12', '192.168.0.0/16'],
  };
  const held = withAp((ap) => ({ ...ap, ssids: ap.ssids.map((ssid) => ({ ...ssid, portal })) }));
  const fact = portalFact(
    {
      ...NEW_PORTAL,
      id: 'p',
      name: 'Passengers',
      ways: ['accept', 'code'],
      visit: 120,
      dataADay: 100,
      idle: 30,
      rest: 60,
    },
    'https://guests.skerrow.example',
  );
  const signed = { ...probe, letIn: true };
  const known = { ...facts, portal: fact };
  const walked = walk(held, sample.links, signed, known);
  expect(walked.arrived).toBe(true);
  const steps = new Map(walked.steps.map(({ title, detail }) => [title, detail]));
  expect(steps.get('Told of it with its address')).toContain(
    'DHCP option 114 into the answer (RFC 8910): https://guests.skerrow.example/captive/',
  );
  expect(steps.get('Signs in at “Passengers”')).toContain('It signs in by: Press to accept, Visit code.');
  expect(steps.get('Private space answers too')).toContain('guests reach what is not theirs');
  expect(steps.get('Held again, in the end')).toBe(
    'Whichever is first: 2 h after it was let in, 100 MB that day, 30 min without use. Then it is held as before, and lets itself in again 1 h later; what there is for a day begins anew at midnight by the site’s clock.',
  );
  const guarded = new Map(held).set(gateway, {
    ...(held.get(gateway) as GatewayDocument),
    policy: { otherwise: 'allow', rules: [space] },
  });
  const kept = walk(guarded, sample.links, signed, known);
  expect(kept.arrived).toBe(true);
  expect(kept.steps.find(({ title }) => title === 'Kept from private space')).toMatchObject({
    ...{ passed: true, decidedBy: { kind: 'rule', id: 'no-private' } },
  });
  // Where the page is none of HTTPS no device can be told by DHCP; whoever has not signed in stops there.
  const plain = walk(held, sample.links, probe, { ...facts, portal: { ...fact, url: 'http://192.0.2.7:8624' } });
  expect(plain.steps.at(-2)).toMatchObject({ title: 'Not told of it with its address', passed: true });
  expect(last(plain).title).toBe('Held back by “Passengers”');
});
