import { expect, test } from 'vitest';
import { lostTo } from '../assess';
import { withBoxes } from '../lattice';
import { resolve, type Operation, type SiteRouter } from '../intent';
import { compileSite } from '../rollout';
import { appliedWith, sampleId, sampleSite } from '../testing';
import { walk, type WalkFacts } from '.';

const sample = sampleSite({ segments: 4, aps: 1 });
const { roster, links } = sample;
const siteId = sample.site.id;
const [management, crew, tills, cameras] = sample.site.segments;
const gateway = roster.find(({ model }) => model.startsWith('GW'))!;
const core = roster.find(({ model }) => model.startsWith('SW'))!;
const facts: WalkFacts = {
  ...{ taken: new Set(), minute: 0 },
  uplinks: new Map([[`${gateway.id} wan1`, { up: true, address: '203.0.113.11' }]]),
};
const meets = (address: string) => ({ segmentId: management!.id, address });
const BOX: SiteRouter = {
  ...{ id: sampleId(7, 1), name: 'Harbour box', meets: meets('10.1.1.9') },
  at: { deviceId: core.id, port: '20' },
};
const SWITCH: SiteRouter = { id: sampleId(7, 2), name: 'Core', deviceId: core.id, meets: meets('10.1.1.8') };
const port = (name: string, untagged: string | null, tagged: string[]): Operation => ({
  ...{ type: 'port.set', siteId, deviceId: core.id, port: name },
  ...{ from: sample.site.ports[core.id]![name]!, to: { untagged, tagged } },
});
const routed = (segment: typeof crew, to: string): Operation => ({
  ...{ type: 'segment.set', siteId, segmentId: segment!.id },
  ...{ from: { routed: null }, to: { routed: to } },
});
const plugged = port('20', management!.id, [crew!.id, tills!.id]);

/** Steps of a walk of whoever is plugged in at port 12, in a segment. */
function walked(from: typeof crew, to: string | null, ...operations: Operation[]) {
  const { estate, sites } = appliedWith(roster, sample.intent, port('12', from!.id, []), ...operations);
  const site = resolve(estate, sites.get(siteId)!);
  const documents = compileSite(site, roster);
  const plant = withBoxes(site, documents, links);
  const lost = to === null ? null : lostTo({ site, roster, documents }, to);
  const probe = { deviceId: core.id, port: '12' };
  const { steps, arrived } = walk(plant.documents, plant.links, probe, {
    ...facts,
    ...(to === null ? {} : { to: { address: to, ...(lost ? { lost } : {}) } }),
  });
  return { arrived, titles: steps.map(({ title }) => title), last: steps.at(-1)! };
}

test('behind a box of others it is handed on to the gateway, and from there outside', () => {
  const box = [{ type: 'router.add', siteId, router: BOX } as Operation, routed(crew, BOX.id), plugged];
  const out = walked(crew, null, ...box);
  expect(out).toMatchObject({ arrived: true, last: { kind: 'internet' } });
  expect(out.titles).toContain('Handed on to x-gw-01');
  expect(out.titles).toContain('10.1.10.1 answers');
  expect(walked(crew, '10.1.30.40', ...box)).toMatchObject({ arrived: true, last: { title: 'On to Segment 3' } });
  // Whoever lives where they meet answers by the gateway, which saw no question; the gateway itself does not.
  expect(walked(crew, '10.1.1.40', ...box)).toMatchObject({ arrived: false, last: { title: 'No answer' } });
  expect(walked(crew, '10.1.1.1', ...box)).toMatchObject({ arrived: true, last: { title: 'x-gw-01 answers' } });
  const inside = walked(crew, '10.1.20.40', ...box, routed(tills, BOX.id));
  expect(inside).toMatchObject({ arrived: true, last: { title: 'On to Segment 2' } });
  expect(inside.last.detail).toContain('Assumed: ');
  expect(inside.titles).not.toContain('Handed on to x-gw-01');
});

test('to a box of others the gateway hands on, and it does what is assumed of it', () => {
  const lets: SiteRouter['lets'] = [
    {
      ...{ id: 'a', verdict: 'deny', services: [{ protocol: 'any' }] },
      from: [{ kind: 'segment', name: cameras!.name }],
      to: [{ kind: 'any' }],
    },
  ];
  const box = (more: Partial<SiteRouter>): Operation[] => [
    { type: 'router.add', siteId, router: { ...BOX, ...more } },
    routed(crew, BOX.id),
    plugged,
  ];
  const there = walked(cameras, '10.1.10.40', ...box({}));
  expect(there).toMatchObject({ arrived: true, last: { title: 'On to Segment 1' } });
  expect(there.titles).toContain('Handed on by 10.1.1.9');
  const stopped = walked(cameras, '10.1.10.40', ...box({ lets }));
  expect(stopped).toMatchObject({ arrived: false, last: { title: 'Harbour box stops it' } });
  expect(stopped.last.detail).toContain('Assumed of Harbour box');
});

test('where they do not meet it ends, and by a line of its own it goes out', () => {
  const shut = [{ type: 'router.add', siteId, router: BOX } as Operation, routed(crew, BOX.id)];
  const apart = walked(crew, null, ...shut, port('20', null, [crew!.id]));
  expect(apart).toMatchObject({ arrived: false, last: { title: 'No way to the gateway' } });
  const alone = { ...BOX, meets: null, ownWayOut: true };
  const own = [{ type: 'router.add', siteId, router: alone } as Operation, routed(crew, BOX.id), plugged];
  expect(walked(crew, null, ...own)).toMatchObject({ arrived: true, last: { title: 'Out by a line of Harbour box' } });
  expect(walked(crew, '10.1.30.40', ...own)).toMatchObject({ arrived: false, last: { title: 'No way on' } });
});

test('a switch that routes hands on too, and what it routes itself never comes to the gateway', () => {
  const own = [{ type: 'router.add', siteId, router: SWITCH } as Operation, routed(crew, SWITCH.id)];
  const out = walked(crew, null, ...own);
  expect(out).toMatchObject({ arrived: true, last: { kind: 'internet' } });
  expect(out.titles).toContain('Handed on to x-gw-01');
  const inside = walked(crew, '10.1.20.40', ...own, routed(tills, SWITCH.id));
  expect(inside).toMatchObject({ arrived: true, last: { title: 'On to Segment 2' } });
  expect(inside.last.detail).not.toContain('Assumed');
});

test('what goes round in circles, and what nobody but the default route takes, ends at the gateway', () => {
  const round: Operation = {
    ...{ type: 'route.add', siteId },
    route: {
      ...{ id: 'wide', deviceId: gateway.id, name: 'Wide', prefix: '172.16.0.0/12' },
      via: { kind: 'address', address: '10.1.1.9' },
    },
  };
  const box = [{ type: 'router.add', siteId, router: { ...BOX, behind: ['172.20.0.0/16'] } } as Operation, round];
  const circle = walked(crew, '172.21.0.9', ...box);
  expect(circle).toMatchObject({ arrived: false, last: { title: 'Goes round in circles' } });
  expect(circle.last.detail).toContain('leads 172.16.0.0/12 to “Harbour box” (10.1.1.9)');
  expect(walked(crew, '172.20.0.9', ...box).arrived).toBe(true);
  expect(walked(crew, '10.99.0.9')).toMatchObject({ arrived: false, last: { title: 'Gets nowhere' } });
  expect(walked(crew, '198.51.100.9')).toMatchObject({ arrived: true, last: { kind: 'internet' } });
});
