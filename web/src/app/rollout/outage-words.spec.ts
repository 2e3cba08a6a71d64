import type { Outage } from '@iron-lattice/core/document';
import { SiteFixture } from '../testing/site-fixture';
import { feltSegments, outageWords } from './outage-words';

const nameOf = (vlan: number): string => ({ 10: 'Crew', 40: 'Passengers' })[vlan] ?? `VLAN ${vlan}`;
const of = (what: Outage['what'], where: string[], vlans: number[], seconds: number | null): Outage => ({
  ...{ what, where, vlans, seconds },
});

describe('what is expected to be away', () => {
  it('is said with what it is, where, and for how long', () => {
    expect(outageWords(of('radio', ['2.4', '5'], [10], 10), nameOf)).toBe(
      'its 2.4 and 5 GHz radios restart: clients away 10 s at most',
    );
    expect(outageWords(of('radio', ['5'], [10], 70), nameOf)).toBe(
      'its 5 GHz radio restarts, listening for radar first: clients away 70 s at most',
    );
    expect(outageWords(of('radio', ['6'], [10], null), nameOf)).toBe('its 6 GHz radio goes off');
    expect(outageWords(of('carriage', ['3'], [40, 7], null), nameOf)).toBe('Passengers and VLAN 7 stop at port 3');
    expect(outageWords(of('clients', [], [10], 14_400), nameOf)).toBe(
      'clients of Crew need another address: 4 h at most',
    );
    const ports = Array.from({ length: 9 }, (_, i) => String(i + 1));
    expect(outageWords(of('power', ports, [1], null), nameOf)).toBe(
      'no power from ports 1, 2, 3, 4, 5, 6 and 3 more until it is said otherwise',
    );
  });

  it('is summed up by segment over all sites, the longest first', () => {
    const site = new SiteFixture();
    const review = (id: string, name: string, felt: readonly Outage[]) => {
      const { changes, ...more } = site.review(id, name, 2);
      return {
        ...more,
        changes: changes.map((change) => ({ ...change, away: 'a' })),
        outages: { a: felt },
        segments: { 10: 'Crew' },
      };
    };
    expect(
      feltSegments([
        review('b', 'Brinmouth', [of('radio', ['5'], [10], 10)]),
        review('c', 'Calder', [of('radio', ['5'], [10], 10), of('gateway', [], [40], null)]),
      ]),
    ).toEqual([
      { name: 'VLAN 40', seconds: null, devices: 2, sites: 1 },
      { name: 'Crew', seconds: 10, devices: 4, sites: 2 },
    ]);
  });
});
