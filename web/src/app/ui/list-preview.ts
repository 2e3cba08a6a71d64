import { Component, computed, input, signal } from '@angular/core';
import { ScrollingModule } from '@angular/cdk/scrolling';
import type { CheckedRow } from '@iron-lattice/core/base';

/** A column of a list that is looked at. */
export interface PreviewColumn {
  readonly key: string;
  readonly title: string;
}

/** Every row of a list that somebody brought: good, or what is wrong with it, at the cell it is wrong in. */
@Component({
  selector: 'il-list-preview',
  imports: [ScrollingModule],
  template: `
    <div class="choices" role="group" aria-label="Rows">
      <button type="button" [attr.aria-pressed]="!badOnly()" (click)="badOnly.set(false)">
        All <b>{{ rows().length }}</b>
      </button>
      <button type="button" [attr.aria-pressed]="badOnly()" (click)="badOnly.set(true)">
        Not good <b [class.bad]="bad().length > 0">{{ bad().length }}</b>
      </button>
    </div>
    <div class="table" role="table" aria-label="Rows of the list">
      <div class="line head" role="row" [style.grid-template-columns]="template()">
        <span role="columnheader">Line</span>
        @for (column of used(); track column.key) {
          <span role="columnheader">{{ column.title }}</span>
        }
        <span role="columnheader">Is</span>
      </div>
      <cdk-virtual-scroll-viewport itemSize="25" minBufferPx="300" maxBufferPx="600" role="rowgroup" tabindex="0">
        <div
          *cdkVirtualFor="let row of shown(); trackBy: line"
          class="line"
          role="row"
          [style.grid-template-columns]="template()"
        >
          <span role="cell" class="mono soft">{{ row.line }}</span>
          @for (column of used(); track column.key) {
            <span role="cell" class="mono" [class.bad]="wrong(row, column.key)">{{
              row.values[column.key] || ''
            }}</span>
          }
          <span role="cell" [class]="row.good ? 'good' : 'bad'" [title]="reasons(row)">
            {{ row.good ? '✓ good' : '✗ ' + reasons(row) }}
          </span>
        </div>
      </cdk-virtual-scroll-viewport>
    </div>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      gap: 6px;
      min-height: 0;
    }
    .choices {
      align-self: flex-start;
    }
    .table {
      border: 1px solid var(--rule);
      display: flex;
      flex-direction: column;
      height: 190px;
      overflow-x: auto;
      overflow-y: hidden;
    }
    cdk-virtual-scroll-viewport {
      flex: 1;
      min-width: 760px;
    }
    .line {
      display: grid;
      height: 25px;
      align-items: center;
      border-bottom: 1px solid var(--rule);
      white-space: nowrap;
      min-width: 760px;
    }
    .line > span {
      padding: 0 8px;
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .head {
      color: var(--soft);
      border-bottom-color: var(--ink);
      font:
        600 12px/18px 'Barlow Semi Condensed',
        Barlow;
    }
  `,
})
export class ListPreviewTable {
  readonly rows = input.required<readonly CheckedRow<unknown>[]>();
  readonly columns = input.required<readonly PreviewColumn[]>();
  protected readonly badOnly = signal(false);
  protected readonly bad = computed(() => this.rows().filter((row) => row.good === null));
  /** Columns that the list fills anywhere; the others would only take room. */
  protected readonly used = computed(() =>
    this.columns().filter(({ key }) => this.rows().some((row) => row.values[key])),
  );
  protected readonly shown = computed(() => [...(this.badOnly() ? this.bad() : this.rows())]);
  protected readonly template = computed(
    () => `52px repeat(${this.used().length}, minmax(70px, 1fr)) minmax(300px, 4fr)`,
  );

  protected readonly line = (_: number, row: CheckedRow<unknown>): number => row.line;
  protected reasons = (row: CheckedRow<unknown>): string => row.flaws.map((flaw) => flaw.message).join(' ');
  protected wrong = (row: CheckedRow<unknown>, key: string): boolean => row.flaws.some((flaw) => flaw.field === key);
}
