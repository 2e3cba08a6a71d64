import { Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NavigationEnd, Router } from '@angular/router';
import { filter, map, startWith } from 'rxjs';
import { StationLine, type Station, type Waiting } from '../ui/station-line';
import { DraftReviews } from './draft-reviews';
import { SiteStore } from './site-store';
import { siteStages, stageOf, STAGES } from './stage';

/** The stages of a site, each with what waits there. */
@Component({
  selector: 'il-work-line',
  imports: [StationLine],
  template: '<il-station-line label="Stages" [stations]="stations()" />',
  styles: ':host { display: contents; }',
})
export class WorkLine {
  private readonly router = inject(Router);
  private readonly store = inject(SiteStore);
  private readonly reviews = inject(DraftReviews);
  private readonly here = toSignal(
    this.router.events.pipe(
      filter((event) => event instanceof NavigationEnd),
      startWith(null),
      map(() => this.router.url.split(/[/?]/)[3] ?? ''),
    ),
    { initialValue: '' },
  );

  private readonly stages = inject(STAGES);
  /** Findings that somebody has to see to, by the stage that shows them. */
  private readonly findings = computed(() => {
    const found = new Map<string, number>();
    for (const { severity, place } of this.store.consequences()?.findings ?? []) {
      const path = severity === 'info' ? undefined : stageOf(this.stages, place)?.path;
      if (path !== undefined) found.set(path, (found.get(path) ?? 0) + 1);
    }
    return found;
  });
  protected readonly stations = computed(() =>
    siteStages(this.stages).map(({ name, path, waiting }): Station => {
      const count = this.findings().get(path) ?? 0;
      const findings: Waiting = { count, tone: 'bad', words: count === 1 ? '1 finding' : `${count} findings` };
      return {
        name,
        link: ['/sites', this.store.siteId(), path],
        here: this.here() === path,
        waiting: count > 0 ? findings : waiting?.(this.store, this.reviews),
      };
    }),
  );
}
