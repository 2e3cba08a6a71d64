import { Component, computed, effect, inject, input, signal } from '@angular/core';
import { NgTemplateOutlet } from '@angular/common';
import { toSignal } from '@angular/core/rxjs-interop';
import { MatButtonModule } from '@angular/material/button';
import { ActivatedRoute, Router } from '@angular/router';
import { interval, map } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { LEAVING_WORDS } from '../shell/leaving-words';
import { SiteStore } from '../shell/site-store';
import { counted } from '../ui/counted';
import { Stage } from '../ui/stage';
import { changeWords, FOUND, LOST } from './change-words';
import { CourseSheet } from './course-sheet';
import { GatewayLists } from './gateway-lists';
import { PactList } from './pacts/pact-list';
import { PactSheet } from './pacts/pact-sheet';
import { PairSheet } from './pair-sheet';
import { PairStrip } from './pair-strip';
import { gatewayRows, type GatewayRow } from './path-rows';
import { PathsStore } from './paths-store';
import { PublicationSheet } from './publication-sheet';
import { RehearsalView } from './rehearsal-view';
import { RouteListSheet } from './route-list-sheet';
import { RouteSheet } from './route-sheet';
import { RouterList } from './router-list';
import { RouterSheet } from './router-sheet';
import { TogetherSheet } from './together-sheet';
import { TranslationSheet } from './translation-sheet';
import { UplinkSheet } from './uplink-sheet';
import { UplinksDrawing } from './uplinks-drawing';

/** How a site reaches the internet. */
@Component({
  selector: 'il-paths-page',
  imports: [
    MatButtonModule,
    NgTemplateOutlet,
    CourseSheet,
    GatewayLists,
    PactList,
    PactSheet,
    PairSheet,
    PairStrip,
    PublicationSheet,
    RehearsalView,
    RouteListSheet,
    RouterList,
    RouterSheet,
    RouteSheet,
    Stage,
    TogetherSheet,
    TranslationSheet,
    UplinkSheet,
    UplinksDrawing,
  ],
  providers: [PathsStore],
  template: `
    <il-stage heading="Paths" [note]="note()">
      <div actions class="choices" role="group" aria-label="What is shown">
        @for (each of views; track each) {
          <button type="button" [attr.aria-pressed]="view() === each" (click)="look(each)">{{ each }}</button>
        }
      </div>
      @for (gateway of mayTake(); track gateway.device.id) {
        <button actions mat-stroked-button type="button" [disabled]="busy()" (click)="bringBack(gateway)">
          Use again what is good
        </button>
      }
      @if (view() === 'Rehearsal' && gateways()[0]) {
        @for (gateway of gateways(); track gateway.device.id) {
          <il-rehearsal-view [gateway]="gateway" [mates]="gateways()" [time]="time()" [now]="now()" />
        }
      } @else if (store.data()) {
        <div class="view">
          @if (pair() || gateways().length > 1) {
            <il-pair-strip
              [gateways]="gateways()"
              [silent]="silent()"
              [time]="time()"
              [shown]="picked() === 'pair'"
              (picked)="picked.set($event)"
            />
          }
          @for (gateway of gateways(); track gateway.device.id) {
            <il-uplinks-drawing
              [gateway]="gateway"
              [shown]="picked()"
              [together]="picked() === gateway.device.id + ':'"
              [time]="time()"
              (picked)="open(gateway, $event)"
            />
            @if (session.mayChange() && gateway.spare.length > 0) {
              <p class="spare">
                @for (socket of gateway.spare; track socket.name) {
                  <button mat-button type="button" (click)="make(gateway, socket.name)">
                    Make port {{ socket.name }} of {{ gateway.device.name }} an uplink
                  </button>
                }
              </p>
            }
            <il-gateway-lists
              [row]="gateway"
              [holds]="gateway.device.id === holder()"
              [now]="routesFor(gateway)"
              [standsFor]="standsFor(gateway)"
              [shown]="picked()"
              (picked)="picked.set($event)"
            >
              @if (gateway.device.id === holder()) {
                <ng-container *ngTemplateOutlet="ofSite" />
              }
            </il-gateway-lists>
          } @empty {
            <p class="empty">{{ without() }}</p>
            <ng-container *ngTemplateOutlet="ofSite" />
          }
          <ng-template #ofSite>
            <il-router-list [tries]="paths.tries()" [shown]="picked()" (picked)="picked.set($event)" />
            <il-pact-list [reports]="pactReports()" [shown]="picked()" (picked)="picked.set($event)" />
          </ng-template>
          @if (gateways().length > 0) {
            <h3>What became of them</h3>
            <ul class="changes">
              @for (change of changes(); track change.key) {
                <li>
                  <span class="mono at">{{ change.at }}</span>
                  <span [class]="change.tone">{{ change.words }}</span>
                </li>
              } @empty {
                <li class="soft">
                  Nothing so far: as soon as an uplink goes or comes back, it stands here and in the journal.
                </li>
              }
            </ul>
          }
          @if (flaw()) {
            <p class="flaw" role="alert">{{ flaw() }}</p>
          }
        </div>
      }
      <ng-container ngProjectAs="[foot]">
        @if (row(); as one) {
          <il-uplink-sheet [row]="one" [time]="time()" (closed)="picked.set(null)" />
        } @else if (beside(); as one) {
          <il-router-sheet
            [router]="one.kept"
            [tries]="one.kept ? (paths.tries()[one.kept.id] ?? null) : null"
            (added)="picked.set('router:' + $event)"
            (tried)="paths.triedAgain()"
            (closed)="picked.set(null)"
          />
        } @else if (tunnelled(); as one) {
          <il-pact-sheet
            [pact]="one.kept"
            [gateway]="keeper()"
            [report]="pactReports().get(one.kept?.name ?? '')"
            (added)="picked.set('pact:' + $event)"
            (closed)="picked.set(null)"
          />
        } @else if (paired(); as one) {
          <il-pair-sheet [pair]="one" [gateways]="gateways()" (closed)="picked.set(null)" />
        } @else if (together(); as one) {
          <il-together-sheet [gateway]="one" (closed)="picked.set(null)" />
        } @else if (steered(); as one) {
          <il-course-sheet
            [gateway]="one.gateway"
            [course]="one.kept"
            (added)="picked.set('course:' + $event)"
            (closed)="picked.set(null)"
          />
        } @else if (published(); as one) {
          <il-publication-sheet
            [gateway]="one.gateway"
            [publication]="one.kept"
            (added)="picked.set('published:' + $event)"
            (closed)="picked.set(null)"
          />
        } @else if (listed(); as one) {
          <il-route-list-sheet [gateway]="one" (closed)="picked.set(null)" />
        } @else if (routed(); as one) {
          <il-route-sheet
            [gateway]="one.gateway"
            [route]="one.kept"
            (added)="picked.set('route:' + $event)"
            (closed)="picked.set(null)"
          />
        } @else if (translated(); as one) {
          <il-translation-sheet
            [gateway]="one.gateway"
            [translation]="one.kept"
            (added)="picked.set('translation:' + $event)"
            (closed)="picked.set(null)"
          />
        }
      </ng-container>
    </il-stage>
  `,
  styles: `
    .view {
      height: 100%;
      overflow: auto;
      border-top: 1px solid var(--ink);
    }
    h3 {
      font: 600 13px/18px inherit;
      font-size: 13px;
      margin: 6px 14px 4px;
    }
    .changes {
      list-style: none;
      margin: 0;
      padding: 0 14px 14px;
    }
    .changes li {
      display: grid;
      grid-template-columns: 150px minmax(0, 1fr);
      gap: 10px;
      padding: 3px 0;
      border-top: 1px solid var(--rule);
    }
    .changes li.soft {
      display: block;
    }
    .at {
      font-size: 12px;
    }
    .bad {
      color: var(--bad);
    }
    .good {
      color: var(--good);
    }
    .spare {
      margin: 0 6px;
      text-align: right;
    }
    .empty,
    .flaw {
      margin: 14px;
    }
    @media (max-width: 720px) {
      .changes li {
        grid-template-columns: minmax(0, 1fr);
        gap: 0;
      }
      .spare {
        text-align: left;
      }
    }
  `,
})
export class PathsPage {
  protected readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  protected readonly paths = inject(PathsStore);
  private readonly router = inject(Router);
  private readonly route = inject(ActivatedRoute);
  protected readonly views = ['Uplinks', 'Rehearsal'] as const;
  /** Which view, from the address of the page. */
  readonly as = input<string>();
  protected readonly view = computed(() => this.views.find((each) => each.toLowerCase() === this.as()) ?? 'Uplinks');
  protected readonly now = toSignal(interval(1000).pipe(map(() => Date.now())), { initialValue: Date.now() });
  /** What is asked to be shown: `device:port`, `course:ID`, or `published:ID`. */
  readonly show = input<string>();
  /** What has its sheet open: the uplink `device:port`; with no port, the gateway’s together; `course:ID`; `course-new:DEVICE`; the same of `published`; `pair`. */
  protected readonly picked = signal<string | null>(null);
  protected readonly busy = signal(false);
  protected readonly flaw = signal('');
  protected readonly gateways = computed((): GatewayRow[] => {
    const data = this.store.data();
    return data ? gatewayRows(data.site, data.roster, this.paths.view()) : [];
  });
  protected readonly row = computed(() =>
    this.gateways()
      .flatMap(({ uplinks }) => uplinks)
      .find(({ key }) => key === this.picked()),
  );
  protected readonly together = computed(() => this.gateways().find(({ device }) => this.picked() === `${device.id}:`));
  /** The course, the published port or the translation whose sheet is open, and its gateway; of a new one null. */
  protected readonly steered = computed(() => this.keptAt('course', this.store.site()?.courses));
  protected readonly published = computed(() => this.keptAt('published', this.store.site()?.publications));
  /** The gateway that routes are brought for. */
  protected readonly listed = computed(() => {
    const [kind, id] = (this.picked() ?? '').split(':');
    return kind === 'route-list' ? this.gateways().find(({ device }) => device.id === id) : undefined;
  });
  protected readonly pair = computed(() => this.store.site()?.pair ?? null);
  protected readonly paired = computed(() => (this.picked() === 'pair' ? this.pair() : null));
  /** The gateway that has the segments’ addresses: of a pair the one that usually routes, else the first by name. */
  protected readonly holder = computed(
    () =>
      this.pair()?.firstId ??
      this.gateways()
        .map(({ device }) => device)
        .sort((a, b) => (a.name < b.name ? -1 : 1))[0]?.id,
  );
  /** The gateway that routes where one is of a pair, as it was last told; else the same. */
  protected routesFor(row: GatewayRow): GatewayRow {
    const pair = this.pair();
    const both = pair ? [pair.firstId, pair.secondId] : [];
    if (!both.includes(row.device.id)) return row;
    const active = this.gateways().filter(
      ({ device: { id }, fact }) => both.includes(id) && fact?.pair?.state === 'active' && !this.silent().has(id),
    );
    return active[0] ?? row;
  }

  /** The gateway that one stands by for; null: it is of no pair, or the first of it. */
  protected standsFor({ device }: GatewayRow): string | null {
    const pair = this.pair();
    if (pair?.secondId !== device.id) return null;
    return this.gateways().find((each) => each.device.id === pair.firstId)?.device.name ?? null;
  }

  /** The router beside the gateway whose sheet is open; of a new one null. */
  protected readonly beside = computed(() => {
    const [kind, id] = (this.picked() ?? '').split(':');
    if (kind === 'router-new') return { kept: null };
    const kept = kind === 'router' ? this.store.site()?.routers?.find((each) => each.id === id) : undefined;
    return kept ? { kept } : null;
  });
  /** The tunnel to a gateway of others whose sheet is open; of a new one null. */
  protected readonly tunnelled = computed(() => {
    const [kind, id] = (this.picked() ?? '').split(':');
    if (kind === 'pact-new') return { kept: null };
    const kept = kind === 'pact' ? this.store.site()?.pacts?.find((each) => each.id === id) : undefined;
    return kept ? { kept } : null;
  });
  /** The gateway that keeps such tunnels: the one that routes. */
  protected readonly keeper = computed(() => {
    const row = this.gateways().find(({ device }) => device.id === this.holder());
    return row && this.routesFor(row);
  });
  /** What it last told of them, by name. */
  protected readonly pactReports = computed(
    () => new Map((this.keeper()?.fact?.pacts ?? []).map((report) => [report.name, report])),
  );
  /** What stands where there is no gateway of ours. */
  protected readonly without = computed(() =>
    this.store.site()?.routers
      ? 'No gateway of ours here: what stands below routes in its place.'
      : 'No gateway here yet. Claim one under Intake: its uplinks come with it. Where a box of others routes, say below what it does.',
  );

  /** Ids of devices that are not heard from. */
  protected readonly silent = computed(
    () => new Set(this.store.devices().flatMap(({ id, state }) => (state === 'silent' ? [id] : []))),
  );
  protected readonly routed = computed(() => this.keptAt('route', this.store.site()?.routes));
  protected readonly translated = computed(() => this.keptAt('translation', this.store.site()?.translations));
  /** Gateways of which an uplink is good, and waits for somebody to say so. */
  protected readonly mayTake = computed(() =>
    this.session.mayChange()
      ? this.gateways().filter(({ fact }) => fact?.uplinks.some(({ state }) => state === 'waits'))
      : [],
  );
  protected readonly note = computed(() => {
    const all = this.gateways();
    const states = all.flatMap(({ fact }) => (fact ? [LEAVING_WORDS[fact.state]] : []));
    const uplinks = all.reduce((sum, each) => sum + each.uplinks.length, 0);
    return [counted(uplinks, 'uplink'), ...new Set(states)].join(', ');
  });
  /** Writes a moment by the site’s clock: of today without the day. */
  protected readonly time = computed(() => {
    const timeZone = this.store.site()?.timeZone ?? 'UTC';
    const clock = new Intl.DateTimeFormat('en-GB', { timeZone, hour: '2-digit', minute: '2-digit', second: '2-digit' });
    const day = new Intl.DateTimeFormat('en-GB', { timeZone, day: 'numeric', month: 'short' });
    return (ms: number): string => {
      const today = day.format(Date.now()) === day.format(ms);
      return today ? clock.format(ms) : `${day.format(ms)} ${clock.format(ms)}`;
    };
  });
  protected readonly changes = computed(() => {
    const names = new Map(this.gateways().map(({ device }) => [device.id, device.name]));
    const titles = new Map(
      this.gateways().flatMap(({ uplinks }) =>
        uplinks.map(({ key, setting, port }) => [key, setting.title ?? port] as const),
      ),
    );
    const title = (deviceId: string, port: string): string => titles.get(`${deviceId}:${port}`) ?? port;
    return (this.paths.view()?.changes ?? []).map((change) => {
      const { deviceId, port, what, uses } = change;
      const leaves =
        uses.length === 0 ? 'nothing is used' : `leaves by ${uses.map((each) => title(deviceId, each)).join(', ')}`;
      return {
        key: `${deviceId} ${change.at} ${port} ${what} ${change.of ?? ''}`,
        at: this.time()(Date.parse(change.at)),
        words: `${names.get(deviceId) ?? '?'}: ${changeWords(change, title(deviceId, port))}${change.of === undefined ? `; ${leaves}` : ''}`,
        tone: LOST.includes(what) ? 'bad' : FOUND.includes(what) ? 'good' : '',
      };
    });
  });

  constructor() {
    let handled = '';
    effect(() => {
      const show = this.show();
      if (!show || !this.store.data() || handled === show) return;
      handled = show;
      this.picked.set(show);
    });
  }

  private keptAt<T extends { readonly id: string; readonly deviceId: string }>(
    kind: string,
    list: readonly T[] = [],
  ): { readonly gateway: GatewayRow; readonly kept: T | null } | null {
    const [picked, id] = (this.picked() ?? '').split(':');
    if (picked !== kind && picked !== `${kind}-new`) return null;
    const kept = picked === kind ? (list.find((each) => each.id === id) ?? null) : null;
    const deviceId = picked === kind ? kept?.deviceId : id;
    const gateway = this.gateways().find(({ device }) => device.id === deviceId);
    return gateway ? { gateway, kept } : null;
  }

  protected look(view: PathsPage['views'][number]): void {
    const as = view === 'Uplinks' ? null : view.toLowerCase();
    void this.router.navigate([], { relativeTo: this.route, queryParams: { as }, queryParamsHandling: 'merge' });
  }

  protected open({ device }: GatewayRow, key: string): void {
    this.picked.set(key === '' ? `${device.id}:` : key);
  }

  protected async make({ device }: GatewayRow, port: string): Promise<void> {
    await this.attempt(async () => {
      const siteId = this.store.siteId()!;
      const from = this.store.site()?.uplinks?.[device.id]?.[port] ?? null;
      await this.store.edit([
        { type: 'uplink.set', siteId, deviceId: device.id, port, from, to: { ...from, on: true } },
      ]);
      this.picked.set(`${device.id}:${port}`);
    });
  }

  protected bringBack({ device }: GatewayRow): Promise<void> {
    return this.attempt(() => this.paths.bringBack(device.id));
  }

  private async attempt(act: () => Promise<void>): Promise<void> {
    this.busy.set(true);
    this.flaw.set('');
    try {
      await act();
    } catch (error) {
      this.flaw.set(error instanceof Error ? error.message : String(error));
    } finally {
      this.busy.set(false);
    }
  }
}
