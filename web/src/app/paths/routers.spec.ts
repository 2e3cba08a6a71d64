import { describe, expect, it } from 'vitest';
import { sampleSite } from '@iron-lattice/core/testing';
import type { SiteRouter } from '@iron-lattice/core/intent';
import { letsTyped, NEW_ROUTER, routerTextOf, routerTyped, routerWords, switchesThatRoute } from './router-text';

const { site, roster } = sampleSite({ segments: 3, aps: 1 });
const known = { segment: site.segments.map(({ name }) => name) };
const BOX: SiteRouter = {
  ...{ id: 'r', name: 'Recorder', at: { deviceId: roster[1]!.id, port: '20' } },
  ...{ meets: { segmentId: site.managementId, address: '10.1.1.9' }, behind: ['10.60.0.0/16', '10.61.0.0/16'] },
  lets: [
    {
      ...{ id: 'line 1', verdict: 'deny', services: [{ protocol: 'tcp', ports: ['22'] }] },
      from: [{ kind: 'segment', name: 'Segment 1' }],
      to: [{ kind: 'segment', name: 'Segment 2' }],
    },
    {
      ...{ id: 'line 2', verdict: 'allow', services: [{ protocol: 'any' }] },
      from: [{ kind: 'any' }],
      to: [{ kind: 'internet' }],
    },
  ],
};

describe('what is said of a router beside the gateway', () => {
  it('reads back as it was typed', () => {
    const text = routerTextOf(BOX);
    expect(text.lets).toBe('deny segment Segment 1 to segment Segment 2 on tcp 22\nallow any to internet');
    const { id: _id, ...fields } = BOX;
    expect(routerTyped(text, known)).toEqual({ ...fields, deviceId: null, ownWayOut: null, purpose: null });
  });

  it('takes names of segments alone, and keeps what cannot be read to be refused', () => {
    expect(letsTyped('DENY Segment 1 to Segment 2 on tcp 22,23', known)).toEqual([
      {
        ...{ id: 'line 1', verdict: 'deny', services: [{ protocol: 'tcp', ports: ['22', '23'] }] },
        from: [{ kind: 'segment', name: 'Segment 1' }],
        to: [{ kind: 'segment', name: 'Segment 2' }],
      },
    ]);
    expect(letsTyped('whatever', known)[0]!.from).toEqual([{ kind: 'addresses', text: '“whatever”' }]);
    expect(letsTyped('deny a to b on tcp x', known)[0]!.from[0]).toMatchObject({ kind: 'addresses' });
    expect(letsTyped('\n \n', known)).toEqual([]);
  });

  it('assumes nothing of a switch of ours', () => {
    const typed = routerTyped({ ...routerTextOf(BOX), deviceId: roster[1]!.id, ownWayOut: true }, known);
    expect(typed).toMatchObject({ deviceId: roster[1]!.id, at: null, behind: null, lets: null, ownWayOut: null });
    expect(routerTyped(NEW_ROUTER, known).meets).toBeNull();
  });

  it('is told in words: what it is, what it routes, and where it meets the gateway', () => {
    const routed = { ...site, segments: site.segments.map((each, i) => (i === 1 ? { ...each, routed: 'r' } : each)) };
    expect(routerWords(routed, roster, BOX)).toEqual([
      'box of others, as assumed',
      'routes Segment 1, 10.60.0.0/16, 10.61.0.0/16',
      'meets the gateway at 10.1.1.9, Management',
    ]);
    expect(routerWords(site, roster, { id: 's', name: 'Core', deviceId: roster[1]!.id })[0]).toBe(roster[1]!.name);
    expect(switchesThatRoute(roster)).toEqual([
      { value: roster[1]!.id, label: `${roster[1]!.name}, which routes 16 segments` },
    ]);
  });
});
