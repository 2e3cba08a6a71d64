import { Component, computed, input } from '@angular/core';
import type { Failure } from '@iron-lattice/core/assess';
import { PLAIN_TABLE } from './plain-table';
import { failureLines, type Titles } from './rehearsal-words';

/** Every failure of a single uplink: who waits, for how long, and what it leaves by then. */
@Component({
  selector: 'il-failures-table',
  template: `
    <table>
      <thead>
        <tr>
          <th>Uplink</th>
          <th>What happens</th>
          @if (byCourse()) {
            <th>Of</th>
          }
          <th>Nobody is served for</th>
          <th>Some are not for</th>
          <th>Then it leaves by</th>
          <th>Sessions that break</th>
        </tr>
      </thead>
      <tbody>
        @for (line of lines(); track line.key) {
          <tr>
            <td class="mono">{{ line.title }}</td>
            <td>{{ line.what }}</td>
            @if (byCourse()) {
              <td>{{ line.whose }}</td>
            }
            <td [class.bad]="line.dark">{{ line.darkWords }}</td>
            <td>{{ line.someWords }}</td>
            <td>{{ line.then }}</td>
            <td>{{ line.broken }}</td>
          </tr>
        } @empty {
          <tr>
            <td colspan="7" class="soft">
              No uplink leads anywhere yet: as soon as one does, its failures stand here.
            </td>
          </tr>
        }
      </tbody>
    </table>
  `,
  styles: PLAIN_TABLE,
})
export class FailuresTable {
  readonly failures = input.required<readonly Failure[]>();
  readonly titles = input.required<Titles>();
  protected readonly lines = computed(() => this.failures().flatMap((each) => failureLines(each, this.titles())));
  protected readonly byCourse = computed(() => this.lines().some(({ whose }) => whose !== ''));
}
