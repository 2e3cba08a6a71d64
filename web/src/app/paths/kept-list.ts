import { Component, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { SessionStore } from '../session/session-store';
import { ListHead } from './list-head';

/** One thing of a list: its name, and what is told of it. */
export interface KeptRow {
  readonly key: string;
  readonly name: string;
  readonly off: boolean;
  readonly cells: readonly { readonly text: string; readonly tone?: 'soft' | 'good' | 'bad' | 'mono' }[];
}

/** Things that are said of a gateway, in a list, each with its sheet. */
@Component({
  selector: 'il-kept-list',
  imports: [ListHead, MatButtonModule],
  template: `
    <il-list-head [heading]="heading()" [hint]="hint()">
      @if (session.mayChange() && list()) {
        <button mat-button type="button" (click)="listed.emit()">{{ list() }}</button>
      }
      @if (session.mayChange() && mayAdd()) {
        <button mat-stroked-button type="button" (click)="added.emit()">{{ add() }}</button>
      }
    </il-list-head>
    <ol [attr.aria-label]="label()">
      @for (row of rows(); track row.key; let i = $index) {
        <li>
          <button
            type="button"
            class="row"
            [class.ordered]="ordered()"
            [class.off]="row.off"
            [attr.aria-pressed]="shown() === row.key"
            (click)="picked.emit(row.key)"
          >
            @if (ordered()) {
              <span class="mono turn">{{ i + 1 }}</span>
            }
            <b>{{ row.name }}</b>
            @for (cell of row.cells; track $index) {
              <span [class]="cell.tone ?? ''">{{ cell.text }}</span>
            }
          </button>
        </li>
      } @empty {
        <li class="soft none">{{ none() }}</li>
      }
    </ol>
  `,
  styles: `
    ol {
      list-style: none;
      margin: 0;
      padding: 0 14px 10px;
    }
    .none,
    .row {
      border-top: 1px solid var(--rule);
    }
    .none {
      padding: 6px 0;
    }
    .row {
      width: 100%;
      display: grid;
      grid-template-columns: minmax(90px, 1fr) repeat(3, minmax(0, 2fr));
      grid-auto-columns: minmax(0, 1.4fr);
      grid-auto-flow: column;
      gap: 10px;
      padding: 6px 0;
      font: inherit;
      line-height: 17px;
      color: inherit;
      text-align: left;
      background: none;
      border-width: 1px 0 0;
      cursor: pointer;
    }
    .row.ordered {
      grid-template-columns: 22px minmax(90px, 1fr) repeat(3, minmax(0, 2fr));
    }
    .row:hover,
    .row[aria-pressed='true'] {
      background: var(--tint);
    }
    .row > * {
      overflow-wrap: anywhere;
    }
    .off,
    .turn {
      color: var(--soft);
    }
    .bad {
      color: var(--bad);
    }
    .good {
      color: var(--good);
    }
    @media (max-width: 720px) {
      .row {
        grid-template-columns: minmax(0, 1fr);
        grid-auto-flow: row;
        gap: 2px 6px;
      }
      .row.ordered {
        grid-template-columns: 22px minmax(0, 1fr);
      }
      .ordered > span:not(.turn) {
        grid-column: 2;
      }
    }
  `,
})
export class KeptList {
  protected readonly session = inject(SessionStore);
  readonly heading = input.required<string>();
  readonly hint = input.required<string>();
  readonly label = input.required<string>();
  readonly add = input.required<string>();
  readonly none = input.required<string>();
  readonly mayAdd = input(true);
  /** What brings many of them at once; empty: nothing does. */
  readonly list = input('');
  /** Whether the first that fits decides. */
  readonly ordered = input(false);
  readonly rows = input.required<readonly KeptRow[]>();
  /** What has its sheet open. */
  readonly shown = input<string | null>(null);
  readonly picked = output<string>();
  readonly listed = output<void>();
  readonly added = output<void>();
}
