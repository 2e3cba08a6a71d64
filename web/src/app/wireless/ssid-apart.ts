import { Component, input, output } from '@angular/core';
import { MatCheckboxModule } from '@angular/material/checkbox';
import type { Isolation } from '@iron-lattice/core/intent';
import { Cell } from '../ui/cell';

/** What clients of an SSID are kept from. */
@Component({
  selector: 'il-ssid-apart',
  imports: [MatCheckboxModule, Cell],
  template: `
    <il-cell
      label="Clients are kept from"
      size="wide"
      role="group"
      aria-label="Clients are kept from"
      hint="Whatever their segment is. The rules it results in, and where they take effect, are shown under Rules."
    >
      @for (each of from; track each.key) {
        <mat-checkbox
          [disabled]="!mayChange()"
          [checked]="value()?.[each.key] ?? false"
          (change)="ticked.emit({ key: each.key, kept: $event.checked })"
          >{{ each.label }}</mat-checkbox
        >
      }
    </il-cell>
  `,
  styles: `
    :host {
      display: contents;
    }
    mat-checkbox {
      margin-right: 10px;
    }
  `,
})
export class SsidApart {
  /** Null: nothing. */
  readonly value = input.required<Isolation | null>();
  readonly mayChange = input.required<boolean>();
  readonly ticked = output<{ readonly key: keyof Isolation; readonly kept: boolean }>();
  protected readonly from = [
    { key: 'segments', label: 'other segments' },
    { key: 'clients', label: 'each other' },
    { key: 'gateway', label: 'the gateway, but for addresses and names' },
  ] as const;
}
