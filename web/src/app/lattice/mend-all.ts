import { Component, computed, inject, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { SiteStore } from '../shell/site-store';
import { SeverityMark } from '../ui/severity-mark';
import { Sheet } from '../ui/sheet';
import { LatticeWork } from './facts/lattice-work';

/** What all mends together would do, before any is made. */
@Component({
  selector: 'il-mend-all',
  imports: [MatButtonModule, MatCheckboxModule, SeverityMark, Sheet],
  template: `
    <il-sheet heading="Mend all" [note]="note()" (closed)="closed.emit()">
      <button actions mat-flat-button [disabled]="busy() || chosen().length === 0" (click)="make()">
        Put {{ count() }} {{ count() === 1 ? 'edit' : 'edits' }} into the draft
      </button>
      <ul>
        @for (step of plan()?.steps; track step.finding.key) {
          <li>
            <mat-checkbox
              [checked]="!left().has(step.finding.key)"
              (change)="toggle(step.finding.key)"
              [aria-label]="'Mend: ' + (step.finding.mend?.label ?? '')"
            />
            <il-severity-mark [severity]="step.finding.severity" />
            <span class="what">{{ step.finding.message }}</span>
            <span class="soft">{{ step.finding.mend?.label }}</span>
          </li>
        } @empty {
          @if (plan()) {
            <li class="soft">Nothing here has one right answer that is not made yet.</li>
          }
        }
        @for (finding of plan()?.left; track finding.key) {
          <li class="rest">
            <il-severity-mark [severity]="finding.severity" />
            <span class="what">{{ finding.message }}</span>
            <span class="soft">stays: a person has to settle it</span>
          </li>
        }
      </ul>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    ul {
      margin: 0;
      padding: 4px 14px 10px;
      list-style: none;
    }
    li {
      display: flex;
      align-items: center;
      gap: 8px;
      min-height: 28px;
      border-bottom: 1px solid var(--rule);
    }
    li.rest {
      padding-left: 40px;
    }
    .what {
      font-weight: 500;
    }
  `,
})
export class MendAll {
  private readonly store = inject(SiteStore);
  readonly closed = output<void>();
  protected readonly busy = signal(false);
  /** Keys of findings that are not to be mended. */
  protected readonly left = signal<ReadonlySet<string>>(new Set());
  protected readonly plan = inject(LatticeWork).answer<'mend'>(() => ({ kind: 'mend' }));
  protected readonly chosen = computed(() =>
    (this.plan()?.steps ?? []).filter((step) => !this.left().has(step.finding.key)),
  );
  protected readonly count = computed(() => this.chosen().reduce((sum, step) => sum + step.operations.length, 0));
  protected readonly note = computed(() => {
    const plan = this.plan();
    if (!plan) return 'Trying every mend…';
    const { steps, left } = plan;
    return `${steps.length} findings have one right answer; ${left.length} would be left.`;
  });

  protected toggle(key: string): void {
    const next = new Set(this.left());
    if (!next.delete(key)) next.add(key);
    this.left.set(next);
  }

  protected async make(): Promise<void> {
    this.busy.set(true);
    const done = await this.store.tryEdit(this.chosen().flatMap((step) => step.operations));
    this.busy.set(false);
    if (done) this.closed.emit();
  }
}
