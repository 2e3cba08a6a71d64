import { Component, computed, inject, input, linkedSignal, output } from '@angular/core';
import { plainMac } from '@iron-lattice/core/wireless';
import { SiteStore } from '../shell/site-store';
import { TextCell } from '../ui/text-cell';

/** A cell that says whose MAC address a pretend client takes: one that a class lists, by name, or any; only where somebody would know it. */
@Component({
  selector: 'il-known-as',
  imports: [TextCell],
  template: `
    @if (matters()) {
      <il-text-cell
        label="Known as"
        example="nobody we know"
        [for]="for()"
        [hint]="hint()"
        [flaw]="flaw()"
        [offers]="labels()"
        [value]="written()"
        (typed)="type($event)"
      />
    }
  `,
  styles: ':host { display: contents; }',
})
export class KnownAs {
  private readonly store = inject(SiteStore);
  readonly for = input.required<string>();
  /** Empty: one that nobody knows. */
  readonly mac = input.required<string>();
  readonly chosen = output<string>();

  private readonly members = computed(() =>
    this.store
      .accessClasses()
      .flatMap((each) => each.members.map(({ mac, name }) => ({ mac, label: `${name || mac}, of ${each.name}` }))),
  );
  protected readonly labels = computed(() => this.members().map(({ label }) => label));
  protected readonly matters = computed(
    () =>
      this.members().length > 0 || this.store.radiusServers().some(({ macs }) => macs !== null) || this.mac() !== '',
  );
  /** What was typed, and is nobody yet; it stays while it is edited. */
  private readonly half = linkedSignal<string, string>({
    source: this.mac,
    computation: (mac, before) => (mac === '' ? (before?.value ?? '') : ''),
  });
  protected readonly written = computed(
    () => this.half() || (this.members().find(({ mac }) => mac === this.mac())?.label ?? this.mac()),
  );
  protected readonly flaw = computed(() =>
    this.half().trim().length >= 12 ? 'No MAC address, and nobody whom a class lists.' : '',
  );
  protected readonly hint = computed(() =>
    this.flaw() === '' ? 'A MAC address, or who has one in a class; empty: one that nobody knows' : '',
  );

  protected type(text: string): void {
    const wanted = text.trim();
    const mac = this.members().find(({ label }) => label === wanted)?.mac ?? plainMac(wanted);
    this.half.set(mac === null ? text : '');
    this.chosen.emit(mac ?? '');
  }
}
