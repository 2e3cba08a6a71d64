import { Component, computed, inject, input, output } from '@angular/core';
import type { MulticastWay } from '@iron-lattice/core/document';
import { BANDS } from '@iron-lattice/core/hardware';
import { bandSetting, type Ssid } from '@iron-lattice/core/intent';
import { shareToAll, shareToEach } from '@iron-lattice/core/radio';
import type { Problem } from '../session/problem';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import type { SsidText } from './ssid-text';

const HINTS: Readonly<Record<MulticastWay | 'asItComes', string>> = {
  asItComes: 'Each is sent once at the slowest rate of the band, for all to hear',
  each: 'Each client is sent its own copy at its own rate, and answers it',
  none: 'APs answer who has which address; casting, printers that announce themselves and multicast video do not work',
};

/** What is done with multicast and broadcast of an SSID, and what each way takes of the air where the most of it comes. */
@Component({
  selector: 'il-ssid-to-all',
  imports: [ChoiceCell],
  template: `
    <il-choice-cell
      label="Multicast and broadcast"
      for="ssid-multicast"
      size="wide"
      [options]="choices"
      [value]="text().multicast"
      [disabled]="!mayChange()"
      [hint]="hint()"
      [flaw]="problem()?.of('multicast')"
      (chosen)="changed.emit({ multicast: $event })"
    >
      @for (line of lines(); track line.band) {
        <div class="value">
          <b class="mono">{{ line.band }} GHz</b> {{ line.all }} as it comes, {{ line.each }} a copy each
          <span class="soft">at {{ line.ap }}, {{ line.frames }} a second, {{ line.clients }}</span>
        </div>
      }
    </il-choice-cell>
  `,
  styles: ':host { display: contents; }',
})
export class SsidToAll {
  private readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  readonly ssid = input.required<Ssid | null>();
  readonly text = input.required<SsidText>();
  readonly problem = input.required<Problem | null>();
  readonly mayChange = input.required<boolean>();
  readonly changed = output<Partial<SsidText>>();
  protected readonly choices: readonly Choice[] = [
    { value: null, label: 'sent as it comes' },
    { value: 'each', label: 'a copy for each client' },
    { value: 'none', label: 'kept off the air' },
  ];
  protected readonly hint = computed(() => HINTS[this.text().multicast ?? 'asItComes']);
  /** By band the AP at which the most of it comes, as APs report it. */
  protected readonly lines = computed(() => {
    const [name, site] = [this.ssid()?.name, this.store.site()];
    if (name === undefined || !site || this.shared.atEstate()) return [];
    return BANDS.flatMap((band) => {
      const { slowest } = bandSetting(site, band);
      const found = this.store.devices().flatMap(({ name: ap, radioFacts, clients }) => {
        const sends = radioFacts.find((each) => each.band === band)?.sends ?? [];
        const toAll = sends.find(({ ssid }) => ssid === name)?.toAll;
        if (!toAll) return [];
        const rates = clients.flatMap((each) =>
          each.ssid === name && each.band === band ? [each.rate ?? slowest] : [],
        );
        return [{ ap, toAll, rates, all: shareToAll(toAll, slowest, band), each: shareToEach(toAll, rates, band) }];
      });
      if (found.length === 0) return [];
      const most = found.reduce((a, b) => (Math.max(b.all, b.each) > Math.max(a.all, a.each) ? b : a));
      return [
        {
          ...{ band, ap: most.ap, all: percent(most.all), each: percent(most.each) },
          frames: Math.round(most.toAll.perSecond),
          clients: most.rates.length === 1 ? '1 client' : `${most.rates.length} clients`,
        },
      ];
    });
  });
}

const percent = (share: number): string => `${(share * 100).toFixed(1)} %`;
