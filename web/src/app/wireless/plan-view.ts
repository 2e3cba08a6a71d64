import { Component, computed, inject, linkedSignal, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatSelectModule } from '@angular/material/select';
import { BANDS, sheetFor, type Band } from '@iron-lattice/core/hardware';
import type { Operation, RadioEntry } from '@iron-lattice/core/intent';
import type { BandPlan, PlannedRadio, Tuned } from '@iron-lattice/core/wireless';
import { attempt, type Problem } from '../session/problem';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { counted } from '../ui/counted';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import { PlanStore } from './plan-store';

const NONE: ReadonlySet<string> = new Set();
/** Gains above that are good, losses below that are told, in Mb/s. */
const TELLING = 1;

/** A plan of channels, width and powers for the site: worked out, looked at radio by radio, and taken into the draft. */
@Component({
  selector: 'il-plan-view',
  imports: [MatButtonModule, MatSelectModule, DataTable],
  template: `
    <div class="view">
      <div class="bar">
        <mat-form-field>
          <mat-select
            aria-label="Bands"
            [multiple]="true"
            [value]="bands()"
            (selectionChange)="bands.set($event.value)"
          >
            @for (each of there(); track each) {
              <mat-option [value]="each">{{ each }} GHz</mat-option>
            }
          </mat-select>
        </mat-form-field>
        <mat-form-field>
          <mat-select
            aria-label="APs that may be moved"
            placeholder="every AP may move"
            [multiple]="true"
            [value]="aps()"
            (selectionChange)="aps.set($event.value)"
          >
            @for (each of all(); track each.id) {
              <mat-option [value]="each.id">{{ each.name }}</mat-option>
            }
          </mat-select>
        </mat-form-field>
        @if (work.done() !== null) {
          <progress [value]="work.done()" max="1" aria-label="How far the plan is"></progress>
          <button mat-stroked-button type="button" (click)="work.leave()">Leave it</button>
        } @else {
          <button
            [class]="work.plan() ? 'again' : ''"
            mat-stroked-button
            type="button"
            [disabled]="bands().length === 0"
            (click)="plan()"
          >
            {{ work.plan() ? 'Work it out again' : 'Work out a plan' }}
          </button>
        }
        <button mat-button type="button" (click)="again.emit()">Each week…</button>
        <span class="grow"></span>
        @if (work.plan() && session.mayChange()) {
          <button mat-flat-button type="button" [disabled]="busy() || picked().size === 0" (click)="take()">
            Put {{ counted(picked().size, 'change') }} into the draft
          </button>
        }
      </div>
      @if (work.problem() ?? problem(); as problem) {
        <p class="line flaw" role="alert">{{ problem.message }}</p>
      }
      @if (work.plan(); as plan) {
        <div class="summary">
          @for (band of plan.bands; track band.band) {
            <p>
              <b class="mono">{{ band.band }} GHz</b> {{ bandWords(band) }}
              @if (band.unmeasured.length > 0) {
                <span class="caution">What {{ band.unmeasured.join(', ') }} hear is not known: scan with them.</span>
              }
            </p>
          }
          <p>
            {{ counted(changes().length, 'radio') }} would change;
            <span [class.caution]="joins() > 0"
              >{{ counted(joins(), 'client') }} of those chosen have to join again.</span
            >
            Speeds are those of a client in the middle of each AP’s own, in a busy hour.
          </p>
        </div>
        <il-data-table
          label="Plan"
          remember="channel-plan"
          [rows]="rows()"
          [columns]="columns"
          [key]="key"
          [name]="name"
          [pickable]="session.mayChange()"
          [picked]="picked()"
          (pickedChange)="choose($event)"
        >
          <span empty>No radio here sends on these bands.</span>
        </il-data-table>
      } @else if (work.done() === null && !work.problem()) {
        <div class="none">
          <p>
            A plan gives every radio its channel, and all of them a width and powers, by what the APs heard: who hears
            whom, what strangers send, how many clients each has.
          </p>
          <p class="soft">
            It leaves fixed radios where they are, keeps to what the site says of each band, and moves few. Nothing
            changes before you have looked at it and put it into the draft.
          </p>
        </div>
      }
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
    .bar {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 8px;
      padding: 0 14px 8px;
      flex: none;
    }
    mat-form-field {
      width: 190px;
    }
    progress {
      appearance: none;
      width: 130px;
      height: 9px;
      border: 1px solid var(--ink);
      background: none;
    }
    progress::-webkit-progress-bar {
      background: none;
    }
    progress::-webkit-progress-value {
      background: var(--good);
    }
    .summary,
    .line {
      padding: 2px 14px 8px;
      display: grid;
      gap: 2px;
      flex: none;
    }
    .none {
      padding: 16px 14px;
      max-width: 620px;
      display: grid;
      gap: 10px;
    }
    il-data-table {
      flex: 1;
      min-height: 0;
    }
  `,
})
export class PlanView {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  protected readonly work = inject(PlanStore);
  /** A plan that comes again is asked about. */
  readonly again = output<void>();
  protected readonly counted = counted;
  protected readonly busy = signal(false);
  protected readonly problem = signal<Problem | null>(null);
  protected readonly all = computed(() =>
    (this.store.data()?.roster ?? []).filter((device) => sheetFor(device).kind === 'ap'),
  );
  protected readonly there = computed(() => {
    const there = new Set(this.all().flatMap((device) => sheetFor(device).radios.map(({ band }) => band)));
    return BANDS.filter((band) => there.has(band));
  });
  protected readonly bands = linkedSignal<readonly Band[], readonly Band[]>({
    source: this.there,
    computation: (there, before) => (before && before.value.length > 0 ? before.value : there),
  });
  /** Those that may be moved; none named: all. */
  protected readonly aps = signal<readonly string[]>([]);
  protected readonly rows = computed(() => (this.work.plan()?.bands ?? []).flatMap(({ radios }) => radios));
  /** Rows that say something else than now. */
  protected readonly changes = computed(() => this.rows().filter((row) => differs(row)));
  protected readonly picked = linkedSignal<readonly PlannedRadio[], ReadonlySet<string>>({
    source: this.changes,
    computation: (changes) => (changes.length === 0 ? NONE : new Set(changes.map(keyOf))),
  });
  protected readonly joins = computed(() =>
    this.changes()
      .filter((row) => row.moves && this.picked().has(keyOf(row)))
      .reduce((sum, { clients }) => sum + clients, 0),
  );
  protected readonly columns: readonly TableColumn<PlannedRadio>[] = [
    { key: 'ap', title: 'AP', text: ({ name }) => name, width: 84, mono: true, groups: true, phone: true },
    {
      key: 'band',
      title: 'Band',
      text: ({ band }) => band,
      order: ({ band }) => Number(band),
      width: 48,
      mono: true,
      groups: true,
      phone: true,
    },
    { key: 'before', title: 'Now', text: ({ before }) => (before ? tunedWords(before) : 'nowhere'), width: 140 },
    {
      key: 'after',
      title: 'Then',
      text: (row) => (differs(row) ? tunedWords(row.after) : 'stays'),
      width: 140,
      phone: true,
      tone: (row) => (differs(row) ? '' : 'soft'),
    },
    {
      key: 'speedBefore',
      title: 'Mb/s now',
      text: ({ speedBefore }) => speedBefore.toFixed(0),
      order: ({ speedBefore }) => speedBefore,
      width: 64,
    },
    {
      key: 'speedAfter',
      title: 'Mb/s then',
      text: ({ speedAfter }) => speedAfter.toFixed(0),
      order: ({ speedAfter }) => speedAfter,
      width: 66,
      phone: true,
      tone: ({ speedBefore, speedAfter }) =>
        speedAfter > speedBefore + TELLING ? 'good' : speedAfter < speedBefore - TELLING ? 'caution' : '',
    },
    {
      key: 'clients',
      title: 'Clients',
      text: ({ clients, moves }) => (moves && clients > 0 ? `${clients} join again` : `${clients}`),
      order: ({ clients }) => clients,
      width: 90,
    },
    {
      key: 'listens',
      title: 'Listens first',
      text: ({ listens }) => (listens > 0 ? `${listens} s for radar` : ''),
      order: ({ listens }) => listens,
      width: 90,
    },
  ];
  protected readonly key = keyOf;
  protected readonly name = ({ name, band }: PlannedRadio): string => `${name} ${band} GHz`;

  protected plan(): Promise<void> {
    this.problem.set(null);
    return this.work.work(this.bands(), this.aps().length > 0 ? this.aps() : null);
  }

  /** What changes nothing cannot be chosen. */
  protected choose(keys: ReadonlySet<string>): void {
    this.picked.set(
      new Set(
        this.changes()
          .map(keyOf)
          .filter((key) => keys.has(key)),
      ),
    );
  }

  protected bandWords({ width, wayBefore, wayAfter, cost, bound }: BandPlan): string {
    const gap = cost > 1e-9 ? Math.round(((cost - bound) / cost) * 100) : 0;
    const proof =
      gap <= 0
        ? 'no plan costs less'
        : `it costs ${cost.toFixed(2)}, no plan less than ${bound.toFixed(2)}: a gap of ${gap} %`;
    return `${width} MHz; in each other’s way ${wayBefore.toFixed(2)} → ${wayAfter.toFixed(2)}; ${proof}.`;
  }

  /** Puts what is chosen into the draft, as edits like any others. */
  protected async take(): Promise<void> {
    const site = this.store.site();
    if (!site) return;
    const operations = this.changes()
      .filter((row) => this.picked().has(keyOf(row)))
      .map(({ deviceId, band, after }): Operation => {
        const from = site.radios?.[deviceId]?.[band] ?? null;
        const to: RadioEntry = { ...from, channel: after.channel, width: after.width, power: after.power };
        return { type: 'radio.set', siteId: site.id, deviceId, band, from, to };
      });
    if (!(await attempt(this.busy, this.problem, () => this.store.edit(operations)))) return;
    this.store.say(
      `${counted(operations.length, 'radio')} changed in the draft. Look at what it means, then roll it out.`,
    );
    this.work.plan.set(null);
  }
}

const keyOf = ({ deviceId, band }: PlannedRadio): string => `${deviceId} ${band}`;
const tunedWords = ({ channel, width, power }: Tuned): string => `${channel} · ${width} MHz · ${power} dBm`;
const differs = ({ before, after, moves }: PlannedRadio): boolean => moves || before?.power !== after.power;
