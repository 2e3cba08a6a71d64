import { Component, computed, inject, input, output } from '@angular/core';
import { sheetFor } from '@iron-lattice/core/hardware';
import type { Problem } from '../session/problem';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import type { SsidText } from './ssid-text';

/** Which APs send an SSID: every one that can, or chosen ones of the site in front; over all sites it is told at how many. */
@Component({
  selector: 'il-ssid-senders',
  imports: [Cell, ChoiceCell],
  template: `
    @if (siteId(); as siteId) {
      <il-choice-cell
        label="Sent by"
        for="ssid-senders"
        [options]="hows"
        [value]="chosen() !== null"
        [disabled]="!mayChange()"
        [hint]="elsewhere()"
        (chosen)="choose($event)"
      />
      @if (chosen(); as ids) {
        <il-choice-cell
          label="APs here that send it"
          for="ssid-aps"
          size="wide"
          [several]="true"
          [options]="aps()"
          [value]="ids"
          [disabled]="!mayChange()"
          [flaw]="ids.length === 0 ? 'Choose an AP at least.' : problem()?.of('aps')"
          (chosen)="set($event)"
        />
      }
    } @else if (sites() > 0) {
      <il-cell label="Sent by">
        <div class="value">every AP that can, but for chosen ones at {{ counted(sites(), 'site') }}</div>
      </il-cell>
    }
  `,
  styles: ':host { display: contents; }',
})
export class SsidSenders {
  private readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  readonly text = input.required<SsidText>();
  readonly problem = input.required<Problem | null>();
  readonly mayChange = input.required<boolean>();
  readonly changed = output<Partial<SsidText>>();
  protected readonly counted = counted;
  protected readonly hows: readonly Choice[] = [
    { value: false, label: 'every AP that can' },
    { value: true, label: 'chosen APs' },
  ];
  protected readonly siteId = computed(() => (this.shared.atEstate() ? null : this.store.siteId()));
  /** APs that are chosen at the site in front; null: every one sends it. */
  protected readonly chosen = computed(() => this.text().aps[this.siteId() ?? ''] ?? null);
  protected readonly sites = computed(() => Object.keys(this.text().aps).length);
  protected readonly aps = computed((): Choice[] =>
    (this.store.data()?.roster ?? [])
      .filter((device) => sheetFor(device).kind === 'ap')
      .map(({ id, name }) => ({ value: id, label: name })),
  );
  protected readonly elsewhere = computed(() => {
    const others = Object.keys(this.text().aps).filter((id) => id !== this.siteId()).length;
    return others === 0
      ? 'Of those here; other sites as before'
      : `Chosen ones at ${counted(others, 'other site')} too`;
  });

  protected choose(some: boolean): void {
    const { [this.siteId()!]: _here, ...others } = this.text().aps;
    const all = this.aps().map(({ value }) => value as string);
    this.changed.emit({ aps: some ? { ...others, [this.siteId()!]: all } : others });
  }

  protected set(ids: readonly string[]): void {
    this.changed.emit({ aps: { ...this.text().aps, [this.siteId()!]: ids } });
  }
}
