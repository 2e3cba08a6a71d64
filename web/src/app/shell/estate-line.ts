import { Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NavigationEnd, Router } from '@angular/router';
import { filter, map, startWith } from 'rxjs';
import { StationLine, type Station } from '../ui/station-line';
import { DraftReviews } from './draft-reviews';
import { EstateStore } from './estate-store';
import { estateStages, STAGES } from './stage';

/** What is looked at over all sites. */
@Component({
  selector: 'il-estate-line',
  imports: [StationLine],
  template: '<il-station-line label="Estate" [stations]="stations()" />',
  styles: ':host { display: contents; }',
})
export class EstateLine {
  private readonly router = inject(Router);
  private readonly estate = inject(EstateStore);
  private readonly reviews = inject(DraftReviews);
  private readonly here = toSignal(
    this.router.events.pipe(
      filter((event) => event instanceof NavigationEnd),
      startWith(null),
      map(() => this.router.url.split(/[/?]/)[1] ?? ''),
    ),
    { initialValue: '' },
  );
  private readonly stages = estateStages(inject(STAGES));
  protected readonly stations = computed(() =>
    this.stages.map(({ name, path, waiting }): Station => ({
      name,
      link: [`/${path}`],
      here: this.here() === path,
      waiting: waiting?.(this.estate, this.reviews),
    })),
  );
}
