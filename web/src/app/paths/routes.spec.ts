import type { Course, RosterDevice, SharedRoute, SitePart, StaticRoute } from '@iron-lattice/core/intent';
import type { SitePathsView } from '@iron-lattice/core/paths';
import { fromWords, type LookUpFrom } from './look-up-from';
import { gatewayRows } from './path-rows';
import { newRoute, routeTextOf, routeTyped } from './route-text';
import { tableLines, tableRows } from './table-rows';

const route = (more: Partial<StaticRoute> = {}): StaticRoute => ({
  ...{ id: 'r', deviceId: 'g', name: 'Harbour works', prefix: '172.20.0.0/16' },
  ...{ via: { kind: 'address', address: '10.20.5.9' }, ...more },
});
const device: RosterDevice = {
  ...{ id: 'g', siteId: 's', name: 'aq-gw-01', serial: '1', model: 'GW-4', mac: '02:00:00:00:00:01' },
};
const site = (...routes: StaticRoute[]): SitePart =>
  ({
    ...{ uplinks: { g: { wan1: { title: 'Tidewire' } } }, routes },
    segments: [
      { id: 'c', name: 'Crew', vlan: 10, subnet: '10.20.5.0/24', gateway: '10.20.5.1', addresses: null },
      { id: 'o', name: 'Closed', vlan: 20, subnet: '10.20.6.0/24', gateway: '10.20.6.1', addresses: null, off: true },
    ],
  }) as unknown as SitePart;
const gateway = (part: SitePart, state = 'good') => {
  const uplinks = [{ port: 'wan1', state, used: true, sessions: 0 }];
  const view = {
    changes: [],
    gateways: [{ deviceId: 'g', at: '', state: 'whole', counted: '', uplinks, courses: [] }],
  };
  return gatewayRows(part, [device], view as unknown as SitePathsView)[0]!;
};
const table = (part: SitePart, asked = '', state = 'good', holds = true) => {
  const row = gateway(part, state);
  return tableRows(tableLines(part, row, holds), row, asked);
};

describe('a route that is typed', () => {
  it('reads as it is kept, and is kept as it reads', () => {
    const vias: StaticRoute['via'][] = [
      { kind: 'address', address: '10.20.5.9' },
      { kind: 'uplink', port: 'wan2' },
      { kind: 'nowhere' },
    ];
    for (const via of vias) {
      const { id: _id, deviceId: _of, ...fields } = route({ via, metric: 20, tracks: null, off: true });
      expect(routeTyped(routeTextOf(route({ via, metric: 20, off: true }), 'wan1'))).toEqual(fields);
    }
    expect(routeTyped(routeTextOf(route(), 'wan1'))).toMatchObject({ metric: null, off: null });
    expect(routeTyped({ ...newRoute('wan1'), metric: 'a lot' }).metric).toBe(-1);
    expect(routeTyped(routeTextOf(route({ tracks: 'itself' }), 'wan1')).tracks).toBe('itself');
    expect(routeTyped({ ...newRoute('wan2'), how: 'uplink' }).via).toEqual({ kind: 'uplink', port: 'wan2' });
  });
});

describe('what a gateway goes by', () => {
  const all = site(
    route(),
    route({ id: 'b', name: 'Works by cable', via: { kind: 'uplink', port: 'wan1' }, metric: 20 }),
    route({ id: 'x', name: 'Rest of ours', prefix: '10.0.0.0/8', via: { kind: 'nowhere' } }),
    route({ id: 'l', name: 'Later', prefix: '172.30.0.0/16', off: true }),
  );

  it('is a line for each segment that is routed, each route in force, and each uplink, with what it beats', () => {
    const lines = table(all).rows.map(({ prefix, leads, why, beats, counts }) => [prefix, leads, why, beats, counts]);
    expect(lines.filter(([, , why]) => !`${String(why)}`.startsWith('uplink that'))).toEqual([
      ['0.0.0.0/0', 'by Tidewire', 'uplink', 'wan2, 0.0.0.0/0', true],
      ['10.0.0.0/8', 'nowhere, it is dropped', 'route “Rest of ours”', 'Tidewire, 0.0.0.0/0', true],
      ['10.20.5.0/24', 'on the link, Crew', 'segment Crew', 'Rest of ours, 10.0.0.0/8', true],
      [
        ...['172.20.0.0/16', 'to 10.20.5.9', 'route “Harbour works”'],
        ...['Works by cable, 172.20.0.0/16; Tidewire, 0.0.0.0/0', true],
      ],
      [
        ...['172.20.0.0/16', 'by Tidewire', 'route “Works by cable”, metric 20'],
        ...['Harbour works, 172.20.0.0/16 comes first', false],
      ],
    ]);
    // Another gateway has the segments.
    expect(table(all, '', 'good', false).rows.some(({ why }) => why.startsWith('segment'))).toBe(false);
  });

  it('has what is said once for many sites as it is here, while what it tracks answers', () => {
    const shared: SharedRoute = {
      ...{ id: 's', name: 'Yard', prefix: '172.22.0.0/16', reach: { kind: 'estate' }, tracks: 'itself' },
      via: { kind: 'segment', segment: 'Crew', nth: 7 },
    };
    const row = gateway(all);
    const lines = (told = row) =>
      tableRows(tableLines(all, told, true, { shared: [shared] }), told, '172.22.0.1').answer;
    expect(lines()).toBe('172.22.0.1 goes to 10.20.5.7 (route “Yard”).');
    const lost = { ...row, fact: { ...row.fact!, routes: [{ name: 'Yard', up: false, since: 0 }] } };
    expect(lines(lost)).not.toContain('10.20.5.7');
    // Of a gateway that routes nothing here it is no line.
    expect(tableLines(all, row, false, { shared: [shared] }).some(({ name }) => name === 'Yard')).toBe(false);
  });

  it('answers where an address goes, now', () => {
    expect(table(all, '172.20.1.1').answer).toBe('172.20.1.1 goes to 10.20.5.9 (route “Harbour works”).');
    expect(
      table(all, '172.20.1.1')
        .rows.filter(({ found }) => found)
        .map(({ why }) => why),
    ).toEqual(['route “Harbour works”']);
    expect(table(all, '10.77.0.1').answer).toContain('nowhere, it is dropped');
    expect(table(all, ' 10.20.5.7 ').answer).toContain('on the link, Crew');
    expect(table(all, 'fd00::1').answer).toBe('Nothing leads to fd00::1: it is dropped.');
    // What nobody says anything of goes with the rest, and no provider has what is private.
    expect(table(all, '192.168.9.9').answer).toContain('The default route alone is for it');
    expect(table(all, '198.51.100.9').answer).not.toContain('alone');
    expect(table(all, 'ten').answer).toContain('“ten” is no address');
    const gone = table(site(route({ via: { kind: 'uplink', port: 'wan1' } })), '172.20.1.1', 'gone');
    expect(gone.answer).not.toContain('Harbour works');
    expect(gone.rows.find(({ why }) => why.startsWith('route'))!.beats).toBe('wan1 is not good');
  });
});

describe('what an address goes by from one segment', () => {
  const part = site(route());
  const crew = part.segments[0]!;
  const course = { id: 'k', name: 'Tickets first', ports: ['wan2', 'wan1'], how: 'first' } as unknown as Course;
  const streams = (usual: boolean, ...courses: string[]) => ({ segmentId: 'c', name: 'Crew', courses, usual });
  const said = (asked: string, more: Partial<LookUpFrom> = {}, peer?: string) => {
    const { found } = table(part, asked);
    const lines = peer ? found.map((line) => ({ ...line, kind: 'overlay' as const, peer })) : found;
    return fromWords({ segment: crew, shares: [], streams: streams(true), courses: [course], ...more }, asked, lines);
  };

  it('is the same, unless a course takes it, or nothing comes back', () => {
    expect(said('203.0.113.9')).toBe('From Crew the same.');
    expect(said('203.0.113.9', { streams: streams(true, 'k') })).toBe(
      'From Crew what fits takes the course “Tickets first” by wan2, then wan1; the rest the same.',
    );
    expect(said('203.0.113.9', { streams: streams(false, 'k') })).toMatch(/^From Crew all of it takes the course/);
    // What a route is for goes there whatever course would fit.
    expect(said('172.20.4.4', { streams: streams(false, 'k') })).toBe('From Crew the same.');
    expect(said('10.20.5.7')).toBe('It is in Crew itself: from there no gateway is asked.');
    expect(said('203.0.113.9', {}, 'Ansel Quay')).toMatch(/goes nowhere: other sites do not reach Crew/);
    expect(said('203.0.113.9', { shares: ['10.20.0.0/16'] }, 'Ansel Quay')).toBe('From Crew the same.');
    expect(said('fd00:20::7')).toBe('');
    expect(said('no address')).toBe('');
  });
});
