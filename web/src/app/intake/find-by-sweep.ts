import { DecimalPipe } from '@angular/common';
import { Component, computed, effect, inject, input, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import type { SweepFound, SweepView } from '@iron-lattice/core/intake';
import { SessionStore } from '../session/session-store';
import { attempt, type Problem } from '../session/problem';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { IntakeApi } from './intake-api';
import { TextCell } from '../ui/text-cell';
import { ChoiceCell } from '../ui/choice-cell';
import { ProgressCount } from '../ui/progress-count';
import { liveFetch, type LiveFetch } from '../shell/live-fetch';

const KNOWN: Readonly<Record<SweepFound['known'], string>> = {
  ours: 'ours already',
  calling: 'calls',
  expected: 'expected',
  new: 'waits',
};

/** Looks at every address of a prefix for devices that do not know their controller, and has them call. */
@Component({
  selector: 'il-find-by-sweep',
  imports: [ProgressCount, DecimalPipe, FormsModule, MatButtonModule, Cell, TextCell, ChoiceCell],
  template: `
    <form class="cells" (ngSubmit)="start()">
      <il-text-cell
        label="Prefix"
        for="sweep-prefix"
        [flaw]="problem()?.of('prefix')"
        hint="Up to /18: 16,384 addresses"
        [mono]="true"
        [value]="prefix()"
        (typed)="prefix.set($event)"
      />
      <il-choice-cell label="Swept by" for="sweep-by" [options]="sweepers()" [value]="by()" (chosen)="by.set($event)" />
      <il-cell label="Finds boxes that wait to be told where their controller is">
        @if (running()) {
          <button mat-stroked-button type="button" (click)="stop()">Stop</button>
        } @else {
          <button mat-flat-button type="submit" [disabled]="busy()">Sweep</button>
        }
      </il-cell>
      @if (problem(); as refused) {
        @if (refused.flaws.length === 0) {
          <div class="cell full">
            <p class="flaw" role="alert">{{ refused.message }}</p>
          </div>
        }
      }
    </form>
    @if (sweep(); as now) {
      <div class="head" role="status">
        <il-progress-count [done]="now.done" [of]="now.of" what="addresses" />
        <span>
          <span class="mono">{{ now.prefix }}</span> by {{ now.by ?? 'this controller' }}: {{ now.done | number }} of
          {{ now.of | number }} addresses in {{ now.ms / 1000 | number: '1.1-1' }} s, {{ now.found.length }} found{{
            now.state === 'stopped' ? '; stopped' : ''
          }}.
        </span>
        @if (now.reason) {
          <span class="bad">{{ now.reason }}</span>
        }
      </div>
      @if (now.found.length > 0) {
        <table class="grid">
          <thead>
            <tr>
              <th>Address</th>
              <th>Serial</th>
              <th>Model</th>
              <th class="second">MAC</th>
              <th class="second">Firmware</th>
              <th>Is</th>
              <th><span class="visually-hidden">Do</span></th>
            </tr>
          </thead>
          <tbody>
            @for (each of now.found; track each.serial) {
              <tr>
                <td class="mono">{{ each.address }}</td>
                <td class="mono">{{ each.serial }}</td>
                <td>{{ each.model }}</td>
                <td class="mono second">{{ each.mac }}</td>
                <td class="mono second">{{ each.firmware }}</td>
                <td [class.info]="each.known !== 'ours'">{{ known[each.known] }}</td>
                <td>
                  @if ((each.known === 'new' || each.known === 'expected') && session.mayChange()) {
                    <button mat-button (click)="invite(now, each)">Have it call</button>
                  }
                </td>
              </tr>
            }
          </tbody>
        </table>
        @if (waiting(now).length > 1 && session.mayChange()) {
          <p class="all">
            <button mat-stroked-button (click)="inviteAll(now)">Have all {{ waiting(now).length }} call</button>
          </p>
        }
      }
    }
  `,
  styles: `
    .head {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 12px;
      align-items: center;
      padding: 7px 14px;
    }
    tr {
      cursor: default !important;
    }
    .all {
      padding: 8px 14px;
    }
    @media (max-width: 720px) {
      .second {
        display: none;
      }
    }
  `,
})
export class FindBySweep {
  private readonly api = inject(IntakeApi);
  private readonly site = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly siteId = input.required<string | null>();
  protected readonly known = KNOWN;

  protected readonly sweepers = computed(() => [
    ...this.gateways().map(({ id, name }) => ({ value: id, label: `${name}, in its own network` })),
    { value: '', label: 'this controller' },
  ]);
  private readonly gateways = computed(() =>
    this.siteId() === null
      ? []
      : this.site.devices().filter((device) => device.kind === 'gateway' && device.state !== 'silent'),
  );
  protected readonly prefix = signal('');
  protected readonly by = signal('');
  protected readonly problem = signal<Problem | null>(null);
  protected readonly busy = signal(false);
  /** Id of the sweep that somebody began here; null: the last one is shown again, so that leaving the sheet loses nothing. */
  private readonly sweepId = signal<string | null>(null);
  private readonly followed: LiveFetch<SweepView | null> = liveFetch({
    of: () => ({ siteId: this.siteId(), sweepId: this.sweepId() }),
    fetch: async ({ siteId, sweepId }) =>
      sweepId === null ? ((await this.api.sweeps(siteId))[0] ?? null) : this.api.sweep(sweepId),
    when: (event) => (event.type === 'sweep' && event.sweepId === this.sweep()?.id) || event.type === 'device',
    stays: true,
  });
  protected readonly sweep = this.followed.value;
  protected readonly running = computed(() => this.sweep()?.state === 'running');

  constructor() {
    effect(() => {
      const gateway = this.gateways()[0];
      if (this.prefix() !== '') return;
      const site = this.site.site();
      const management = site?.segments.find((segment) => segment.id === site.managementId);
      if (management && this.siteId() !== null) {
        this.prefix.set(management.subnet);
        this.by.set(gateway?.id ?? '');
      }
    });
  }

  protected waiting = (sweep: SweepView): SweepFound[] =>
    sweep.found.filter((each) => each.known === 'new' || each.known === 'expected');

  protected async start(): Promise<void> {
    await attempt(this.busy, this.problem, async () => {
      this.show(await this.api.startSweep(this.prefix(), this.by() || null, this.siteId()));
    });
  }

  protected stop(): Promise<boolean> {
    return this.site.attempt(async () => this.show(await this.api.stopSweep(this.sweep()!.id)));
  }

  protected invite(sweep: SweepView, { address }: SweepFound): Promise<boolean> {
    return this.site.attempt(() => this.api.invite(sweep.id, address));
  }

  protected async inviteAll(sweep: SweepView): Promise<void> {
    for (const each of this.waiting(sweep)) await this.invite(sweep, each);
  }

  private show(sweep: SweepView): void {
    this.sweepId.set(sweep.id);
    this.followed.put(sweep);
  }
}
