import { Component, computed, inject, input, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { shapeOf, type LeavingEntry } from '@iron-lattice/core/intent';
import { BUSY_SECONDS, MOST_BUSY, type BusyShare } from '@iron-lattice/core/line';
import { attempt, type Problem } from '../session/problem';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { TrafficTokens } from '../shell/traffic-tokens';
import { Turns } from '../shell/turns';
import { counted } from '../ui/counted';
import { numberTyped } from '../ui/number-typed';
import { octetsWords } from '../ui/octets-words';
import { busyTable } from './busy-rows';
import { ListHead } from './list-head';
import { titleOf, type GatewayRow } from './path-rows';
import { PathsStore } from './paths-store';

/** What each segment gets of a gateway’s uplinks while all of them are busy. */
@Component({
  selector: 'il-busy-parts',
  imports: [ListHead, MatButtonModule],
  template: `
    <il-list-head heading="While all are busy" [hint]="hint()">
      @if (session.mayChange() && table().uplinks.length > 0) {
        <button mat-stroked-button type="button" [disabled]="busy() || asking()" (click)="asking.set(true)">
          {{ busy() ? 'Measuring…' : 'Measure it live…' }}
        </button>
      }
    </il-list-head>
    @if (asking()) {
      <p class="asking" role="alert">
        {{ askWords() }}
        <button mat-flat-button type="button" (click)="measure()">Measure at {{ gateway().device.name }}</button>
        <button mat-button type="button" (click)="asking.set(false)">Leave it</button>
      </p>
    }
    @if (table().uplinks.length > 0) {
      <table [attr.aria-label]="'While all are busy behind ' + gateway().device.name">
        <thead>
          <tr>
            <th scope="col">Segment</th>
            <th scope="col" class="num">Weight</th>
            @for (uplink of table().uplinks; track uplink.port) {
              <th scope="col" class="num">{{ uplink.title }}, down / up</th>
            }
          </tr>
        </thead>
        <tbody>
          @for (row of table().rows; track row.segmentId) {
            <tr>
              <th scope="row">{{ row.name }}</th>
              <td class="num">
                <input
                  class="mono"
                  inputmode="decimal"
                  [attr.aria-label]="'Weight of ' + row.name"
                  [readonly]="!session.mayChange()"
                  [value]="row.weight"
                  (change)="weigh(row.segmentId, $any($event.target).value)"
                />
              </td>
              @for (cell of row.cells; track $index) {
                <td class="num mono">
                  {{ cell.gets || '–' }}
                  @if (cell.capped) {
                    <span class="soft">its own cap</span>
                  }
                  @if (cell.measured) {
                    <span class="measured">measured {{ cell.measured }}</span>
                  }
                </td>
              }
            </tr>
          }
        </tbody>
      </table>
    }
    @if (problem(); as wrong) {
      <p class="flaw" role="alert">{{ wrong.of('parts') || wrong.message }}</p>
    }
  `,
  styles: `
    table {
      width: calc(100% - 28px);
      margin: 0 14px 10px;
      border-collapse: collapse;
    }
    th,
    td {
      text-align: left;
      font-weight: inherit;
      padding: 4px 10px 4px 0;
      border-top: 1px solid var(--rule);
      line-height: 17px;
    }
    thead th {
      color: var(--soft);
      font-size: 12px;
    }
    .num {
      text-align: right;
      padding: 4px 0 4px 10px;
    }
    td .soft,
    .measured {
      display: block;
      font-size: 12px;
    }
    .measured {
      color: var(--good);
    }
    input {
      width: 52px;
      padding: 2px 4px;
      text-align: right;
      font-size: 13px;
      color: inherit;
      background: none;
      border: 1px solid var(--rule);
    }
    .asking {
      margin: 0 14px 8px;
      padding: 8px 10px;
      border: 1px solid var(--caution);
    }
    .asking button {
      margin: 6px 8px 0 0;
    }
    .flaw {
      margin: 0 14px 10px;
    }
  `,
})
export class BusyParts {
  private readonly store = inject(SiteStore);
  private readonly tokens = inject(TrafficTokens);
  private readonly paths = inject(PathsStore);
  protected readonly session = inject(SessionStore);
  private readonly turns = new Turns();
  readonly gateway = input.required<GatewayRow>();
  protected readonly busy = signal(false);
  /** Whether somebody is about to measure. */
  protected readonly asking = signal(false);
  protected readonly problem = signal<Problem | null>(null);
  /** What was measured, by port. */
  private readonly measured = signal<ReadonlyMap<string, readonly BusyShare[]>>(new Map());
  protected readonly table = computed(() => {
    const [site, data] = [this.tokens.resolved(), this.store.data()];
    if (!site || !data) return { uplinks: [], rows: [] };
    return busyTable(site, data.roster, this.gateway(), this.measured());
  });
  protected readonly hint = computed(() =>
    this.table().uplinks.length > 0
      ? 'By weight, and never more than its own cap; what one leaves over, others have.'
      : 'No uplink is kept below what it can do, so whoever sends most gets most. Say at an uplink how far below it is kept.',
  );

  /** What measuring does to whoever is behind it, and takes of what is paid for. */
  protected readonly askWords = computed(() => {
    const { device, uplinks } = this.gateway();
    const kept = uplinks.filter(({ port }) => this.table().uplinks.some((each) => each.port === port));
    const each = kept.map((row) => {
      const shape = shapeOf(row.setting)!;
      return `${titleOf(row)}, some ${octetsWords(((shape.down + shape.up) * 1000 * BUSY_SECONDS) / 8)}`;
    });
    const clients = this.store.devices().reduce((sum, { clients: there }) => sum + there.length, 0);
    return `This is real: ${device.name}, as it runs now, fills each for ${BUSY_SECONDS} s: ${each.join('; ')}. Whoever is behind it gets little meanwhile; ${counted(clients, 'client')} of this site ${clients === 1 ? 'is' : 'are'} on the air.`;
  });

  /** Puts another weight of a segment into the draft. */
  protected weigh(segmentId: string, typed: string): Promise<unknown> {
    return this.turns.take(() =>
      attempt(null, this.problem, async () => {
        const [siteId, { device, leaving }] = [this.store.siteId()!, this.gateway()];
        const weight = numberTyped(typed) ?? -1;
        const { [segmentId]: _old, ...others } = leaving.parts;
        const parts = weight === 1 ? others : { ...others, [segmentId]: weight };
        const from: LeavingEntry | null = this.store.site()?.leaving?.[device.id] ?? null;
        await this.store.edit([{ type: 'uplink.leaving', siteId, deviceId: device.id, from, to: { ...from, parts } }]);
      }),
    );
  }

  /** Has the gateway let all of them send as much as they can, uplink by uplink. */
  protected async measure(): Promise<void> {
    this.asking.set(false);
    await attempt(this.busy, this.problem, async () => {
      for (const { port, vlans } of this.table().uplinks) {
        const shares = await this.paths.measureBusy(this.gateway().device.id, port, vlans.slice(0, MOST_BUSY));
        this.measured.update((known) => new Map([...known, [port, shares]]));
      }
    });
  }
}
