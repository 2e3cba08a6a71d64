import { expect, test } from 'vitest';
import type { ApDocument, DeviceDocument, SsidDocument } from '../document';
import { resolve } from '../intent';
import type { End, Exchange } from '../radius';
import { compileSite } from '../rollout';
import { sampleId, sampleSite } from '../testing';
import { walk, walkAsks, type AskedOne, type Probe, type WalkFacts } from '.';

const sample = sampleSite({ segments: 3, aps: 1 });
const base = compileSite(resolve(sample.intent.estate, sample.site), sample.roster);
const [gateway, apId] = [sampleId(2, 0), sampleId(4, 0)];
const MAC = '0e:c4:60:00:00:01';
const probe: Probe = {
  ...{ ssidId: sampleId(5, 0), apId, band: '5', knowsPassphrase: false, mac: MAC },
  entry: { method: 'eap-ttls', user: 'marn.ellis', password: 'lantern fish 4' },
};
const server = (name: string, order: number) => ({
  ...{ name, address: '198.51.100.90', port: 1812, secret: { secret: 's' }, order, timeout: 3, tries: 3, dead: 300 },
  macs: 'none_lower' as const,
});
/** The documents with an SSID that asks, a class in the second segment, and two servers. */
function documents(change: Partial<SsidDocument> = {}): Map<string, DeviceDocument> {
  const ap = base.get(apId) as ApDocument;
  const [ssid] = ap.ssids as [SsidDocument];
  const { passphrase: _passphrase, ...open } = ssid;
  return new Map(base).set(apId, {
    ...ap,
    ssids: [{ ...open, security: 'wpa2-wpa3-enterprise', byClass: true, ...change }],
    classes: [{ id: 'crew', name: 'Crew', vlan: 20, members: [] }],
    radius: { servers: [server('Quay', 1), server('Mole', 2)], segments: [{ vlan: 20, name: 'Segment 2' }] },
  });
}
const exchange = (end: End, more: Partial<Exchange> = {}): Exchange => ({
  ...{ end, why: '', address: '198.51.100.90', packets: [], sent: 1, ms: 4, filterIds: [], sessionSeconds: null },
  ...{ vlan: { kind: 'none' as const, text: '' }, keys: true, ...more },
});
const asked = (...ends: (End | Exchange)[]): AskedOne[] =>
  ends.map((end, i) => ({
    server: ['Quay', 'Mole'][i]!,
    exchange: typeof end === 'string' ? exchange(end) : end,
  }));
const facts: WalkFacts = {
  ...{ taken: new Set(), minute: 0 },
  uplinks: new Map([[`${gateway} wan1`, { up: true, address: '203.0.113.11' }]]),
};
const walked = (said: readonly AskedOne[] | undefined, of: Partial<Probe> = {}, ssid: Partial<SsidDocument> = {}) =>
  walk(documents(ssid), sample.links, { ...probe, ...of }, { ...facts, ...(said ? { asked: said } : {}) });
/** How a walk goes until the client’s VLAN is known. */
const way = (...of: Parameters<typeof walked>): string[] => {
  const { steps } = walked(...of);
  return steps
    .slice(1, 6)
    .filter(({ kind }) => ['authenticate', 'asked', 'vlan'].includes(kind))
    .map(({ title }) => title);
};
const crew = exchange('accepted', { filterIds: ['crew'] });

test('a probe joins by what servers really said of it, step by step, and each step holds what was exchanged', () => {
  const { steps, arrived } = walked(asked('unkept', crew));
  expect(arrived).toBe(true);
  const said = steps.slice(1, 5).map(({ kind, title, decidedBy }) => `${kind}: ${title} (${decidedBy.name})`);
  expect(said).toEqual([
    'authenticate: Says who it is (SSID 1)',
    'asked: Quay does not know (Quay)',
    'asked: Mole lets in (Mole)',
    'vlan: VLAN 20 (Crew)',
  ]);
  expect(steps.filter((step) => step.exchange).map((step) => step.exchange!.end)).toEqual(['unkept', 'accepted']);
  expect(steps.find(({ kind }) => kind === 'addresses')!.address).toBe('10.1.20.20');
  // Where classes do not count, and where none is named, it is the SSID’s own segment.
  expect(way(asked(crew), {}, { byClass: undefined as never }).at(-1)).toBe('VLAN 10');
  expect(way(asked('accepted')).at(-1)).toBe('VLAN 10');
  // A MAC address that a class lists counts for nothing there.
  expect(way(asked('silent', 'rejected'))).toEqual(['Says who it is', 'Quay: no answer', 'Mole turns away']);
});

test.each<[string, ReturnType<typeof asked> | undefined, Partial<Probe>, Partial<SsidDocument>, string]>([
  ['nobody says who it is', undefined, { entry: undefined }, {}, 'Asked who it is'],
  ['no server is told', [], {}, {}, 'Nobody to ask'],
  ['somebody who only looks', undefined, {}, {}, 'Not asked'],
  ['a client of before WPA3', undefined, { old: true }, { security: 'wpa3-enterprise' }, 'Not understood'],
  ['a password for 192 bits', undefined, {}, { security: 'wpa3-enterprise-192' }, 'Refused'],
  ['a method without keys', undefined, { entry: { ...probe.entry!, method: 'eap-md5' } }, {}, 'Refused'],
  ['a server that the client does not believe', asked('untrusted', 'accepted'), {}, {}, 'Quay: no answer'],
  ['a yes without keys', asked(exchange('accepted', { keys: false })), {}, {}, 'No keys'],
  ['a class that is not told here', asked(exchange('accepted', { filterIds: ['Gulls'] })), {}, {}, 'Let in nowhere'],
  [
    'a VLAN of no class',
    asked(exchange('accepted', { vlan: { kind: 'name', text: 'Deck' } })),
    {},
    {},
    'Let in nowhere',
  ],
])('%s ends a walk', (_name, said, of, ssid, title) => {
  const { steps, arrived } = walked(said, of, ssid);
  expect([arrived, steps.at(-1)!.passed, steps.at(-1)!.title]).toEqual([false, false, title]);
});

test('servers are asked for who says who it is, or for a MAC address that no class lists, and for nobody else', () => {
  const asks = (of: Partial<Probe>, ssid: Partial<SsidDocument> = {}) =>
    walkAsks(documents(ssid), { ...probe, ...of })?.asked;
  expect(asks({})).toEqual({ ...probe.entry, mac: MAC, at: 'SSID 1' });
  expect(asks({ entry: undefined })).toBeUndefined();
  expect(asks({}, { security: 'wpa3-enterprise-192' })).toBeUndefined();
  const open = { security: 'open' } as const;
  expect(asks({}, open)).toEqual({ method: 'mac', user: MAC, password: '', mac: MAC, at: 'SSID 1' });
  expect(asks({ mac: undefined }, open)).toBeUndefined();
  expect(asks({}, { ...open, byClass: undefined as never })).toBeUndefined();
});

test('a MAC address that a server knows joins the class it names, and one that none knows the SSID’s own segment', () => {
  const open = { security: 'open' } as const;
  expect(way(asked(crew), {}, open)).toEqual(['Let in unasked', 'Quay lets in', 'VLAN 20']);
  expect(way(asked('rejected'), {}, open)).toEqual(['Let in unasked', 'Quay turns away', 'VLAN 10']);
  expect(walked(asked('rejected'), {}, open).arrived).toBe(true);
  expect(way(undefined, {}, open)).toEqual(['Let in unasked', 'Not asked about', 'VLAN 10']);
});

const RING: Partial<SsidDocument> = {
  ...{ security: 'wpa2-psk', byClass: undefined },
  ring: {
    asked: true,
    segments: [
      { name: 'Segment 1', vlan: 10 },
      { name: 'Segment 2', vlan: 20 },
    ],
  },
};
const GIVES: Partial<Probe> = { entry: undefined, gives: 'half past nine sailing' };
const named = (kind: 'id' | 'name' | 'none' | 'wrong', text: string, given = true) => ({
  vlan: { kind, text },
  ...(given ? { given: true as const } : {}),
});

test('a key that a server names leads where that says, and servers are asked for it by MAC address', () => {
  const led = asked('silent', exchange('accepted', { ring: [named('none', '', false), named('name', 'segment 2')] }));
  expect(way(led, GIVES, RING)).toEqual(['Gives a key', 'Quay: no answer', 'Mole lets in', 'Authenticated', 'VLAN 20']);
  const { steps } = walked(led, GIVES, RING);
  expect(steps.find(({ title }) => title === 'VLAN 20')).toMatchObject({
    detail: 'The key that “Mole” names leads to Segment 2, VLAN 20.',
    decidedBy: { kind: 'radius', name: 'Mole' },
  });
  const own = asked(exchange('accepted', { ring: [named('none', '')] }));
  expect(way(own, GIVES, RING).at(-1)).toBe('VLAN 10');
  expect(walkAsks(documents(RING), { ...probe, ...GIVES })!.asked).toEqual({
    ...{ method: 'mac', user: MAC, password: '', mac: MAC, gives: GIVES.gives },
    at: (documents(RING).get(apId) as ApDocument).ssids[0]!.name,
  });
  expect(walkAsks(documents(RING), { ...probe, entry: undefined })).toBeNull();
});

test('a key leads to the class that its answer names, whatever segment that is in, where classes count', () => {
  const says = (more: Partial<Exchange>) =>
    asked(exchange('accepted', { ring: [named('name', 'segment 1')], ...more }));
  const { steps } = walked(says({ filterIds: ['crew'] }), GIVES, { ...RING, byClass: true });
  expect(steps.find(({ kind }) => kind === 'vlan')).toMatchObject({
    detail: 'The key that “Quay” names leads to the class “Crew”, which joins VLAN 20.',
    decidedBy: { kind: 'radius', name: 'Quay' },
  });
  expect(way(says({ filterIds: ['crew'] }), GIVES, RING).at(-1)).toBe('VLAN 10');
  expect(way(says({ filterIds: ['pilots'] }), GIVES, { ...RING, byClass: true }).at(-1)).toBe('Refused');
  expect(way(says({}), GIVES, { ...RING, byClass: true }).at(-1)).toBe('VLAN 10');
});

test.each<[string, object, string | RegExp]>([
  ['to a class', { accessClass: 'CREW' }, 'The key of Deck leads to the class “Crew”, which joins VLAN 20.'],
  [
    'to a class that is not here',
    { accessClass: 'Pilots' },
    /leads to the class “Pilots”, which keys do not lead to here/,
  ],
  ['to a segment', { segment: 'segment 1' }, 'The key of Deck leads to Segment 1, VLAN 10.'],
])('a key that is kept here leads %s, before a class that lists the MAC address', (_what, leads, said) => {
  const { asked: _asked, ...kept } = RING.ring!;
  const listed = documents({ ...RING, ring: kept, byClass: true });
  const ap = listed.get(apId) as ApDocument;
  const members = [{ id: 'staff', name: 'Staff', vlan: 30, members: [MAC] }];
  listed.set(apId, { ...ap, classes: [...members, ...ap.classes!] });
  const key = { id: 'k', name: 'Deck', ...leads };
  const details = walk(listed, sample.links, { ...probe, entry: undefined }, { ...facts, key }).steps.map(
    ({ detail }) => detail,
  );
  expect(details).toContainEqual(typeof said === 'string' ? said : expect.stringMatching(said));
});

test.each<[string, ReturnType<typeof asked> | undefined, Partial<Probe>, RegExp]>([
  ['no key', undefined, { gives: undefined }, /gives none: type one/],
  ['servers that were not asked', undefined, {}, /by whoever may change/],
  ['no server', [], {}, /is told of no RADIUS server/],
  ['a no', asked('rejected'), {}, /does not let 0e:c4:60:00:00:01 in/],
  ['a yes without keys', asked('accepted'), {}, /names no key/],
  ['other keys', asked(exchange('accepted', { ring: [named('none', '', false)] })), {}, /one key, and none of them/],
  ['a segment elsewhere', asked(exchange('accepted', { ring: [named('name', 'Deck')] })), {}, /leads to “Deck”/],
  ['no VLAN', asked(exchange('accepted', { ring: [named('wrong', '4095')] })), {}, /leads to “4095”/],
])('of a ring whose keys servers name, %s ends a walk', (_name, said, of, words) => {
  const { steps, arrived } = walked(said, { ...GIVES, ...of }, RING);
  expect([arrived, steps.at(-1)!.passed]).toEqual([false, false]);
  expect(steps.at(-1)!.detail).toMatch(words);
});
