import { Component, input } from '@angular/core';
import type { DifferenceLine } from '@iron-lattice/core/document';

/** What one device would be told anew, a line for each value. */
@Component({
  selector: 'il-difference-lines',
  template: `
    <ul class="mono">
      @for (line of lines(); track $index) {
        <li [class]="line.op">
          <span class="sign">{{ line.op === 'add' ? '+' : line.op === 'remove' ? '−' : '~' }}</span>
          <span class="path">{{ line.path.join(' › ') }}</span>
          <span>
            @if (line.op === 'change') {
              <s class="soft">{{ line.before }}</s> {{ line.after }}
            } @else {
              {{ line.after ?? line.before }}
            }
          </span>
        </li>
      }
    </ul>
  `,
  styles: `
    ul {
      list-style: none;
      margin: 0;
      padding: 0 14px 8px 28px;
    }
    li {
      display: grid;
      grid-template-columns: 14px minmax(0, 2fr) minmax(0, 1fr);
      gap: 8px;
      line-height: 19px;
      overflow-wrap: anywhere;
    }
    .add .sign {
      color: var(--good);
    }
    .remove .sign {
      color: var(--bad);
    }
    .change .sign {
      color: var(--caution);
    }
  `,
})
export class DifferenceLines {
  readonly lines = input.required<readonly DifferenceLine[]>();
}
