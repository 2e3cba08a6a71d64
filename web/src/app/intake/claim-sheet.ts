import { Component, computed, inject, input, output, resource, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import type { DeviceView } from '@iron-lattice/core/intake';
import { attempt, type Problem } from '../session/problem';
import { SiteStore } from '../shell/site-store';
import { Sheet } from '../ui/sheet';
import { StateMark } from '../ui/state-mark';
import { IntakeApi } from './intake-api';
import { TextCell } from '../ui/text-cell';
import { Cell } from '../ui/cell';
import { anewFor } from '../ui/anew-for';

/** Claims devices into the site: those chosen in the table, or serial numbers typed here. */
@Component({
  selector: 'il-claim-sheet',
  imports: [FormsModule, MatButtonModule, Sheet, StateMark, TextCell, Cell],
  template: `
    <il-sheet [heading]="heading()" note="All of them are claimed, or none." (closed)="closed.emit()">
      <il-state-mark lead state="calling" />
      <button actions mat-flat-button type="submit" form="claim" [disabled]="busy() || wanted().length === 0">
        {{ label() }}
      </button>
      <form id="claim" (ngSubmit)="claim()">
        <div class="cells">
          <il-text-cell
            label="Serial numbers, as on the labels"
            for="claim-serials"
            size="wide"
            example="3A1-0001-23, 5C2-0001-45"
            [mono]="true"
            [value]="text()"
            (typed)="text.set($event)"
          />
          <il-cell label="Take into site">
            <div class="value">{{ store.site()?.name }}</div>
          </il-cell>
          <il-cell label="Names by convention">
            <div class="value mono">{{ names() }}</div>
          </il-cell>
          <il-cell label="Will also happen" size="wide">
            <div class="value">Each device gets its first document at once and comes into step.</div>
          </il-cell>
          @if (problem(); as refused) {
            <div class="cell full" role="alert">
              <p class="bad">{{ refused.flaws.length > 0 ? 'Nothing was claimed.' : refused.message }}</p>
              @for (flaw of refused.flaws; track flaw.field) {
                <p class="flaw">{{ flaw.message }}</p>
              }
            </div>
          }
        </div>
      </form>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class ClaimSheet {
  private readonly api = inject(IntakeApi);
  protected readonly store = inject(SiteStore);
  readonly serials = input.required<readonly string[]>();
  readonly closed = output<void>();
  readonly done = output<readonly DeviceView[]>();

  /** What is chosen, until something is typed; rows that are heard of anew are no other choice. */
  protected readonly text = anewFor(
    () => [...this.serials()].sort().join(),
    () => this.serials().join(', '),
  );
  protected readonly wanted = computed(() =>
    this.text()
      .split(/[\s,;]+/)
      .filter((serial) => serial !== ''),
  );
  protected readonly heading = computed(() => {
    const count = this.wanted().length;
    return count === 0 ? 'Claim by serial number' : count === 1 ? '1 device to claim' : `${count} devices to claim`;
  });
  protected readonly label = computed(() => {
    const count = this.wanted().length;
    return count === 0 ? 'Claim' : count === 1 ? 'Claim 1 device' : `Claim ${count} devices`;
  });
  private readonly preview = resource({
    params: () => ({ siteId: this.store.siteId(), serials: this.wanted() }),
    loader: async ({ params: { siteId, serials } }) => {
      if (!siteId || serials.length === 0) return [];
      return (await this.api.preview(siteId, serials)).names;
    },
  });
  protected readonly names = computed(() => {
    if (!this.preview.hasValue() || this.preview.value().length === 0) return '–';
    return this.preview.value().join(', ');
  });
  protected readonly problem = anewFor<Problem | null>(this.text, () => null);
  protected readonly busy = signal(false);

  protected async claim(): Promise<void> {
    await attempt(this.busy, this.problem, async () => {
      this.done.emit((await this.api.claim(this.store.siteId()!, this.wanted())).claimed);
    });
  }
}
