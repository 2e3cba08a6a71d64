import { Component, computed, input } from '@angular/core';
import type { PactReport } from '@iron-lattice/core/paths';
import { Cell } from '../../ui/cell';
import { stepRows } from './pact-words';

/** How a tunnel to a gateway of others fares, step by step, as its gateway last told it. */
@Component({
  selector: 'il-pact-fares',
  imports: [Cell],
  template: `
    <il-cell label="How far it comes, as its gateway tells it" size="full">
      @if (report(); as told) {
        <ol aria-label="Steps">
          @for (row of rows(); track row.step) {
            <li [class]="row.is" [attr.aria-current]="row.is === 'failed' ? 'step' : null">{{ row.words }}</li>
          }
        </ol>
        @if (told.agreed; as agreed) {
          <p>
            Both use {{ agreed.ike }} for the exchange, and {{ agreed.esp }} for packets.
            {{ agreed.here.join(', ') }} here goes in, and {{ agreed.there.join(', ') }} there.
          </p>
          <p class="soft">{{ way() }}</p>
        } @else {
          <p class="bad" role="status">{{ told.why }}</p>
        }
      } @else {
        <p class="soft">Nothing yet: it begins once this is rolled out.</p>
      }
    </il-cell>
  `,
  styles: `
    :host {
      display: contents;
    }
    ol {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 0;
      list-style: none;
      margin: 0;
      padding: 0;
    }
    li {
      padding: 2px 16px 2px 0;
    }
    li::before {
      content: '';
      display: inline-block;
      width: 8px;
      height: 8px;
      margin-right: 6px;
      border: 1px solid var(--soft);
    }
    .done::before {
      background: var(--good);
      border-color: var(--good);
    }
    .failed::before {
      background: var(--bad);
      border-color: var(--bad);
      transform: rotate(45deg);
    }
    .open {
      color: var(--soft);
    }
    p {
      margin: 4px 0 0;
    }
    .bad,
    .failed {
      color: var(--bad);
    }
  `,
})
export class PactFares {
  /** Undefined: nothing was told of it yet. */
  readonly report = input.required<PactReport | undefined>();
  protected readonly rows = computed(() => (this.report() ? stepRows(this.report()!) : []));
  protected readonly way = computed(() => {
    const { by, to, translated, loss, delay } = this.report()!;
    return [
      `By ${by ?? '?'} to ${to ?? '?'}`,
      ...(translated ? ['inside UDP, since an address is translated on the way'] : []),
      ...(delay === undefined ? [] : [`${delay.toFixed(1)} ms there and back`]),
      ...(loss ? [`${Math.round(loss * 100)} of 100 questions without an answer`] : []),
    ].join(', ');
  });
}
