import { Component, computed, inject, input, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { writeCalendar } from '@iron-lattice/core/formats';
import type { Hours, HoursFields, Operation } from '@iron-lattice/core/intent';
import { halfHoursOf, readTimes, spansOfHalfHours, writeTimes } from '@iron-lattice/core/rules';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { saveFile } from '../ui/export-rows';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { WeekPainter } from '../ui/week-painter';
import { hoursUsers } from './hours-users';

interface HoursText {
  readonly name: string;
  readonly times: string;
  /** Days that are left out, parted by blanks, commas or lines. */
  readonly closed: string;
  readonly purpose: string;
}

/** Hours of a week: painted, or typed. */
@Component({
  selector: 'il-hours-sheet',
  imports: [FormsModule, MatButtonModule, Cell, Sheet, TextCell, WeekPainter],
  template: `
    <il-sheet
      [focusFirst]="hours() === null"
      [heading]="hours()?.name ?? 'New hours'"
      [note]="note()"
      (closed)="closed.emit()"
    >
      @if (hours()) {
        <button actions mat-stroked-button (click)="export()">iCalendar</button>
      }
      @if (hours() && session.mayChange()) {
        <button actions mat-stroked-button (click)="remove()">Remove hours</button>
      }
      @if (session.mayChange()) {
        <button
          actions
          mat-flat-button
          type="submit"
          form="hours-fields"
          [disabled]="form.busy() || !form.differs() || spans() === null"
        >
          {{ hours() ? 'Put into the draft' : 'Add hours' }}
        </button>
      }
      <form id="hours-fields" (ngSubmit)="keep()">
        <div class="cells">
          <il-text-cell
            label="Name"
            for="hours-name"
            [flaw]="problem()?.of('name')"
            [readonly]="!session.mayChange()"
            [value]="text().name"
            (typed)="form.put({ name: $event })"
          />
          <il-text-cell
            label="In words"
            for="hours-times"
            size="wide"
            hint="Such as Mon-Fri 08:00-18:00; Sat 10:00-14:00"
            [mono]="true"
            [flaw]="spans() === null ? 'Write times such as Mon-Fri 08:00-18:00.' : problem()?.of('times')"
            [readonly]="!session.mayChange()"
            [value]="text().times"
            (typed)="form.put({ times: $event })"
          />
          <il-text-cell
            label="Days left out"
            for="hours-closed"
            hint="Such as 2026-12-25 2026-12-26"
            [mono]="true"
            [flaw]="problem()?.of('closed')"
            [readonly]="!session.mayChange()"
            [value]="text().closed"
            (typed)="form.put({ closed: $event })"
          />
          <il-cell
            label="The week"
            size="full"
            hint="Drag over a block to paint it, or to wipe it out. By keys: arrows move, blank turns one, shift and arrows paint on."
          >
            <il-week-painter
              label="The week by half hours"
              [value]="painted()"
              [readonly]="!session.mayChange()"
              (painted)="paint($event)"
            />
          </il-cell>
          <il-text-cell
            label="What they are for"
            for="hours-purpose"
            size="wide"
            hint="Found by it"
            [flaw]="problem()?.of('purpose')"
            [readonly]="!session.mayChange()"
            [value]="text().purpose"
            (typed)="form.put({ purpose: $event })"
          />
          @if (other(); as message) {
            <p class="cell full flaw" role="alert">{{ message }}</p>
          }
        </div>
      </form>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class HoursSheet {
  private readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  protected readonly session = inject(SessionStore);
  /** Null for new ones. */
  readonly hours = input.required<Hours | null>();
  readonly closed = output<void>();
  /** Id of the hours that are in the draft now. */
  readonly kept = output<string>();

  protected readonly form = new EditForm<Hours, HoursText>({
    kept: () => this.hours(),
    idOf: ({ id }) => id,
    textOf,
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly other = computed(() => this.form.other(['name', 'times', 'closed', 'purpose']));
  /** What was typed; null: it cannot be read. */
  protected readonly spans = computed(() => (this.text().times.trim() === '' ? [] : readTimes(this.text().times)));
  protected readonly painted = computed(() => halfHoursOf(this.spans() ?? []));
  protected readonly note = computed(() => {
    const hours = this.hours();
    if (!hours) return 'By the clock of each site that they are used at.';
    const site = this.shared.atEstate() ? null : this.store.site();
    const users = hoursUsers(hours.id, this.shared.estate(), site);
    const where = site ? `at ${site.name}` : 'over all sites';
    return users === '' ? `Nothing ${where} uses them.` : `An edit applies wherever they are used; ${where}: ${users}.`;
  });

  protected paint(on: boolean[]): void {
    this.form.put({ times: writeTimes(spansOfHalfHours(on)) });
  }

  protected async keep(): Promise<void> {
    const spans = this.spans();
    if (spans === null) return;
    await this.form.send(async () => {
      const hours = this.hours();
      const { name, closed, purpose } = this.text();
      const days = closed.split(/[\s,;]+/).filter((day) => day !== '');
      const fields: HoursFields = {
        ...{ name: name.trim(), times: spans, closed: days.length > 0 ? days.sort() : null },
        purpose: purpose.trim() || null,
      };
      const id = hours?.id ?? crypto.randomUUID();
      await this.store.edit([hours ? this.change(hours, fields) : { type: 'hours.add', hours: { id, ...fields } }]);
      this.kept.emit(id);
    });
  }

  private change(hours: Hours, fields: HoursFields): Operation {
    const { from, to } = this.form.change<Partial<HoursFields>>(fields, (each) => each);
    return { type: 'hours.set', hoursId: hours.id, from, to };
  }

  protected async remove(): Promise<void> {
    if (await this.store.tryEdit([{ type: 'hours.remove', hoursId: this.hours()!.id }])) this.closed.emit();
  }

  protected export(): void {
    const hours = this.hours()!;
    const file = new Blob([writeCalendar([hours], Date.now())], { type: 'text/calendar' });
    saveFile(`${hours.name.toLowerCase().replace(/[^a-z0-9]+/g, '-')}.ics`, file);
  }
}

function textOf(hours: Hours | null): HoursText {
  if (!hours) return { name: '', times: 'Mon-Fri 08:00-18:00', closed: '', purpose: '' };
  const { name, times, closed, purpose } = hours;
  return { name, times: writeTimes(times), closed: (closed ?? []).join(' '), purpose: purpose ?? '' };
}
