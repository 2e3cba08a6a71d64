import { Component, computed, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { CheckedRow, Flaw } from '@iron-lattice/core/base';
import { ListPreviewTable, type PreviewColumn } from './list-preview';

/**
 * A list that somebody brought, looked at before anything of it is taken: what it comes to (slot `status`), the press
 * that takes it (the rest of the content), what is wrong with the whole, and every row.
 */
@Component({
  selector: 'il-list-seen',
  imports: [MatButtonModule, ListPreviewTable],
  template: `
    <div class="bar">
      <span role="status"><ng-content select="[status]" /></span>
      <span class="grow"></span>
      <ng-content />
      <button mat-button (click)="another.emit()">{{ bad() > 0 ? 'None: bring another list' : 'Another list' }}</button>
    </div>
    @for (flaw of flaws(); track flaw.code) {
      <p class="flaw" role="alert">{{ flaw.message }}</p>
    }
    @if (problem(); as words) {
      <p class="flaw" role="alert">{{ words }}</p>
    }
    <il-list-preview [rows]="rows()" [columns]="columns()" />
  `,
  styles: `
    :host {
      padding: 8px 14px;
      display: flex;
      flex-direction: column;
      gap: 6px;
    }
    .bar {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 8px;
    }
  `,
})
export class ListSeen {
  readonly rows = input.required<readonly CheckedRow<unknown>[]>();
  readonly columns = input.required<readonly PreviewColumn[]>();
  readonly flaws = input<readonly Flaw[]>([]);
  readonly problem = input<string | undefined>();
  readonly another = output<void>();
  protected readonly bad = computed(() => this.rows().filter((row) => row.good === null).length);
}
