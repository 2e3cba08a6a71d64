import { failuresOf } from '@iron-lattice/core/assess';
import type { Course, RosterDevice, SitePart } from '@iron-lattice/core/intent';
import { USUAL_WATCH, type RehearsedUplink, type SitePathsView } from '@iron-lattice/core/paths';
import { readEnds } from '@iron-lattice/core/rules';
import { courseRows } from './course-rows';
import { courseTextOf, courseTyped, hasNeeds, NEW_COURSE, marksHint, type CourseText } from './course-text';
import { atEach, mishapPlaces, mishapTextOf, mishapTextsOf, readMishap } from './mishap-text';
import { gatewayRows } from './path-rows';
import { answerTo } from './rehearsal-question';
import { failureLines, sumWords } from './rehearsal-words';

const course = (more: Partial<Course> = {}): Course => ({
  ...{ id: 'c', deviceId: 'g', name: 'Calls', turn: 1, from: readEnds('segment Voice'), to: readEnds('internet') },
  ...{ services: [{ protocol: 'any' }], ports: ['wan2', 'wan1'], how: 'first', otherwise: 'usual', ...more },
});
const device: RosterDevice = {
  ...{ id: 'g', siteId: 's', name: 'aq-gw-01', serial: '1', model: 'GW-4', mac: '02:00:00:00:00:01' },
};
const rows = (courses: readonly Course[], told: object[] = []) => {
  const site = { courses, uplinks: { g: { wan1: { title: 'Tidewire' } } } } as unknown as SitePart;
  const gateway = { deviceId: 'g', at: '', state: 'whole', counted: '', uplinks: [], courses: told };
  return courseRows(gatewayRows(site, [device], { changes: [], gateways: [gateway] } as unknown as SitePathsView)[0]!);
};
const known = { segment: ['Voice'] };

describe('a course that is typed', () => {
  it('reads as it is kept, and is kept as it reads', () => {
    const needs = { voice: 4, latency: 150 };
    const kept = course({ needs, steady: { bad: 2, good: 9, margin: 0.1 }, dscp: [34, 46] });
    const { id: _id, deviceId: _of, turn: _turn, ...fields } = kept;
    expect(courseTyped(courseTextOf(kept), known)).toEqual({ fields: { ...fields, off: null }, flaws: {} });
  });

  it('says what cannot be read, and keeps what people typed wrongly as something that nothing takes', () => {
    const typed = (change: Partial<CourseText>) => courseTyped({ ...NEW_COURSE, ...change }, known);
    expect(typed({ services: 'tpc 443' }).flaws.services).toContain('“tpc 443” is no protocol');
    expect(typed({ dscp: '46, eff' }).fields.dscp).toEqual([46, -1]);
    expect(typed({ dscp: 'af41 EF,5' }).fields.dscp).toEqual([34, 46, 5]);
    expect(marksHint('')).toBe('Names, such as EF or AF41, or numbers');
    expect(marksHint('46, le 5 eff')).toBe(
      'EF: calls; LE: what may wait for everything; 5: nothing that has a name; “eff” is no mark',
    );
    expect(typed({ loss: '1,5' }).fields.needs).toEqual({ loss: 1.5 });
    expect(typed({ loss: '1', margin: '20' }).fields.steady).toBeNull();
    expect(typed({ bad: '9' }).fields.steady).toBeNull();
    expect(typed({ loss: '1', bad: '9' }).fields.steady).toEqual({ bad: 9, good: 6, margin: 0.2 });
    expect([hasNeeds(NEW_COURSE), hasNeeds({ ...NEW_COURSE, voice: '4' })]).toEqual([false, true]);
  });
});

describe('courses on the screen', () => {
  it('stand in their turn, with whom, by what, and how they leave now', () => {
    const told = { id: 'c', uses: ['wan1'], meets: false, usual: false, sessions: [{ port: 'wan1', sessions: 1200 }] };
    const [first, second] = rows(
      [
        course({ needs: { voice: 4 }, turn: 5 }),
        course({ id: 'b', name: 'Tills', turn: 2, ports: ['wan1'], dscp: [46] }),
      ],
      [told, { ...told, id: 'b', uses: [], sessions: [] }],
    );
    expect([first!.course.name, first!.whom, first!.now, first!.fits]).toEqual([
      'Tills',
      'segment Voice → internet, marked EF',
      'nothing gets out',
      false,
    ]);
    expect([second!.ways, second!.now]).toEqual([
      'wan2, then Tidewire; needs a voice score of 4; else as the rest',
      'leaves by Tidewire, though it is not as needed · 1,200 sessions',
    ]);
    expect(rows([course({ off: true })])[0]!.now).toBe('off');
    expect(rows([course()])[0]).toMatchObject({ now: 'not told yet', fits: null });
  });
});

describe('a rehearsal with courses', () => {
  const uplink = (port: string, standby: number | null): RehearsedUplink => ({
    ...{ port, weight: 1, standby, watch: USUAL_WATCH, linked: true, delay: 10, loss: 0 },
  });
  const gateway = {
    ...{ id: 'g', rule: { begins: 'all' as const, back: 30 }, stay: true, rate: 1e6 },
    uplinks: [uplink('wan1', null), uplink('wan2', 1)],
    courses: [{ id: 'c', ports: ['wan1'], how: 'first' as const, otherwise: 'nothing' as const }],
  };
  const titles = new Map([
    ['wan1', 'Tidewire'],
    ['c', 'Tickets'],
  ]);
  const cut = { what: 'cut' as const, from: 30, to: 90, gatewayId: 'g', port: 'wan1' };

  it('is said for the rest and for each course, with what is carried meanwhile', () => {
    const { made, failures } = answerTo({ gateway, mishaps: [cut] });
    const words = sumWords(made!.mean, made!.worst, titles);
    expect(words).toMatch(/^The rest: everybody is served all the time; 100 % .*Tickets: nobody is served for/);
    expect(words).toMatch(/Meanwhile, going by the latest days: Tidewire \d+ MB, wan2 \d+ MB\.$/);
    expect(failures).toEqual(failuresOf(gateway));
    expect(answerTo({ gateway, mishaps: [] }).made).toBeNull();
  });

  it('has a line for each in the table of failures', () => {
    const lines = failuresOf(gateway).flatMap((failure) => failureLines(failure, titles));
    expect(
      lines.map(({ title, whose, someWords, then }) => [title, whose, someWords, then].join('; ')).slice(0, 4),
    ).toEqual([
      'Tidewire; the rest; not at all; wan2 100 %',
      'Tidewire; Tickets; as long as it lasts; nothing',
      'Tidewire; the rest; 15 s, at worst 17 s; wan2 100 %',
      'Tidewire; Tickets; as long as it lasts; nothing',
    ]);
  });

  it('that was kept is typed again as it was', () => {
    for (const mishap of [
      cut,
      { ...cut, what: 'lossy' as const, amount: 0.3 },
      { ...cut, what: 'off' as const, port: '' },
      { ...cut, what: 'slow' as const, amount: 200 },
    ])
      expect(readMishap(mishapTextOf(mishap), 'g', 900)).toEqual({ mishap });
  });
});

describe('what a mishap happens to', () => {
  const lanes = [
    { port: 'wan1', title: 'Tidewire' },
    { port: 'wan2', title: 'Tidewire' },
    { port: 'cell', title: 'Coastal Mobile' },
  ];
  const places = mishapPlaces(lanes);
  const cut = { what: 'cut' as const, from: 0, to: 60, gatewayId: 'g' };

  it('is an uplink, all of a provider, or all at once', () => {
    expect(places.map(({ value, label }) => `${value}: ${label}`)).toEqual([
      ...['wan1: Tidewire (wan1)', 'wan2: Tidewire (wan2)', 'cell: Coastal Mobile (cell)'],
      ...['*Tidewire: all of Tidewire', '*: all of them at once'],
    ]);
    expect(mishapPlaces(lanes.slice(0, 1)).map(({ value }) => value)).toEqual(['wan1']);
    expect(atEach({ ...cut, port: '*Tidewire' }, places).map(({ port }) => port)).toEqual(['wan1', 'wan2']);
    expect(atEach({ ...cut, port: '*' }, places)).toHaveLength(3);
  });

  it('is read again as it was said', () => {
    for (const port of ['wan2', '*Tidewire', '*']) {
      const texts = mishapTextsOf(atEach({ ...cut, port }, places), places);
      expect(texts.map((each) => each.port)).toEqual([port]);
    }
    const two = [...atEach({ ...cut, port: '*Tidewire' }, places), { ...cut, to: 90, port: 'cell' }];
    expect(mishapTextsOf(two, places).map((each) => [each.port, each.to])).toEqual([
      ['*Tidewire', '60'],
      ['cell', '90'],
    ]);
  });
});
