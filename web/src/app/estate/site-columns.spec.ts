import type { SiteFindings } from '@iron-lattice/core/assess';
import { sortRows } from '../ui/data-rows';
import { isListed, SITE_COLUMNS, SITE_FILTERS, type SiteRow } from './site-columns';

const row = (name: string, found: Partial<SiteFindings> | null, more: Partial<SiteRow> = {}): SiteRow => ({
  ...{ id: name, version: 0, name, code: 'x', country: 'IE', timeZone: 'Europe/Dublin', address: '', tags: [] },
  ...{ coordinates: null, purpose: '' },
  ...{ window: null, drafts: 0, hitches: 0, paths: null, behind: false, revision: 4 },
  devices: { expected: 0, calling: 0, 'in step': 4, behind: 0, silent: 0, stuck: 0 },
  found: found && { siteId: name, errors: 0, warnings: 0, broken: 0, sharedBroken: [], changes: 0, ...found },
  ...more,
});
const ROWS = [
  row('Alder', { warnings: 3 }),
  row('Birch', { errors: 1, broken: 2 }, { behind: true, revision: 3 }),
  row('Cedar', { changes: 5 }),
  row('Dog', null),
];

describe('the list of sites', () => {
  const column = (key: string) => SITE_COLUMNS.find((each) => each.key === key)!;
  const told = (key: string) => ROWS.map((each) => column(key).text(each));

  it('says of each site what the draft comes to there and what is live, and that it does not know yet', () => {
    expect(told('findings')).toEqual(['3 warnings', '1 error', '', '…']);
    expect(told('broken')).toEqual(['', '2', '', '…']);
    expect(told('changes')).toEqual(['', '', '5 devices', '…']);
    expect(told('live')).toEqual(['revision 4', 'behind, revision 3', 'revision 4', 'revision 4']);
  });

  it('says which sites leave by a standby or have lost a path, and lists those', () => {
    const rows = [
      row('Elm', null, { paths: 'whole' }),
      row('Fir', null, { paths: 'standby' }),
      row('Gorse', null, { paths: 'lost' }),
    ];
    expect(rows.map((each) => column('paths').text(each))).toEqual(['as meant', 'on standby', 'a path is lost']);
    expect(rows.filter((each) => isListed(each, 'Paths lost')).map(({ name }) => name)).toEqual(['Fir', 'Gorse']);
  });

  it('sorts by what is worst, and filters by it', () => {
    const sorted = (key: string) => sortRows(ROWS, column(key), true).map(({ name }) => name);
    expect(sorted('findings').slice(0, 2)).toEqual(['Birch', 'Alder']);
    expect(sorted('changes')[0]).toBe('Cedar');
    expect(sortRows(ROWS, column('live'), false)[0]!.name).toBe('Birch');
    const listed = SITE_FILTERS.map((filter) => ROWS.filter((each) => isListed(each, filter)).map(({ name }) => name));
    expect(listed).toEqual([
      ['Alder', 'Birch', 'Cedar', 'Dog'],
      ['Alder', 'Birch'],
      ['Birch'],
      ['Cedar'],
      ['Birch'],
      [],
    ]);
  });
});
