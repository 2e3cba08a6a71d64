import type { SegmentStreams } from '@iron-lattice/core/assess';
import { rehearse, USUAL_WATCH, type RehearsedGateway, type RehearsedUplink } from '@iron-lattice/core/paths';
import { segmentLines } from './segment-lines';

const uplink = (port: string, standby: number | null): RehearsedUplink => ({
  ...{ port, weight: 1, standby, watch: USUAL_WATCH, linked: true, delay: 10, loss: 0 },
});
const gateway: RehearsedGateway = {
  ...{ id: 'g', rule: { begins: 'all', back: 30 }, stay: true },
  uplinks: [uplink('wan1', null), uplink('wan2', 1)],
  courses: [{ id: 'c', ports: ['wan1'], how: 'first', otherwise: 'nothing' }],
};
const titles = new Map([
  ['wan1', 'Tidewire'],
  ['c', 'Tickets'],
]);
const stream = (name: string, courses: readonly string[], usual = true): SegmentStreams => ({
  ...{ segmentId: name, name, courses, usual },
});
const cut = { what: 'cut' as const, from: 30, to: 90, gatewayId: 'g', port: 'wan1' };
const made = { mean: rehearse(gateway, [cut], 300), worst: rehearse(gateway, [cut], 300, 'worst') };

describe('what becomes of each segment', () => {
  it('is told once for those that leave alike, stream by stream, with by what along the time', () => {
    const lines = segmentLines(
      [stream('Crew', []), stream('Ticketing', ['c'], false), stream('Voice', []), stream('Cameras', ['c'])],
      made,
      titles,
    );
    expect(lines.map(({ segments, whose }) => `${segments} ${whose}`)).toEqual([
      'Crew, Voice ',
      'Ticketing Tickets',
      'Cameras Tickets',
      ' the rest',
    ]);
    const [crew, tickets] = lines;
    expect(crew!.leaves).toMatch(/^Tidewire; from 0:30 wan2; from \d:\d\d Tidewire$/);
    expect(crew).toMatchObject({ waits: 'not at all', dark: false, broken: '100 %' });
    expect(tickets!.leaves).toMatch(/^Tidewire; from 0:30 nothing; from \d:\d\d Tidewire$/);
    expect(tickets!.waits).toMatch(/^\d+ s, at worst \d+ s$/);
    expect(tickets!.dark).toBe(true);
    expect(segmentLines([], made, titles)).toEqual([]);
  });
});
