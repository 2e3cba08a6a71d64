import { provideHttpClient, withInterceptors } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting, type TestRequest } from '@angular/common/http/testing';
import type { EnvironmentProviders, Provider } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import {
  AtSites,
  consequencesOf,
  outcomeAt,
  reviewOf,
  type ConsequencesInput,
  type EstateDraft,
  type MisfitView,
  type SiteDraft,
  type SiteReviewView,
  type TouchedSites,
} from '@iron-lattice/core/assess';
import type { LiveEvent } from '@iron-lattice/core/base';
import type { DeviceView, HitchView } from '@iron-lattice/core/intake';
import { sheetFor } from '@iron-lattice/core/hardware';
import { packGrid } from '@iron-lattice/core/lattice';
import { apply, type Intent, type Operation, type VlanPool } from '@iron-lattice/core/intent';
import { sampleSite, type SampleSite } from '@iron-lattice/core/testing';
import { Subject } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { DraftReviews } from '../shell/draft-reviews';
import { LiveEvents, type Happening } from '../shell/live-events';
import { asProblem } from '../session/problem';
import { SiteStore } from '../shell/site-store';
import { STAGES } from '../shell/stage';
import { ALL_STAGES } from '../stages';

/** What a device has that nothing is known of. */
export const BARE_DEVICE = {
  firmware: '1.0.0',
  firmwareState: 'current',
  updating: null,
  address: null,
  hangsOn: null,
  bootedAt: null,
  heardAt: null,
  revision: 1,
  tags: [],
  trouble: null,
  hitches: 0,
  fingerprint: '',
  runs: null,
  wants: null,
  clients: [],
  neighbours: [],
  fixed: null,
  first: null,
  lightOff: false,
  purpose: '',
  policy: 'leave',
  ports: [],
  portFacts: [],
  radioFacts: [],
  mesh: null,
  tunnel: null,
  landings: [],
  version: 0,
} as const satisfies Partial<DeviceView>;

/** A site, its draft and its controller in the hands of a test: core answers, as it would on the server. */
export class SiteFixture {
  readonly events = new Subject<Happening>();
  readonly sample: SampleSite;
  private intent: Intent;
  /** VLAN pools as devices were told of them. */
  livePools: readonly VlanPool[] = [];
  told = { revision: 0, behind: false, by: null as string | null };
  misfits: readonly MisfitView[] = [];
  head = 0;
  edits = 0;
  behind = 0;
  /** Operations that were sent, in order. */
  readonly sent: Operation[] = [];

  constructor(options: Parameters<typeof sampleSite>[0] = { segments: 3, aps: 2 }) {
    this.sample = sampleSite(options);
    this.intent = this.sample.intent;
  }

  get providers(): (Provider | EnvironmentProviders)[] {
    return [
      provideRouter([{ path: '**', children: [] }]),
      provideHttpClient(withInterceptors([asProblem])),
      provideHttpClientTesting(),
      { provide: LiveEvents, useValue: { all: this.events } },
      { provide: STAGES, useValue: ALL_STAGES },
    ];
  }

  /** Shows the site, signed in as somebody, and answers the first questions. */
  async open(role: 'administrator' | 'observer' = 'administrator'): Promise<SiteStore> {
    TestBed.inject(SessionStore).person.set({ id: 'p', name: 'Ida Holm', email: 'ida@skerrow.example', role });
    const store = TestBed.inject(SiteStore);
    store.siteId.set(this.sample.site.id);
    TestBed.tick();
    await this.answer();
    return store;
  }

  /** Shows what sites share, where no site is in front. */
  async openEstate(role: 'administrator' | 'observer' = 'administrator'): Promise<SiteStore> {
    TestBed.inject(SessionStore).person.set({ id: 'p', name: 'Ida Holm', email: 'ida@skerrow.example', role });
    const store = TestBed.inject(SiteStore);
    store.siteId.set(null);
    TestBed.tick();
    await this.answer();
    return store;
  }

  /** A question that has not been answered yet. */
  waiting(url: string): TestRequest {
    return TestBed.inject(HttpTestingController).expectOne(url);
  }

  /** Answers whatever was asked meanwhile (or what has such an address alone), until nothing is left to answer. */
  async answer(only: (url: string) => boolean = () => true): Promise<void> {
    const http = TestBed.inject(HttpTestingController);
    for (let idle = 0; idle < 3;) {
      const requests = http.match(({ url }) => only(url)).filter((request) => !request.cancelled);
      idle = requests.length === 0 ? idle + 1 : 0;
      for (const request of requests) this.reply(request);
      await new Promise((resolve) => setTimeout(resolve));
      TestBed.tick();
    }
  }

  /** Answers until every site that the draft touches was looked at. */
  async reviewed(): Promise<void> {
    const reviews = TestBed.inject(DraftReviews);
    do await this.answer();
    while (!reviews.whole());
    await this.answer();
  }

  /** What a draft means at another site: devices there that all hear the same. */
  review(siteId: string, name: string, devices: number, more: Partial<SiteReviewView> = {}): SiteReviewView {
    const told = 'the same';
    const line = { op: 'add' as const, path: ['ssids Crew'], before: null, after: 'isolated' };
    const changes = Array.from({ length: devices }, (_, i) => {
      return {
        deviceId: `${siteId}${i}`,
        name: `${name.toLowerCase()}-ap-${i}`,
        told,
        hash: `${siteId}${i}`,
        away: '',
      };
    });
    return {
      ...{
        siteId,
        name,
        counts: { error: 0, warning: 0, info: 0 },
        findings: [],
        broken: [],
        lockOuts: [],
        silent: [],
        segments: {},
      },
      ...{ changes, outages: {}, differences: { [told]: { lines: [line], added: 1, removed: 0 } } },
      ...more,
    };
  }

  /** Somebody else edits the draft. */
  change(operation: Operation): void {
    const result = apply(this.intent, operation, (id) => this.sample.roster.find((device) => device.id === id));
    if (!result.ok) throw new Error(result.flaws[0]!.message);
    this.intent = result.intent;
    this.head++;
    this.edits++;
    this.happen({ type: 'draft', draftId: 'draft', head: this.head });
  }

  happen(event: LiveEvent): void {
    this.events.next(event);
  }

  private get facts(): ConsequencesInput {
    const { roster, links, site } = this.sample;
    const { estate, sites } = this.intent;
    return { estate, site: sites.get(site.id)!, roster, links, told: {} };
  }

  get siteDraft(): SiteDraft {
    const { sample, intent } = this;
    const site = intent.sites.get(sample.site.id)!;
    const { roster, links } = sample;
    const { grid, ...seen } = consequencesOf(this.facts);
    return {
      draft: {
        id: 'draft',
        name: 'Draft 1',
        state: 'open',
        head: this.head,
        baseRevision: 0,
        edits: this.edits,
        behind: this.behind,
        ...{ description: '', by: 'Ida Holm', at: '2026-03-01T09:00:00Z' },
        canUndo: this.edits > 0,
        undoes: Math.min(this.edits, 1),
        undoesLive: false,
        canRedo: false,
        misfits: this.misfits,
      },
      estate: intent.estate,
      site,
      roster,
      links,
      uplinks: [],
      livePools: this.livePools,
      told: this.told,
      consequences: { ...seen, grid: packGrid(grid) },
    };
  }

  private get atSites(): AtSites {
    return new AtSites(this.intent, this.sample.roster, new Map());
  }

  get estateDraft(): EstateDraft {
    const { draft, estate } = this.siteDraft;
    const seen = this.atSites;
    return { draft, estate, counts: seen.counts(), names: seen.names() };
  }

  get devices(): DeviceView[] {
    return this.sample.roster.map((device, i) => {
      const sheet = sheetFor(device);
      const { id, siteId, name, serial, model } = device;
      const mac = `02:00:00:00:00:0${i}`;
      const view = {
        id,
        siteId,
        name,
        serial,
        model,
        mac,
        kind: sheet.kind,
        title: sheet.title,
        state: 'in step' as const,
      };
      const known = { address: `10.1.1.${20 + i}`, fingerprint: '0011223344556677', runs: 'a', wants: 'a' };
      return { ...BARE_DEVICE, ...view, ...known, ports: sheet.ports.map((port) => port.name) };
    });
  }

  calling: DeviceView[] = [];
  hitches: HitchView[] = [];
  /** What the draft means at other sites. */
  readonly reviews = new Map<string, SiteReviewView>();
  get touched(): TouchedSites['sites'] {
    return [
      { id: this.sample.site.id, name: this.sample.site.name },
      ...[...this.reviews.values()].map(({ siteId, name }) => ({ id: siteId, name })),
    ];
  }

  /** Answers of the test’s own, by the end of the address; they come first. An answer may be a problem. */
  readonly answers = new Map<string, (body: unknown) => object>();
  /** What was asked for that has an answer of the test’s own. */
  readonly asked: { readonly url: string; readonly body: unknown }[] = [];

  private reply(request: TestRequest): void {
    const { method, url, body } = request.request;
    for (const [end, answer] of this.answers) {
      if (!url.endsWith(end)) continue;
      this.asked.push({ url, body });
      const given = answer(body);
      return request.flush(given, 'title' in given ? { status: 422, statusText: '' } : {});
    }
    if (method === 'POST' && url.endsWith('/operations'))
      return this.edit(request, (body as { operations: Operation[] }).operations);
    if (url === '/api/devices') {
      const rows = [...this.devices, ...this.calling];
      return request.flush({ rows, total: rows.length, mark: '1', gone: [] });
    }
    if (url === '/api/rule-hits') return request.flush([]);
    if (url === '/api/hitches') return request.flush({ hitches: this.hitches });
    const known = [...this.devices, ...this.calling].find((device) => url === `/api/devices/${device.id}`);
    if (known && method === 'GET') return request.flush(known);
    if (url.endsWith('/devices')) return request.flush(this.devices);
    if (url.endsWith('/claim-preview'))
      return request.flush({ names: (body as { serials: string[] }).serials.map((_, i) => `x-ap-0${i + 3}`) });
    if (url === '/api/calling') return request.flush(this.calling);
    if (url.endsWith('/shared')) return request.flush(this.estateDraft);
    const shared = /\/shared\/([^/]+)\/([^/]+)\/sites$/.exec(url);
    if (shared) return request.flush(this.atSites.of(shared[1] as 'ssid', shared[2]!) ?? []);
    if (/\/api\/drafts\/[^/]+\/sites\/[^/]+$/.test(url)) return request.flush(this.siteDraft);
    const reviewed = reviewOf(outcomeAt(this.facts));
    if (/\/api\/drafts\/[^/]+$/.test(url)) return request.flush(this.siteDraft.draft);
    if (url.endsWith('/touched'))
      return request.flush({
        head: this.head,
        baseRevision: 0,
        sites: this.edits + this.behind > 0 ? this.touched : [],
      });
    if (url.endsWith('/reviews')) {
      const ids = request.request.params.get('sites')!.split(',');
      const here = { ...reviewed, name: 'Here', silent: [], segments: {} };
      return request.flush(ids.flatMap((id) => (id === reviewed.siteId ? here : (this.reviews.get(id) ?? []))));
    }
    request.flush(
      { type: 'about:lattice/thing.unknown', title: `no answer for ${method} ${url}` },
      { status: 404, statusText: '' },
    );
  }

  private edit(request: TestRequest, operations: readonly Operation[]): void {
    this.sent.push(...operations);
    for (const operation of operations) {
      const result = apply(this.intent, operation, (id) => this.sample.roster.find((device) => device.id === id));
      if (!result.ok) {
        const problem = { type: 'about:lattice/draft.refused', title: result.flaws[0]!.message, flaws: result.flaws };
        return request.flush(problem, { status: 422, statusText: '' });
      }
      this.intent = result.intent;
      this.head++;
      this.edits++;
    }
    request.flush(request.request.params.has('site') ? this.siteDraft : this.siteDraft.draft);
  }
}

/** The element a person would find by what it says. */
export function byText<T extends HTMLElement>(root: HTMLElement, selector: string, text: string | RegExp): T {
  const all = [...root.querySelectorAll<T>(selector)];
  const fits = (element: T): boolean => {
    const words = (element.textContent ?? '').replace(/\s+/g, ' ').trim();
    return typeof text === 'string' ? words === text : text.test(words);
  };
  const found = all.find(fits);
  if (!found)
    throw new Error(
      `no ${selector} says ${String(text)}; there are: ${all.map((each) => each.textContent?.trim()).join(' | ')}`,
    );
  return found;
}

/** Types into a field as a person would. */
export function type(field: HTMLInputElement, text: string): void {
  field.value = text;
  field.dispatchEvent(new Event('input', { bubbles: true }));
}
