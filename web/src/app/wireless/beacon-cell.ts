import { Component, computed, inject, input } from '@angular/core';
import { beaconLoads, heaviest, MUCH_BEACON, sendingOf, TOO_MUCH_BEACON } from '@iron-lattice/core/assess';
import type { Band } from '@iron-lattice/core/hardware';
import { bandSetting } from '@iron-lattice/core/intent';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { counted } from '../ui/counted';
import { AirStore } from './air-store';

/** An SSID as far as its beacons go. */
interface Sent {
  readonly name: string;
  readonly bands: readonly Band[];
  readonly hidden?: boolean | null;
  /** The APs that send it, by site. */
  readonly aps?: Readonly<Record<string, readonly string[]>> | null;
}

/** What beacons take of the air at the site in front, without an SSID and with it as it is typed. */
@Component({
  selector: 'il-beacon-cell',
  imports: [Cell],
  template: `
    @if (lines().length > 0) {
      <il-cell label="Beacons, share of the air" size="wide" [hint]="hint()">
        @for (line of lines(); track line.band) {
          <div class="value">
            <b class="mono">{{ line.band }} GHz</b> {{ line.before }} →
            <span [class]="line.tone">{{ line.after }}</span> {{ line.where }}
          </div>
        }
      </il-cell>
    }
  `,
  styles: ':host { display: contents; }',
})
export class BeaconCell {
  private readonly store = inject(SiteStore);
  private readonly air = inject(AirStore, { optional: true });
  /** Id of the SSID that is edited; null: a new one. */
  readonly of = input.required<string | null>();
  readonly sent = input.required<Sent>();
  private readonly losses = computed(() => this.air?.losses() ?? []);
  protected readonly lines = computed(() => {
    const data = this.store.data();
    if (!data) return [];
    const others = this.store.ssidsHere().filter(({ id, off }) => id !== this.of() && !off);
    const near = this.losses();
    const here = (ssid: Sent) => {
      const senders = ssid.aps?.[data.site.id];
      return { ...ssid, ...(senders ? { senders } : {}) };
    };
    const loads = (ssids: readonly Sent[]) =>
      new Map(
        heaviest(beaconLoads(data.site, data.roster, sendingOf(ssids.map(here)), near)).map(
          (load) => [load.band, load] as const,
        ),
      );
    const [before, after] = [loads(others), loads([...others, this.sent()])];
    const names = new Map(data.roster.map(({ id, name }) => [id, name]));
    return this.sent().bands.flatMap((band) => {
      const [was, is] = [before.get(band), after.get(band)];
      if (!is) return [];
      const { aps } = is;
      const around =
        aps > 1
          ? `around ${names.get(is.deviceId)}, where ${counted(aps, 'AP')} share channel ${is.channel}`
          : near.length > 0
            ? 'at each AP'
            : 'of each AP by itself';
      const { slowest } = bandSetting(data.site, band);
      const tone = is.share >= TOO_MUCH_BEACON ? 'bad' : is.share >= MUCH_BEACON ? 'caution' : '';
      return [
        {
          ...{ band, tone, before: percent(was?.share ?? 0), after: percent(is.share) },
          where: `${around}, at ${slowest} Mb/s`,
        },
      ];
    });
  });
  protected readonly hint = computed(() => {
    if (this.losses().length === 0)
      return 'Without it, and with it. Those of others on a channel count as well once the air was scanned';
    const worst = this.lines().some(({ tone }) => tone !== '');
    return worst
      ? 'Without it, and with it. Fewer SSIDs, or a faster slowest rate (Radios, the band) leave more to data'
      : 'Without it, and with it: each is sent ten times a second, whether anybody is there or not';
  });
}

const percent = (share: number): string => `${(share * 100).toFixed(1)} %`;
