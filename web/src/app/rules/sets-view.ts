import { Component, computed, inject, input, output } from '@angular/core';
import { uses } from '@iron-lattice/core/intent';
import { RulesFacts } from './rules-facts';

/** The named sets that rules of a site may use. */
@Component({
  selector: 'il-sets-view',
  template: `
    <table class="grid" aria-label="Named sets">
      <thead>
        <tr>
          <th scope="col">Name</th>
          <th scope="col">Holds</th>
          <th scope="col">Of</th>
          <th scope="col">Used by</th>
          <th scope="col">What it is for</th>
        </tr>
      </thead>
      <tbody>
        @for (line of lines(); track line.set.id) {
          <tr [class.chosen]="line.set.id === shown()" (click)="chosen.emit(line.set.id)">
            <td>
              <button type="button" class="plain">{{ line.set.name }}</button>
            </td>
            <td class="mono holds">{{ line.holds }}</td>
            <td>{{ line.shared ? 'every site' : 'this site' }}</td>
            <td>{{ line.used }}</td>
            <td class="soft">{{ line.set.purpose }}</td>
          </tr>
        } @empty {
          <tr class="empty">
            <td colspan="5" class="soft">
              No set yet. Put addresses or ports that belong together under one name, and use the name in rules.
            </td>
          </tr>
        }
      </tbody>
    </table>
  `,
  styles: `
    .holds {
      max-width: 420px;
      overflow: hidden;
      text-overflow: ellipsis;
    }
  `,
})
export class SetsView {
  private readonly facts = inject(RulesFacts);
  readonly shown = input<string | null>(null);
  readonly chosen = output<string>();
  protected readonly lines = computed(() =>
    this.facts.sets().map(({ set, shared }) => {
      const rules = this.facts.rows().filter(({ rule }) => uses(rule, set.name)).length;
      const sets = this.facts.sets().filter((other) => other.set.sets?.includes(set.name)).length;
      const used = [
        ...(rules > 0 ? [rules === 1 ? '1 rule' : `${rules} rules`] : []),
        ...(sets > 0 ? [sets === 1 ? '1 set' : `${sets} sets`] : []),
      ].join(', ');
      const holds = [...(set.addresses ?? []), ...(set.ports ?? []).map((port) => `port ${port}`), ...(set.sets ?? [])];
      return { set, shared, used: used || '–', holds: holds.join(', ') };
    }),
  );
}
