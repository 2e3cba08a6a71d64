import { DatePipe } from '@angular/common';
import { Component, computed, inject } from '@angular/core';
import { PastStore } from './past-store';

/** Chooses what is meant by live: what is live now, a revision, or a moment. */
@Component({
  selector: 'il-past-choice',
  imports: [DatePipe],
  template: `
    <label
      >Live is
      <select [value]="chosen()" (focus)="past.list()" (change)="choose($any($event.target).value)">
        <option value="now">what is live now</option>
        <option value="moment">what was live at a moment…</option>
        @for (each of past.revisions(); track each.number) {
          <option [value]="each.number" [selected]="chosen() === '' + each.number">
            revision {{ each.number }}, {{ each.name }}, {{ each.at | date: 'd MMM, HH:mm' }}
          </option>
        }
        <option value="0" [selected]="chosen() === '0'">as founded</option>
      </select>
    </label>
    @if (chosen() === 'moment') {
      <label
        >At
        <input
          type="datetime-local"
          [value]="moment()"
          (change)="at($any($event.target).value)"
          aria-label="At this moment, by your clock"
        />
      </label>
    }
  `,
  styles: `
    :host {
      display: inline-flex;
      flex-wrap: wrap;
      gap: 6px 12px;
      align-items: center;
    }
    select,
    input {
      height: 26px;
      max-width: 260px;
      border: 1px solid var(--strong);
      background: var(--sheet);
      color: var(--ink);
      font: inherit;
    }
  `,
})
export class PastChoice {
  protected readonly past = inject(PastStore);
  protected readonly moment = this.past.moment;
  protected readonly chosen = computed(() => {
    const then = this.past.then();
    if (this.past.asksMoment()) return 'moment';
    return then === undefined ? 'now' : /^\d+$/.test(then) ? then : 'moment';
  });

  protected choose(value: string): void {
    this.past.asksMoment.set(value === 'moment');
    if (value === 'moment') return; // once it is said
    this.past.then.set(value === 'now' ? undefined : value);
  }

  protected at(text: string): void {
    this.moment.set(text);
    const at = new Date(text);
    if (!Number.isNaN(at.getTime())) this.past.then.set(at.toISOString());
  }
}
