import { Component, computed, input } from '@angular/core';
import type { BranchesSeen } from '@iron-lattice/core/intake';
import { counted } from '../../ui/counted';
import { SeverityMark } from '../../ui/severity-mark';
import { madeWords } from './made-words';

/** What branches would be and what follows from them, before any is made: each in full, what was derived with what from. */
@Component({
  selector: 'il-branches-seen',
  imports: [SeverityMark],
  template: `
    @let all = seen();
    @for (flaw of all.flaws; track flaw.code) {
      <p class="flaw" role="alert">{{ flaw.message }}</p>
    }
    @if (all.count.sites > 0) {
      <p>{{ words().there }}</p>
      <p>{{ words().draft }}</p>
      @for (part of all.shared; track part.what) {
        <p>
          {{ part.what }} {{ part.is }} <span class="soft">by {{ part.from }}</span>
        </p>
      }
    }
    @for (row of all.rows; track row.line) {
      <details [open]="all.rows.length === 1" [class.bad]="row.good === null">
        <summary>
          <b>{{ row.values['name'] || 'line ' + row.line }}</b>
          @if (row.good) {
            <span class="soft">{{ first(row.good.parts) }}</span>
            @for (finding of found().get(row.good.siteId); track $index) {
              @if ($first) {
                <il-severity-mark class="mark" [severity]="finding.severity" />
                <span class="soft">{{ count(found().get(row.good.siteId)!.length) }}</span>
              }
            }
          } @else {
            <span class="flaw">{{ row.flaws[0]?.message }}</span>
          }
        </summary>
        @if (row.good; as plan) {
          <dl>
            @for (part of plan.parts; track $index) {
              <dt>{{ part.what }}</dt>
              <dd>
                {{ part.is }}
                @if (part.from) {
                  <span class="soft">from {{ part.from }}</span>
                }
              </dd>
            }
          </dl>
          <ul>
            @for (finding of found().get(plan.siteId); track $index) {
              <li><il-severity-mark [severity]="finding.severity" /> {{ finding.message }}</li>
            }
          </ul>
        } @else {
          @for (flaw of row.flaws.slice(1); track $index) {
            <p class="flaw">{{ flaw.message }}</p>
          }
        }
      </details>
    }
  `,
  styles: `
    :host {
      display: block;
    }
    p {
      margin: 0 0 4px;
    }
    details {
      border-top: 1px solid var(--rule);
      padding: 5px 0;
    }
    summary {
      cursor: pointer;
      overflow-wrap: anywhere;
    }
    summary b {
      margin-right: 6px;
    }
    .mark {
      margin: 0 3px 0 8px;
    }
    dl {
      display: grid;
      grid-template-columns: minmax(84px, auto) minmax(0, 1fr);
      gap: 2px 10px;
      margin: 6px 0;
    }
    dt {
      font:
        500 13px/20px 'Barlow Semi Condensed',
        Barlow;
      color: var(--soft);
      overflow-wrap: anywhere;
    }
    dd {
      margin: 0;
      overflow-wrap: anywhere;
    }
    ul {
      list-style: none;
      margin: 0;
      padding: 0;
    }
    .flaw {
      color: var(--bad);
    }
  `,
})
export class BranchesSeenView {
  readonly seen = input.required<BranchesSeen>();
  protected readonly words = computed(() => madeWords(this.seen()));
  protected readonly found = computed(
    () => new Map(this.seen().findings.map(({ siteId, found }) => [siteId, found] as const)),
  );

  protected first = (parts: readonly { readonly what: string; readonly is: string }[]): string =>
    ['Short form', 'Management'].flatMap((what) => parts.find((part) => part.what === what)?.is ?? []).join(', ');
  protected count = (n: number): string => counted(n, 'finding');
}
