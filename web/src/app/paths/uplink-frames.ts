import { Component, computed, inject, input, output } from '@angular/core';
import { SIX_WAYS, usualMtu } from '@iron-lattice/core/intent';
import type { Problem } from '../session/problem';
import { SessionStore } from '../session/session-store';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { TextCell } from '../ui/text-cell';
import { sixWords, type UplinkRow } from './path-rows';
import type { UplinkText } from './uplink-text';

/** What the frames and packets of an uplink are like: IPv6, VLAN, size, MAC address, name servers. Cells of its sheet. */
@Component({
  selector: 'il-uplink-frames',
  imports: [ChoiceCell, TextCell],
  template: `
    <il-choice-cell
      label="IPv6"
      for="uplink-six"
      [disabled]="!session.mayChange()"
      [options]="sixes"
      [value]="text().six"
      [hint]="given()"
      (chosen)="choose({ six: $event })"
    />
    @if (text().six === 'static') {
      <il-text-cell
        label="IPv6 address with its length"
        for="uplink-address6"
        example="2001:db8:7::2/64"
        [mono]="true"
        [flaw]="problem()?.of('fixed6')"
        [readonly]="!session.mayChange()"
        [value]="text().address6"
        (typed)="typed.emit({ address6: $event })"
        (done)="done.emit()"
      />
      <il-text-cell
        label="IPv6 gateway"
        for="uplink-gateway6"
        example="fe80::1"
        [mono]="true"
        [hint]="waitsFor()"
        [readonly]="!session.mayChange()"
        [value]="text().gateway6"
        (typed)="typed.emit({ gateway6: $event })"
        (done)="done.emit()"
      />
    }
    <il-text-cell
      label="VLAN ID of its frames"
      for="uplink-vlan"
      [mono]="true"
      example="untagged"
      [flaw]="problem()?.of('vlan')"
      [readonly]="!session.mayChange()"
      [value]="text().vlan"
      (typed)="typed.emit({ vlan: $event })"
      (done)="done.emit()"
    />
    <il-text-cell
      label="Octets of a packet at most"
      for="uplink-mtu"
      [mono]="true"
      [example]="mtuUsual()"
      [flaw]="problem()?.of('mtu')"
      [readonly]="!session.mayChange()"
      [value]="text().mtu"
      (typed)="typed.emit({ mtu: $event })"
      (done)="done.emit()"
    />
    <il-choice-cell
      label="TCP is told of packets that fit"
      for="uplink-clamp"
      [disabled]="!session.mayChange()"
      [options]="clamps"
      [value]="text().clamp"
      (chosen)="choose({ clamp: $event })"
    />
    <il-text-cell
      label="MAC address to show"
      for="uplink-mac"
      [mono]="true"
      example="its own"
      [flaw]="problem()?.of('mac')"
      [readonly]="!session.mayChange()"
      [value]="text().mac"
      (typed)="typed.emit({ mac: $event })"
      (done)="done.emit()"
    />
    <il-text-cell
      label="Name servers"
      for="uplink-dns"
      [mono]="true"
      [example]="row().fact?.dns?.join(', ') ?? 'the provider’s'"
      [flaw]="problem()?.of('dns')"
      [readonly]="!session.mayChange()"
      [value]="text().dns"
      (typed)="typed.emit({ dns: $event })"
      (done)="done.emit()"
    />
  `,
  styles: ':host { display: contents; }',
})
export class UplinkFrames {
  protected readonly session = inject(SessionStore);
  readonly row = input.required<UplinkRow>();
  readonly text = input.required<UplinkText>();
  readonly problem = input.required<Problem | null>();
  /** What is to be said before anything goes into the draft. */
  readonly waitsFor = input('');
  /** Writes a moment, by the site’s clock. */
  readonly time = input.required<(ms: number) => string>();
  readonly typed = output<Partial<UplinkText>>();
  readonly done = output<void>();
  protected readonly sixes: readonly Choice[] = SIX_WAYS.map((value) => ({ value, label: SIXES[value] }));
  protected readonly clamps: readonly Choice[] = [
    { value: true, label: 'yes' },
    { value: false, label: 'no' },
  ];
  protected readonly given = computed(() => sixWords(this.row(), this.time()));
  protected readonly mtuUsual = computed(() => `${usualMtu(this.text().way)}`);

  protected choose(change: Partial<UplinkText>): void {
    this.typed.emit(change);
    this.done.emit();
  }
}

const SIXES: Readonly<Record<(typeof SIX_WAYS)[number], string>> = {
  none: 'not used',
  slaac: 'as the provider’s router says (SLAAC)',
  prefix: 'a prefix for inside (DHCPv6-PD)',
  static: 'said here',
};
