import { Component, input, output } from '@angular/core';
import { HARDWARE_SHEETS } from '@iron-lattice/core/hardware';
import { COUNTRIES } from '@iron-lattice/core/regulation';
import { ChoiceCell, type Choice } from '../../ui/choice-cell';
import { TextCell } from '../../ui/text-cell';
import type { BranchText, FlawOf } from './branches-text';

const GATEWAYS: readonly Choice[] = [
  { value: '', label: 'as it calls' },
  ...HARDWARE_SHEETS.filter(({ kind }) => kind === 'gateway').map(({ model }) => ({ value: model, label: model })),
];

/** What is typed of one branch: what it is, or where. */
@Component({
  selector: 'il-branch-cells',
  imports: [ChoiceCell, TextCell],
  template: `
    @if (part() === 'what') {
      <il-text-cell
        label="Name"
        for="branch-name"
        example="Harrow Point"
        [flaw]="flawOf()('name')"
        [value]="text().name"
        (typed)="typed.emit({ name: $event })"
      />
      <il-text-cell
        label="Serial number of its gateway"
        for="branch-serial"
        example="3A1-0201-11"
        [mono]="true"
        [flaw]="flawOf()('serial')"
        [value]="text().serial"
        (typed)="typed.emit({ serial: $event })"
      />
      <il-choice-cell
        label="Model"
        for="branch-model"
        [options]="gateways"
        [flaw]="flawOf()('model')"
        [value]="text().model"
        (chosen)="typed.emit({ model: $event })"
      />
      <il-text-cell
        label="Uplinks"
        for="branch-uplinks"
        size="wide"
        example="dhcp 100/20; wan2 cellular standby"
        hint="Or static 203.0.113.10/29 via 203.0.113.9, pppoe NAME PASSWORD; Mb/s down/up if known"
        [mono]="true"
        [flaw]="flawOf()('uplinks')"
        [value]="text().uplinks"
        (typed)="typed.emit({ uplinks: $event })"
      />
      <il-text-cell
        label="More devices"
        for="branch-devices"
        example="SW-24P 5C2-0201-12; AP-6E 7K4-0201-13"
        hint="A second gateway among them takes over from the first"
        [mono]="true"
        [flaw]="flawOf()('devices')"
        [value]="text().devices"
        (typed)="typed.emit({ devices: $event })"
      />
      <il-text-cell
        label="Tags"
        for="branch-tags"
        example="none"
        hint="What is for sites with a tag reaches it too"
        [value]="text().tags"
        (typed)="typed.emit({ tags: $event })"
      />
    } @else {
      <il-text-cell
        label="Country"
        for="branch-country"
        example="the estate’s"
        [offers]="countries"
        [flaw]="flawOf()('country')"
        [value]="text().country"
        (typed)="typed.emit({ country: $event })"
      />
      <il-text-cell
        label="Time zone"
        for="branch-zone"
        example="by the country"
        [offers]="zones"
        [flaw]="flawOf()('timeZone')"
        [value]="text().timeZone"
        (typed)="typed.emit({ timeZone: $event })"
      />
      <il-text-cell
        label="Address"
        for="branch-address"
        example="none"
        [value]="text().address"
        (typed)="typed.emit({ address: $event })"
      />
      <il-text-cell
        label="Coordinates"
        for="branch-coordinates"
        example="53.3498, -6.2603"
        [mono]="true"
        [flaw]="flawOf()('coordinates')"
        [value]="text().coordinates"
        (typed)="typed.emit({ coordinates: $event })"
      />
    }
  `,
  styles: ':host { display: contents; }',
})
export class BranchCells {
  readonly part = input.required<'what' | 'where'>();
  readonly text = input.required<BranchText>();
  readonly flawOf = input.required<FlawOf>();
  readonly typed = output<Partial<BranchText>>();
  protected readonly gateways = GATEWAYS;
  protected readonly countries = COUNTRIES.map(({ name }) => name);
  protected readonly zones = Intl.supportedValuesOf('timeZone');
}
