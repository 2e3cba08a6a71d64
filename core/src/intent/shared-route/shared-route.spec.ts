import { describe, expect, test } from 'vitest';
import { consequencesOf } from '../../assess';
import type { GatewayDocument } from '../../document';
import { compileSite } from '../../rollout';
import { appliedWith, refusedWith, sampleId, sampleSites } from '../../testing';
import { resolve, stepsTo, touchedSites, type Intent, type Operation } from '..';
import type { SharedRoute } from './shared-route';

const { intent, roster, siteIds } = sampleSites({ sites: 3, segments: 2 });
const segment = intent.sites.get(siteIds[1]!)!.segments[1]!.name;
const route = (id: string, more: Partial<SharedRoute> = {}): SharedRoute => ({
  ...{ id, name: id, prefix: '172.20.0.0/16', via: { kind: 'segment', segment, nth: 5 }, reach: { kind: 'estate' } },
  ...more,
});
const add = (one: SharedRoute): Operation => ({ type: 'sharedRoute.add', route: one });
const done = (...operations: Operation[]): Intent => appliedWith(roster, intent, ...operations);
const at = ({ estate, sites }: Intent, n: number) => {
  const site = resolve(estate, sites.get(siteIds[n]!)!);
  const devices = roster.filter(({ siteId }) => siteId === siteIds[n]);
  return { site, devices };
};
const told = (now: Intent, n: number) => {
  const { site, devices } = at(now, n);
  return (compileSite(site, devices).get(devices[0]!.id) as GatewayDocument).routes;
};
const findings = (now: Intent, n: number, all = roster) => {
  const devices = all.filter(({ siteId }) => siteId === siteIds[n]);
  const site = now.sites.get(siteIds[n]!)!;
  return consequencesOf({ estate: now.estate, site, roster: devices, links: [], told: {} }).findings.filter(
    ({ place }) => place.kind === 'route',
  );
};

describe('a route that is said once for many sites', () => {
  test('is told to the gateway of each, with what it names as it is there', () => {
    const now = done(add(route('Works', { name: ' Works ', prefix: '172.20.7.1/16', metric: 10, tracks: 'itself' })));
    for (const [n, third] of [
      [0, 1],
      [1, 17],
      [2, 33],
    ] as const)
      expect(told(now, n)).toEqual([
        {
          ...{ name: 'Works', prefix: '172.20.0.0/16', to: `10.0.${third}.5`, metric: 10 },
          tracks: `10.0.${third}.5`,
        },
      ]);
    expect(touchedSites(intent, now)).toEqual(siteIds);
    const one = done(add(route('Here', { reach: { kind: 'sites', siteIds: [siteIds[1]!] } })));
    expect([0, 1, 2].map((n) => told(one, n)?.length ?? 0)).toEqual([0, 1, 0]);
    expect(touchedSites(intent, one)).toEqual([siteIds[1]]);
    expect(told(done(add(route('Later', { off: true }))), 0)).toBeUndefined();
  });

  test('leaves by an uplink as sites call it, or nowhere', () => {
    const dish: Operation = {
      ...{ type: 'uplink.set', siteId: siteIds[1]!, deviceId: at(intent, 1).devices[0]!.id, port: 'wan1' },
      ...{ from: null, to: { title: 'Dish' } },
    };
    const now = done(
      dish,
      add(route('By dish', { via: { kind: 'uplink', title: 'dish' }, tracks: '172.20.0.1' })),
      add(route('Never', { prefix: 'fd00:60::/32', via: { kind: 'nowhere' } })),
    );
    expect(told(now, 1)).toEqual([
      { name: 'By dish', prefix: '172.20.0.0/16', by: 'wan1', tracks: '172.20.0.1' },
      { name: 'Never', prefix: 'fd00:60::/32' },
    ]);
    expect(told(now, 0)).toEqual([{ name: 'Never', prefix: 'fd00:60::/32' }]);
    expect(findings(now, 0)).toMatchObject([
      { code: 'paths.route-missing', message: '“By dish” of all sites is not here', mend: null },
    ]);
    expect(findings(now, 0)[0]!.reason).toContain('It has no uplink “dish”.');
  });

  test('comes behind what a site says itself of the same prefix, and is told apart by name', () => {
    const { devices } = at(intent, 0);
    const own: Operation = {
      ...{ type: 'route.add', siteId: siteIds[0]! },
      route: {
        ...{ id: 'o', deviceId: devices[0]!.id, name: 'Works', prefix: '172.20.0.0/16', via: { kind: 'nowhere' } },
      },
    };
    expect(told(done(own, add(route('Works'))), 0)).toEqual([{ name: 'Works', prefix: '172.20.0.0/16' }]);
    expect(findings(done(own, add(route('Works'))), 0)).toEqual([]);
    // What another gateway there says is not what this one does.
    const second = { ...devices[0]!, id: sampleId(2, 90), name: 's0-gw-02', serial: 'GW-90' };
    const others = [...roster, second];
    const of2 = { ...own, route: { ...(own as { route: object }).route, deviceId: second.id } } as Operation;
    const lacking = appliedWith(others, intent, of2, add(route('Works', { via: { kind: 'uplink', title: 'Dish' } })));
    expect(findings(lacking, 0, others).map(({ code }) => code)).toEqual(['paths.route-missing']);
    const beside = done(own, add(route('Works', { prefix: '172.21.0.0/16' })));
    expect(told(beside, 0)!.map(({ name }) => name)).toEqual(['Works', 'Works (all sites)']);
  });

  test('is none where the address is not there, or is the gateway, and says so there', () => {
    const nobody = done(add(route('Far', { via: { kind: 'segment', segment, nth: 400 } })));
    expect(findings(nobody, 0)[0]!.reason).toContain('has no address number 400.');
    const itself = done(add(route('Round', { via: { kind: 'segment', segment, nth: 1 } })));
    expect(findings(itself, 0)[0]!.reason).toContain('is the gateway itself');
    const absent = done(add(route('Absent', { via: { kind: 'segment', segment: 'Quarry', nth: 5 } })));
    expect(findings(absent, 2)[0]!.reason).toContain('It has no segment “Quarry”.');
    const six = done(add(route('Six', { prefix: 'fd00:60::/32' })));
    expect(findings(six, 0)[0]!.reason).toContain('has no IPv6.');
    // What is given away to clients may be anybody tomorrow.
    const given = done(add(route('Given', { via: { kind: 'segment', segment, nth: 30 } })));
    expect(findings(given, 0)).toMatchObject([{ code: 'paths.route-given' }]);
  });

  test('that cannot be meant is refused with a word of what is', () => {
    const there = done(add(route('Works')));
    const flaw = (more: Partial<SharedRoute>, id = 'Other'): string =>
      refusedWith(roster, there, add(route(id, { metric: 5, ...more })));
    expect(flaw({ name: 'works' })).toContain('There is a route “Works” already.');
    expect(flaw({ metric: 0 })).toContain('“Works” is for 172.20.0.0/16 as well at some of the same sites');
    expect(flaw({ prefix: '0.0.0.0/0' })).toContain('leaves by the uplinks');
    expect(flaw({ prefix: 'works' })).toContain('“works” is no prefix');
    expect(flaw({ metric: 70_000 })).toContain('The metric is a whole number');
    expect(flaw({ via: { kind: 'segment', segment, nth: 0 } })).toContain('which of its addresses');
    expect(flaw({ via: { kind: 'uplink', title: ' ' } })).toContain('by which uplink');
    expect(flaw({ via: { kind: 'nowhere' }, tracks: '10.1.1.1' })).toContain('nobody is asked');
    expect(flaw({ tracks: '10.1.1.1' })).toContain('10.1.1.1 is not reached by this route');
    expect(flaw({ tracks: 'fd00::1' })).toContain('The route is of IPv4');
    expect(flaw({ via: { kind: 'uplink', title: 'Dish' }, tracks: 'itself' })).toContain('watched by itself');
  });

  test('is gone back to like everything that sites share', () => {
    const now = done(add(route('Works', { purpose: 'For the works' })));
    const back = stepsTo(now, intent, ['estate'], () => undefined);
    expect(back).toMatchObject({ ok: true, operations: [{ type: 'sharedRoute.remove', sharedRouteId: 'Works' }] });
    const forth = stepsTo(intent, now, ['estate'], () => undefined);
    expect(forth.ok && forth.intent.estate.routes).toEqual(now.estate.routes);
  });
});
