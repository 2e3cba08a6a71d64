import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, linkedSignal, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { sheetFor, type Band } from '@iron-lattice/core/hardware';
import type { SpeedTry } from '@iron-lattice/core/line';
import type { SpeedTest } from '@iron-lattice/core/wireless';
import { firstValueFrom } from 'rxjs';
import { attempt, type Problem } from '../session/problem';
import { SessionStore } from '../session/session-store';
import { liveFetch } from '../shell/live-fetch';
import { SiteStore } from '../shell/site-store';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';

/** Kinds of clients that a probe can pass for. */
const KINDS = [
  { key: 'phone', label: 'phone, 2 × 80 MHz', phy: 'HE', streams: 2, width: 80 },
  { key: 'laptop', label: 'laptop, 2 × 160 MHz', phy: 'HE', streams: 2, width: 160 },
  { key: 'scanner', label: 'scanner, 1 × 20 MHz', phy: 'VHT', streams: 1, width: 20 },
  { key: 'old', label: 'older phone, 1 × 40', phy: 'HT', streams: 1, width: 40 },
] as const;
const PLACES = [
  { metres: 3, label: 'near, 3 m' },
  { metres: 10, label: 'in the middle, 10 m' },
  { metres: 25, label: 'far, 25 m' },
] as const;

/** How many probes try at once. */
const COUNTS = [1, 2, 5] as const;

interface Row extends SpeedTest {
  readonly kind: string;
  readonly place: string;
  /** The SSID it joined; empty: none. */
  readonly ssid: string;
  readonly tuned: string;
  /** Against the test before it of the same radio, place and kind: how many times as fast. */
  readonly change: number | null;
  readonly before: SpeedTest | null;
}

/** Tests of speed: before and after a change, side by side with what was predicted. */
@Component({
  selector: 'il-speed-view',
  imports: [MatButtonModule, ChoiceCell, DataTable],
  template: `
    <div class="view">
      @if (session.mayChange()) {
        <div class="cells ask">
          <il-choice-cell
            label="AP"
            for="speed-ap"
            [options]="apChoices()"
            [value]="deviceId()"
            (chosen)="deviceId.set($event)"
          />
          <il-choice-cell
            label="Radio"
            for="speed-band"
            [options]="bandChoices()"
            [value]="band()"
            (chosen)="band.set($event)"
          />
          <il-choice-cell
            label="Probe stands"
            for="speed-place"
            [options]="places"
            [value]="metres()"
            (chosen)="metres.set($event)"
          />
          <il-choice-cell
            label="Probe is a"
            for="speed-kind"
            [options]="kinds"
            [value]="kind()"
            (chosen)="kind.set($event)"
          />
          <il-choice-cell
            label="Probe joins"
            for="speed-ssid"
            hint="Whose caps it meets"
            [options]="ssidChoices()"
            [value]="ssidId()"
            (chosen)="ssidId.set($event)"
          />
          @if (classChoices().length > 1) {
            <il-choice-cell
              label="As one of the class"
              for="speed-class"
              hint="Whose rate it has"
              [options]="classChoices()"
              [value]="classId()"
              (chosen)="classId.set($event)"
            />
          }
          <il-choice-cell
            label="How many at once"
            for="speed-count"
            [options]="counts"
            [value]="count()"
            (chosen)="count.set($event)"
          />
          <div class="cell">
            <button mat-flat-button type="button" [disabled]="busy() || !deviceId() || !band()" (click)="test()">
              {{ busy() ? 'Testing…' : 'Test' }}
            </button>
          </div>
          @if (problem(); as problem) {
            <p class="cell full flaw" role="alert">{{ problem.message }}</p>
          }
        </div>
      }
      @if (latest(); as row) {
        <p class="latest" role="status">
          <b class="mono">{{ row.name }} {{ row.asked.band }} GHz</b> {{ row.tuned }}:
          <b>{{ speed(row.got.down) }}</b> Mb/s down, {{ speed(row.got.up) }} up, {{ row.got.latency.toFixed(1) }} ms{{
            row.predicted === null ? '' : '; predicted ' + speed(row.predicted)
          }}. Narrowest: {{ narrowest(row) }}.
          @if (row.got.each; as each) {
            Each of {{ each.length }}: {{ eachWords(each) }} down.
          }
          @if (row.before; as before) {
            Before, {{ tunedWords(before) }}: {{ before.got.down.toFixed(0) }} down{{
              before.predicted === null ? '' : ', predicted ' + before.predicted.toFixed(0)
            }}
            (<span [class.good]="(row.change ?? 1) > 1.05" [class.caution]="(row.change ?? 1) < 0.95"
              >×{{ row.change?.toFixed(2) }}</span
            >).
          }
        </p>
      }
      <il-data-table
        label="Tests of speed"
        remember="speed-tests"
        [rows]="rows()"
        [columns]="columns"
        [key]="key"
        [name]="name"
      >
        <span empty>
          No test yet. Test, change a channel or a width, roll out, test again: both stand side by side with what was
          predicted, for as long as the site is kept.
        </span>
      </il-data-table>
    </div>
  `,
  styles: `
    :host {
      display: block;
      height: 100%;
    }
    .view {
      height: 100%;
      display: flex;
      flex-direction: column;
    }
    .ask {
      flex: none;
      border-bottom: 1px solid var(--rule);
    }
    .ask .cell button {
      margin-top: 18px;
    }
    .latest {
      padding: 8px 14px;
      flex: none;
    }
    il-data-table {
      flex: 1;
      min-height: 0;
      padding-top: 6px;
    }
  `,
})
export class SpeedView {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  protected readonly places: readonly Choice[] = PLACES.map(({ metres, label }) => ({ value: metres, label }));
  protected readonly kinds: readonly Choice[] = KINDS.map(({ key, label }) => ({ value: key, label }));
  protected readonly busy = signal(false);
  protected readonly problem = signal<Problem | null>(null);
  private readonly aps = computed(() =>
    (this.store.data()?.roster ?? []).filter((device) => sheetFor(device).kind === 'ap'),
  );
  protected readonly apChoices = computed((): Choice[] =>
    this.aps().map(({ id, name }) => ({ value: id, label: name })),
  );
  protected readonly deviceId = linkedSignal<readonly { readonly id: string }[], string | null>({
    source: this.aps,
    computation: (aps, before) => aps.find(({ id }) => id === before?.value)?.id ?? aps[0]?.id ?? null,
  });
  private readonly bands = computed((): readonly Band[] => {
    const device = this.aps().find(({ id }) => id === this.deviceId());
    return device ? sheetFor(device).radios.map(({ band }) => band) : [];
  });
  protected readonly bandChoices = computed((): Choice[] =>
    this.bands().map((band) => ({ value: band, label: `${band} GHz` })),
  );
  protected readonly band = linkedSignal<readonly Band[], Band | null>({
    source: this.bands,
    computation: (bands, before) =>
      bands.find((each) => each === before?.value) ?? bands.find((each) => each === '5') ?? bands[0] ?? null,
  });
  protected readonly metres = signal<number>(10);
  private readonly sent = computed(() =>
    this.store.ssidsHere().filter(({ off, bands }) => !off && bands.some((each) => each === this.band())),
  );
  protected readonly ssidChoices = computed((): Choice[] => [
    { value: null, label: 'none: no cap is met' },
    ...this.sent().map(({ id, name }) => ({ value: id, label: name })),
  ]);
  protected readonly ssidId = linkedSignal<readonly { readonly id: string }[], string | null>({
    source: this.sent,
    computation: (sent, before) => sent.find(({ id }) => id === before?.value)?.id ?? null,
  });
  /** Classes that the chosen SSID puts clients into. */
  private readonly classes = computed(() =>
    this.sent().find(({ id }) => id === this.ssidId())?.byClass ? this.store.accessClasses() : [],
  );
  protected readonly classChoices = computed((): Choice[] => [
    { value: null, label: 'of none' },
    ...this.classes().map(({ id, name }) => ({ value: id, label: name })),
  ]);
  protected readonly classId = linkedSignal<readonly { readonly id: string }[], string | null>({
    source: this.classes,
    computation: (classes, before) => classes.find(({ id }) => id === before?.value)?.id ?? null,
  });
  protected readonly counts: readonly Choice[] = COUNTS.map((count) => ({
    value: count,
    label: count === 1 ? 'one' : `${count} beside each other`,
  }));
  protected readonly count = signal<number>(1);
  protected readonly kind = signal<(typeof KINDS)[number]['key']>('phone');
  private readonly fetched = liveFetch({
    of: () => this.store.siteId() ?? undefined,
    fetch: (id) => firstValueFrom(this.http.get<SpeedTest[]>(`/api/sites/${id}/speed-tests`)),
    when: (event) => event.type === 'air' && event.what === 'speed' && event.siteId === this.store.siteId(),
  });
  protected readonly rows = computed((): Row[] => {
    const all = this.fetched.value() ?? [];
    return all.map((one, i): Row => {
      const before = all.slice(i + 1).find((other) => sameQuestion(one, other)) ?? null;
      return {
        ...one,
        kind: kindWords(one.asked),
        place: `${one.asked.metres} m`,
        ssid:
          this.store.ssidsHere().find(({ id }) => id === one.asked.ssid)?.name ??
          (one.asked.ssid ? 'one that is gone' : ''),
        tuned: this.tunedWords(one),
        before,
        change: before && before.got.down > 0 ? one.got.down / before.got.down : null,
      };
    });
  });
  /** The latest test of the radio, place and kind that are chosen. */
  protected readonly latest = computed(() =>
    this.rows().find((row) => row.deviceId === this.deviceId() && sameQuestion(row, { ...row, asked: this.asked() })),
  );
  private readonly asked = computed((): SpeedTry => {
    const { phy, streams, width } = KINDS.find(({ key }) => key === this.kind())!;
    const [ssid, classId, count] = [this.ssidId(), this.classId(), this.count()];
    return {
      ...{ band: this.band() ?? '5', metres: this.metres(), phy, streams, width },
      ...(ssid === null ? {} : { ssid }),
      ...(classId === null ? {} : { classId }),
      ...(count > 1 ? { count } : {}),
    };
  });
  protected readonly columns: readonly TableColumn<Row>[] = [
    { key: 'ap', title: 'AP', text: ({ name }) => name, width: 84, mono: true, groups: true, phone: true },
    { key: 'at', title: 'When', text: ({ at }) => whenWords(at), order: ({ at }) => Date.parse(at), width: 100 },
    {
      key: 'revision',
      title: 'Rev.',
      text: ({ revision }) => `${revision}`,
      order: ({ revision }) => revision,
      width: 40,
      groups: true,
    },
    {
      key: 'tuned',
      title: 'Radio',
      text: ({ asked, tuned }) => `${asked.band} GHz: ${tuned}`,
      width: 190,
      groups: true,
    },
    { key: 'place', title: 'Probe', text: ({ place, kind }) => `${place}, ${kind}`, width: 130, groups: true },
    { key: 'ssid', title: 'Joins', text: ({ ssid }) => ssid, width: 110, groups: true, hidden: true },
    {
      key: 'down',
      title: 'Down',
      text: ({ got }) => this.speed(got.down),
      order: ({ got }) => got.down,
      width: 50,
      phone: true,
    },
    {
      key: 'predicted',
      title: 'Predicted',
      text: ({ predicted }) => (predicted === null ? '' : this.speed(predicted)),
      order: ({ predicted }) => predicted ?? -1,
      width: 64,
      phone: true,
    },
    {
      key: 'change',
      title: 'Against before',
      text: ({ change }) => (change === null ? '' : `×${change.toFixed(2)}`),
      order: ({ change }) => change ?? 0,
      width: 88,
      tone: ({ change }) => ((change ?? 1) > 1.05 ? 'good' : (change ?? 1) < 0.95 ? 'caution' : ''),
    },
    { key: 'up', title: 'Up', text: ({ got }) => this.speed(got.up), order: ({ got }) => got.up, width: 46 },
    {
      key: 'latency',
      title: 'ms',
      text: ({ got }) => got.latency.toFixed(1),
      order: ({ got }) => got.latency,
      width: 44,
    },
    { key: 'narrowest', title: 'Narrowest', text: (row) => this.narrowest(row), width: 90, groups: true },
    { key: 'by', title: 'By', text: ({ by }) => by, width: 80, groups: true, hidden: true },
  ];
  protected readonly key = ({ id }: Row): string => id;
  protected readonly name = ({ name, at }: Row): string => `${name} ${at}`;

  /** A speed in Mb/s, in as many digits as say something. */
  protected speed = (mbps: number): string => `${+mbps.toFixed(mbps < 10 ? 1 : 0)}`;

  protected narrowest = ({ got }: SpeedTest): string => (got.cap ? `cap: ${got.cap}` : got.narrowest);

  protected eachWords = (each: NonNullable<SpeedTest['got']['each']>): string =>
    each.map(([down]) => `${+down.toFixed(down < 10 ? 1 : 0)}`).join(', ');

  protected tunedWords({ got }: SpeedTest): string {
    return `${got.channel} · ${got.width} MHz · ${got.power} dBm`;
  }

  protected async test(): Promise<void> {
    const url = `/api/devices/${this.deviceId()}/speed-tests`;
    if (await attempt(this.busy, this.problem, () => firstValueFrom(this.http.post<SpeedTest>(url, this.asked()))))
      await this.fetched.again();
  }
}

const sameQuestion = (a: SpeedTest, b: SpeedTest): boolean =>
  a.deviceId === b.deviceId && JSON.stringify(ordered(a.asked)) === JSON.stringify(ordered(b.asked));
const ordered = ({ band, metres, phy, streams, width, ssid = '', classId = '', count = 1 }: SpeedTry) => [
  ...[band, metres, phy, streams, width],
  ...[ssid, classId, count],
];

function kindWords({ phy, streams, width, count = 1 }: SpeedTry): string {
  const known = KINDS.find((each) => each.phy === phy && each.streams === streams && each.width === width);
  const kind = known ? known.key : `${phy}, ${streams} × ${width} MHz`;
  return count > 1 ? `${count} × ${kind}` : kind;
}

const whenWords = (at: string): string =>
  new Date(at).toLocaleString('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });
