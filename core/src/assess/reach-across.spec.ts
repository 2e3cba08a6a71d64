import { describe, expect, test } from 'vitest';
import { compileSite, enforcedAt } from '../rollout';
import { resolve, type Intent, type KeptGuarantee, type Operation } from '../intent';
import { appliedWith, refusedWith, sampleId, sampleJoin, sampleSites } from '../testing';
import type { RuleEnd } from '../rules';
import { consequencesOf } from './consequences';
import type { Beyond } from './beyond';
import { reachAcross, reachCellAcross, type AcrossInput } from './reach-across';
import type { ReachInput } from './reach-view';

const sample = sampleSites({ sites: 4, segments: 3 });
const { siteIds, roster } = sample;
const joined = appliedWith(roster, sample.intent, ...sampleJoin(1, 2));
const done = (...operations: Operation[]): Intent => appliedWith(roster, joined, ...operations);
const devicesAt = (n: number) => roster.filter(({ siteId }) => siteId === siteIds[n]);
const inputAt = ({ estate, sites }: Intent, n: number, live = true): ReachInput => {
  const site = resolve(estate, sites.get(siteIds[n]!)!);
  return {
    ...{ site, roster: devicesAt(n), liveSite: site },
    live: live ? enforcedAt(site, devicesAt(n), compileSite(site, devicesAt(n))) : null,
  };
};
const member = (n: number): string => sampleId(20, n);
const UP: AcrossInput['up'] = [
  [member(0), member(1)],
  [member(2), member(0)],
];
const across = (intent: Intent, from: number, to: number, up = UP): AcrossInput => ({
  ...{ here: inputAt(intent, from), there: inputAt(intent, to), up, ahead: 0 },
});
const deny = (n: number, to: string, port = '22', id = 30): Operation => ({
  ...{ type: 'rule.add', siteId: siteIds[n]!, behind: null },
  rules: [
    {
      ...{ id: sampleId(id, n), verdict: 'deny', services: [{ protocol: 'tcp', ports: [port] }] },
      ...{ from: [{ kind: 'any' }], to: [{ kind: 'addresses', text: to }], comment: `No ${port} at ${n}` },
    },
  ],
});
const [THIRD] = ['10.0.33.0/24'];

describe('reach from one site to another', () => {
  test('is what both gateways let through, place by place', () => {
    const { places: rows, columns = [], draft, live, stops } = reachAcross(across(joined, 1, 2), null);
    const names = rows.map(({ name }) => name);
    expect(names).toEqual(columns.map(({ name }) => name));
    expect(stops).toEqual([]);
    expect(draft).toEqual(names.map(() => names.map(() => 'all')));
    expect(live).toEqual(draft);
    // The second gateway stops some of it, for one of its segments alone.
    const shut = reachAcross(across(done(deny(2, THIRD)), 1, 2), null);
    expect(shut.draft.map((row) => row.join())).toEqual(names.map(() => 'all,some,all'));
    const both = done(deny(2, THIRD, '0-21'), deny(2, THIRD, '23-65535', 31), deny(1, THIRD));
    const [row] = reachAcross(across(both, 1, 2), null).draft;
    expect(row).toEqual(['all', 'some', 'all']); // UDP and the rest
  });

  test('is nothing where one does not share it, does not take it, or is not joined', () => {
    const [first] = joined.sites.get(siteIds[1]!)!.segments;
    const shy = done({
      ...{ type: 'member.set', memberId: member(1), from: { segments: 'all' }, to: { segments: [first!.id] } },
    });
    const { draft } = reachAcross(across(shy, 1, 2), null);
    expect(draft.map((row) => row[0])).toEqual(['all', 'none', 'none']);
    const wary = done({
      type: 'member.set',
      memberId: member(2),
      from: { takes: null },
      to: { takes: ['10.0.17.0/24'] },
    });
    expect(reachAcross(across(wary, 1, 2), null).draft.map((row) => row[0])).toEqual(['none', 'all', 'none']);
    const alone = reachAcross(across(joined, 1, 3), null);
    expect(alone.draft.flat().every((reach) => reach === 'none')).toBe(true);
    expect(alone.stops).toEqual(['Site 3 is not joined to other sites.']);
    // A route of its own leads what is for the other site elsewhere.
    const astray = done({
      ...{ type: 'route.add', siteId: siteIds[1]! },
      route: { id: sampleId(40, 1), deviceId: sampleId(2, 1), name: 'Lost', prefix: THIRD, via: { kind: 'nowhere' } },
    });
    expect(reachAcross(across(astray, 1, 2), null).draft[0]).toEqual(['all', 'none', 'all']);
  });

  test('on live is by tunnels that are up, and null where nothing runs', () => {
    const { draft, live } = reachAcross(across(joined, 1, 2, [[member(0), member(1)]]), null);
    expect(draft[0]).toEqual(['all', 'all', 'all']);
    expect(live![0]).toEqual(['none', 'none', 'none']);
    const input = { ...across(joined, 1, 2), there: inputAt(joined, 2, false) };
    expect(reachAcross(input, null).live).toBeNull();
  });

  test('says exactly what gets through, and what decides it where', () => {
    const shut = across(done(deny(2, THIRD)), 1, 2);
    const { places: rows, columns = [] } = reachAcross(shut, null);
    const asked = { from: rows[0]!.key, to: columns[1]!.key, on: 'draft' as const, minute: null };
    const cell = reachCellAcross(shut, asked);
    expect(cell.reach).toBe('some');
    expect(cell.allowed).toHaveLength(1);
    expect(cell.allowed[0]!.services.join()).toMatch(/TCP 0-21|TCP 0 to 21|tcp 0-21/i);
    expect(cell.rules).toContainEqual(expect.objectContaining({ name: 'No 22 at 2', site: 'Site 2', verdict: 'deny' }));
    expect(() => reachCellAcross(shut, { ...asked, to: 'nobody' })).toThrow(RangeError);
    const away = across(joined, 1, 3);
    const [to] = reachAcross(away, null).columns!;
    const none = reachCellAcross(away, { ...asked, to: to!.key });
    expect(none).toMatchObject({ reach: 'none', allowed: [], stops: ['Site 3 is not joined to other sites.'] });
  });
});

describe('a guarantee that reaches another site', () => {
  const segment = (name: string): RuleEnd => ({ kind: 'segment', name });
  const names = joined.sites.get(siteIds[2]!)!.segments.map(({ name }) => name);
  const given = (more: Partial<KeptGuarantee>): KeptGuarantee => ({
    ...{ id: sampleId(50, 0), kind: 'always', from: [segment(names[0]!)], to: [segment(names[1]!)] },
    ...{ services: [{ protocol: 'tcp', ports: ['22'] }], toSite: siteIds[2]! },
    ...more,
  });
  const beyondOf = ({ sites }: Intent): Beyond => ({
    [siteIds[2]!]: { site: sites.get(siteIds[2]!)!, roster: devicesAt(2) },
  });
  const standing = (intent: Intent, n = 1) =>
    consequencesOf({
      ...{ estate: intent.estate, site: intent.sites.get(siteIds[n]!)!, roster: devicesAt(n), links: [], told: {} },
      beyond: beyondOf(intent),
    });
  const add = (guarantee: KeptGuarantee, n = 1): Operation => ({
    type: 'guarantee.add',
    siteId: siteIds[n]!,
    guarantee,
  });

  test('holds, and breaks by either gateway, with the packet', () => {
    const kept = done(add(given({})));
    expect(standing(kept).guarantees).toMatchObject([
      { state: 'holds', words: `segment ${names[0]} always reaches segment ${names[1]} at Site 2 on tcp 22` },
    ]);
    for (const n of [1, 2]) {
      const { guarantees, findings } = standing(appliedWith(roster, kept, deny(n, THIRD)));
      expect(guarantees[0]).toMatchObject({ state: 'broken', why: `Stopped at Site ${n} by “No 22 at ${n}”.` });
      expect(guarantees[0]!.packet).toMatch(/^10\.0\.16\.\d+ → 10\.0\.33\.\d+, TCP 22$/);
      expect(findings).toContainEqual(expect.objectContaining({ code: 'rules.guarantee', severity: 'error' }));
    }
    const left = appliedWith(roster, kept, { type: 'member.remove', memberId: member(2) });
    expect(standing(left).guarantees[0]).toMatchObject({
      state: 'broken',
      why: 'Site 2 is not joined to other sites.',
    });
  });

  test('that something never gets there holds only where no packet does', () => {
    const never = done(add(given({ kind: 'never' })));
    expect(standing(never).guarantees[0]).toMatchObject({
      state: 'broken',
      why: 'Let through by no rule at Site 1, and by no rule at Site 2.',
    });
    for (const n of [1, 2])
      expect(standing(appliedWith(roster, never, deny(n, THIRD))).guarantees[0]).toMatchObject({ state: 'holds' });
    // Each stops a part, and together all of it.
    const halves = done(add(given({ kind: 'never', services: [{ protocol: 'tcp', ports: ['1-100'] }] })));
    expect(standing(appliedWith(roster, halves, deny(1, THIRD, '1-50'))).guarantees[0]).toMatchObject({
      state: 'broken',
    });
    expect(
      standing(appliedWith(roster, halves, deny(1, THIRD, '1-50'), deny(2, THIRD, '51-100'))).guarantees[0],
    ).toMatchObject({ state: 'holds' });
    // Nobody gets to a site that is not joined.
    const away = appliedWith(roster, never, { type: 'member.remove', memberId: member(2) });
    expect(standing(away).guarantees[0]).toMatchObject({ state: 'holds' });
  });

  test('that nothing else gets there is broken by any other of the site', () => {
    const only = done(add(given({ kind: 'only' })));
    const { packet } = standing(only).guarantees[0]!;
    expect(packet).toMatch(/^10\.0\.(17|18)\.\d+ → 10\.0\.33\./);
    const shared = done({
      type: 'guarantee.add',
      shared: true,
      guarantee: given({ kind: 'only', from: [segment('Absent')] }),
    });
    expect(standing(shared).guarantees[0]).toMatchObject({ state: 'broken', shared: true });
  });

  test('though hubs fail it holds while another has both, and not where there is one', () => {
    const two = appliedWith(roster, sample.intent, ...sampleJoin(2, 2));
    const far = { site: siteIds[3]!, name: joined.sites.get(siteIds[3]!)!.segments[1]!.name };
    const of = (intent: Intent, fails: 1 | 2, within: number | null = null) => {
      const given: KeptGuarantee = {
        ...{ id: sampleId(50, 1), kind: 'always', from: [segment(names[0]!)], to: [segment(far.name)], fails, within },
        ...{ services: [{ protocol: 'tcp', ports: ['22'] }], toSite: far.site },
      };
      const now = appliedWith(roster, intent, { type: 'guarantee.add', siteId: siteIds[2]!, guarantee: given });
      const { guarantees, findings } = consequencesOf({
        ...{ estate: now.estate, site: now.sites.get(siteIds[2]!)!, roster: devicesAt(2), links: [], told: {} },
        beyond: { [far.site]: { site: now.sites.get(far.site)!, roster: devicesAt(3) } },
      });
      // What is found says nothing of a packet where none is to blame.
      for (const { reason } of findings) expect(reason).not.toContain('undefined');
      return guarantees[0]!;
    };
    expect(of(two, 1)).toMatchObject({ state: 'holds', words: expect.stringMatching(/, though any hub fails$/) });
    expect(of(two, 2)).toMatchObject({
      state: 'broken',
      why: 'When Site 0 and Site 1 fail: No tunnel that is up leads from Site 2 to Site 3.',
    });
    const single = appliedWith(roster, two, {
      ...{ type: 'member.set', memberId: member(3), from: { hubs: [member(0), member(1)] }, to: { hubs: [member(0)] } },
    });
    expect(of(single, 1)).toMatchObject({
      state: 'broken',
      why: expect.stringMatching(/^When Site 0 fails: No tunnel/),
    });
    // A tunnel of their own needs no hub.
    const direct = appliedWith(roster, single, {
      ...{ type: 'member.set', memberId: member(3), from: { direct: [] }, to: { direct: [member(2)] } },
    });
    const found = appliedWith(roster, direct, {
      ...{ type: 'member.set', memberId: member(3), from: { found: {} }, to: { found: { wan1: '203.0.113.77' } } },
    });
    expect(of(found, 2)).toMatchObject({ state: 'holds' });
    // Three questions, one every 2 s, are without an answer before anybody looks elsewhere; where the tunnel of one's own is cut, too.
    expect(of(two, 1, 8)).toMatchObject({
      state: 'holds',
      words: expect.stringMatching(/, though any hub fails or a tunnel is cut, after 8 s at the most$/),
    });
    expect(of(two, 1, 5)).toMatchObject({
      state: 'broken',
      why: 'When Site 0 fails, nothing gets there and back for 6 s.',
    });
    expect(of(found, 1, 8)).toMatchObject({ state: 'holds' });
    const one = appliedWith(roster, sample.intent, ...sampleJoin(1, 3));
    expect(of(one, 1, 60)).toMatchObject({
      state: 'broken',
      why: expect.stringMatching(/^When Site 0 fails: No tunnel/),
    });
  });

  test('of the estate it is asked at each site, and is of the site itself where that is meant', () => {
    const all = done({ type: 'guarantee.add', shared: true, guarantee: given({}) });
    expect(standing(all, 2).guarantees[0]).toMatchObject({
      state: 'holds',
      words: `segment ${names[0]} always reaches segment ${names[1]} at Site 2 on tcp 22`,
    });
    const absent = done({ type: 'guarantee.add', shared: true, guarantee: given({ from: [segment('Absent')] }) });
    expect(standing(absent).guarantees[0]).toMatchObject({ state: 'void', why: 'Site 1 has not what it is from.' });
  });

  test('names what is there, and follows it to another name', () => {
    expect(refusedWith(roster, joined, add(given({ to: [segment('Nowhere')] })))).toBe(
      'to: There is no segment Nowhere.',
    );
    expect(refusedWith(roster, joined, add(given({ toSite: sampleId(9, 99) })))).toBe(
      'toSite: The site that it reaches is no longer there.',
    );
    expect(refusedWith(roster, joined, add(given({ kind: 'always', fails: 1, within: 1801 })))).toContain(
      'Say how many seconds somebody may wait, 0 to 1800.',
    );
    expect(refusedWith(roster, joined, add(given({ to: [{ kind: 'internet' }] })))).toContain(
      'say what is reached there',
    );
    const { id, name } = joined.sites.get(siteIds[2]!)!.segments[1]!;
    const rename = (n: number, segmentId: string, from: string): Operation => ({
      ...{ type: 'segment.set', siteId: siteIds[n]!, segmentId, from: { name: from }, to: { name: 'Tills' } },
    });
    const there = done(add(given({})), rename(2, id, name));
    expect(there.sites.get(siteIds[1]!)!.guarantees![0]!.to).toEqual([segment('Tills')]);
    const own = joined.sites.get(siteIds[1]!)!.segments[1]!;
    const here = done(add(given({})), rename(1, own.id, own.name));
    expect(here.sites.get(siteIds[1]!)!.guarantees![0]!.to).toEqual([segment(names[1]!)]);
  });
});
