import { Component, computed, input, model } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInputModule } from '@angular/material/input';
import type { Flaw } from '@iron-lattice/core/base';

/** A segment as typed: text as it stands in the fields, which need not be right yet. */
export interface SegmentText {
  readonly name: string;
  readonly vlan: string;
  readonly subnet: string;
  readonly gateway: string;
  readonly first: string;
  readonly last: string;
  readonly leaseHours: string;
}

const FIELDS: readonly { key: keyof SegmentText; label: string; flaw: string; mono: boolean; hint: string }[] = [
  { key: 'name', label: 'Name', flaw: 'name', mono: false, hint: '' },
  { key: 'vlan', label: 'VLAN ID', flaw: 'vlan', mono: true, hint: '1 to 4094' },
  { key: 'subnet', label: 'Subnet', flaw: 'subnet', mono: true, hint: 'Like 10.20.40.0/24' },
  { key: 'gateway', label: 'Gateway address', flaw: 'gateway', mono: true, hint: 'In the subnet' },
  { key: 'first', label: 'Addresses given, from', flaw: 'first', mono: true, hint: 'Clear of the gateway' },
  { key: 'last', label: 'to', flaw: 'last', mono: true, hint: '' },
  { key: 'leaseHours', label: 'Lease, in hours', flaw: 'leaseSeconds', mono: true, hint: '' },
];

/** The cells of a segment's sheet. */
@Component({
  selector: 'il-segment-fields',
  imports: [FormsModule, MatFormFieldModule, MatInputModule],
  template: `
    @for (field of fields; track field.key) {
      <div class="cell">
        <label [attr.for]="'segment-' + field.key">{{ field.label }}</label>
        <mat-form-field [class.mono-field]="field.mono">
          <input
            matInput
            autocomplete="off"
            [id]="'segment-' + field.key"
            [name]="field.key"
            [readonly]="readonly()"
            [ngModel]="text()[field.key]"
            (ngModelChange)="change(field.key, $event)"
            [attr.aria-invalid]="words()[field.flaw] ? true : null"
          />
        </mat-form-field>
        @if (words()[field.flaw]; as flaw) {
          <p class="flaw" role="alert">{{ flaw }}</p>
        } @else if (derived().has(field.key)) {
          <p class="hint">Derived; type to change it</p>
        } @else if (field.hint) {
          <p class="hint">{{ field.hint }}</p>
        }
      </div>
    }
  `,
  styles: ':host { display: contents; }',
})
export class SegmentFields {
  readonly text = model.required<SegmentText>();
  readonly flaws = input<readonly Flaw[]>([]);
  /** Fields that nobody typed into. */
  readonly derived = input<ReadonlySet<keyof SegmentText>>(new Set());
  readonly readonly = input(false);
  protected readonly fields = FIELDS;
  protected readonly words = computed(() => {
    const words: Record<string, string> = {};
    for (const { field, message } of this.flaws())
      if (field) words[field] = words[field] ? `${words[field]} ${message}` : message;
    return words;
  });

  protected change(key: keyof SegmentText, value: string): void {
    this.text.set({ ...this.text(), [key]: value });
  }
}
