import { expect, test } from 'vitest';
import { NEW_PORTAL, resolve } from '../intent';
import { ENDS, type Exchange } from '../radius';
import { applied, sampleId, sampleSite } from '../testing';
import { otherSideOf, OUTCOMES, outcomeOf } from '.';

const sample = sampleSite({ segments: 3, aps: 1 });
const cls = (n: number, name: string, segment: string) => ({
  type: 'class.add' as const,
  accessClass: { id: sampleId(8, n), name, segment, members: [], reach: { kind: 'estate' as const } },
});
const { estate } = applied(sample.intent, cls(0, 'Crew', 'Segment 1'), cls(1, 'Lost', 'Nowhere'));
const site = resolve(estate, sample.site);
const server = { name: 'Quay', address: '198.51.100.90', port: 1812 };
const EXCHANGE: Exchange = {
  ...{ end: 'accepted', why: '', address: server.address, packets: [], sent: 2, ms: 4 },
  ...{ filterIds: [], vlan: { kind: 'none', text: '' }, sessionSeconds: null },
};
const of = (change: Partial<Exchange>) => outcomeOf({ ...EXCHANGE, ...change }, server, site);

test('who is let in is told with class and segment, and what leads nowhere with what to do', () => {
  const crew = { accessClass: { id: sampleId(8, 0), name: 'Crew' }, segment: { name: 'Segment 1', vlan: 10 } };
  expect(of({ filterIds: ['crew'] })).toMatchObject({ kind: 'let-in', advice: '', ...crew });
  expect(of({ vlan: { kind: 'name', text: 'segment 1' } })).toMatchObject({ kind: 'let-in', ...crew });
  expect(of({ filterIds: ['Gulls'] })).toMatchObject({ kind: 'unknown-class', accessClass: null, segment: null });
  expect(of({ filterIds: ['Lost'] })).toMatchObject({ kind: 'class-without-segment', accessClass: { name: 'Lost' } });
  expect(of({ vlan: { kind: 'id', text: '20' } }).kind).toBe('unknown-segment');
  expect(of({}).kind).toBe('no-class');
  expect(of({ end: 'silent' }).words).toBe('Quay does not answer, though it was asked 2 times.');
});

test('an answer that names a portal is told so, with the class that it names or without one', () => {
  const portal = { ...NEW_PORTAL, id: sampleId(9, 1), name: 'Contractors', named: true };
  const here = resolve(applied({ ...sample.intent, estate }, { type: 'portal.add', portal }).estate, sample.site);
  const told = (...filterIds: string[]) => outcomeOf({ ...EXCHANGE, filterIds }, server, here);
  const held = 'The portal “Contractors” holds it until it is let in as a guest.';
  expect(told('contractors')).toMatchObject({ kind: 'no-class', words: `Let in without a class. ${held}` });
  expect(told('Contractors', 'Crew').words).toBe(`Let in as Crew (Filter-Id): Segment 1, VLAN 10. ${held}`);
  expect(of({ filterIds: ['Contractors'] }).kind).toBe('unknown-class');
});

test('each way in which asking can end is told in words of its own, and but for being let in with what to do', () => {
  const told = ENDS.map((end) => of({ end, filterIds: ['Crew'] }));
  expect(new Set(told.map(({ words }) => words)).size).toBe(ENDS.length);
  for (const { kind, words, advice } of told) {
    expect([OUTCOMES.includes(kind), words.length > 10, kind === 'let-in' || advice.length > 10]).toEqual([
      true,
      true,
      true,
    ]);
  }
});

test('a server is to know the addresses that it sees, and what it may answer', () => {
  const at = (address: string, source: 'device' | 'gateway' = 'device', uplinks = ['203.0.113.9', '198.51.100.1']) =>
    otherSideOf(site, { address, source, macs: null }, uplinks).addresses;
  expect(at('radius.test.example')).toEqual(['198.51.100.1', '203.0.113.9']);
  expect(at('198.51.100.90', 'gateway')).toEqual(['198.51.100.1', '203.0.113.9']);
  for (const address of ['10.9.0.7', '172.31.0.7', '192.168.4.4', 'fd00::7'])
    expect(at(address)).toEqual(['10.1.1.0/24']);
  for (const address of ['11.9.0.7', '172.32.0.7', '192.169.4.4', '2001:db8::7']) expect(at(address)).toHaveLength(2);
  expect(at('10.9.0.7', 'gateway')).toEqual(['10.1.1.1']);
  expect(otherSideOf(site, { address: '10.9.0.7', source: 'device', macs: null }, []).answers).toEqual([
    { name: 'Crew', filterId: 'Crew', vlan: 'Segment 1' },
    { name: 'Lost', filterId: 'Lost', vlan: null },
  ]);
});

test('keys of a ring are told with where each leads, and what to do about those that lead nowhere', () => {
  const key = (kind: 'id' | 'name' | 'none' | 'wrong', text: string) => ({ vlan: { kind, text } });
  // The VLAN of the lowest tag is that of a key, and of no class.
  const vlan = { kind: 'name' as const, text: 'segment 2' };
  const said = of({ vlan, ring: [key('none', ''), key('name', 'segment 2'), key('id', '77')] });
  expect(said.kind).toBe('names-keys');
  expect(said.words).toMatch(/3 keys .*own segment; one to Segment 2, VLAN \d+; one to “77”, which is not here\.$/);
  expect(said.advice).toMatch(/^Add the segment/);
  expect(of({ ring: [{ ...key('none', ''), unfit: true }] }).advice).toMatch(/8 to 63 characters/);
  const both = of({ filterIds: ['Crew'], ring: [key('none', '')] });
  expect([both.kind, both.words]).toEqual(['let-in', expect.stringContaining('a key of a ring')]);
  const many = of({ ring: Array.from({ length: 40 }, () => key('none', '')) });
  expect(many.words).toContain('32 more');
});

test('a server that names keys is told how a client is called there, and where keys may lead', () => {
  const was = sample.intent.estate.ssids[0]!;
  const { estate: withRing } = applied(
    { ...sample.intent, estate },
    {
      type: 'ssid.set',
      ssidId: was.id,
      from: { security: was.security, bands: was.bands, ring: null, keysAt: null },
      to: { security: 'wpa2-psk', bands: ['5'], ring: ['Segment 2', 'Nowhere'], keysAt: 'servers' },
    },
  );
  const here = resolve(withRing, sample.site);
  const asks = { address: '10.9.0.7', source: 'device' as const };
  const own = withRing.ssids[0]!.segment;
  expect(otherSideOf(here, { ...asks, macs: 'hyphen_upper' }, []).rings).toEqual([
    {
      ssid: withRing.ssids[0]!.name,
      user: '02-00-00-00-00-01',
      segments: [...new Set([own, 'Segment 2'])],
      byClass: null,
    },
  ]);
  expect(otherSideOf(here, { ...asks, macs: null }, []).rings).toEqual([]);
  const counting = applied(
    { ...sample.intent, estate: withRing },
    { type: 'ssid.set', ssidId: was.id, from: { byClass: null }, to: { byClass: true } },
  );
  expect(
    otherSideOf(resolve(counting.estate, sample.site), { ...asks, macs: 'none_lower' }, []).rings[0]!.byClass,
  ).toEqual({ user: '020000000002', classes: ['Crew'] });
});

test('the controller itself, which has no address, is told by its name', () => {
  for (const end of ENDS) {
    const { words, advice } = outcomeOf(
      { ...EXCHANGE, end, why: 'It is cut.' },
      { name: 'Own', own: true, address: '', port: 1812 },
      site,
    );
    expect(`${words} ${advice}`, end).not.toMatch(/ {2}| [.,;:]|^ /);
  }
});
