import { HttpClient } from '@angular/common/http';
import { Component, DestroyRef, computed, effect, inject, input, signal, untracked } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { mateOf, rehearsedGateway, segmentStreams, type PathFacts } from '@iron-lattice/core/assess';
import { LONGEST_DRILL, MOST_MISHAPS as MOST_PLAYED } from '@iron-lattice/core/line';
import { portOfOther, type DrillForecast, type DrillView, type Mishap } from '@iron-lattice/core/paths';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { attempt, type Problem } from '../session/problem';
import { AskedWorker } from '../shell/asked-worker';
import { liveFetch } from '../shell/live-fetch';
import { SiteStore } from '../shell/site-store';
import { TrafficTokens } from '../shell/traffic-tokens';
import { anewFor } from '../ui/anew-for';
import type { Choice } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import { FailuresTable } from './failures-table';
import { KeptRehearsals } from './kept-rehearsals';
import { atEach, mishapPlaces, mishapTextsOf, newMishap, readMishap, type MishapText } from './mishap-text';
import { MishapsForm } from './mishaps-form';
import { titleOf, type GatewayRow } from './path-rows';
import { answerTo, endOf, type RehearsalAnswer, type RehearsalQuestion } from './rehearsal-question';
import { drillWords, sumWords } from './rehearsal-words';
import { SegmentsTable } from './segments-table';
import { TimelineDrawing } from './timeline-drawing';
import { secondsWords } from './watch-curve';

const MOST_MISHAPS = 8;

/** What becomes of a site when its uplinks fail: every single failure, and a timeline of one’s own that can be kept, and really played. */
@Component({
  selector: 'il-rehearsal-view',
  imports: [MatButtonModule, FailuresTable, KeptRehearsals, MishapsForm, SegmentsTable, TimelineDrawing],
  template: `
    <section>
      <h3>When any one uplink fails{{ rehearsed().pair ? ', or ' + gateway().device.name + ' itself' : '' }}</h3>
      <il-failures-table [failures]="answer()?.failures ?? []" [titles]="titles()" />
    </section>
    <section>
      <h3>A rehearsal of {{ gateway().device.name }}, as the draft has it</h3>
      <il-mishaps-form [mishaps]="mishaps()" [flaws]="flaws()" [ports]="ports()" (changed)="change($event)" />
      <p class="does">
        @if (mishaps().length < most) {
          <button mat-stroked-button type="button" [disabled]="ports().length === 0" (click)="add()">
            Add a mishap
          </button>
        }
        @if (session.mayChange() && read().length > 0 && !asking()) {
          <button mat-flat-button type="button" [disabled]="busy()" (click)="ask()">Play it live …</button>
        }
      </p>
      @if (asking()) {
        <p class="ask" role="alert">
          {{ askWords() }}
          <button mat-flat-button type="button" [disabled]="busy()" (click)="play()">
            Play it at {{ gateway().device.name }}
          </button>
          <button mat-button type="button" (click)="asking.set(null)">Not now</button>
        </p>
      }
      @if (problem(); as wrong) {
        <p class="flaw" role="alert">{{ wrong.message }}</p>
      }
      @if (made(); as made) {
        <p class="sum">{{ sum() }}</p>
        <il-timeline-drawing [ports]="lanes()" [titles]="titles()" [made]="made.mean" [mishaps]="read()" />
        <il-segments-table [streams]="streams()" [made]="made" [titles]="titles()" />
      } @else {
        <p class="soft sum">
          Say what happens to which uplink and when: what becomes of it is drawn here, second by second.
        </p>
      }
    </section>
    <il-kept-rehearsals [deviceId]="gateway().device.id" [mishaps]="read()" [time]="time()" (chosen)="look($event)" />
    @for (drill of drills(); track drill.id) {
      <section>
        <h3>Played {{ time()(atOf(drill)) }} by {{ drill.by }}</h3>
        <p class="sum">{{ wordsOf(drill) }}</p>
        <il-timeline-drawing
          [ports]="lanes()"
          [titles]="titles()"
          [made]="drill.predicted"
          [mishaps]="drill.mishaps"
          [real]="{ changes: drill.changes, at: atOf(drill), now: now() }"
        />
      </section>
    }
  `,
  styles: `
    :host {
      display: block;
      height: 100%;
      overflow: auto;
      border-top: 1px solid var(--ink);
    }
    section {
      border-bottom: 1px solid var(--ink);
      padding-bottom: 10px;
    }
    h3 {
      font-size: 13px;
      font-weight: 600;
      line-height: 18px;
      margin: 10px 14px 6px;
    }
    .does,
    .sum,
    .ask,
    .flaw {
      margin: 8px 14px;
      display: flex;
      gap: 10px;
      align-items: center;
      flex-wrap: wrap;
    }
    .ask {
      padding: 8px 10px;
      border: 1px solid var(--caution);
    }
  `,
})
export class RehearsalView {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  private readonly tokens = inject(TrafficTokens);
  protected readonly session = inject(SessionStore);
  readonly gateway = input.required<GatewayRow>();
  /** All gateways of the site. */
  readonly mates = input.required<readonly GatewayRow[]>();
  readonly time = input.required<(ms: number) => string>();
  /** In milliseconds since 1970. */
  readonly now = input.required<number>();
  protected readonly most = MOST_MISHAPS;
  /** What playing it would come to, once somebody is about to. */
  protected readonly asking = signal<DrillForecast | null>(null);
  protected readonly busy = signal(false);
  protected readonly problem = signal<Problem | null>(null);
  private readonly worker = new AskedWorker<RehearsalQuestion, RehearsalAnswer>(
    () => new Worker(new URL('./rehearsal.worker.ts', import.meta.url), { type: 'module' }),
    answerTo,
  );
  private readonly played = liveFetch({
    of: () => this.store.siteId() ?? undefined,
    fetch: (id) => firstValueFrom(this.http.get<DrillView[]>(`/api/sites/${id}/drills`)),
    when: (event) => event.type === 'paths' && event.siteId === this.store.siteId(),
  });
  protected readonly drills = computed(() =>
    (this.played.value() ?? []).filter(({ deviceId }) => deviceId === this.gateway().device.id).slice(0, 3),
  );
  protected readonly rehearsed = computed(
    () => {
      const { device, fact } = this.gateway();
      const data = this.store.data();
      const factOf = (id: string): PathFacts | null => this.mates().find((each) => each.device.id === id)?.fact ?? null;
      const mate = data ? mateOf(data.site, data.roster, device, factOf) : null;
      return rehearsedGateway(data?.site ?? {}, device, fact, mate);
    },
    { equal: (a, b) => JSON.stringify(a) === JSON.stringify(b) },
  );
  protected readonly lanes = computed(() =>
    this.gateway().uplinks.map((row) => ({ port: row.port, title: titleOf(row) })),
  );
  /** Names of uplinks by their ports, and of courses by their ids. */
  protected readonly titles = computed(
    () =>
      new Map([
        ...this.lanes().map(({ port, title }) => [port, title] as const),
        ...this.gateway().courses.map(({ id, name }) => [id, name] as const),
        ...this.mates().flatMap(({ device, uplinks }) => [
          [device.id, device.name] as const,
          ...uplinks.map((row) => [portOfOther(device.id, row.port), `${titleOf(row)} of ${device.name}`] as const),
        ]),
      ]),
  );
  private readonly places = computed(() => mishapPlaces(this.lanes()));
  protected readonly ports = computed((): Choice[] => this.places().map(({ value, label }) => ({ value, label })));
  protected readonly mishaps = anewFor<readonly MishapText[]>(
    () => this.gateway().device.id,
    () => {
      const { uplinks } = untracked(this.gateway);
      const first = uplinks.find(({ fact }) => fact?.used) ?? uplinks[0];
      return first ? [newMishap(first.port)] : [];
    },
  );
  private readonly checked = computed(() =>
    this.mishaps().map((text) => readMishap(text, this.gateway().device.id, LONGEST_DRILL)),
  );
  protected readonly flaws = computed(() => {
    const flaws = this.checked().map((each) => ('flaw' in each ? each.flaw : ''));
    const many = `${MOST_PLAYED} at most, each uplink counted.`;
    return this.read().length > MOST_PLAYED ? flaws.with(-1, flaws.at(-1) || many) : flaws;
  });
  protected readonly read = computed((): Mishap[] =>
    this.checked().flatMap((each) => ('mishap' in each ? atEach(each.mishap, this.places()) : [])),
  );
  /** What becomes of it; the last stays until the next is there. */
  protected readonly answer = signal<RehearsalAnswer | null>(null);
  protected readonly made = computed(() => (this.read().length > 0 ? (this.answer()?.made ?? null) : null));
  /** How the segments of the site leave by the gateway, as the draft has them. */
  protected readonly streams = computed(() => {
    const [data, site] = [this.store.data(), this.tokens.resolved()];
    return data && site ? segmentStreams(site, data.roster, this.gateway().device) : [];
  });
  protected readonly sum = computed(() => {
    const made = this.made();
    return made ? sumWords(made.mean, made.worst, this.titles()) : '';
  });
  protected readonly askWords = computed(() => {
    const asked = this.asking();
    if (!asked) return '';
    const clients = this.store.devices().reduce((sum, { clients: there }) => sum + there.length, 0);
    const { name } = this.gateway().device;
    const live = sumWords(asked.mean, asked.worst, this.titles());
    const isOff = this.read().some(({ what }) => what === 'off');
    const off =
      isOff && !this.rehearsed().pair
        ? ' While it has no power nobody behind it gets anywhere, not even inside.'
        : isOff
          ? ' The other of its pair takes over; what was begun outside begins anew.'
          : '';
    return `This is real: within the next ${secondsWords(endOf(this.read()))} ${name} does without what is said above, as it runs now, and ends that by itself. ${counted(clients, 'client')} of this site ${clients === 1 ? 'is' : 'are'} on the air.${off} ${live}`;
  });

  constructor() {
    effect((onCleanup) => {
      const question = { gateway: this.rehearsed(), mishaps: this.read() };
      let current = true;
      onCleanup(() => (current = false));
      this.worker.ask(question, (answer) => {
        if (current) this.answer.set(answer);
      });
    });
    inject(DestroyRef).onDestroy(() => this.worker.stop());
  }

  protected atOf = ({ at }: DrillView): number => Date.parse(at);
  protected wordsOf = (drill: DrillView): string => drillWords(drill, this.titles(), this.now());

  protected change(mishaps: readonly MishapText[]): void {
    this.asking.set(null);
    this.mishaps.set(mishaps);
  }

  protected look(mishaps: readonly Mishap[]): void {
    this.change(mishapTextsOf(mishaps, this.places()));
  }

  protected add(): void {
    const port = this.lanes()[0]?.port;
    if (port !== undefined) this.change([...this.mishaps(), newMishap(port)]);
  }

  protected async ask(): Promise<void> {
    const { id } = this.gateway().device;
    await attempt(this.busy, this.problem, async () => {
      const body = { mishaps: this.asked() };
      this.asking.set(await firstValueFrom(this.http.post<DrillForecast>(`/api/devices/${id}/drill-forecasts`, body)));
    });
  }

  protected async play(): Promise<void> {
    const { id } = this.gateway().device;
    const mishaps = this.asked();
    const done = await attempt(this.busy, this.problem, async () => {
      await firstValueFrom(this.http.post(`/api/devices/${id}/drills`, { mishaps }));
      await this.played.again();
    });
    if (done) this.asking.set(null);
  }

  private asked = () => this.read().map(({ gatewayId: _of, ...mishap }) => mishap);
}
