import { Component, computed, effect, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { BANDS, sheetFor, type Band } from '@iron-lattice/core/hardware';
import type { ScanForecast, ScanStep } from '@iron-lattice/core/wireless';
import { attempt, problemOf, type Problem } from '../session/problem';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { anewFor } from '../ui/anew-for';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import { ProgressCount } from '../ui/progress-count';
import { Sheet } from '../ui/sheet';
import { AirStore } from './air-store';

const STATE_WORDS: Readonly<Record<ScanStep['state'], string>> = {
  waits: 'waits',
  scans: 'listens',
  done: 'done',
  failed: 'failed',
  left: 'was not asked',
};

/** A scan of the air: what it will do to clients, said beforehand; then how it goes. */
@Component({
  selector: 'il-scan-sheet',
  imports: [MatButtonModule, Cell, ChoiceCell, ProgressCount, Sheet],
  template: `
    <il-sheet heading="Scan of the air" [note]="note()" (closed)="closed.emit()">
      <ng-container ngProjectAs="[actions]">
        @if (running()) {
          @if (session.mayChange()) {
            <button mat-stroked-button type="button" [disabled]="busy()" (click)="stop()">Stop it</button>
          }
        } @else if (session.mayChange()) {
          <button
            mat-flat-button
            type="button"
            [disabled]="busy() || !forecast() || forecast()!.aps.length === 0"
            (click)="begin()"
          >
            Scan with {{ counted(forecast()?.aps?.length ?? 0, 'AP') }}
          </button>
        }
      </ng-container>
      <div class="cells">
        @if (running()) {
          <il-cell label="Listening" size="wide">
            <div class="value"><il-progress-count [done]="over()" [of]="steps().length" what="APs" /></div>
          </il-cell>
        } @else {
          <il-choice-cell
            label="APs"
            for="scan-aps"
            size="wide"
            [several]="true"
            [options]="aps()"
            [value]="wanted()"
            (chosen)="wanted.set($event)"
            example="all of the site"
          />
          <il-choice-cell
            label="Bands"
            for="scan-bands"
            [several]="true"
            [options]="bands()"
            [value]="chosen()"
            (chosen)="chosen.set($event)"
          />
          <il-cell label="Clients that drop" [hint]="awayHint()">
            <div class="value" [class.caution]="(forecast()?.clients ?? 0) > 0">{{ forecast()?.clients ?? '…' }}</div>
          </il-cell>
          <il-cell label="It takes" hint="APs that serve the same place take turns">
            <div class="value">{{ forecast() ? forecast()!.seconds + ' s' : '…' }}</div>
          </il-cell>
          @for (each of forecast()?.cannot ?? []; track each.name) {
            <p class="cell full caution">{{ each.reason }}</p>
          }
        }
        @if (steps().length > 0) {
          <il-cell [label]="running() ? 'AP by AP' : 'The last scan'" size="full">
            <ul>
              @for (step of steps(); track step.deviceId) {
                <li>
                  <b class="mono">{{ step.name }}</b>
                  <span [class.bad]="step.state === 'failed'" [class.good]="step.state === 'done'">{{
                    words(step)
                  }}</span>
                  @if (step.reason) {
                    <span class="soft">{{ step.reason }}</span>
                  }
                </li>
              }
            </ul>
          </il-cell>
        }
        @if (problem(); as problem) {
          <p class="cell full flaw" role="alert">{{ problem.message }}</p>
        }
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    ul {
      margin: 0;
      padding: 0;
      list-style: none;
      columns: 2;
    }
    li {
      display: flex;
      gap: 10px;
      break-inside: avoid;
    }
    @media (max-width: 720px) {
      ul {
        columns: 1;
      }
    }
  `,
})
export class ScanSheet {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  private readonly air = inject(AirStore);
  /** The AP that was in front, if one was. */
  readonly deviceId = input<string | null>(null);
  readonly closed = output<void>();
  protected readonly counted = counted;
  protected readonly busy = signal(false);
  protected readonly wanted = anewFor<readonly string[]>(
    () => this.deviceId() ?? '',
    () => (this.deviceId() === null ? [] : [this.deviceId()!]),
  );
  protected readonly chosen = signal<readonly Band[]>(BANDS);
  protected readonly forecast = signal<ScanForecast | null>(null);
  protected readonly problem = signal<Problem | null>(null);
  protected readonly running = computed(() => this.air.run()?.running ?? false);
  protected readonly steps = computed(() => this.air.run()?.steps ?? []);
  protected readonly over = computed(() =>
    this.steps().reduce(
      (sum, { state, done }) => sum + (state === 'scans' ? Math.min(0.95, done) : state === 'waits' ? 0 : 1),
      0,
    ),
  );
  protected readonly note = computed(() => {
    const run = this.air.run();
    if (run?.running) return `begun by ${run.by}; what was heard is kept if it is stopped`;
    return 'An AP that listens leaves its clients alone meanwhile: they join again after it';
  });
  protected readonly aps = computed((): Choice[] =>
    (this.store.data()?.roster ?? [])
      .filter((device) => sheetFor(device).kind === 'ap')
      .map(({ id, name }) => ({ value: id, label: name })),
  );
  protected readonly bands = computed((): Choice[] => BANDS.map((band) => ({ value: band, label: `${band} GHz` })));
  protected readonly awayHint = computed(() => {
    const seconds = this.forecast()?.awaySeconds;
    return seconds === undefined ? '' : `Each is away ${seconds} s at the most`;
  });
  private readonly asked = computed(() => ({
    deviceIds: this.wanted().length > 0 ? this.wanted() : null,
    bands: this.chosen(),
  }));

  constructor() {
    effect(() => {
      const asked = this.asked();
      // What a client is on changes as they come and go.
      this.store.devices();
      if (this.running()) return;
      if (asked.bands.length === 0) return this.forecast.set(null);
      void this.air.forecast(asked).then(
        (forecast) => {
          if (asked === this.asked()) this.forecast.set(forecast);
        },
        (error: unknown) => this.problem.set(problemOf(error)),
      );
    });
  }

  protected words({ state, done }: ScanStep): string {
    return state === 'scans' ? `listens, ${Math.round(done * 100)} %` : STATE_WORDS[state];
  }

  protected begin(): Promise<boolean> {
    return attempt(this.busy, this.problem, () => this.air.scan(this.asked()));
  }

  protected stop(): Promise<boolean> {
    return attempt(this.busy, this.problem, () => this.air.stop());
  }
}
