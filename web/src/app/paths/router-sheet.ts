import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { RouterTries } from '@iron-lattice/core/assess';
import { sheetFor } from '@iron-lattice/core/hardware';
import {
  isOfOthers,
  MOST_ROUTER_NAME,
  segmentsOfRouter,
  type Operation,
  type SiteRouter,
} from '@iron-lattice/core/intent';
import { firstValueFrom } from 'rxjs';
import { problemOf } from '../session/problem';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { SiteStore } from '../shell/site-store';
import { TrafficTokens } from '../shell/traffic-tokens';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { KeptEdits } from './kept-edits';
import { NEW_ROUTER, routerTextOf, routerTyped, switchesThatRoute, type RouterText } from './router-text';

const FIELDS = ['name', 'deviceId', 'meets', 'at', 'behind', 'lets', 'purpose'];

/** A router beside the gateway: one that there is, whose edits go into the draft as they are made, or one that is to be added. */
@Component({
  selector: 'il-router-sheet',
  imports: [MatButtonModule, Cell, ChoiceCell, Sheet, TextCell],
  template: `
    <il-sheet [heading]="heading()" [note]="note()" [focusFirst]="router() === null" (closed)="closed.emit()">
      @if (router() && session.mayChange()) {
        <button actions mat-button type="button" (click)="remove()">Take away</button>
      }
      @if (router() === null) {
        <button actions mat-flat-button type="button" [disabled]="form.busy()" (click)="add()">Add it</button>
      }
      <div class="cells">
        @let typed = text();
        <il-text-cell
          label="Called"
          for="router-name"
          example="Camera recorder"
          [most]="most"
          [flaw]="problem()?.of('name')"
          [readonly]="!session.mayChange()"
          [value]="typed.name"
          (typed)="form.put({ name: $event })"
          (done)="save()"
        />
        <il-choice-cell
          label="It is"
          for="router-device"
          [flaw]="problem()?.of('deviceId')"
          [disabled]="!session.mayChange()"
          [options]="devices()"
          [value]="typed.deviceId"
          (chosen)="set({ deviceId: $event })"
        />
        <il-choice-cell
          label="Meets the gateway in"
          for="router-meets"
          [disabled]="!session.mayChange()"
          [options]="places()"
          [value]="typed.segmentId"
          (chosen)="set({ segmentId: $event })"
        />
        @if (typed.segmentId !== '') {
          <il-text-cell
            label="At the address"
            for="router-address"
            example="10.20.1.9"
            hint="Its own, which nobody else is given"
            [mono]="true"
            [flaw]="problem()?.of('meets')"
            [readonly]="!session.mayChange()"
            [value]="typed.address"
            (typed)="form.put({ address: $event })"
            (done)="save()"
          />
        } @else if (problem()?.of('meets')) {
          <p class="cell full flaw" role="alert">{{ problem()?.of('meets') }}</p>
        }
        @if (typed.deviceId === '') {
          <il-choice-cell
            label="Plugged in at"
            for="router-at"
            [flaw]="problem()?.of('at')"
            [disabled]="!session.mayChange()"
            [options]="sockets()"
            [value]="typed.atId"
            (chosen)="set({ atId: $event })"
          />
          @if (typed.atId !== '') {
            <il-text-cell
              label="Port"
              for="router-port"
              example="23"
              [mono]="true"
              [readonly]="!session.mayChange()"
              [value]="typed.atPort"
              (typed)="form.put({ atPort: $event })"
              (done)="save()"
            />
          }
          <il-choice-cell
            label="What is for the internet leaves"
            for="router-out"
            [disabled]="!session.mayChange()"
            [options]="ways"
            [value]="typed.ownWayOut"
            (chosen)="set({ ownWayOut: $event })"
          />
          <il-text-cell
            label="Networks behind it"
            for="router-behind"
            example="none; or 10.60.0.0/16"
            [mono]="true"
            [flaw]="problem()?.of('behind')"
            [readonly]="!session.mayChange()"
            [value]="typed.behind"
            (typed)="form.put({ behind: $event })"
            (done)="save()"
          />
        }
        @if (router()) {
          <il-choice-cell
            label="Routes"
            for="router-segments"
            size="wide"
            example="nothing yet"
            [several]="true"
            [hint]="routesHint()"
            [flaw]="routesFlaw()"
            [disabled]="!session.mayChange()"
            [options]="segments()"
            [value]="routed()"
            (chosen)="route($event)"
          />
        }
        @if (typed.deviceId === '') {
          <il-text-cell
            label="Assumed to let pass, a line each; the first that fits decides, and what none fits passes"
            for="router-lets"
            size="full"
            example="deny segment Cameras to segment Crew on tcp 22"
            [rows]="3"
            [mono]="true"
            [flaw]="problem()?.of('lets')"
            [readonly]="!session.mayChange()"
            [value]="typed.lets"
            (typed)="form.put({ lets: $event })"
            (done)="save()"
          />
        }
        @if (router(); as kept) {
          <il-cell [label]="tryLabel(kept)" size="full">
            @if (session.mayChange()) {
              <button mat-stroked-button type="button" [disabled]="trying()" (click)="tryIt(kept)">
                {{ trying() ? 'Trying…' : 'Try what is assumed' }}
              </button>
            }
            <span class="soft sum" role="status">{{ sum() }}</span>
            @if (flaw(); as wrong) {
              <p class="flaw" role="alert">{{ wrong }}</p>
            }
            @if (results(); as found) {
              <ul aria-label="What came of it">
                @for (each of found; track $index) {
                  <li>
                    <b [class]="each.is === 'so' ? 'good' : each.is === 'other' ? 'bad' : 'soft'">{{
                      each.is === 'so' ? 'so' : each.is === 'other' ? 'otherwise' : 'not tried'
                    }}</b>
                    <span>{{ each.words }}</span>
                    <span class="soft">{{ each.is === 'so' ? '' : each.got }}</span>
                  </li>
                }
              </ul>
            }
          </il-cell>
        }
        @if (other(); as wrong) {
          <p class="cell full flaw" role="alert">{{ wrong }}</p>
        }
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    .sum {
      margin-left: 10px;
    }
    ul {
      list-style: none;
      margin: 6px 0 0;
      padding: 0;
    }
    li {
      display: grid;
      grid-template-columns: 74px minmax(0, 1fr) minmax(0, 1fr);
      gap: 10px;
      padding: 3px 0;
      border-top: 1px solid var(--rule);
    }
    .bad {
      color: var(--bad);
    }
    .good {
      color: var(--good);
    }
    @media (max-width: 720px) {
      li {
        grid-template-columns: 74px minmax(0, 1fr);
      }
      li > :last-child {
        grid-column: 2;
      }
    }
  `,
})
export class RouterSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  private readonly tokens = inject(TrafficTokens);
  protected readonly session = inject(SessionStore);
  /** Null: a new one. */
  readonly router = input.required<SiteRouter | null>();
  /** What came of the last tries; null: it was never tried. */
  readonly tries = input.required<RouterTries | null>();
  readonly closed = output<void>();
  readonly added = output<string>();
  /** It was tried. */
  readonly tried = output<void>();
  protected readonly most = MOST_ROUTER_NAME;
  protected readonly trying = signal(false);
  protected readonly flaw = signal('');
  protected readonly routesFlaw = signal('');
  protected readonly ways: readonly Choice[] = [
    { value: false, label: 'through the gateway' },
    { value: true, label: 'by a line of its own' },
  ];
  protected readonly form = new EditForm<SiteRouter, RouterText>({
    kept: () => this.router(),
    idOf: ({ id }) => id,
    textOf: (router) => (router ? routerTextOf(router) : this.fresh()),
  });
  private readonly edits = new KeptEdits<SiteRouter>({
    noun: 'router',
    form: this.form,
    kept: () => this.router(),
    read: () => routerTyped(this.text(), this.tokens.known()),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly other = computed(() => this.form.other(FIELDS));
  protected readonly devices = computed((): Choice[] => [
    { value: '', label: 'a box of others' },
    ...switchesThatRoute(this.store.data()?.roster ?? []),
  ]);
  /** Segments that the gateway routes: there they can meet. */
  protected readonly places = computed((): Choice[] => [
    { value: '', label: 'nowhere' },
    ...(this.store.site()?.segments ?? [])
      .filter(({ routed, off }) => !routed && !off)
      .map(({ id, name }) => ({ value: id, label: name })),
  ]);
  protected readonly sockets = computed((): Choice[] => [
    { value: '', label: 'nobody knows where' },
    ...(this.store.data()?.roster ?? [])
      .filter((device) => sheetFor(device).kind !== 'ap')
      .map(({ id, name }) => ({ value: id, label: name })),
  ]);
  protected readonly routed = computed(() => {
    const [site, router] = [this.store.site(), this.router()];
    return site && router ? segmentsOfRouter(site, router.id).map(({ id }) => id) : [];
  });
  protected readonly segments = computed((): Choice[] =>
    (this.store.site()?.segments ?? [])
      .filter(({ id }) => id !== this.text().segmentId)
      .map(({ id, name }) => ({ value: id, label: name })),
  );
  protected readonly routesHint = computed(() => {
    const device = this.store.data()?.roster.find(({ id }) => id === this.router()?.deviceId);
    const most = device && sheetFor(device).routes;
    const rest = 'The others the gateway routes';
    return most === undefined ? rest : `${counted(most, 'segment')} at most. ${rest}`;
  });
  protected readonly heading = computed(() => this.router()?.name ?? 'Another router');
  protected readonly note = computed(() => {
    const router = this.router();
    if (!router) return 'What routes some segments of this site in place of the gateway: once it is added, say which';
    return isOfOthers(router)
      ? 'All that is said of it is assumed: every answer counts with it'
      : 'It is told so, and does it';
  });
  /** What is otherwise than assumed first. */
  protected readonly results = computed(() => {
    const rank = { other: 0, unknown: 1, so: 2 };
    return this.tries() && [...this.tries()!.results].sort((a, b) => rank[a.is] - rank[b.is]);
  });
  protected readonly sum = computed(() => {
    const found = this.tries();
    if (!found) return 'Not tried yet: devices of ours would ask from the segments that it routes.';
    const of = (is: string): number => found.results.filter((each) => each.is === is).length;
    const when = new Date(found.at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });
    const unknown = of('unknown');
    const rest = unknown > 0 ? `, ${unknown} could not be tried` : '';
    return `${of('so')} of ${found.results.length} as assumed, ${of('other')} otherwise${rest}; ${when}.`;
  });

  /** One that is new is a box of others that meets the gateway where devices live. */
  private fresh(): RouterText {
    return { ...NEW_ROUTER, segmentId: this.store.site()?.managementId ?? '' };
  }

  protected tryLabel(router: SiteRouter): string {
    return isOfOthers(router) ? 'Whether it does what is assumed' : 'Whether it does what it is told';
  }

  protected set(change: Partial<RouterText>): void {
    this.form.put(change);
    void this.save();
  }

  protected save = (): Promise<void> => this.edits.save();

  protected async add(): Promise<void> {
    const id = await this.edits.add({});
    if (id !== null) this.added.emit(id);
  }

  protected async remove(): Promise<void> {
    if (await this.edits.remove()) this.closed.emit();
  }

  /** Other segments are routed here, or no more. */
  protected async route(ids: readonly string[]): Promise<void> {
    const [site, router] = [this.store.site(), this.router()];
    if (!site || !router) return;
    this.routesFlaw.set('');
    const operations = site.segments.flatMap(({ id, routed = null }): Operation[] => {
      const wanted = ids.includes(id) ? router.id : routed === router.id ? null : routed;
      if (wanted === routed) return [];
      return [{ type: 'segment.set', siteId: site.id, segmentId: id, from: { routed }, to: { routed: wanted } }];
    });
    if (operations.length === 0) return;
    try {
      await this.store.edit(operations);
    } catch (error) {
      this.routesFlaw.set(problemOf(error).message);
    }
  }

  protected async tryIt({ id }: SiteRouter): Promise<void> {
    this.trying.set(true);
    this.flaw.set('');
    try {
      await firstValueFrom(this.http.post<RouterTries>(`/api/sites/${this.store.siteId()}/routers/${id}/tries`, {}));
      this.tried.emit();
    } catch (error) {
      this.flaw.set(problemOf(error).message);
    } finally {
      this.trying.set(false);
    }
  }
}
