import { HttpClient } from '@angular/common/http';
import { Component, DestroyRef, computed, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import type { MendStep, SiteMends } from '@iron-lattice/core/assess';
import type { Operation } from '@iron-lattice/core/intent';
import { firstValueFrom } from 'rxjs';
import { problemOf, type Problem } from '../session/problem';
import { counted } from '../ui/counted';
import { ProgressCount } from '../ui/progress-count';
import { SiteStore } from './site-store';

/** Sites asked after at once: the first are told while others are still worked out. */
const AT_ONCE = 10;
/** Edits of one press, and mends of one site that are shown. */
const [MOST_EDITS, MOST_SHOWN] = [2000, 50];

/** What all mends at many sites would do together, before any is made: each may be left out. */
@Component({
  selector: 'il-mend-everywhere',
  imports: [MatButtonModule, MatCheckboxModule, ProgressCount],
  template: `
    <section aria-label="Mend everywhere">
      <p role="status">
        @if (problem(); as problem) {
          <span class="flaw">{{ problem.message }}</span>
        } @else if (!whole()) {
          Trying every mend…
          <il-progress-count [done]="looked()" [of]="siteIds().length" what="sites looked at" />
        } @else {
          {{ counted(steps(), 'finding') }} at {{ counted(sites().length, 'site') }}
          {{ steps() === 1 ? 'has' : 'have' }} one right answer; {{ left() }} would be left for a person.
        }
      </p>
      @for (site of sites(); track site.siteId) {
        <details open>
          <summary>
            <b>{{ site.name }}</b>&ngsp;<span class="soft">{{ counted(site.steps.length, 'mend') }}</span>
          </summary>
          @for (step of site.steps.slice(0, most); track step.finding.key) {
            <mat-checkbox [checked]="!without().has(keyOf(site, step))" (change)="toggle(keyOf(site, step))">
              {{ step.finding.message }}: <span class="soft">{{ step.finding.mend?.label }}</span>
            </mat-checkbox>
          }
          @if (site.steps.length > most) {
            <p class="soft">and {{ counted(site.steps.length - most, 'mend') }} more</p>
          }
        </details>
      }
      <div class="do">
        <button mat-flat-button [disabled]="!whole() || busy() || edits().length === 0 || tooMany()" (click)="make()">
          Put {{ counted(edits().length, 'edit') }} into the draft
        </button>
        <button mat-button (click)="closed.emit()">{{ whole() ? 'Leave it' : 'Stop' }}</button>
      </div>
      @if (tooMany()) {
        <p class="flaw">At most {{ mostEdits }} edits at once: leave some out, and come back for them.</p>
      }
    </section>
  `,
  styles: `
    section {
      padding: 0 14px 10px;
    }
    summary {
      padding: 5px 0;
      cursor: pointer;
    }
    mat-checkbox {
      display: block;
    }
    il-progress-count {
      display: flex;
      margin-top: 4px;
    }
    .do {
      display: flex;
      gap: 8px;
      margin-top: 8px;
    }
  `,
})
export class MendEverywhere {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  /** Sites whose findings are to be mended. */
  readonly siteIds = input.required<readonly string[]>();
  readonly closed = output<void>();
  protected readonly counted = counted;
  protected readonly most = MOST_SHOWN;
  protected readonly mostEdits = MOST_EDITS;
  private readonly told = signal<readonly SiteMends[]>([]);
  protected readonly looked = signal(0);
  protected readonly whole = signal(false);
  protected readonly busy = signal(false);
  protected readonly problem = signal<Problem | null>(null);
  /** Mends that are left out, by site and finding. */
  protected readonly without = signal<ReadonlySet<string>>(new Set());
  private over = false;
  protected readonly sites = computed(() => this.told().filter(({ steps }) => steps.length > 0));
  protected readonly steps = computed(() => this.sites().reduce((sum, { steps }) => sum + steps.length, 0));
  protected readonly left = computed(() => this.told().reduce((sum, { left }) => sum + left, 0));
  protected readonly edits = computed(() =>
    this.sites().flatMap((site) =>
      site.steps.flatMap((step) => (this.without().has(this.keyOf(site, step)) ? [] : step.operations)),
    ),
  );
  protected readonly tooMany = computed(() => this.edits().length > MOST_EDITS);

  constructor() {
    inject(DestroyRef).onDestroy(() => (this.over = true));
    void Promise.resolve().then(() => this.ask());
  }

  protected keyOf = ({ siteId }: SiteMends, { finding }: MendStep): string => `${siteId} ${finding.key}`;

  protected toggle(key: string): void {
    const next = new Set(this.without());
    if (!next.delete(key)) next.add(key);
    this.without.set(next);
  }

  /** Some sites after the other, each told what those before would change of what sites share. */
  private async ask(): Promise<void> {
    const [draft, ids] = [this.store.draft(), this.siteIds()];
    if (!draft) return;
    const given: Operation[] = [];
    try {
      for (let at = 0; at < ids.length && !this.over; at += AT_ONCE) {
        const siteIds = ids.slice(at, at + AT_ONCE);
        const asked = { siteIds, given: given.slice(-MOST_EDITS) };
        const found = await firstValueFrom(this.http.post<SiteMends[]>(`/api/drafts/${draft.id}/mends`, asked));
        if (this.over) return;
        const made = found.flatMap(({ steps }) => steps.flatMap(({ operations }) => operations));
        given.push(...made.filter((operation) => !('siteId' in operation)));
        this.told.update((known) => [...known, ...found]);
        this.looked.set(at + siteIds.length);
      }
      this.whole.set(true);
    } catch (error) {
      this.problem.set(problemOf(error));
    }
  }

  protected async make(): Promise<void> {
    this.busy.set(true);
    const done = await this.store.tryEdit(this.edits());
    this.busy.set(false);
    if (done) this.closed.emit();
  }
}
