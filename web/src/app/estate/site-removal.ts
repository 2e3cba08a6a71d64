import { HttpClient } from '@angular/common/http';
import { Component, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { SiteRemoval, SiteView } from '@iron-lattice/core/intake';
import { firstValueFrom } from 'rxjs';
import { attempt, type Problem } from '../session/problem';
import { SiteStore } from '../shell/site-store';
import { anewFor } from '../ui/anew-for';
import { Cell } from '../ui/cell';
import { removalWords } from './removal-words';

/** Takes a site away at which no device is: what goes with it is said and asked about first. */
@Component({
  selector: 'il-site-removal',
  imports: [MatButtonModule, Cell],
  template: `
    <il-cell label="Taking it away" size="full" [flaw]="problem()?.message">
      @if (seen(); as known) {
        <p>{{ words(known) }}</p>
        @if (known.why === null) {
          <button mat-flat-button type="button" [disabled]="busy()" (click)="remove(known)">Take it away</button>
        }
        <button mat-button type="button" (click)="seen.set(null)">Keep it</button>
      } @else {
        <button mat-stroked-button type="button" [disabled]="busy()" (click)="look()">Take this site away…</button>
      }
    </il-cell>
  `,
  styles: `
    :host {
      display: contents;
    }
    p {
      margin: 0 0 6px;
    }
  `,
})
export class SiteRemovalCell {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  readonly site = input.required<SiteView>();
  readonly gone = output<void>();
  protected readonly seen = anewFor(
    () => this.site().id,
    (): SiteRemoval | null => null,
  );
  protected readonly busy = signal(false);
  protected readonly problem = anewFor(
    () => this.site().id,
    (): Problem | null => null,
  );
  protected words = (seen: SiteRemoval): string => removalWords(this.site().name, seen);

  protected async look(): Promise<void> {
    const { id } = this.site();
    await attempt(this.busy, this.problem, async () => {
      const seen = await firstValueFrom(this.http.get<SiteRemoval>(`/api/sites/${id}/removal`));
      if (id === this.site().id) this.seen.set(seen);
    });
  }

  protected async remove({ boxes, edits }: SiteRemoval): Promise<void> {
    const { id, name } = this.site();
    const done = await attempt(this.busy, this.problem, () =>
      firstValueFrom(this.http.post<void>(`/api/sites/${id}/removal`, { boxes, edits })),
    );
    this.seen.set(null);
    if (!done) return;
    this.store.say(`${name} was taken away.`);
    this.gone.emit();
  }
}
