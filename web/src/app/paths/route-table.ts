import { Component, computed, inject, input, signal } from '@angular/core';
import { parseIp } from '@iron-lattice/core/address';
import { segmentStreams } from '@iron-lattice/core/assess';
import { coursesOf, memberAt, overlayAt, resolve } from '@iron-lattice/core/intent';
import { KeptTable } from '@iron-lattice/core/routing';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { TextCell } from '../ui/text-cell';
import { ListHead } from './list-head';
import { fromWords } from './look-up-from';
import type { GatewayRow } from './path-rows';
import { PLAIN_TABLE } from './plain-table';
import { tableLines, tableRows } from './table-rows';

/** Lines that are shown; an address is looked up in all of them. */
const MOST_LINES = 150;

/** The table that a gateway goes by, each line with why it is there and what it beats; an address is looked up in it. */
@Component({
  selector: 'il-route-table',
  imports: [ChoiceCell, ListHead, TextCell],
  template: `
    <il-list-head
      heading="What it goes by"
      hint="The longest prefix decides; of several to one prefix a segment, then a route by its metric, a tunnel, an uplink."
    />
    <div class="look">
      <il-text-cell
        label="Look up an address"
        [for]="'look-up-' + gateway().device.id"
        example="10.20.5.7"
        [mono]="true"
        [value]="asked()"
        (typed)="asked.set($event)"
      />
      <il-choice-cell
        label="From"
        [for]="'look-up-from-' + gateway().device.id"
        [options]="sources()"
        [value]="from()"
        (chosen)="from.set($event)"
      />
      <p role="status">{{ table().answer }} {{ otherwise() }}</p>
    </div>
    <table [attr.aria-label]="'What ' + gateway().device.name + ' goes by'">
      <thead>
        <tr>
          <th>What is for</th>
          <th>Goes</th>
          <th>Because of</th>
          <th>Comes before</th>
        </tr>
      </thead>
      <tbody>
        @for (row of rows(); track row.key) {
          <tr [class.beaten]="!row.counts" [class.found]="row.found">
            <td class="mono">{{ row.prefix }}</td>
            <td>{{ row.leads }}</td>
            <td>{{ row.why }}</td>
            <td class="long">
              @if (!row.counts) {
                never gone by: {{ row.beats }}
              } @else if (row.beats) {
                <span class="before">before </span>{{ row.beats }}
              }
            </td>
          </tr>
        } @empty {
          <tr>
            <td colspan="4">Nothing: it has neither a segment nor an uplink.</td>
          </tr>
        }
      </tbody>
    </table>
    @if (table().rows.length > rows().length) {
      <p class="soft more">and {{ table().rows.length - rows().length }} more lines: look an address up.</p>
    }
  `,
  styles: [
    PLAIN_TABLE,
    `
      :host {
        display: block;
        padding-bottom: 10px;
      }
      .look {
        display: flex;
        align-items: center;
        gap: 14px;
        padding: 0 0 4px;
        --rule: transparent;
      }
      .look p {
        margin: 0;
        flex: 1;
      }
      .more {
        padding: 4px 14px;
        margin: 0;
      }
      .before {
        display: none;
      }
      .beaten td {
        color: var(--soft);
      }
      .found td {
        background: var(--tint);
        font-weight: 600;
      }
      @media (max-width: 720px) {
        .look {
          display: block;
        }
        .look p {
          padding: 0 14px 6px;
        }
        /* A line below the other instead of columns: nothing scrolls sideways. */
        table {
          overflow-x: visible;
        }
        thead {
          display: none;
        }
        .before {
          display: inline;
        }
        tbody,
        tr {
          display: block;
        }
        tr {
          border-top: 1px solid var(--rule);
          padding: 4px 0;
        }
        td,
        td.long {
          display: block;
          min-width: 0;
          border-top: none;
          padding: 0;
        }
        td.long:not(:empty) {
          color: var(--soft);
        }
      }
    `,
  ],
})
export class RouteTable {
  private readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  private readonly kept = new KeptTable();
  readonly gateway = input.required<GatewayRow>();
  /** Whether it has the addresses of the segments. */
  readonly holds = input.required<boolean>();
  protected readonly asked = signal('');
  /** Id of the segment whose packets are looked up; null: anybody’s. */
  protected readonly from = signal<string | null>(null);
  private readonly segments = computed(() => (this.store.site()?.segments ?? []).filter(({ off }) => !off));
  protected readonly sources = computed((): readonly Choice[] => [
    { value: null, label: 'anybody' },
    ...this.segments().map(({ id, name }) => ({ value: id, label: name })),
  ]);
  /** What is otherwise for packets of the segment. */
  protected readonly otherwise = computed(() => {
    const [site, data, asked] = [this.store.site(), this.store.data(), this.asked().trim()];
    const segment = this.segments().find(({ id }) => id === this.from());
    if (!site || !data || !segment || !parseIp(asked)) return '';
    const { device } = this.gateway();
    const streams = segmentStreams(resolve(data.estate, site), data.roster, device, asked);
    return fromWords(
      {
        ...{ segment, courses: coursesOf(site, device.id) },
        streams: streams.find(({ segmentId }) => segmentId === segment.id),
        shares: this.overlay()?.shares ?? [],
      },
      asked,
      this.table().found,
    );
  });
  /** Its tunnels to other sites; null: it has none. */
  private readonly overlay = computed(() => {
    const [site, estate] = [this.store.site(), this.shared.estate()];
    const end = estate && site ? memberAt(estate, site.id)?.deviceId === this.gateway().device.id : false;
    return end ? overlayAt(estate!, site!.id) : null;
  });
  private readonly lines = computed(() => {
    const [site, shared] = [this.store.site(), this.shared.estate()?.routes ?? []];
    return site
      ? tableLines(site, this.gateway(), this.holds(), { overlay: this.overlay(), shared, kept: this.kept })
      : [];
  });
  /** Of a hub’s thousands the first, and what is looked up. */
  protected readonly rows = computed(() => {
    const { rows } = this.table();
    return rows.filter(({ found }, at) => at < MOST_LINES || found);
  });
  protected readonly table = computed(() => tableRows(this.lines(), this.gateway(), this.asked()));
}
