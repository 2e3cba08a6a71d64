import { Component, computed, inject, input, output } from '@angular/core';
import { sheetFor } from '@iron-lattice/core/hardware';
import { CLIENT_DBM, type Width } from '@iron-lattice/core/radio';
import { channelWords } from '@iron-lattice/core/regulation';
import { measuredLosses, STANDS, widthGains, type WidthGain } from '@iron-lattice/core/wireless';
import { SessionStore } from '../session/session-store';
import type { RadioRow } from '../shell/radio-rows';
import { SiteStore } from '../shell/site-store';
import { counted } from '../ui/counted';
import { AirStore } from './air-store';

/** Signal in dBm at which another AP of ours is waited for. */
const WAITS = -82;
/** Clients that have a column of their own. */
const MOST_CLIENTS = 6;

/** What each width would bring a radio's clients, and whom it would be in the way of. */
@Component({
  selector: 'il-width-gains',
  template: `
    @if (gains().length > 1) {
      <div class="cell full">
        <table class="grid">
          <caption>
            What width brings on channel
            {{
              channel()
            }}, Mb/s
            <span class="soft"
              >One client alone, with what strangers leave; a signal that is 3 dB off moves each by a step or two</span
            >
          </caption>
          <thead>
            <tr>
              <th>Width</th>
              <th>Channels</th>
              @for (stand of stands; track stand.name) {
                <th>{{ stand.name }} ({{ stand.signal }})</th>
              }
              @for (client of clients(); track client.mac) {
                <th class="mono">{{ client.name }} ({{ client.signal }})</th>
              }
              <th>Shares the air with</th>
            </tr>
          </thead>
          <tbody>
            @for (gain of gains(); track gain.width) {
              <tr class="empty" [class.now]="gain.width === now()">
                <td>
                  @if (session.mayChange() && gain.width !== now()) {
                    <button type="button" class="plain" (click)="take.emit(gain.width)">{{ gain.width }} MHz</button>
                  } @else {
                    {{ gain.width }} MHz
                  }
                </td>
                <td class="mono soft">{{ members(gain) }}</td>
                @for (speed of gain.speeds; track $index) {
                  <td [class.good]="better(gain, $index)" [class.caution]="worse(gain, $index)">
                    {{ speed.toFixed(0) }}
                  </td>
                }
                <td class="whom">{{ sharing(gain) }}</td>
              </tr>
            }
          </tbody>
        </table>
      </div>
    } @else if (!heard()) {
      <p class="cell full soft">What a wider channel brings is shown once this AP has listened: scan under Air.</p>
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    caption {
      text-align: left;
      padding-bottom: 4px;
    }
    .whom {
      white-space: normal;
      min-width: 180px;
    }
    .now td {
      font-weight: 600;
    }
    .cell {
      overflow-x: auto;
      min-width: 0;
      max-width: 100vw;
    }
    caption .soft {
      margin-left: 8px;
      white-space: normal;
    }
    @media (max-width: 720px) {
      caption .soft {
        display: block;
        max-width: 90vw;
        margin-left: 0;
      }
    }
  `,
})
export class WidthGains {
  private readonly store = inject(SiteStore);
  private readonly air = inject(AirStore);
  protected readonly session = inject(SessionStore);
  readonly row = input.required<RadioRow>();
  /** A width is to be taken. */
  readonly take = output<Width>();
  protected readonly stands = STANDS;
  protected readonly heard = computed(() =>
    this.air.air()?.heard.find(({ deviceId }) => deviceId === this.row().device.id),
  );
  protected readonly channel = computed(() => this.row().setting.at?.channel ?? this.row().fact?.channel ?? null);
  protected readonly now = computed(
    () => this.row().setting.at?.width ?? (this.row().fact?.width as Width | undefined) ?? this.row().setting.width,
  );
  private readonly power = computed(() => this.row().setting.eirp ?? this.row().fact?.power ?? 20);
  /** Clients that it has, as they would hear it. */
  protected readonly clients = computed(() => {
    const { device, band } = this.row();
    const view = this.store.devices().find(({ id }) => id === device.id);
    return (view?.clients ?? [])
      .flatMap(({ band: of, signal, streams, name, mac }) =>
        of === band && signal !== undefined
          ? [{ mac, name: name ?? mac.slice(-8), signal: this.power() - (CLIENT_DBM - signal), streams: streams ?? 1 }]
          : [],
      )
      .slice(0, MOST_CLIENTS);
  });
  /** APs of ours that it hears, and where they send. */
  private readonly near = computed(() => {
    const [air, { device, band }] = [this.air.air(), this.row()];
    if (!air) return [];
    const views = new Map(this.store.devices().map((view) => [view.id, view]));
    const senders = new Map(
      [...views.values()].flatMap(({ id, radioFacts }) =>
        radioFacts.flatMap(({ sends = [], power = 0 }) =>
          sends.map(({ bssid }) => [bssid, { deviceId: id, power }] as const),
        ),
      ),
    );
    return measuredLosses(air.heard, (bssid) => senders.get(bssid)).flatMap(({ band: of, a, b, loss }) => {
      const other = a === device.id ? b : b === device.id ? a : null;
      const view = of === band && other !== null ? views.get(other) : undefined;
      const fact = view?.radioFacts.find((each) => each.band === band);
      if (fact?.centre === undefined || fact.width === undefined || (fact.power ?? 0) - loss < WAITS) return [];
      return [{ name: view!.name ?? view!.serial, centre: fact.centre, width: fact.width }];
    });
  });
  protected readonly gains = computed((): readonly WidthGain[] => {
    const [site, heard, channel, { device, band }] = [this.store.site(), this.heard(), this.channel(), this.row()];
    const radio = sheetFor(device).radios.find((each) => each.band === band);
    if (!site || !heard || channel === null || !radio) return [];
    const own = new Set(this.air.air()!.ours.map(({ bssid }) => bssid));
    const asked = { country: site.country, band, channel, now: this.now(), most: radio.width as Width };
    return widthGains(
      { ...asked, streams: radio.streams, clients: this.clients(), near: this.near() },
      heard,
      (bssid) => own.has(bssid),
    );
  });
  private readonly base = computed(() => this.gains().find(({ width }) => width === this.now()));

  protected readonly members = ({ members }: WidthGain): string => channelWords(this.row().band, members);

  protected better(gain: WidthGain, i: number): boolean {
    return gain.speeds[i]! > (this.base()?.speeds[i] ?? Infinity) * 1.05;
  }

  protected worse(gain: WidthGain, i: number): boolean {
    return gain.speeds[i]! < (this.base()?.speeds[i] ?? 0) * 0.95;
  }

  protected sharing({ ours, strangers }: WidthGain): string {
    const parts = [...ours, ...(strangers > 0 ? [counted(strangers, 'network') + ' of strangers'] : [])];
    return parts.length === 0 ? 'nobody' : parts.join(', ');
  }
}
