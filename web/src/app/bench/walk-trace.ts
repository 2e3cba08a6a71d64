import { Component, input } from '@angular/core';
import type { WalkResult } from '@iron-lattice/core/bench';
import { counted } from '../ui/counted';
import { PacketList } from '../ui/packet-list';

/** One walk, step under step along a line; where it stops the line ends. */
@Component({
  selector: 'il-walk-trace',
  imports: [PacketList],
  template: `
    <section [attr.aria-label]="'Walk ' + heading().toLowerCase()" aria-live="polite">
      <header>
        <h2>{{ heading() }}</h2>
        <span class="soft">{{ note() }}</span>
      </header>
      @if (walk(); as walk) {
        <p class="outcome" [class.good]="walk.arrived" [class.bad]="!walk.arrived">
          {{ walk.arrived ? arrived(walk) : 'Stopped at step ' + walk.steps.length }}
        </p>
        <ol>
          @for (step of walk.steps; track $index) {
            <li [class.stopped]="!step.passed">
              <svg width="15" height="15" viewBox="-7.5 -7.5 15 15" aria-hidden="true">
                @if (step.passed) {
                  <rect x="-5" y="-5" width="10" height="10" fill="var(--good)" />
                } @else {
                  <rect
                    x="-6.5"
                    y="-6.5"
                    width="13"
                    height="13"
                    fill="var(--ground)"
                    stroke="var(--bad)"
                    stroke-width="2"
                    stroke-dasharray="3 2"
                  />
                  <path d="M-3-3 3 3M3-3-3 3" stroke="var(--bad)" stroke-width="2" />
                }
              </svg>
              <div>
                <b>{{ step.title }}</b>
                <span class="visually-hidden">{{ step.passed ? ', passed. ' : ', stopped. ' }}</span>
                <p class="soft">{{ step.detail }}</p>
                <p class="by">
                  decided by <span class="mono">{{ step.decidedBy.name }}</span>
                </p>
                @if (step.exchange; as exchange) {
                  <details>
                    <summary>{{ counted(exchange.packets.length, 'packet') }} in {{ exchange.ms }} ms</summary>
                    <il-packet-list [packets]="exchange.packets" [server]="step.decidedBy.name" />
                  </details>
                }
              </div>
            </li>
          }
        </ol>
      } @else if (problem()) {
        <p class="bad outcome" role="alert">{{ problem() }}</p>
      } @else {
        <p class="soft outcome" role="status">Walking…</p>
      }
    </section>
  `,
  styles: `
    header {
      display: flex;
      gap: 10px;
      padding: 10px 14px 0;
      align-items: baseline;
    }
    .outcome {
      padding: 2px 14px 8px;
      font-weight: 600;
    }
    ol {
      list-style: none;
      margin: 0;
      padding: 0 14px 14px;
    }
    li {
      display: flex;
      gap: 12px;
      position: relative;
      padding-bottom: 9px;
    }
    li svg {
      flex: none;
      margin-top: 1px;
      z-index: 1;
    }
    li:not(:last-child)::before {
      content: '';
      position: absolute;
      left: 6.5px;
      top: 8px;
      bottom: -8px;
      border-left: 2px solid var(--good);
    }
    li b {
      font-weight: 600;
    }
    li p {
      line-height: 16px;
    }
    .by {
      font-size: 12px;
      color: var(--soft);
    }
    .by .mono {
      color: var(--ink);
    }
    li > div {
      min-width: 0;
      flex: 1;
    }
    summary {
      cursor: pointer;
      font-size: 12px;
      color: var(--soft);
    }
    .stopped b {
      color: var(--bad);
    }
  `,
})
export class WalkTrace {
  readonly heading = input.required<string>();
  readonly note = input('');
  /** Null while it is under way. */
  readonly walk = input.required<WalkResult | null>();
  readonly problem = input('');
  protected readonly counted = counted;

  protected arrived({ to }: WalkResult): string {
    return to === undefined ? 'Arrived: the internet answers' : `Arrived: nothing stops it on its way to ${to}`;
  }
}
