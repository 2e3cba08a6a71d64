import { Component, computed, inject, input, model, output } from '@angular/core';
import { BANDS, sheetFor, type Band } from '@iron-lattice/core/hardware';
import { bandSetting } from '@iron-lattice/core/intent';
import { channelWords } from '@iron-lattice/core/regulation';
import { SessionStore } from '../session/session-store';
import {
  airWords,
  channelSaid,
  isElsewhere,
  ownWords,
  powerSaid,
  radioRows,
  widthSaid,
  type RadioRow,
} from '../shell/radio-rows';
import { SiteStore } from '../shell/site-store';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import { RadioChanges } from './radio-changes';

/** A band of the site in short. */
interface BandLine {
  readonly band: Band;
  readonly words: string;
  readonly own: boolean;
}

/** Radios of a site: what is said of each band, and every radio in a table. */
@Component({
  selector: 'il-radios-view',
  imports: [DataTable],
  template: `
    <div class="view">
      <div class="bands" role="group" aria-label="Said of each band">
        @for (line of bands(); track line.band) {
          <button type="button" [attr.aria-pressed]="band() === line.band" (click)="opened.emit(line.band)">
            <b class="mono">{{ line.band }} GHz</b>
            <span>{{ line.words }}</span>
            @if (line.own) {
              <span class="soft">said here</span>
            }
          </button>
        }
      </div>
      <il-data-table
        label="Radios"
        remember="site-radios"
        [rows]="rows()"
        [columns]="columns()"
        [key]="key"
        [name]="name"
        [pickable]="session.mayChange()"
        [picked]="picked()"
        (pickedChange)="picked.set($event)"
        [shown]="only()"
        (opened)="picked.set(one($event.key))"
      >
        <span empty>No access point here yet. Claim one under Intake: its radios come with it.</span>
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
    .bands {
      display: flex;
      flex-wrap: wrap;
      gap: 6px;
      padding: 2px 14px 8px;
      margin-bottom: 8px;
      border-bottom: 1px solid var(--rule);
      flex: none;
    }
    .bands button {
      display: flex;
      gap: 8px;
      align-items: baseline;
      padding: 4px 10px;
      font: inherit;
      color: inherit;
      background: var(--sheet);
      border: 1px solid var(--strong);
      cursor: pointer;
      text-align: left;
    }
    .bands button[aria-pressed='true'] {
      border-color: var(--iron);
      box-shadow: inset 0 -2px var(--iron);
    }
    il-data-table {
      flex: 1;
      min-height: 0;
    }
    @media (max-width: 720px) {
      .bands {
        flex-direction: column;
        padding: 2px 10px 8px;
      }
      .bands button {
        min-height: 40px;
        align-items: center;
      }
    }
  `,
})
export class RadiosView {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  private readonly changes = inject(RadioChanges);
  /** Chosen radios, `device band`. */
  readonly picked = model.required<ReadonlySet<string>>();
  /** The band whose sheet is open. */
  readonly band = input<Band | null>(null);
  /** In milliseconds since 1970. */
  readonly now = input.required<number>();
  /** The sheet of a band is asked for. */
  readonly opened = output<Band>();
  protected readonly rows = computed(() => {
    const data = this.store.data();
    return data ? radioRows(data.site, data.roster, this.store.devices()) : [];
  });
  protected readonly only = computed(() => (this.picked().size === 1 ? [...this.picked()][0]! : null));
  /** Bands that a radio here is for. */
  protected readonly bands = computed((): BandLine[] => {
    const data = this.store.data();
    if (!data) return [];
    const there = new Set(data.roster.flatMap((device) => sheetFor(device).radios.map(({ band }) => band)));
    return BANDS.filter((band) => there.has(band)).map((band) => {
      const { on, width, channels, radar, most } = bandSetting(data.site, band);
      const words = [
        `${width} MHz`,
        channels === 'legal' ? 'every legal channel' : `channels ${channelWords(band, channels)}`,
        ...(radar ? ['radar channels too'] : []),
        ...(most === null ? [] : [`up to ${most} dBm`]),
      ];
      return { band, words: on ? words.join(', ') : 'off', own: data.site.bands?.[band] !== undefined };
    });
  });
  protected readonly columns = computed((): readonly TableColumn<RadioRow>[] => {
    const [now, changes] = [this.now(), this.changes.byRadio()];
    return [
      { key: 'ap', title: 'AP', text: ({ device }) => device.name, width: 84, mono: true, groups: true, phone: true },
      {
        key: 'band',
        title: 'Band',
        text: ({ band }) => `${band}`,
        order: ({ band }) => Number(band),
        width: 50,
        mono: true,
        groups: true,
        phone: true,
      },
      {
        key: 'channel',
        title: 'Channel',
        text: channelSaid,
        order: ({ setting }) => setting.at?.channel ?? 1000,
        width: 130,
        groups: true,
        phone: true,
        tone: ({ setting }) => (setting.on && setting.eirp === null ? 'bad' : ''),
      },
      {
        key: 'width',
        title: 'MHz',
        text: widthSaid,
        order: (row) => Number(widthSaid(row)),
        width: 48,
        groups: true,
        phone: true,
      },
      { key: 'power', title: 'dBm', text: powerSaid, order: (row) => Number(powerSaid(row)), width: 48 },
      {
        key: 'air',
        title: 'On air',
        text: (row) => airWords(row, now),
        order: ({ fact }) => fact?.channel ?? 1000,
        width: 170,
        tone: (row) => (isElsewhere(row) ? 'caution' : row.fact?.state === 'off' ? 'soft' : ''),
      },
      {
        key: 'clients',
        title: 'Clients',
        text: ({ clients }) => `${clients}`,
        order: ({ clients }) => clients,
        width: 56,
      },
      {
        key: 'busy',
        title: 'Busy',
        text: ({ fact }) => (fact?.busy === undefined ? '' : `${Math.round(fact.busy * 100)} %`),
        order: ({ fact }) => fact?.busy ?? -1,
        width: 56,
        tone: ({ fact }) => ((fact?.busy ?? 0) >= 0.5 ? 'caution' : ''),
      },
      {
        key: 'noise',
        title: 'Noise',
        text: ({ fact }) => (fact?.noise === undefined ? '' : `${fact.noise}`),
        order: ({ fact }) => fact?.noise ?? 0,
        width: 56,
      },
      { key: 'own', title: 'Differs in', text: ownWords, width: 100, groups: true },
      { key: 'changed', title: 'Last changed', text: ({ key }) => changes.get(key) ?? '', width: 150 },
    ];
  });

  protected readonly key = (row: RadioRow): string => row.key;
  protected readonly name = (row: RadioRow): string => `${row.device.name} ${row.band} GHz`;
  protected readonly one = (key: string): ReadonlySet<string> => new Set([key]);
}
