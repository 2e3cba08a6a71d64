import { Component, input } from '@angular/core';
import type { DecidingRule, ReachCell } from '@iron-lattice/core/assess';

/** What is let through, line by line, beside the rules that decide. */
@Component({
  selector: 'il-traffic-table',
  template: `
    @let all = cell();
    <div class="parts">
      <div>
        <h3>
          {{
            all.reach === 'all'
              ? 'Everything gets through'
              : all.reach === 'none'
                ? 'Nothing gets through'
                : 'Gets through'
          }}
        </h3>
        @for (stop of all.stops; track stop) {
          <p>{{ stop }}</p>
        }
        @if (all.allowed.length > 0) {
          <table class="grid">
            <thead>
              <tr>
                <th scope="col">From</th>
                <th scope="col">To</th>
                <th scope="col">Services</th>
              </tr>
            </thead>
            <tbody>
              @for (line of all.allowed; track $index) {
                <tr class="empty">
                  <td class="mono">{{ line.from.join(', ') }}</td>
                  <td class="mono">{{ line.to.join(', ') }}</td>
                  <td>
                    {{ line.services.join(', ') }}{{ line.sourcePorts ? ', from ports ' + line.sourcePorts : '' }}
                  </td>
                </tr>
              }
            </tbody>
          </table>
          @if (all.more > 0) {
            <p class="soft">and {{ all.more }} lines more</p>
          }
        }
      </div>
      <div>
        <h3>Decided by</h3>
        <ul>
          @for (rule of all.rules; track $index) {
            <li>
              <span class="verdict" [class.allow]="rule.verdict === 'allow'">{{ rule.verdict }}</span>
              {{ rule.name }}&ngsp;
              @if (rule.site) {
                <span class="soft">at {{ rule.site }}</span
                >&ngsp;
              }
              @if (where[rule.at]; as place) {
                <span class="soft">{{ place }}</span>&ngsp;
              }
              <span class="mono soft">{{ rule.example }}</span>
            </li>
          }
        </ul>
      </div>
    </div>
  `,
  styles: `
    .parts {
      display: grid;
      grid-template-columns: 3fr 2fr;
      gap: 0 24px;
    }
    h3 {
      font:
        600 12px/22px 'Barlow Semi Condensed',
        Barlow;
      margin: 0;
    }
    td {
      white-space: normal !important;
      overflow-wrap: anywhere;
      vertical-align: top;
    }
    ul {
      list-style: none;
      margin: 0;
      padding: 0;
    }
    li {
      padding: 2px 0;
    }
    .verdict {
      color: var(--bad);
      font-weight: 600;
    }
    .verdict.allow {
      color: var(--good);
    }
    @media (max-width: 720px) {
      .parts {
        grid-template-columns: 1fr;
      }
    }
  `,
})
export class TrafficTable {
  protected readonly where: Readonly<Record<DecidingRule['at'], string>> = {
    gateway: '',
    within: '',
    switches: 'at switches',
    aps: 'at APs',
    router: '',
    nowhere: '',
  };
  readonly cell = input.required<ReachCell>();
}
