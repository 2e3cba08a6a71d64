import type { JoinedView } from '@iron-lattice/core/assess';
import { joinedEnds, type EstatePart, type Join, type Member } from '@iron-lattice/core/intent';
import type { PeerReport } from '@iron-lattice/core/paths';
import { joinedWay } from '@iron-lattice/core/routing';
import { APART, HEIGHT, layJoined, WIDTH } from './joined-layout';
import { faresWords, joinedRows, tunnelBetween, tunnelWords } from './joined-rows';
import { answerTo, tunnelKey } from './joined-rehearsal-question';
import { joinedPlaces, joinedSum, readJoinedMishap, whilesOf } from './joined-rehearsal-text';
import { wayWords } from './joined-way-words';
import { listTyped, memberTextOf, memberTyped, newMember } from './member-text';

const member = (id: string, more: Partial<Member> = {}): Member => ({
  ...{ id, siteId: `site ${id}`, deviceId: `gw ${id}`, role: 'spoke', hubs: ['quay'], direct: [], segments: 'all' },
  ...{ prefixes: [], takes: null, leaves: 'here', found: {}, key: { secret: `secret ${id}`, public: `public ${id}` } },
  ...more,
});
const join = (name: string, at: string[] = []): Join => ({
  name,
  carries: [`10.${name.length}.0.0/16`],
  at,
  mtu: 1500,
});
const estate = {
  overlay: { spans: ['10.0.0.0/8'] },
  members: [
    member('mole', { hubs: ['quay', 'pier'] }),
    member('quay', { role: 'hub', hubs: [] }),
    member('pier', { role: 'hub', hubs: [] }),
    member('islet', { hubs: ['pier'] }),
  ],
  joins: { mole: join('Mole'), quay: join('Quay', ['203.0.113.1']), pier: join('Long Pier'), islet: join('Islet') },
} as unknown as EstatePart;
const up = (peer: string, delay: number): PeerReport => ({ peer, up: true, since: 0, by: 'wan1', delay, loss: 0 });
const place = (n: number) => ({ latitude: 51 + n / 10, longitude: -8 + n / 5 });
const view = (tunnels: readonly PeerReport[], placed = false): JoinedView => ({
  sites: ['mole', 'quay', 'pier', 'islet'].map((id, n) => ({
    ...{ id: `site ${id}`, name: id, coordinates: placed && n < 3 ? place(n) : null },
    gateways: [{ id: `gw ${id}`, name: `${id}-gw-01` }],
  })),
  live: { 'gw mole': { at: '', tunnels } },
});

describe('joined sites', () => {
  it('are listed hubs first, with how each tunnel fares, and those that cannot be', () => {
    const rows = joinedRows(estate, view([up('Quay', 21.4)]));
    expect(rows.map(({ join: { name }, gateway }) => [name, gateway])).toEqual([
      ['Long Pier', 'pier-gw-01'],
      ['Quay', 'quay-gw-01'],
      ['Islet', 'islet-gw-01'],
      ['Mole', 'mole-gw-01'],
    ]);
    const [pier, quay, islet, mole] = rows;
    expect(mole!.tunnels.map(({ name, state, mtu }) => [name, state, mtu])).toEqual([
      ['Quay', 'up', 1440],
      ['Long Pier', 'never', 1440],
    ]);
    expect(faresWords(mole!)).toEqual({ words: '1 of 2 up', tone: 'caution' });
    expect(faresWords(islet!)).toEqual({ words: '0 of 1 up', tone: 'bad' });
    expect(faresWords(quay!)).toEqual({ words: 'after the rollout', tone: '' });
    expect(pier!.hubs).toEqual([]);
    expect(mole!.tunnels.map(tunnelWords)).toEqual([
      'up by wan1 · 21 ms',
      'cannot be: neither end could call the other',
    ]);
    expect(
      tunnelWords({ state: 'down', fact: { peer: 'Quay', up: false, since: 0, why: 'Nothing comes back.' } }),
    ).toBe('down: Nothing comes back.');
  });

  it('show the way between two, how long it takes, and why nothing comes of it', () => {
    const rows = joinedRows(estate, view([up('Quay', 21.4)]));
    const byId = new Map(rows.map((row) => [row.id, row]));
    const isUp = (a: string, b: string) => ['up', 'untold'].includes(tunnelBetween(byId, a, b)?.state ?? '');
    const way = (from: string, to: string) =>
      wayWords(joinedWay(joinedEnds(estate), isUp, { id: from }, { id: to }), byId);
    expect(way('mole', 'quay')).toEqual([
      { words: 'Mole → Quay, 21 ms there and back; packets of up to 1440 octets in one piece.', tone: '' },
      { words: 'Answers come back the same way.', tone: 'soft' },
    ]);
    expect(way('quay', 'pier')[0]!.words).toContain('once this is rolled out');
    expect(way('mole', 'islet').at(-1)).toEqual({
      words: 'No tunnel that is up leads from Mole to Islet.',
      tone: 'bad',
    });
    const down = joinedRows(estate, view([{ ...up('Quay', 1), up: false }]));
    expect(tunnelBetween(new Map(down.map((row) => [row.id, row])), 'quay', 'mole')!.state).toBe('down');
  });

  it('stand as on a map where it is known where they are, apart from each other, and around their hubs otherwise', () => {
    for (const placed of [true, false]) {
      const at = [...layJoined(joinedRows(estate, view([], placed))).values()];
      expect(at).toHaveLength(4);
      for (const [i, a] of at.entries())
        for (const b of at.slice(i + 1)) expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeGreaterThan(APART * 0.9);
    }
    const map = layJoined(joinedRows(estate, view([], true)));
    // North is above, east is right.
    expect(map.get('pier')!.y).toBeLessThan(map.get('mole')!.y);
    expect(map.get('pier')!.x).toBeGreaterThan(map.get('mole')!.x);
    expect(map.get('islet')!.y).toBeGreaterThanOrEqual(HEIGHT);
    expect(Math.max(...[...map.values()].map(({ x }) => x))).toBeLessThanOrEqual(WIDTH + APART);
  });
});

describe('a joined site that is typed', () => {
  it('reads as it is kept, and is kept as it reads', () => {
    const kept = member('mole', { prefixes: ['10.9.0.0/16'], takes: ['10.1.0.0/16'], found: { wan1: '203.0.113.9' } });
    const { id: _id, key: _key, ...fields } = kept;
    expect(memberTyped(memberTextOf(kept))).toEqual(fields);
    expect(memberTyped({ ...memberTextOf(kept), takes: ' ', found: { wan1: ' ' } })).toMatchObject({
      takes: null,
      found: {},
    });
    // A hub has no hubs, and leaves by itself.
    const hub = memberTyped({ ...memberTextOf(kept), role: 'hub', leaves: 'hub', direct: ['islet'] });
    expect(hub).toMatchObject({ hubs: [], direct: [], leaves: 'here' });
    expect(newMember(undefined, []).role).toBe('hub');
    expect(newMember(view([]).sites[0], ['quay'])).toMatchObject({ role: 'spoke', deviceId: 'gw mole', all: true });
    expect(listTyped('10.0.0.0/8, fd00::/16  192.168.0.0/16;')).toEqual(['10.0.0.0/8', 'fd00::/16', '192.168.0.0/16']);
  });
});

describe('a rehearsal across sites', () => {
  const rows = joinedRows(estate, view([]));
  const text = { what: 'quay', from: '10', to: '70' };

  it('offers hubs, both ends, and the tunnels among them; what is typed wrong says so', () => {
    const labels = joinedPlaces(rows, ['mole', null]).map(({ label }) => label);
    expect(labels).toEqual(expect.arrayContaining(['Quay is gone', 'Long Pier is gone', 'Mole is gone']));
    expect(labels.join()).toMatch(/the tunnel (Quay – Mole|Mole – Quay) is cut/);
    expect(labels.join()).not.toContain('Islet');
    expect(readJoinedMishap(text)).toEqual({ mishap: { what: 'site', siteId: 'quay', from: 10, to: 70 } });
    expect(readJoinedMishap({ ...text, what: 'mole quay' })).toMatchObject({
      mishap: { what: 'tunnel', siteId: 'mole', otherId: 'quay' },
    });
    expect(readJoinedMishap({ ...text, what: '' })).toEqual({ flaw: 'Say what happens.' });
    expect(readJoinedMishap({ ...text, to: '5' })).toMatchObject({ flaw: expect.stringContaining('after it began') });
    expect(readJoinedMishap({ ...text, from: '-1' })).toMatchObject({ flaw: expect.stringContaining('begins 0 to') });
  });

  it('says by which way both reach each other when, and for how long they do not', () => {
    const ends = joinedEnds(estate);
    const cut = { what: 'tunnel', siteId: 'mole', otherId: 'quay', from: 10, to: 70 } as const;
    const question = { ends, from: 'mole', to: 'quay', mishaps: [cut], seconds: 100, never: [] };
    const { mean, worst } = answerTo(question);
    const whiles = whilesOf(mean, new Map(rows.map((row) => [row.id, row])));
    expect(whiles.map(({ words }) => words)).toEqual([
      'Mole → Quay',
      'lost on Mole → Quay',
      'Mole → Long Pier → Quay',
      'Mole → Quay',
    ]);
    expect(joinedSum(mean, worst)).toMatch(
      /^Nothing gets there for 5(\.0)? s, at most 5(\.0)? s at a stretch \(at worst 6(\.0)? s\)\.$/,
    );
    const still = answerTo({ ...question, mishaps: [] });
    expect(joinedSum(still.mean, still.worst)).toBe('Everything gets there all along.');
    // By a tunnel that can never be nothing goes, and nobody waits for it.
    const never = answerTo({ ...question, never: [tunnelKey('quay', 'mole')] });
    expect(never.mean.spans.map(({ path }) => path)).toEqual([['mole', 'pier', 'quay']]);
  });
});
