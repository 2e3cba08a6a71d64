import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { SessionStore } from '../session/session-store';
import { courseRows } from './course-rows';
import type { GatewayRow } from './path-rows';

/** What leaves a gateway otherwise than the rest, in the order in which it decides. */
@Component({
  selector: 'il-courses-list',
  imports: [MatButtonModule],
  template: `
    <div class="head">
      <h3>Courses</h3>
      <span class="soft">What leaves otherwise than the rest. The first that fits a packet decides.</span>
      @if (session.mayChange() && gateway().uplinks.length > 0) {
        <button mat-stroked-button type="button" (click)="picked.emit('course-new:' + gateway().device.id)">
          Add a course
        </button>
      }
    </div>
    <ol [attr.aria-label]="'Courses of ' + gateway().device.name">
      @for (row of rows(); track row.course.id; let i = $index) {
        <li>
          <button
            type="button"
            class="course"
            [class.off]="row.course.off"
            [attr.aria-pressed]="shown() === 'course:' + row.course.id"
            (click)="picked.emit('course:' + row.course.id)"
          >
            <span class="mono turn">{{ i + 1 }}</span>
            <b>{{ row.course.name }}</b>
            <span>{{ row.whom }}</span>
            <span>{{ row.ways }}</span>
            <span [class]="row.fits === false ? 'bad' : row.fits ? 'good' : 'soft'">{{ row.now }}</span>
          </button>
        </li>
      } @empty {
        <li class="soft none">
          None: everything leaves as drawn above. A course has, say, tickets leave by cable alone, or calls by whatever
          is quick enough.
        </li>
      }
    </ol>
  `,
  styles: `
    .head {
      display: flex;
      align-items: center;
      gap: 10px;
      flex-wrap: wrap;
      padding: 4px 14px;
    }
    .head .soft {
      flex: 1;
    }
    h3 {
      font-size: 13px;
      font-weight: 600;
      line-height: 18px;
      margin: 0;
    }
    ol {
      list-style: none;
      margin: 0;
      padding: 0 14px 10px;
    }
    .none,
    .course {
      border-top: 1px solid var(--rule);
    }
    .none {
      padding: 6px 0;
    }
    .course {
      width: 100%;
      display: grid;
      grid-template-columns: 22px minmax(90px, 1fr) minmax(0, 2fr) minmax(0, 2fr) minmax(0, 2fr);
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
    .course:hover,
    .course[aria-pressed='true'] {
      background: var(--tint);
    }
    .off {
      color: var(--soft);
    }
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
      .course {
        grid-template-columns: 22px minmax(0, 1fr);
        gap: 2px 6px;
      }
      .course span:not(.turn) {
        grid-column: 2;
      }
    }
  `,
})
export class CoursesList {
  protected readonly session = inject(SessionStore);
  readonly gateway = input.required<GatewayRow>();
  /** What has its sheet open. */
  readonly shown = input<string | null>(null);
  /** `course:ID`, or `course-new:DEVICE`. */
  readonly picked = output<string>();
  protected readonly rows = computed(() => courseRows(this.gateway()));
}
