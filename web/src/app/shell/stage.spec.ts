import { Component } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Router } from '@angular/router';
import { RouterTestingHarness } from '@angular/router/testing';
import type { Finding, FindingPlace } from '@iron-lattice/core/assess';
import type { SearchHit } from '@iron-lattice/core/base';
import { routesOf } from '../app.routes';
import { ALL_STAGES } from '../stages';
import { SiteFixture } from '../testing/site-fixture';
import { EstateLine } from './estate-line';
import { estateStages, siteStages, stageOf, STAGES, type Stage } from './stage';
import { WorkLine } from './work-line';

@Component({ template: '<h1>Toys</h1>' })
class ToyPage {}

/** All that a stage can bring, by the list of CONTRIBUTING. */
const toys: readonly Stage[] = [
  {
    at: 'site',
    path: 'toys',
    name: 'Toys',
    page: () => Promise.resolve(ToyPage),
    add: 'Add toy',
    hits: { device: ({ id }) => id },
    findings: { port: ({ id, port }) => `${id}/${port}` },
    waiting: () => ({ count: 4, tone: 'info', words: '4 toys wait' }),
  },
  { at: 'estate', path: 'all-toys', name: 'All toys', page: () => Promise.resolve(ToyPage) },
];

describe('stages', () => {
  /** Every kind there is; one that is forgotten here does not compile. */
  const places: Readonly<Record<FindingPlace['kind'], true>> = {
    segment: true,
    ssid: true,
    class: true,
    device: true,
    port: true,
    pool: true,
    rule: true,
    guarantee: true,
    radio: true,
    mesh: true,
    radius: true,
    portal: true,
    uplink: true,
    course: true,
    publication: true,
    translation: true,
    route: true,
    router: true,
    pact: true,
    member: true,
    pair: true,
  };
  /** Where each kind of found object is shown: at its site, over all sites, or at either. */
  const hits: Readonly<Record<SearchHit['kind'], readonly Stage['at'][]>> = {
    site: ['site', 'estate'],
    device: ['site', 'estate'],
    segment: ['site'],
    pool: ['site'],
    duty: ['site'],
    rule: ['site', 'estate'],
    set: ['site', 'estate'],
    guarantee: ['site', 'estate'],
    ssid: ['estate'],
    class: ['estate'],
    recipe: ['estate'],
    hours: ['estate'],
    portal: ['estate'],
    course: ['site'],
    publication: ['site'],
    translation: ['site'],
    route: ['site', 'estate'],
    router: ['site'],
    pact: ['site'],
    member: ['estate'],
    radius: ['estate'],
    user: ['estate'],
    client: ['estate'],
  };

  it('show each kind of place of a finding once, and each kind of found object, at a site and over all', () => {
    const shown = siteStages(ALL_STAGES).flatMap(({ findings = {} }) => Object.keys(findings));
    expect(shown.sort()).toEqual(Object.keys(places).sort());
    for (const [at, of] of [
      ['site', siteStages(ALL_STAGES)],
      ['estate', estateStages(ALL_STAGES)],
    ] as const) {
      const kinds = Object.keys(hits) as SearchHit['kind'][];
      expect(of.flatMap((stage: Stage) => Object.keys(stage.hits ?? {})).sort()).toEqual(
        kinds.filter((kind) => hits[kind].includes(at)).sort(),
      );
    }
  });

  it('have addresses of their own, and one each shows all mends and all changes', () => {
    for (const of of [siteStages(ALL_STAGES), estateStages(ALL_STAGES)]) {
      const paths = of.map(({ path }: Stage) => path);
      expect(new Set(paths).size).toBe(paths.length);
    }
    const shows = siteStages(ALL_STAGES).flatMap((stage) => stage.shows ?? []);
    expect(shows.sort()).toEqual(['changes', 'mends']);
  });

  const setUp = async (stages: readonly Stage[]) => {
    const site = new SiteFixture({ segments: 3, aps: 2, holes: 1 });
    TestBed.configureTestingModule({ providers: [...site.providers, { provide: STAGES, useValue: stages }] });
    const store = await site.open();
    return { site, store };
  };

  it('of a toy: its station says what waits there, and a finding takes its place', async () => {
    const { store } = await setUp(toys);
    const line = TestBed.createComponent(WorkLine);
    await line.whenStable();
    const page = line.nativeElement as HTMLElement;
    expect(page.querySelector('.count')!.textContent).toBe('1');
    expect(page.querySelector('.count')!.getAttribute('aria-label')).toBe('1 finding');
    const [finding] = store.consequences()!.findings as [Finding];
    expect(stageOf(toys, finding.place)).toEqual({ path: 'toys', show: `${finding.place.id}/${finding.place.port}` });
    expect(stageOf(toys, { siteId: 's', kind: 'rule', id: 'r' })).toBeNull();
  });

  it('of a toy: without a finding its own count stands, and the estate’s line has it too', async () => {
    await setUp([{ ...(toys[0] as Stage & { at: 'site' }), findings: {} }, toys[1]!]);
    const line = TestBed.createComponent(WorkLine);
    await line.whenStable();
    expect((line.nativeElement as HTMLElement).querySelector('.count')!.getAttribute('aria-label')).toBe('4 toys wait');
    const estate = TestBed.createComponent(EstateLine);
    await estate.whenStable();
    expect((estate.nativeElement as HTMLElement).textContent).toContain('All toys');
  });

  it('of a toy: has an address under the site, with its title', async () => {
    const [frame] = routesOf(toys).filter(({ path }) => path === '');
    const children = frame!.children!.find(({ path }) => path === 'sites/:siteId')!.children!;
    await setUp(toys);
    TestBed.inject(Router).resetConfig([{ path: 'sites/:siteId', children }]);
    const harness = await RouterTestingHarness.create('/sites/s1');
    expect(TestBed.inject(Router).url).toBe('/sites/s1/toys');
    expect(harness.routeNativeElement!.textContent).toBe('Toys');
    expect(document.title).toBe('Toys · Iron Lattice');
  });
});
