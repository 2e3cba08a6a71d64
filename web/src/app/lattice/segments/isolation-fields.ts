import { Component, computed, input, output } from '@angular/core';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { Cell } from '../../ui/cell';
import type { SegmentText } from './segment-text';

/** What the clients of a segment are kept apart from. */
@Component({
  selector: 'il-isolation-fields',
  imports: [MatCheckboxModule, Cell],
  template: `
    @for (each of choices; track each.key) {
      <il-cell [label]="each.label" [hint]="each.hint" size="wide">
        <mat-checkbox [disabled]="readonly()" [checked]="kept().has(each.key)" (change)="toggle(each.key)">{{
          each.title
        }}</mat-checkbox>
      </il-cell>
    }
  `,
  styles: ':host { display: contents; }',
})
export class IsolationFields {
  readonly text = input.required<SegmentText>();
  readonly readonly = input(false);
  readonly changed = output<Partial<SegmentText>>();
  protected readonly choices = [
    {
      key: 'segments',
      label: 'Other segments',
      title: 'Kept from other segments, and they from it',
      hint: 'Also from the rest of private space. The rules it results in are shown under Rules; a rule of the site that comes first makes an exception.',
    },
    {
      key: 'clients',
      label: 'Each other',
      title: 'Clients are kept from each other',
      hint: 'By APs, and by switches between ports that carry this segment alone.',
    },
    {
      key: 'gateway',
      label: 'The gateway',
      title: 'Kept from what the gateway itself offers',
      hint: 'But for addresses and names, which clients need.',
    },
  ] as const;
  protected readonly kept = computed(() => new Set(this.text().isolation.split(/\s+/)));

  protected toggle(key: string): void {
    const kept = new Set(this.kept());
    if (!kept.delete(key)) kept.add(key);
    this.changed.emit({ isolation: [...kept].join(' ').trim() });
  }
}
