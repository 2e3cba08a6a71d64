import { Component, computed, inject, input, output } from '@angular/core';
import { SiteStore } from '../shell/site-store';
import { ChoiceCell } from '../ui/choice-cell';
import { ProbesStore } from './probes-store';

/** Where a kept probe on the air is. */
export interface Start {
  readonly ssidId: string;
  readonly apId: string;
  /** Empty: one that nobody knows. */
  readonly mac: string;
}

/** A cell in which a kept probe is chosen to start from: those that sit on an SSID which is here, near an AP which is. */
@Component({
  selector: 'il-start-from',
  imports: [ChoiceCell],
  template: `
    @if (options().length > 1) {
      <il-choice-cell
        label="Start from"
        for="probe-kept"
        [options]="options()"
        [value]="start()"
        (chosen)="choose($event)"
      />
    }
  `,
  styles: ':host { display: contents; }',
})
export class StartFrom {
  private readonly store = inject(SiteStore);
  private readonly probes = inject(ProbesStore);
  /** What is chosen now. */
  readonly ssidId = input.required<string | undefined>();
  readonly apId = input.required<string | undefined>();
  readonly mac = input.required<string>();
  readonly chosen = output<Start>();

  private readonly kept = computed(() =>
    this.probes.probes().flatMap(({ id, name, seat }) => {
      const ssid = this.store.ssids().find((each) => each.name === seat.ssid);
      const ap = this.store.devices().find((each) => each.kind === 'ap' && each.id === seat.deviceId);
      return ssid && ap ? [{ id, name, ssidId: ssid.id, apId: ap.id, mac: seat.mac ?? '' }] : [];
    }),
  );
  protected readonly options = computed(() => [
    { value: '', label: 'what is chosen here' },
    ...this.kept().map(({ id, name }) => ({ value: id, label: name })),
  ]);
  /** The kept probe that is what is chosen here, if one is. */
  protected readonly start = computed(
    () =>
      this.kept().find((each) => each.ssidId === this.ssidId() && each.apId === this.apId() && each.mac === this.mac())
        ?.id ?? '',
  );

  protected choose(id: string): void {
    const found = this.kept().find((each) => each.id === id);
    if (found) this.chosen.emit(found);
  }
}
