import type { Publication, Segment } from '@iron-lattice/core/intent';
import { readEnds } from '@iron-lattice/core/rules';
import type { GatewayRow } from './path-rows';
import { publicationRows } from './publication-rows';
import { leadsWords, NEW_PUBLICATION, publicationTextOf, publicationTyped, whoseWords } from './publication-text';

const publication = (more: Partial<Publication> = {}): Publication => ({
  ...{ id: 'p', deviceId: 'g', name: 'Tide readings', ports: [], protocol: 'tcp', outside: '8443' },
  ...{ address: '10.10.30.12', inside: 443, from: readEnds('internet'), ...more },
});
const uplink = (port: string, title: string | null, address: string | null) => ({
  ...{ key: `g:${port}`, port, setting: { title }, fact: { address } },
});
const gateway = {
  device: { id: 'g' },
  uplinks: [uplink('wan1', 'Tidewire', '203.0.113.11'), uplink('wan2', null, null)],
} as unknown as GatewayRow;
const rows = (one: Publication, packets?: number) =>
  publicationRows(
    { publications: [one] },
    gateway,
    new Map(packets === undefined ? [] : [['published p', { packets }]]),
    [{ id: 'h', name: 'Office hours' }],
  );

describe('what is published, as it is typed', () => {
  it('reads as it is kept, and is kept as it reads', () => {
    const kept = publication({ ports: ['wan1'], within: true, hours: 'h' });
    const { id: _id, deviceId: _of, ...fields } = kept;
    expect(publicationTyped(publicationTextOf(kept), {})).toEqual({ ...fields, log: null, off: null });
  });

  it('keeps a port that is no number as one that nothing has, so that it is refused and not forgotten', () => {
    const typed = (inside: string) => publicationTyped({ ...NEW_PUBLICATION, inside }, {}).inside;
    expect([typed(' '), typed('8443'), typed('https')]).toEqual([null, 8443, -1]);
  });

  it('says whose an address is', () => {
    const reservations = [{ mac: '02:00:00:00:00:09', address: '10.10.30.12', name: 'tide-gauge-1' }];
    const segments = [
      { name: 'Berth sensors', subnet: '10.10.30.0/24', addresses: { reservations } },
    ] as unknown as Segment[];
    expect(whoseWords('10.10.30.12', segments)).toBe('In Berth sensors, reserved for tide-gauge-1');
    expect(whoseWords('10.10.30.13 ', segments)).toBe('In Berth sensors');
    expect([whoseWords('10.9.9.9', segments), whoseWords('tide', segments)]).toEqual(['', '']);
  });
});

describe('what is published, on the screen', () => {
  it('says where it is asked for, by whom, whom it leads to, and who came', () => {
    const [row] = rows(publication({ within: true, hours: 'h' }), 1200);
    expect(row).toMatchObject({
      ...{ asked: 'tcp 8443', at: ['Tidewire 203.0.113.11', 'wan2'], leads: '10.10.30.12:443' },
      ...{ whom: 'everybody outside, at Office hours, and from inside', now: '1,200 times let in' },
    });
    expect(rows(publication({ ports: ['wan2'], from: readEnds('203.0.113.64/27') }), 0)[0]).toMatchObject({
      ...{ at: ['wan2'], whom: '203.0.113.64/27', now: 'nobody came yet' },
    });
    expect([rows(publication())[0]!.now, rows(publication({ off: true }))[0]!.now]).toEqual(['not told yet', 'off']);
    expect(leadsWords(publication({ outside: '8000-8009', inside: 9000 }))).toBe('10.10.30.12:9000-9009');
  });
});
