import { Component, computed, input } from '@angular/core';
import type { SegmentStreams } from '@iron-lattice/core/assess';
import type { Rehearsed } from '@iron-lattice/core/paths';
import { PLAIN_TABLE } from './plain-table';
import type { Titles } from './rehearsal-words';
import { segmentLines } from './segment-lines';

/** Segment by segment, what becomes of a rehearsal: by which uplinks it leaves along the time, who waits, and what breaks. */
@Component({
  selector: 'il-segments-table',
  template: `
    <table aria-label="Segment by segment">
      <thead>
        <tr>
          <th>Segments</th>
          @if (byCourse()) {
            <th>Of</th>
          }
          <th>Somebody waits</th>
          <th>Leave by</th>
          @if (hasNeeds()) {
            <th>Not as needed for</th>
          }
          <th>Sessions that break</th>
        </tr>
      </thead>
      <tbody>
        @for (line of lines(); track line.key) {
          <tr>
            <td>{{ line.segments }}</td>
            @if (byCourse()) {
              <td>{{ line.whose }}</td>
            }
            <td [class.bad]="line.dark">{{ line.waits }}</td>
            <td class="long">{{ line.leaves }}</td>
            @if (hasNeeds()) {
              <td>{{ line.unmet }}</td>
            }
            <td>{{ line.broken }}</td>
          </tr>
        }
      </tbody>
    </table>
  `,
  styles: PLAIN_TABLE,
})
export class SegmentsTable {
  readonly streams = input.required<readonly SegmentStreams[]>();
  readonly made = input.required<{ readonly mean: Rehearsed; readonly worst: Rehearsed }>();
  readonly titles = input.required<Titles>();
  protected readonly lines = computed(() => segmentLines(this.streams(), this.made(), this.titles()));
  protected readonly byCourse = computed(() => this.lines().some(({ whose }) => whose !== ''));
  protected readonly hasNeeds = computed(() => this.lines().some(({ unmet }) => unmet !== ''));
}
