import { expect, test } from 'vitest';
import { resolve } from '../intent';
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
    otherSideOf(site, { address, source }, uplinks).addresses;
  expect(at('radius.test.example')).toEqual(['198.51.100.1', '203.0.113.9']);
  expect(at('198.51.100.90', 'gateway')).toEqual(['198.51.100.1', '203.0.113.9']);
  for (const address of ['10.9.0.7', '172.31.0.7', '192.168.4.4', 'fd00::7'])
    expect(at(address)).toEqual(['10.1.1.0/24']);
  for (const address of ['11.9.0.7', '172.32.0.7', '192.169.4.4', '2001:db8::7']) expect(at(address)).toHaveLength(2);
  expect(at('10.9.0.7', 'gateway')).toEqual(['10.1.1.1']);
  expect(otherSideOf(site, { address: '10.9.0.7', source: 'device' }, []).answers).toEqual([
    { name: 'Crew', filterId: 'Crew', vlan: 'Segment 1' },
    { name: 'Lost', filterId: 'Lost', vlan: null },
  ]);
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
