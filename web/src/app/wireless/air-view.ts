import { Component, computed, inject, linkedSignal, model, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatSelectModule } from '@angular/material/select';
import { BANDS, sheetFor, type Band } from '@iron-lattice/core/hardware';
import { bandChannels, bandSetting, radioSetting, type RadioEntry } from '@iron-lattice/core/intent';
import {
  BAND_SPANS,
  blockCosts,
  busiest,
  cheapest,
  type AirNetwork,
  type BlockCost,
} from '@iron-lattice/core/wireless';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { counted } from '../ui/counted';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import { asJson, saveFile } from '../ui/export-rows';
import { AirStore } from './air-store';
import { HearingView } from './hearing-view';
import { Spectrum } from './spectrum';

const SIDES = ['Spectrum', 'Networks', 'Who hears whom'] as const;

/** The air of a site: over its frequencies, as a list, and between its APs. */
@Component({
  selector: 'il-air-view',
  imports: [MatButtonModule, MatSelectModule, DataTable, HearingView, Spectrum],
  template: `
    <div class="view">
      @for (each of air.lookalikes(); track each.bssid) {
        <p class="alarm" role="alert">
          <b>“{{ each.ssid }}”</b> is sent by a radio that is not ours, <span class="mono">{{ each.bssid }}</span> on
          channel {{ each.channel }}: heard by {{ hearers(each) }}. Whoever joins it gives it their passphrase, or
          trusts it. Look for it where it is loudest.
        </p>
      }
      <div class="bar">
        <div class="choices" role="group" aria-label="Side of the air">
          @for (each of sides; track each) {
            <button type="button" [attr.aria-pressed]="side() === each" (click)="side.set(each)">{{ each }}</button>
          }
        </div>
        <div class="choices" role="group" aria-label="Band">
          @for (each of bands(); track each) {
            <button type="button" [attr.aria-pressed]="band() === each" (click)="bandAsked.set(each)">
              {{ each }} GHz
            </button>
          }
        </div>
        @if (side() !== 'Who hears whom') {
          <mat-form-field>
            <mat-select
              aria-label="As heard by"
              [value]="deviceId() ?? ''"
              (selectionChange)="deviceId.set($event.value || null)"
            >
              <mat-option value="">all APs</mat-option>
              @for (each of aps(); track each.id) {
                <mat-option [value]="each.id">{{ each.name }}</mat-option>
              }
            </mat-select>
          </mat-form-field>
        }
        <span class="soft">{{ age() }}</span>
        <span class="grow"></span>
        @if (side() === 'Spectrum' && best(); as best) {
          @if (session.mayChange() && !isNow(best)) {
            <button mat-stroked-button class="mend" type="button" (click)="take(best)">
              Take {{ best.channel }} at {{ best.width }} MHz: {{ speed(best) }} Mb/s
            </button>
          }
        }
        @if (side() !== 'Who hears whom' && networks().length > 0) {
          <button mat-button type="button" (click)="saveJson()">JSON</button>
        }
      </div>
      @if (heard().length === 0) {
        <div class="none">
          <p>Nobody has listened to the air here yet.</p>
          <p class="soft">
            A scan has each AP leave its clients for some seconds and listen to every channel: networks, how busy each
            channel is, and who hears whom. What it does to clients is said before it begins.
          </p>
          @if (session.mayChange()) {
            <button mat-flat-button type="button" (click)="scan.emit()">Scan…</button>
          }
        </div>
      } @else {
        @switch (side()) {
          @case ('Spectrum') {
            <il-spectrum
              [networks]="inBand()"
              [channels]="channels()"
              [blocks]="costs()"
              [now]="now()"
              [best]="best()"
              [span]="span()"
              [chosen]="chosen()"
              [height]="330"
              (choose)="chosen.set($event.bssid)"
              (take)="take($event)"
            />
            <p class="hint soft">{{ hint() }}</p>
            @if (problem()) {
              <p class="hint flaw" role="alert">{{ problem() }}</p>
            }
          }
          @case ('Networks') {
            <il-data-table
              label="Networks"
              remember="air-networks"
              [rows]="networks()"
              [columns]="columns"
              [key]="key"
              [name]="name"
              [shown]="chosen()"
              (opened)="chosen.set($event.bssid)"
            >
              <span empty>No network was heard.</span>
            </il-data-table>
          }
          @case ('Who hears whom') {
            <il-hearing-view [band]="band()" />
          }
        }
      }
    </div>
  `,
  styles: `
    :host {
      display: block;
      height: 100%;
      overflow: auto;
    }
    .view {
      min-height: 100%;
      display: flex;
      flex-direction: column;
    }
    .bar {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 8px;
      padding: 0 14px 6px;
      flex: none;
    }
    mat-form-field {
      width: 130px;
    }
    .alarm {
      margin: 0 14px 8px;
      padding: 6px 10px;
      border: 1px solid var(--bad);
      border-left-width: 4px;
      flex: none;
    }
    .none {
      padding: 24px 14px;
      max-width: 560px;
      display: grid;
      gap: 10px;
      justify-items: start;
    }
    .hint {
      padding: 6px 14px;
    }
    il-data-table,
    il-hearing-view {
      flex: 1;
      min-height: 260px;
    }
  `,
})
export class AirView {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  protected readonly air = inject(AirStore);
  /** The AP whose hearing is shown; null: all. */
  readonly deviceId = model<string | null>(null);
  /** A scan is asked for. */
  readonly scan = output<void>();
  protected readonly sides = SIDES;
  protected readonly side = signal<(typeof SIDES)[number]>('Spectrum');
  protected readonly chosen = signal<string | null>(null);
  protected readonly problem = signal('');
  protected readonly heard = computed(() => this.air.air()?.heard ?? []);
  protected readonly aps = computed(() =>
    (this.store.data()?.roster ?? []).filter((device) => sheetFor(device).kind === 'ap'),
  );
  protected readonly bands = computed(() => {
    const there = new Set(this.aps().flatMap((device) => sheetFor(device).radios.map(({ band }) => band)));
    return BANDS.filter((band) => there.has(band));
  });
  protected readonly bandAsked = signal<Band>('5');
  protected readonly band = computed(() =>
    this.bands().includes(this.bandAsked()) ? this.bandAsked() : (this.bands()[0] ?? '5'),
  );
  protected readonly span = computed(() => BAND_SPANS[this.band()]);
  private readonly only = computed(() => {
    const id = this.deviceId();
    return id === null ? undefined : new Set([id]);
  });
  protected readonly networks = computed(() => {
    const only = this.only();
    return only ? this.air.networksOf(only) : this.air.networks();
  });
  protected readonly inBand = computed(() => this.networks().filter(({ band }) => band === this.band()));
  protected readonly channels = computed(() => busiest(this.heard(), this.band(), this.only()));
  private readonly device = computed(() => this.aps().find(({ id }) => id === this.deviceId()));
  private readonly setting = computed(() => {
    const [data, device, band] = [this.store.data(), this.device(), this.band()];
    const has = device && sheetFor(device).radios.some((radio) => radio.band === band);
    return data && device && has ? radioSetting(data.site, device, band) : null;
  });
  /** Where the radio is said to send, or does while it chooses by itself. */
  protected readonly now = computed(() => {
    const [setting, device] = [this.setting(), this.device()];
    if (setting?.at) return { centre: setting.at.block.centre, width: setting.at.width };
    const fact = this.store
      .devices()
      .find(({ id }) => id === device?.id)
      ?.radioFacts.find(({ band }) => band === this.band());
    return fact?.centre !== undefined && fact.width !== undefined ? { centre: fact.centre, width: fact.width } : null;
  });
  /** What each channel would cost the chosen AP. */
  protected readonly costs = computed((): readonly BlockCost[] => {
    const [site, device, band, air] = [this.store.site(), this.device(), this.band(), this.air.air()];
    const mine = air?.heard.find(({ deviceId }) => deviceId === device?.id);
    const radio = device && sheetFor(device).radios.find((each) => each.band === band);
    if (!site || !mine || !radio) return [];
    const policy = bandSetting(site, band);
    const channels = new Set(bandChannels(site.country, band, policy).map(({ centre }) => centre));
    const own = new Set(air!.ours.map(({ bssid }) => bssid));
    const limits = {
      country: site.country,
      band,
      most: radio.width as BlockCost['width'],
      streams: radio.streams,
      channels,
    };
    return blockCosts(mine, { ...limits, radar: policy.radar, widest: policy.width }, (bssid) => own.has(bssid));
  });
  protected readonly best = linkedSignal(() => cheapest(this.costs()));
  protected readonly age = computed(() => {
    const times = this.heard()
      .filter(({ deviceId }) => this.only()?.has(deviceId) ?? true)
      .map(({ at }) => Date.parse(at));
    if (times.length === 0) return '';
    const of = this.only() ? '' : `, ${counted(times.length, 'AP')}`;
    return `heard ${ago(Math.min(...times))}${of}`;
  });
  protected readonly hint = computed(() => {
    if (!this.device()) return 'Choose an AP to see what each channel would cost it, and to take one.';
    if (this.costs().length === 0) return 'This AP has not listened yet: scan with it.';
    return 'Each box is a channel: 20 MHz on top, wider below. Shaded: the share that strangers take there. Iron: where it sends; green: what brings the most; dotted: not among those that the site says. A press puts it into the draft.';
  });

  protected readonly columns: readonly TableColumn<AirNetwork>[] = [
    {
      key: 'ssid',
      title: 'Name',
      text: ({ ssid }) => (ssid === '' ? '(says none)' : ssid),
      width: 130,
      phone: true,
      tone: ({ lookalike }) => (lookalike ? 'bad' : ''),
    },
    {
      key: 'whose',
      title: 'Whose',
      text: ({ sentBy, lookalike }) => sentBy ?? (lookalike ? 'a stranger with a name of ours' : 'a stranger'),
      width: 110,
      groups: true,
    },
    {
      key: 'signal',
      title: 'dBm',
      text: ({ signal: heard }) => `${heard}`,
      order: ({ signal: heard }) => heard,
      width: 46,
      phone: true,
    },
    {
      key: 'loudest',
      title: 'Loudest at',
      text: ({ heardBy }) => heardBy[0]!.name,
      width: 84,
      mono: true,
      groups: true,
      phone: true,
    },
    {
      key: 'band',
      title: 'Band',
      text: ({ band }) => band,
      order: ({ band }) => Number(band),
      width: 46,
      groups: true,
    },
    {
      key: 'channel',
      title: 'Channel',
      text: ({ channel }) => `${channel}`,
      order: ({ channel }) => channel,
      width: 58,
      groups: true,
      phone: true,
    },
    { key: 'width', title: 'MHz', text: ({ width }) => `${width}`, order: ({ width }) => width, width: 46 },
    { key: 'security', title: 'Security', text: ({ security }) => security, width: 90, groups: true },
    {
      key: 'heard',
      title: 'Heard by',
      text: ({ heardBy }) => heardBy.map(({ name, signal: at }) => `${name} ${at}`).join(', '),
      width: 170,
    },
    { key: 'bssid', title: 'BSSID', text: ({ bssid }) => bssid, width: 130, mono: true },
  ];
  protected readonly key = ({ bssid }: AirNetwork): string => bssid;
  protected readonly name = ({ ssid, bssid }: AirNetwork): string => ssid || bssid;
  protected readonly hearers = ({ heardBy }: AirNetwork): string =>
    heardBy.map(({ name, signal: at }) => `${name} (${at} dBm)`).join(', ');
  protected readonly speed = ({ speed }: BlockCost): number => Math.round(speed);

  protected isNow({ block, width }: BlockCost): boolean {
    const [at, now] = [this.setting()?.at, this.now()];
    return at !== null && at !== undefined && now?.centre === block.centre && now.width === width;
  }

  /** Puts a channel and its width into the draft. */
  protected async take({ channel, width }: BlockCost): Promise<void> {
    const [site, device, band] = [this.store.site(), this.device(), this.band()];
    if (!site || !device || !this.session.mayChange()) return;
    const from = site.radios?.[device.id]?.[band] ?? null;
    const to: RadioEntry = { ...from, channel, width };
    this.problem.set('');
    try {
      await this.store.edit([{ type: 'radio.set', siteId: site.id, deviceId: device.id, band, from, to }]);
      this.store.say(`${device.name}: ${channel} at ${width} MHz is in the draft.`);
    } catch (error) {
      this.problem.set(error instanceof Error ? error.message : String(error));
    }
  }

  protected saveJson(): void {
    const code = this.store.site()?.code ?? 'site';
    saveFile(`${code}-air.json`, asJson({ format: 'iron-lattice.air/1', heard: this.heard() }));
  }
}

function ago(at: number): string {
  const minutes = Math.round((Date.now() - at) / 60_000);
  if (minutes < 1) return 'just now';
  if (minutes < 120) return `${minutes} min ago`;
  const hours = Math.round(minutes / 60);
  return hours < 48 ? `${hours} h ago` : `${Math.round(hours / 24)} days ago`;
}
