import { describe, expect, test } from 'vitest';
import { consequencesOf } from '../../assess';
import { overlayLines, type GatewayDocument } from '../../document';
import { compileSite } from '../../rollout';
import { appliedWith, refusedWith, sampleId, sampleJoin, sampleMember, sampleSites } from '../../testing';
import {
  everyNoun,
  joinedSeenAt,
  overlayAt,
  resolve,
  stepsBetween,
  stepsTo,
  touchedSites,
  type Intent,
  type Operation,
} from '..';
import type { Member } from './member';

const sample = sampleSites({ sites: 6, segments: 3 });
const { siteIds, roster } = sample;
const done = (...operations: Operation[]) => appliedWith(roster, sample.intent, ...operations);
const further = (intent: Intent, ...operations: Operation[]) => appliedWith(roster, intent, ...operations);
const refused = (operation: Operation, intent: Intent) => refusedWith(roster, intent, operation);
const told = ({ estate, sites }: Intent, n: number) =>
  compileSite(
    resolve(estate, sites.get(siteIds[n]!)!),
    roster.filter(({ siteId }) => siteId === siteIds[n]),
  ).get(sampleId(2, n)) as GatewayDocument;
const findings = ({ estate, sites }: Intent, n: number) =>
  consequencesOf({
    ...{ estate, site: sites.get(siteIds[n]!)!, roster: roster.filter(({ siteId }) => siteId === siteIds[n]) },
    ...{ links: [], told: {} },
  }).findings.filter(({ place }) => place.kind === 'member');
const set = (n: number, from: Partial<Member>, to: Partial<Member>): Operation => ({
  ...{ type: 'member.set', memberId: sampleId(20, n), from, to },
});
const joined = done(...sampleJoin(2, 3));
const [north, south, west] = [0, 1, 2].map((n) => sampleId(20, n)) as [string, string, string];

describe('sites that are joined', () => {
  test('each tell their gateway the tunnels it has, and what is behind them', () => {
    expect(told(sample.intent, 0).overlay).toBeUndefined();
    expect(told(joined, 5).overlay).toBeUndefined();
    const spoke = told(joined, 2).overlay!;
    expect(spoke).toMatchObject({ role: 'spoke', name: 'Site 2', spans: ['10.0.0.0/8'] });
    expect(spoke.peers.map(({ name, turn, at, mtu, carries }) => [name, turn, at, mtu, carries])).toEqual([
      ['Site 0', 0, ['203.0.113.1'], 1440, []],
      ['Site 1', 1, ['203.0.113.2'], 1440, []],
    ]);
    const hub = told(joined, 0).overlay!;
    expect(hub.peers.map(({ name, hubs, at, carries }) => [name, hubs, at, carries.length])).toEqual([
      ['Site 1', undefined, ['203.0.113.2'], 3],
      ['Site 2', ['Site 1'], [], 3],
      ['Site 3', ['Site 1'], [], 3],
      ['Site 4', ['Site 1'], [], 3],
    ]);
    expect(hub.shares).toEqual(['10.0.0.0/24', '10.0.1.0/24', '10.0.2.0/24']);
  });

  test('know of each other what follows from their sites: a segment that is numbered anew is found at once by its hubs, and by nobody else', () => {
    const segment = joined.sites.get(siteIds[3]!)!.segments[1]!;
    const after = further(joined, {
      ...{ type: 'segment.set', siteId: siteIds[3]!, segmentId: segment.id },
      from: { subnet: segment.subnet, gateway: segment.gateway, addresses: segment.addresses },
      to: { subnet: '10.9.0.0/24', gateway: '10.9.0.1', addresses: null },
    });
    expect(touchedSites(joined, after)).toEqual([siteIds[0], siteIds[1], siteIds[3]]);
    expect(overlayAt(after.estate, siteIds[0]!)!.peers[2]!.carries).toContain('10.9.0.0/24');
    // An edit of something else leaves what sites share the very same.
    const other = further(joined, {
      ...{ type: 'segment.set', siteId: siteIds[3]!, segmentId: segment.id, from: { name: segment.name } },
      to: { name: 'Deck' },
    });
    expect(other.estate).toBe(joined.estate);
    // The way back says nothing of what follows by itself.
    expect(stepsBetween(after.estate, joined.estate)).toEqual([]);
    const back = stepsTo(joined, sample.intent, ['estate', ...siteIds], (id) => roster.find((each) => each.id === id));
    expect(back).toMatchObject({ ok: true });
    expect(back.ok && back.intent.estate).toEqual(sample.intent.estate);
  });

  test('that do not share something, or do not take it, do not have it', () => {
    const [first] = joined.sites.get(siteIds[2]!)!.segments;
    const after = further(
      joined,
      set(2, { segments: 'all', prefixes: [] }, { segments: [first!.id], prefixes: [' 10.77.0.9/16'] }),
      set(3, { takes: null, leaves: 'here' }, { takes: ['10.0.0.0/16'], leaves: 'hub' }),
    );
    expect(told(after, 0).overlay!.peers[1]!.carries).toEqual(['10.0.32.0/24', '10.77.0.0/16']);
    const lines = overlayLines(told(after, 3).overlay!).map(
      ({ prefix, peer, metric }) => `${prefix} ${peer} ${metric}`,
    );
    expect(lines).toEqual([
      ...['10.0.0.0/16 Site 0 0', '0.0.0.0/0 Site 0 0', '::/0 Site 0 0'],
      ...['10.0.0.0/16 Site 1 1', '0.0.0.0/0 Site 1 1', '::/0 Site 1 1', '10.0.0.0/8 null 9999'],
    ]);
  });

  test('by a hub that has no tunnel to a site reach it by the hubs that have one, and directly where they said so', () => {
    const after = further(
      joined,
      set(4, { hubs: [north, south] }, { hubs: [south] }),
      set(2, { direct: [] }, { direct: [sampleId(20, 3)] }),
      set(3, { found: {} }, { found: { wan1: '198.51.100.3' } }),
    );
    expect(told(after, 0).overlay!.sites).toEqual([
      { name: 'Site 4', carries: ['10.0.64.0/24', '10.0.65.0/24', '10.0.66.0/24'], hubs: ['Site 1'] },
    ]);
    for (const [n, other] of [
      [2, 3],
      [3, 2],
    ] as const)
      expect(told(after, n).overlay!.peers.find(({ role }) => role === 'spoke')).toMatchObject({
        ...{ name: `Site ${other}`, carries: [`10.0.${other * 16}.0/24`, expect.anything(), expect.anything()] },
      });
    expect(findings(after, 2).map(({ code }) => code)).toContain('overlay.bent');
    expect(findings(after, 2).find(({ code }) => code === 'overlay.bent')!.message).toContain('Site 4');
    expect(findings(joined, 2).map(({ code }) => code)).not.toContain('overlay.bent');
    // One that hangs on one hub could have another stand in.
    const hanging = findings(after, 4).find(({ code }) => code === 'overlay.single')!;
    expect(hanging).toMatchObject({ message: 'Site 4 hangs on one hub', mend: { label: 'have Site 0 stand in' } });
    const mended = further(after, ...hanging.mend!.operations);
    expect(findings(mended, 4).map(({ code }) => code)).not.toContain('overlay.single');
    expect(findings(joined, 4).map(({ code }) => code)).not.toContain('overlay.single');
  });

  test('that cannot be joined so are refused with a word of why', () => {
    const add = (n: number, more: Partial<Member> = {}, intent = joined) =>
      refused({ type: 'member.add', member: sampleMember(n, { hubs: [north], ...more }) }, intent);
    expect(add(5, {}, sample.intent)).toContain('Say first where the networks of your sites are');
    expect(add(5, { hubs: [] })).toContain('hubs: Say which hub it is joined to.');
    expect(add(5, { hubs: [sampleId(20, 5)] })).toContain('hubs: A site is not its own hub.');
    expect(add(5, { hubs: [west] })).toContain('hubs: Site 2 is no hub.');
    expect(add(5, { hubs: [north, north] })).toContain('named twice');
    expect(add(5, { direct: [south] })).toContain('direct: Site 1 is a hub');
    expect(add(5, { role: 'hub' })).toContain('hubs are joined to each other by themselves');
    expect(add(5, { role: 'hub', hubs: [], leaves: 'hub' })).toContain('leaves: A hub is where others leave');
    expect(add(5, { prefixes: ['10.0.0.0/33'] })).toContain('prefixes: “10.0.0.0/33” is no prefix');
    expect(add(5, { prefixes: ['192.168.0.0/24'] })).toContain('prefixes: 192.168.0.0/24 is not where');
    expect(add(5, { prefixes: ['10.0.32.0/20'] })).toContain('is shared by Site 2 already');
    expect(add(5, { takes: [] })).toContain('takes: Say what of the others');
    expect(add(5, { found: { wan1: '10.4.4.4' } })).toContain('no tunnel goes through one');
    expect(add(5, { found: { wan1: 'here' } })).toContain('“here” is no address');
    expect(add(5, { found: { 7: '198.51.100.1' } })).toContain('7 cannot be an uplink');
    expect(add(5, { deviceId: sampleId(2, 1) })).toContain('This gateway is no longer at Site 5');
    expect(add(5, { key: { secret: sampleId(21, 5), public: 'short' } })).toContain('let the controller make one');
    expect(add(5, { key: sampleMember(2).key })).toContain('Another site has this key');
    expect(
      refused({ type: 'member.add', member: sampleMember(2, { id: sampleId(20, 9), hubs: [north] }) }, joined),
    ).toContain('Site 2 is joined already');
    expect(refused({ type: 'member.remove', memberId: north }, joined)).toContain('is a hub of Site 2, Site 3, Site 4');
    expect(refused(set(0, { role: 'hub', hubs: [] }, { role: 'spoke', hubs: [south] }), joined)).toContain(
      'role: Site 0 is a hub of',
    );
    expect(refused({ type: 'overlay.set', from: { spans: ['10.0.0.0/8'] }, to: null }, joined)).toContain(
      '5 sites are joined',
    );
    expect(
      refused({ type: 'overlay.set', from: { spans: ['10.0.0.0/8'] }, to: { spans: ['10.0.0.0/19'] } }, joined),
    ).toContain('of Site 2 would be left out');
    const spans = (...to: string[]) => refused({ type: 'overlay.set', from: null, to: { spans: to } }, sample.intent);
    expect(spans()).toContain('Say where your sites’ networks are');
    expect(spans('0.0.0.0/0')).toContain('is everybody’s');
    expect(spans('10.0.0.0/8', '10.3.0.0/16')).toContain('are in part the same');
    expect(spans('ten')).toContain('“ten” is no prefix');
  });

  test('show where a tunnel cannot be, where two have one address, and where nobody gets in', () => {
    const lost = further(joined, set(0, { found: { wan1: '203.0.113.1' } }, { found: {} }));
    expect(findings(lost, 2).map(({ code, severity }) => [code, severity])).toEqual([['overlay.unmet', 'warning']]);
    expect(told(lost, 2).overlay!.peers.map(({ name }) => name)).toEqual(['Site 1']);
    const alone = further(lost, set(1, { found: { wan1: '203.0.113.2' } }, { found: {} }));
    expect(findings(alone, 2)[0]).toMatchObject({ code: 'overlay.alone', severity: 'error' });
    // A fixed public address of an uplink is known by itself.
    const fixed = { address: '198.51.100.9/29', gateway: '198.51.100.14' };
    const met = further(alone, {
      ...{ type: 'uplink.set', siteId: siteIds[2]!, deviceId: sampleId(2, 2), port: 'wan1', from: null },
      to: { way: 'static', fixed, mtu: 1400 },
    });
    expect(told(met, 0).overlay!.peers.find(({ name }) => name === 'Site 2')).toMatchObject({
      at: ['198.51.100.9'],
      mtu: 1340,
    });

    expect(findings(joined, 2)).toEqual([]);
    const guests = joined.sites.get(siteIds[2]!)!.segments[2]!;
    const kept = further(joined, {
      ...{ type: 'segment.set', siteId: siteIds[2]!, segmentId: guests.id, from: { isolation: null } },
      to: { isolation: { segments: true } },
    });
    // All that are not kept apart are shared, unless somebody names one that is.
    expect(kept.estate.joins![west]!.carries).toEqual(['10.0.32.0/24', '10.0.33.0/24']);
    const named = further(kept, set(2, { segments: 'all' }, { segments: [guests.id] }));
    const [apart] = findings(named, 2);
    expect(apart).toMatchObject({ code: 'overlay.apart', message: `Nobody of another site gets into ${guests.name}` });
    expect(findings(further(named, ...apart!.mend!.operations), 2)).toEqual([]);

    const segment = joined.sites.get(siteIds[3]!)!.segments[2]!;
    const numbered = (subnet: string, gateway: string, on = joined) =>
      further(on, {
        ...{ type: 'segment.set', siteId: siteIds[3]!, segmentId: segment.id },
        from: { subnet: segment.subnet, gateway: segment.gateway, addresses: segment.addresses },
        to: { subnet, gateway, addresses: null },
      });
    const codes = (intent: Intent, n: number) => findings(intent, n).map(({ code }) => code);
    expect(codes(numbered('172.20.0.0/24', '172.20.0.1'), 3)).toContain('overlay.outside');
    const wider = further(joined, set(2, { prefixes: [] }, { prefixes: ['10.78.0.0/16'] }));
    expect(codes(numbered('10.77.3.0/24', '10.77.3.1', wider), 3)).not.toContain('overlay.overlap');
    expect(findings(numbered('10.78.3.0/24', '10.78.3.1', wider), 3)).toContainEqual(
      expect.objectContaining({ code: 'overlay.overlap', reason: expect.stringContaining('10.78.0.0/16 of Site 2') }),
    );
  });

  test('stay as they are known where a single site is looked at, whose page gets its own tunnels alone', () => {
    const [id, site] = [siteIds[2]!, joined.sites.get(siteIds[2]!)!];
    const [, segment] = site.segments;
    const alone = further(
      { estate: joined.estate, sites: new Map([[id, site]]) },
      { type: 'segment.set', siteId: id, segmentId: segment!.id, from: { name: segment!.name }, to: { name: 'Deck' } },
    );
    expect(alone.estate).toBe(joined.estate);
    const seen = joinedSeenAt(joined.estate, id);
    expect(seen.members!.map((each) => each.id)).toEqual([north, south, west]);
    expect(overlayAt(seen, id)).toEqual(overlayAt(joined.estate, id));
    expect(joinedSeenAt(joined.estate, siteIds[0]!)).toBe(joined.estate);
    expect(joinedSeenAt(joined.estate, siteIds[5]!).members).toEqual([]);
  });

  test('are found by what is there, and take back what was said', () => {
    const hits = everyNoun().flatMap(({ find }) => [
      ...(find?.(joined, (...texts) => texts.some((text) => text.includes('203.0.113.2'))) ?? []),
    ]);
    expect(hits).toMatchObject([{ kind: 'member', title: 'Site 1' }]);
    const without = further(joined, { type: 'member.remove', memberId: sampleId(20, 4) });
    expect(told(without, 4).overlay).toBeUndefined();
    expect(told(without, 0).overlay!.peers).toHaveLength(3);
    expect(touchedSites(joined, without)).toEqual([siteIds[0], siteIds[1], siteIds[4]]);
  });
});
